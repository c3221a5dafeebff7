"""Breakers: one realistic way into each of the checks' codes."""
