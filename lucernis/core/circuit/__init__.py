"""The circuit: points, contacts, sources, loads, and its solution."""
