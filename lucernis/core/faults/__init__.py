"""Bolted shorts, and what guards what."""
