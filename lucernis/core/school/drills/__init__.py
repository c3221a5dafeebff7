"""Drills: questions made by the core without end, judged by it, with the working and the usual mistake named."""
