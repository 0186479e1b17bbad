"""Cells that are missing: a sender that drops out, an ear that is not sure, garbage that was taken out."""

import numpy as np

# common practice: a figure that is missing for so long [s], or for one row, was on its way
_DROPOUT_S, _ROWS_APART = 3.0, 2.5


def bridged(values: np.ndarray, time_s: np.ndarray) -> np.ndarray:
    """Return a signal (rows,) with straight lines over the gaps between figures at most 3 s, or two rows, apart; a longer gap
    stays one.

    >>> bridged(np.array([1.0, np.nan, 3.0, np.nan, 9.0]), np.array([0.0, 1.0, 2.0, 3.0, 9.0])).tolist()
    [1.0, 2.0, 3.0, nan, 9.0]
    """
    known = np.isfinite(values)
    if known.all() or known.sum() < 2:
        return values
    times = time_s[known]
    after = np.searchsorted(times, time_s)
    inside = ~known & (after > 0) & (after < len(times))
    most_s = max(_DROPOUT_S, _ROWS_APART * float(np.median(np.diff(time_s))))
    inside[inside] &= times[after[inside]] - times[after[inside] - 1] <= most_s
    return np.asarray(np.where(inside, np.interp(time_s, times, values[known]), values))
