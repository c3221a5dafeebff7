"""Lucernis plans the 12 V system of a vehicle: wire, fuses, drop, and the working behind each figure."""

__version__ = "0.1.0"
