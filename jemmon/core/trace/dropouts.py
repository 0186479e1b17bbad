"""Cells that are missing, and lone rows that no engine does: a sender that drops out, an ear that is not sure, garbage."""

import numpy as np

# common practice: a figure that is missing for so long [s], or for one row, was on its way
_DROPOUT_S, _ROWS_APART = 3.0, 2.5
# common practice: a lone row so far above both its neighbours, or below them, is no engine's; they agree, and are near enough [s]
_LEAPS, _FALLS, _AGREE, _NEAR_S = 1.3, 0.35, 0.1, 4.0


def without_lone_leaps(values: np.ndarray, time_s: np.ndarray, may_fall: bool = False) -> np.ndarray:
    """Return a signal (rows,) without the rows that leap away from both neighbours and are back in the next one: nothing of an
    engine does that. Where it `may_fall` (fuel that flutters) only leaps up are taken out.

    >>> without_lone_leaps(np.array([100.0, 102.0, 990.0, 101.0]), np.arange(4.0)).tolist()
    [100.0, 102.0, nan, 101.0]
    """
    before, here, after = values[:-2], values[1:-1], values[2:]
    least, most = np.minimum(before, after), np.maximum(before, after)
    with np.errstate(invalid="ignore"):
        leaps = here > _LEAPS * most
        if not may_fall:
            leaps |= here < _FALLS * least
        leaps &= (most - least < _AGREE * most) & (time_s[2:] - time_s[:-2] <= 2 * _NEAR_S)
    if not leaps.any():
        return values
    out = values.copy()
    out[1:-1][leaps] = np.nan
    return out


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
