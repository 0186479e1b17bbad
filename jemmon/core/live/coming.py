"""When a head that warms will be at a figure. It follows its power as a lump of metal does, slower and slower: by a straight line
every cold climb would end at the limit.

Source: lumped heat capacity (Incropera and DeWitt, Fundamentals of Heat and Mass Transfer, chapter 5).
"""

import math

import numpy as np

from ..trace import Trace
from ..trace.masks import slope

# fitted to the take-offs of eight shipped engines at -10 to 30 °C: over how long a rate is taken [s], the least and the most time
# constant of a head on its engine [s]; the most stands too where no bend is seen yet
_RATE_S, _LAGS_S = 20.0, (40.0, 120.0)


def comes_in_s(recent: Trace, values: np.ndarray, figure: float) -> float | None:
    """Return in how many seconds a signal, by its values (rows,) up to now, will be at a higher figure [its unit], or None where it
    does not rise, or will settle below."""
    rate, before = slope(recent, values, _RATE_S), _rate_before(recent, values)
    if rate <= 0:
        return None
    to_go = figure - _level(recent, values, rate)
    least_s, most_s = _LAGS_S
    lag_s = most_s
    if before is not None and before > rate:
        lag_s = min(max(_RATE_S / math.log(before / rate), least_s), most_s)
        rate *= math.exp(-_RATE_S / 2 / lag_s)  # it was the middle's; now it is less
    share = to_go / (rate * lag_s)
    return None if share >= 1 else max(-lag_s * math.log(1 - share), 0.0)


def _rate_before(recent: Trace, values: np.ndarray) -> float | None:
    """Return the rate over as long before [its unit a second]; None where the trace is too short for one."""
    earlier = recent.time_s <= recent.time_s[-1] - _RATE_S
    if recent.time_s[-1] - recent.time_s[0] < 2 * _RATE_S - 1.0 or earlier.sum() < 3:
        return None
    last = int(np.flatnonzero(earlier)[-1]) + 1
    return slope(recent.part(0, last), values[:last], _RATE_S)


def _level(recent: Trace, values: np.ndarray, rate: float) -> float:
    """Return the value now, without its noise: the end of the straight line of this rate through the last rows."""
    keep = (recent.time_s > recent.time_s[-1] - _RATE_S) & np.isfinite(values)
    middle_s = float(np.mean(recent.time_s[keep]))
    return float(np.mean(values[keep])) + rate * (float(recent.time_s[-1]) - middle_s)
