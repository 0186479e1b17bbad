"""A leaning seen on the exhausts alone, where the box shows no fuel flow: each rises to its peak, falls beyond it, and passes the
peak again on the way back to rich. Rich is what passed every peak there and back; what passed once may be lean, or have turned at
the peak, which looks no different.

A probe shows its peak late and too low, by what it lags: that is put back from how sharp its top is. (Common practice; a
first-order lag against a parabola.)
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.ndimage import gaussian_filter1d

from ..trace import Trace
from ..trace.masks import filled, runs
from .airborne import descends, on_ground
from .check import Evidence
from .exhausts import USUAL_PROBE_LAG_S, working_probes
from .recognition import recognise

# common practice: what runs in flight, what a hand on a throttle moves within so many seconds, how far and how soon exhausts rise
# as a mixture is leaned, how long that takes at the most, when it rests
_LEAST_RPM, _LEAST_ROWS, _SMOOTH_S, _NEWEST_S = 1500.0, 10, 1.5, 3.0
_MOVE_INHG, _MOVE_SHARE, _MOVE_S = 0.6, 0.04, 6.0
_RISES_F, _RISES_WITHIN_S, _BEFORE_F, _BEFORE_S = 40.0, 120.0, 6.0, 6.0
_LONGEST_S, _RESTS_S, _RESTS_AT_THE_END_S, _RESTS_WITHIN_F, _LEFT_F = 420.0, 40.0, 12.0, 6.0, 8.0
_MOST_ROWS = (0.05, 0.95)  # our own choice: a few noisy ones do not move an exhaust
# our own choice: what is a turn of a probe, what is the same peak again, over what its top is drawn
_TURNS_F, _SAME_PEAK_F, _TOP_F = 9.0, 14.0, 25.0
# common practice: probes lag 1 to 6 s; a top that is sharper than they follow shows no peak
_LAG_SPREAD_S, _MOST_PUT_BACK_F = 1.0, 30.0
_SLOWEST_ROW_S = 4.0  # common practice: a pull past the peak and back takes some seconds, which slower rows do not show
_SIGMA_F, _AT_PEAK_F, _NEAR_PEAK_F, _MOST = 5.0, 3.0, 25.0, 0.8
_BEGINS_RICH_F = 120.0  # common practice: full rich is 150 °F and more below peak, lean rarely more than 100

Side = Literal["rich", "peak", "unknown"]


@dataclass(frozen=True, slots=True)
class ShownPeak:
    """A cylinder's peak as its probe showed it, the lag put back: EGT [°F] and how unsure that is (sigma; endless where it was
    passed faster than the probe follows), when it was passed for the first time [s], how often, and where its EGT rests [°F]."""

    cylinder: int
    egt_f: float
    sigma_f: float
    at_s: float
    passes: int
    rests_f: float

    @property
    def below_f(self) -> float:
        """How far below its peak it rests [°F]."""
        return max(self.egt_f - self.rests_f, 0.0)


@dataclass(frozen=True, slots=True)
class ExhaustLeaning:
    """A leaning by the exhausts alone: its rows, the peaks in order of passing, of how many probes; on which side it rests, and the
    peak that it is counted from, none where the mixture was pulled faster than probes follow."""

    start: int
    end: int
    peaks: tuple[ShownPeak, ...]
    probes: int
    side: Side
    reference: ShownPeak | None


def exhaust_leanings(evidence: Evidence) -> list[ExhaustLeaning]:
    """Return each leaning of a trace without fuel flow: at a power that stayed, in the air, and at rest for long enough."""
    trace, shown = evidence.trace, _smooth(evidence.trace)
    if not shown:
        return []
    middle = np.median(list(shown.values()), axis=0)
    found: list[ExhaustLeaning] = []
    for first, last in runs(_steady(evidence)):
        row = first
        while (span := _next_pull(trace.time_s[: last + 1], middle, row)) is not None:
            placed = _placed(trace, shown, span)
            # one that passed no peak left the mixture rich as well
            was_rich = not found or found[-1].side == "rich" or not found[-1].peaks
            if was_rich or _begins_rich(placed, middle):
                found.append(placed)
            row = span[1]
    return found


def exhaust_leaning_now(evidence: Evidence) -> ExhaustLeaning | None:
    """Return the leaning that is being made at the end of a trace without fuel flow, whether it rests or not; None before the
    exhausts move."""
    trace, shown = evidence.trace, _smooth(evidence.trace)
    steady = runs(_steady(evidence)) if shown else []
    if not steady or steady[-1][1] < len(trace) - 1:
        return None
    t = trace.time_s
    first = max(steady[-1][0], int(np.searchsorted(t, t[-1] - _LONGEST_S)))
    begun = _begun(t, np.median(list(shown.values()), axis=0), first)
    newest = max(int(np.searchsorted(t, t[-1] - _NEWEST_S)), 1)
    return None if begun is None else _placed(trace, shown, (begun[0], len(trace), newest))


def _smooth(trace: Trace) -> dict[int, np.ndarray]:
    """Return each working exhaust [°F] (rows,), its noise taken off; empty where there is too little of them."""
    if trace.signal("rpm") is None or len(trace) < _LEAST_ROWS:
        return {}
    width = max(1.0, _SMOOTH_S * trace.rate_hz)
    return {number: gaussian_filter1d(filled(values), width) for number, values in working_probes(trace).items()}


def _steady(evidence: Evidence) -> np.ndarray:
    """Return the rows (rows,) in the air at a power that stays."""
    trace, rpm = evidence.trace, evidence.trace.signal("rpm")
    assert rpm is not None
    fast = filled(rpm) > _LEAST_RPM * evidence.profile.speed_scale
    moved = _throttle_moved(trace, max(1.0, _SMOOTH_S * trace.rate_hz))
    # on the way down exhausts move by power, and by a mixture that follows it
    level = ~on_ground(evidence) & ~descends(trace)
    return np.asarray(fast & level & ~moved & ~_on_one_magneto(evidence))


def _on_one_magneto(evidence: Evidence) -> np.ndarray:
    """Return the rows (rows,) on one magneto: every exhaust rises there, as under a hand that leans."""
    alone = np.zeros(len(evidence.trace), dtype=bool)
    for span, _ in evidence.once(recognise).magnetos:
        alone[span.first : span.last + 1] = True
    return alone


def _begins_rich(placed: ExhaustLeaning, middle_f: np.ndarray) -> bool:
    """Say whether a pull began far below the peaks that it passed, as a rich mixture is: after one that was left lean it may be the
    way back to rich, which looks the same."""
    if not placed.peaks:
        return False
    return bool(np.median([peak.egt_f for peak in placed.peaks]) - middle_f[placed.start] > _BEGINS_RICH_F)


def _throttle_moved(trace: Trace, width: float) -> np.ndarray:
    """Return the rows (rows,) within whose last seconds speed or manifold pressure moved as no mixture moves them."""
    t, moved = trace.time_s, np.zeros(len(trace), dtype=bool)
    back = np.searchsorted(t, t - max(_MOVE_S, 1.6 / max(trace.rate_hz, 0.1)))
    for name in ("rpm", "map"):
        values = trace.signal(name)
        if values is None or not np.isfinite(values).any():
            continue
        smooth = gaussian_filter1d(filled(values), width)
        apart = np.abs(smooth - smooth[back])
        moved |= apart > (_MOVE_INHG if name == "map" else _MOVE_SHARE * np.maximum(smooth, 1.0))
    return moved


def _begun(t: np.ndarray, middle_f: np.ndarray, first: int) -> tuple[int, int] | None:
    """Return (row before the next rise of the middle exhaust, row at which it has risen) from a row on; None without one."""
    part = middle_f[first : len(t)]
    if len(part) < _LEAST_ROWS:
        return None
    size = max(round(_RISES_WITHIN_S / float(np.median(np.diff(t[first:])))), 1) + 1
    lately = np.lib.stride_tricks.sliding_window_view(np.concatenate([np.full(size - 1, np.inf), part]), size)
    risen = np.flatnonzero(part > lately.min(axis=1) + _RISES_F)
    if not risen.size:
        return None
    row = first + int(risen[0])
    back = max(row - size + 1, first)
    before = middle_f[back : row + 1]
    began_s = t[back + int(np.flatnonzero(before < before.min() + _BEFORE_F)[-1])]
    return max(int(np.searchsorted(t, began_s - _BEFORE_S)), first), row


def _next_pull(t: np.ndarray, middle_f: np.ndarray, first: int) -> tuple[int, int, int] | None:
    """Return (row before the next rise of the middle exhaust, row after the rest that follows, row from which it rests) from a row
    on; None without one."""
    begun = _begun(t, middle_f, first)
    if begun is None:
        return None
    start, risen = begun
    until_s = t[start] + _LONGEST_S
    rest = _next_rest(t, middle_f, risen, until_s)
    while rest is not None and middle_f[start : rest[1]].max() < _level(middle_f, rest) + _TURNS_F:
        further = _next_rest(t, middle_f, rest[1], until_s)  # nothing was passed yet: a step on the way
        if further is None:
            break
        rest = further
    return None if rest is None else (start, rest[1], rest[0])


def _level(middle_f: np.ndarray, rest: tuple[int, int]) -> float:
    return float(np.median(middle_f[rest[0] : rest[1]]))


def _next_rest(t: np.ndarray, middle_f: np.ndarray, first: int, until_s: float) -> tuple[int, int] | None:
    """Return (first row, end row) of the next stretch in which the middle exhaust rests, None without one before `until_s`."""
    for row in range(first, len(t)):
        end = int(np.searchsorted(t, t[row] + _RESTS_S))
        if t[row] > until_s or t[-1] - t[row] < _RESTS_AT_THE_END_S:
            return None
        ends_f = abs(middle_f[end - 1] - middle_f[row])  # tells most rows that move, and costs nothing
        if ends_f > 2 * _RESTS_WITHIN_F or np.ptp(np.quantile(middle_f[row:end], _MOST_ROWS)) > _RESTS_WITHIN_F:
            continue
        left = np.flatnonzero(np.abs(middle_f[end:] - np.median(middle_f[row:end])) > _LEFT_F)
        longest = int(np.searchsorted(t, t[row] + 2 * _RESTS_S))
        return row, min(end + int(left[0]) if left.size else len(t), longest)
    return None


def _placed(trace: Trace, shown: dict[int, np.ndarray], span: tuple[int, int, int]) -> ExhaustLeaning:
    """Return where a pull of rows (start, end, resting from) ended."""
    t, (start, end, resting) = trace.time_s, span
    late = slice((resting + end) // 2, end)
    peaks = [_peak(t[start:end], egt[start:end], number, float(np.median(egt[late]))) for number, egt in shown.items()]
    passed = tuple(sorted((peak for peak in peaks if peak is not None), key=lambda peak: peak.at_s))
    follows = bool(passed) and 1 / trace.rate_hz <= _SLOWEST_ROW_S and np.isfinite(passed[0].sigma_f)
    side = _side(passed, len(shown)) if follows else "unknown"
    if side == "rich" and passed[0].below_f < _AT_PEAK_F:
        side = "peak"
    return ExhaustLeaning(start, end, passed, len(shown), side, passed[0] if follows else None)


def _side(passed: tuple[ShownPeak, ...], probes: int) -> Side:
    """Return the side: past every peak and back again is rich, near one of them and not past all it is at peak. Past a peak once
    may also be up to it and back the same way, which looks no different."""
    if not passed:
        return "unknown"
    odd = float(np.mean([peak.passes % 2 for peak in passed]))
    if (0 < odd < 1 or len(passed) < probes) and min(peak.below_f for peak in passed) < _NEAR_PEAK_F:
        return "peak"
    # a slow row hides one probe's turn now and then
    return "rich" if len(passed) == probes and odd <= 1 - _MOST else "unknown"


def _peak(t: np.ndarray, egt_f: np.ndarray, cylinder: int, rests_f: float) -> ShownPeak | None:
    """Return the peak of one cylinder's smoothed EGT [°F] (rows,), or None where it was not passed."""
    tops = _tops(egt_f)
    if not tops:
        return None
    highest = max(float(egt_f[row]) for row in tops)
    passes = [row for row in tops if egt_f[row] > highest - _SAME_PEAK_F]
    put_back = [_put_back_f(t, egt_f, row) for row in passes]
    slowest = int(np.argmin(put_back))
    back_f = put_back[slowest]
    follows = back_f <= _MOST_PUT_BACK_F
    row_s = float(np.median(np.diff(t)))
    by_row_f = back_f * (row_s / USUAL_PROBE_LAG_S) ** 2  # the top may lie between two rows
    sigma_f = (
        float(np.hypot(_SIGMA_F + by_row_f, 2 * back_f * _LAG_SPREAD_S / USUAL_PROBE_LAG_S)) if follows else np.inf
    )
    at_s = float(t[passes[0]]) - USUAL_PROBE_LAG_S
    top_f = float(egt_f[passes[slowest]]) + (back_f if follows else 0.0)
    return ShownPeak(cylinder, top_f, sigma_f, at_s, len(passes), rests_f)


def _tops(egt_f: np.ndarray) -> list[int]:
    """Return the rows at which an EGT turned down for good: it had risen by a turn and then fell by one."""
    tops: list[int] = []
    high = low = 0
    rising = False
    for row, value in enumerate(egt_f):
        if value > egt_f[high]:
            high = row
        if value < egt_f[low]:
            low = row
        if not rising and value > egt_f[low] + _TURNS_F:
            rising, high = True, row
        elif rising and value < egt_f[high] - _TURNS_F:
            tops.append(high)
            rising, low = False, row
    return tops


def _put_back_f(t: np.ndarray, egt_f: np.ndarray, top: int) -> float:
    """Return by how much [°F] a probe's lag cuts a top: a parabola's bend [°F/s²] times the square of the lag."""
    near = egt_f > egt_f[top] - _TOP_F
    below = np.flatnonzero(~near)
    first = int(below[below < top][-1]) + 1 if (below < top).any() else 0
    end = int(below[below > top][0]) if (below > top).any() else len(t)
    if end - first < 4:
        return np.inf
    bend = -float(np.polyfit(t[first:end] - t[top], egt_f[first:end], 2)[0])
    return max(bend, 0.0) * USUAL_PROBE_LAG_S**2
