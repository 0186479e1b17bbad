"""Stretches of rows, and how fast a signal changes."""

import numpy as np

from .columns import Trace


def runs(mask: np.ndarray) -> list[tuple[int, int]]:
    """Return (first row, last row) of each unbroken stretch in which a mask (shape (rows,)) holds.

    >>> runs(np.array([0, 1, 1, 0, 1], dtype=bool))
    [(1, 2), (4, 4)]
    """
    edges = np.flatnonzero(np.diff(np.concatenate([[0], mask.astype(int), [0]])))
    return [(int(first), int(end) - 1) for first, end in zip(edges[::2], edges[1::2], strict=True)]


def filled(values: np.ndarray) -> np.ndarray:
    """Return a signal (rows,) with its gaps filled by straight lines over the rows; zeros where it has no figure at all.

    >>> filled(np.array([1.0, np.nan, 3.0])).tolist()
    [1.0, 2.0, 3.0]
    """
    known = np.isfinite(values)
    if known.all():
        return np.array(values, dtype=float)
    if not known.any():
        return np.zeros(len(values))
    return np.asarray(np.interp(np.arange(len(values)), np.flatnonzero(known), values[known]))


def has_figures(trace: Trace, signal: str) -> bool:
    """Say whether a trace has any figure of a signal: a column may be there and empty."""
    values = trace.signal(signal)
    return values is not None and bool(np.isfinite(values).any())


def rises(mask: np.ndarray) -> list[int]:
    """Return the rows at which a mask begins to hold, the very first row left out: nobody saw it begin."""
    return (np.flatnonzero(mask[1:] & ~mask[:-1]) + 1).tolist()


def slope(trace: Trace, values: np.ndarray, over_s: float) -> float:
    """Return how fast a signal (shape (rows,)) changes [its unit a second], by a straight line through the last `over_s`
    seconds; 0 with too few rows."""
    keep = (trace.time_s > trace.time_s[-1] - over_s) & np.isfinite(values)
    if keep.sum() < 3:
        return 0.0
    return float(np.polyfit(trace.time_s[keep] - trace.time_s[-1], values[keep], 1)[0])


def last_figure(trace: Trace, signal: str, rows: int = 8) -> float | None:
    """Return the median of a signal's last figures [core unit], or None where it has none."""
    values = trace.signal(signal)
    known = np.zeros(0) if values is None else values[np.isfinite(values)]
    return float(np.median(known[-rows:])) if known.size else None
