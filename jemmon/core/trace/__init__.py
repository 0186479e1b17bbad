"""Samples as column arrays: reading and writing them, and finding what was done in them."""

from .columns import Trace
from .csv_text import read_trace_csv, write_trace_csv

__all__ = ["Trace", "read_trace_csv", "write_trace_csv"]
