"""Copper: what it resists, carries, and how warm it gets."""
