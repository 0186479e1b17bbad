"""Jemmon stands beside the pilot of a piston aircraft. It measures, times, remembers and judges; it moves no lever."""

__version__ = "0.2.0"
