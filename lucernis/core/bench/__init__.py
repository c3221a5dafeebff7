"""The bench: one wire with its source, load and fuse, followed through time."""
