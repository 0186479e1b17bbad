"""Jemmon stands beside the pilot of a piston aircraft. It measures, times, remembers and judges; it moves no lever."""

import os

# the arrays are small: a second thread of the linear algebra only spins, and takes a core from the flight that goes on beside it
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

__version__ = "0.2.0"
