"""Lucernis plans the 12 V system of a vehicle: wire, fuses, drop, and the working behind each figure."""

import os

# The matrices of a vehicle are small: threads in the linear algebra wait for one another longer than they work. It
# must be said before numpy is loaded; whoever has set it already knows why.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

__version__ = "0.1.0"
