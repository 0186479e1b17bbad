"""Samples as column arrays: reading and writing them, and finding what was done in them."""

from .columns import Trace
from .csv_text import read_trace_csv, write_trace_csv
from .rows import kept_names, moments_of, row_of_sample, trace_from_rows
from .sample import Sample

__all__ = [
    "Sample",
    "Trace",
    "kept_names",
    "moments_of",
    "read_trace_csv",
    "row_of_sample",
    "trace_from_rows",
    "write_trace_csv",
]
