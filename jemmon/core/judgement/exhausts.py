"""How the exhausts move over a stretch: on one magneto they rise, with hot air or under a coarse propeller they fall."""

import numpy as np
from scipy.ndimage import maximum_filter1d, minimum_filter1d
from scipy.signal import find_peaks

from ..trace import Trace
from ..trace.dips import Span
from ..trace.masks import filled

_BROKEN_F = 60.0  # from row to row: no exhaust does that (common practice)
_HELD_ROWS = 8  # common practice: a box that reads its probes in turn shows each for some rows running
# how long a check keeps the exhausts up at most [s], by how much the coldest answer rises [°F] (common practice: 70 to 180 steady)
_RISES_WITHIN_S, _RISES_TOGETHER_F, _RISEN = 30.0, 30.0, 0.1
_ONE_OF = 3  # our own choice: of so many probes and more one may do otherwise
USUAL_PROBE_LAG_S = 3.2  # common practice: probes lag 1 to 6 s
# common practice: how long a probe is on its way back [s]; our own choice: over what [s] and where its rest before is looked for
_STILL_COOLS_S, _RESTED_S, _RESTING = 8.0, 30.0, 0.2
_SLOPE_OVER_S, _SLOPE_HOLDS_S, _SLOPE_SHARE = 4.0, 4.0, 0.6  # fitted to tests/strange, seeds 0 to 199
_ROWS_OF_A_SLOPE = 4  # our own choice


def working_probes(trace: Trace) -> dict[int, np.ndarray]:
    """Return the exhausts [°F] whose probes work: one that jumps from row to row or never moves says nothing. Common practice."""
    return trace.once(_working_probes)


def _working_probes(trace: Trace) -> dict[int, np.ndarray]:
    return {number: values for number, values in trace.cylinders("egt").items() if _works(values)}


def risen_together(trace: Trace) -> list[Span]:
    """Return the spans in which the working exhausts rose and came back within a check's time, with at least two of them: what one
    magneto does even where a coarse tachometer hides the fall. Of three and more one may do otherwise: its plug may be dead on
    that side. From the row before the rise to the last that is near its highest. Morphological opening (Serra 1982) takes the level
    under the rise."""
    probes = list(working_probes(trace).values())
    if len(probes) < 2 or len(trace) < 8 or trace.rate_hz <= 0:
        return []
    size = max(2 * round(_RISES_WITHIN_S * trace.rate_hz / 2) + 1, 3)
    each = np.sort([_above_level(filled(values), size) for values in probes], axis=0)
    over = each[min(len(probes) // _ONE_OF, 1)]
    found, begin = [], 0
    for highest in find_peaks(np.append(over, 0.0), prominence=_RISES_TOGETHER_F)[0]:
        before = over[begin:highest]
        rise_f = float(over[highest] - before.min(initial=np.inf))
        if rise_f < _RISES_TOGETHER_F:
            continue  # another place as high, on the same rise
        near_f = _RISEN * rise_f
        first = begin + int(np.flatnonzero(before < over[highest] - rise_f + near_f)[-1])
        left = np.flatnonzero(over[highest:] < over[highest] - near_f)
        begin = int(highest + left[0] if left.size else len(over))
        found.append(Span(first, begin - 1))
    return found


def _above_level(values: np.ndarray, size: int) -> np.ndarray:
    """Return how far figures (rows,) are above what is left when every peak narrower than `size` rows is cut off."""
    level = maximum_filter1d(minimum_filter1d(values, size, mode="nearest"), size, mode="nearest")
    return np.asarray(values - level)


def _works(values: np.ndarray) -> bool:
    known = values[np.isfinite(values)]
    if known.size <= 3 or np.ptp(known) == 0:
        return False
    moved = np.abs(np.diff(known))
    jumps = np.count_nonzero(moved >= _BROKEN_F)
    if 2 * jumps >= len(moved):  # as its median, which takes ten times as long
        return False
    return bool(jumps * _HELD_ROWS < len(moved) or 2 * jumps < np.count_nonzero(moved))  # what is held has not moved


def _cools_f(t: np.ndarray, egt_f: np.ndarray, span: Span, ended_s: float, from_f: float) -> float:
    """Return by how much [°F] an exhaust that is on its way back from a fall which ended at `ended_s` [s] cools during a span that
    began at `from_f`: towards where it rested before, with a probe's lag."""
    earlier = egt_f[(t > ended_s - _RESTED_S) & (t < t[span.first])]
    rested_f = float(np.nanquantile(earlier, _RESTING)) if np.isfinite(earlier).any() else from_f
    return max(from_f - rested_f, 0.0) * float(1 - np.exp(-(t[span.last] - t[span.first]) / USUAL_PROBE_LAG_S))


def egt_changes(trace: Trace, span: Span, of_its_own: bool = False, ended_s: float = -np.inf) -> dict[int, float]:
    """Return how far each cylinder's EGT [°F] had moved by the end of a span, from its level before. `of_its_own` takes off what a
    probe that was still on its way from something earlier would have gone on by; `ended_s` is when a fall before it ended [s], from
    which on probes are on their way back. Common practice."""
    t = trace.time_s
    step_s = 1 / trace.rate_hz if trace.rate_hz else 1.0
    before = (t >= t[span.first] - max(1.3, 1.6 * step_s)) & (t < t[span.first] - min(0.2, 0.2 * step_s))
    end = (t > max(t[span.first], t[span.last] - max(1.1, 1.1 * step_s))) & (t <= t[span.last] + 0.3)
    earlier = (t >= t[span.first] - _SLOPE_OVER_S) & (t < t[span.first] - min(0.2, 0.2 * step_s))
    goes_on_s = _SLOPE_SHARE * min(float(t[span.last] - t[span.first]), _SLOPE_HOLDS_S)
    changes = {}
    for cylinder, egt in working_probes(trace).items():
        if np.isfinite(egt[before]).any() and np.isfinite(egt[end]).any():
            changes[cylinder] = float(np.nanmean(egt[end]) - np.nanmean(egt[before]))
            known = earlier & np.isfinite(egt) & (t > ended_s)
            if of_its_own and known.sum() >= _ROWS_OF_A_SLOPE:
                changes[cylinder] -= goes_on_s * float(np.polyfit(t[known], egt[known], 1)[0])
            elif of_its_own and t[span.first] - ended_s < _STILL_COOLS_S:
                changes[cylinder] += _cools_f(t, egt, span, ended_s, float(np.nanmean(egt[before])))
    return changes
