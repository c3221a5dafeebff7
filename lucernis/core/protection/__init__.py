"""Fuses and breakers: what is made, when they open, what they remember."""
