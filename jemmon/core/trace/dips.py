"""Falls of RPM that come back: where they are, in samples that are noisy and few, and how noisy those are.

How deep a fall is, `dip_fit` says; what it means (a magneto, carburettor heat) is decided in judgement/.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from scipy.ndimage import maximum_filter1d, median_filter, minimum_filter1d

from .masks import runs

T = TypeVar("T")

# what is a valley: the grid it is looked for on, how deep it is at least and at most [RPM, sigmas], the windows that fill it;
# fitted to tests/strange, seeds 0 to 199
_GRID_S, _WINDOWS_S = 0.5, (62.0, 25.0, 12.0)
_LEAST_DEPTH_RPM, _LEAST_SIGMAS, _MOST_THRESHOLD_RPM, _DEEPEST_RPM, _STRAY_SIGMAS = 14.0, 3.5, 28.0, 1500.0, 4.0
SETTLED_AFTER_S = 2.5
_HELD_S = 2.0  # our own choice: what is held for so long is a level
_MOST_OF_DEPTH = 0.5  # fitted to tests/corpora/run_ups.py, seeds 6,600,000 to 6,600,099
# a sudden fall: the share of it that RPM steps at both edges, between the medians of so much time [s] or rows on either side;
# fitted to tests/strange, seeds 1,600,000 to 1,600,599
_SUDDEN, _EDGE_S, _EDGE_ROWS = 0.4, 1.2, 1.1
_ROUNDED_TO_RPM = (50.0, 25.0, 20.0, 10.0, 5.0)  # steps that tachometers write
_STEPS = 1.1
_CLIPPED_TIMES, _STANDS_OUT_SIGMAS = 3, 3.0  # common practice: sigma clipping
_GUSTS_OVER_S, _CALM_AROUND_S, _LEAST_GUST_RPM, _MOST_GUST_RPM, _USUAL_GUST_RPM = 12.0, 4.0, 1.0, 8.0, 2.0


@dataclass(frozen=True, slots=True)
class Span:
    """Rows `first` up to and including `last` were spent away (on one magneto, or hot)."""

    first: int
    last: int


def rpm_noise(rpm: np.ndarray, spans: Sequence[Span] = ()) -> float:
    """Return the noise (sigma) of RPM from second differences, which slow drifts hardly touch; those that touch one of `spans` are
    left out, where enough remain."""
    away = np.isfinite(rpm)
    for span in spans:
        away[max(span.first - 1, 0) : span.last + 2] = False
    second = np.diff(np.where(away, rpm, np.nan), 2) / np.sqrt(6)
    second = second[np.isfinite(second)]
    if second.size < 5:
        second = np.diff(rpm[np.isfinite(rpm)], 2) / np.sqrt(6)
    if second.size < 3:
        return 4.0
    return float(np.clip(1.4826 * np.median(np.abs(second - np.median(second))), 0.7, 12.0))


def shortest_check_s(step_s: float) -> float:
    """Return the dwell [s] that distinguishes a check from a slip: a slip is 1 s or less; a check 3 s at 1 Hz, else 2 s."""
    return 2.4 if step_s > 0.55 else 1.5


def find_dips(time_s: np.ndarray, rpm: np.ndarray) -> list[Span]:
    """Return the spans in which RPM was lower and then came back: what a closing with a window of a minute fills. Each span holds
    the rows nearer to the bottom than to the level around. Morphological closing (Serra 1982); `rpm` (rows,) has no gaps."""
    if len(time_s) < 6:
        return []
    step_s = max(float(np.median(np.diff(time_s))), _GRID_S)
    grid = np.arange(time_s[0], time_s[-1] + step_s / 2, step_s)
    level = _on_grid(time_s, rpm, grid, step_s)
    least = float(np.clip(_LEAST_SIGMAS * grid_noise(level), _LEAST_DEPTH_RPM, _MOST_THRESHOLD_RPM))
    least = max(least, _STEPS * rounding_rpm(rpm))  # one step of a coarse tachometer is no fall
    each = [_dips_within(time_s, rpm, grid, level, least, window_s) for window_s in _WINDOWS_S]
    found: list[Span] = []
    for place, dips in enumerate(each):
        narrower = [[dip for dip in own if dip.is_sudden] for own in each[place + 1 :]]
        for dip in dips:
            inside = [one for own in narrower[:1] for one in own if dip.holds(one)]
            if len(inside) > 1 or any(_is_most_of(rpm, one, dip) for own in narrower for one in own):
                continue  # a level that drifts or was moved, with falls on the way: the narrower window tells them apart
            if not any(dip.span.first <= other.last and other.first <= dip.span.last for other in found):
                found.append(dip.span)
    return sorted(found, key=lambda span: span.first)


@dataclass(frozen=True, slots=True)
class _Dip:
    """What a closing with one window fills: its rows, its depth [RPM], whether it begins and ends at once, as on a magneto. One
    that does not is the deepest part of a fall that comes and goes slowly, as of hot air."""

    span: Span
    depth_rpm: float
    is_sudden: bool

    def holds(self, other: "_Dip") -> bool:
        """Say whether another lies within this one."""
        return self.span.first <= other.span.first and other.span.last <= self.span.last


def _is_sudden(time_s: np.ndarray, rpm: np.ndarray, span: Span, least_rpm: float, within_s: float) -> bool:
    """Say whether RPM steps down at the first row of a fall and up at its last, by `least_rpm` from the rows within so many seconds
    outside to those inside."""
    near_s = within_s + 1e-6  # a row just so far away is one of them, whatever the clock began with
    begun = np.searchsorted(time_s, time_s[span.first] - near_s), np.searchsorted(time_s, time_s[span.first] + near_s)
    ended = np.searchsorted(time_s, time_s[span.last] - near_s), np.searchsorted(time_s, time_s[span.last] + near_s)
    down = rpm[begun[0] : span.first], rpm[span.first : begun[1]]
    up = rpm[span.last + 1 : ended[1]], rpm[ended[0] : span.last + 1]
    return all(not out.size or float(np.median(out) - np.median(into)) >= least_rpm for out, into in (down, up))


def _is_most_of(rpm: np.ndarray, one: _Dip, wide: _Dip) -> bool:
    """Say whether a fall is what a wide one has of depth: the rest of it lies nearer to the level above the fall than to its
    bottom, where a throttle that was moved, or the way up, left it."""
    if not wide.holds(one) or one.depth_rpm <= _MOST_OF_DEPTH * wide.depth_rpm:
        return False
    own, around = one.span, wide.span
    rest = np.concatenate([rpm[around.first : max(own.first - 1, around.first)], rpm[own.last + 2 : around.last + 1]])
    bottom = float(np.median(rpm[own.first : own.last + 1]))
    return len(rest) > own.last - own.first and float(np.median(rest)) > bottom + one.depth_rpm / 2


def _dips_within(
    time_s: np.ndarray, rpm: np.ndarray, grid: np.ndarray, level: np.ndarray, least: float, window_s: float
) -> list[_Dip]:
    """Return what a closing with one window fills."""
    step_s, rounding = float(grid[1] - grid[0]), rounding_rpm(rpm)
    within_s = max(_EDGE_S, _EDGE_ROWS * float(np.median(np.diff(time_s))))
    depth = _closed(level, max(2 * round(window_s / step_s / 2) + 1, 3)) - level
    found = []
    for first, end in _valleys(depth, least):
        rows = np.flatnonzero((time_s >= grid[first] - step_s / 2) & (time_s <= grid[end] + step_s / 2))
        deepest = float(depth[first : end + 1].max())
        is_stray = first == end and step_s <= _GRID_S
        if rows.size and deepest <= _DEEPEST_RPM and not is_stray:
            span = _trimmed(rpm, int(rows[0]), int(rows[-1]), deepest)
            found.append(_Dip(span, deepest, _is_sudden(time_s, rpm, span, _SUDDEN * deepest + rounding, within_s)))
    return found


def highest_held(rpm: np.ndarray, step_s: float) -> float:
    """Return the highest level [RPM] that rows (rows,), `step_s` [s] apart, hold for two seconds and two rows; minus infinity where
    they are fewer."""
    count = max(round(_HELD_S / step_s), 2)
    if len(rpm) < count:
        return -np.inf
    return float(np.median(sliding_window_view(rpm, count), axis=1).max())


def grid_noise(level: np.ndarray) -> float:
    """Return the noise (sigma) [RPM] of a level on the grid, gusts included: steps are few, and differences over two rows see
    what wanders."""
    if len(level) < 6:
        return 4.0
    apart = level[2:] - level[:-2]
    return float(np.clip(1.4826 * np.median(np.abs(apart - np.median(apart))) / np.sqrt(2), 0.7, 12.0))


def _on_grid(time_s: np.ndarray, rpm: np.ndarray, grid: np.ndarray, step_s: float) -> np.ndarray:
    """Return the mean of the rows around each time of the grid, a straight line where there are none; single rows that stand far
    from both neighbours are levelled out."""
    place = np.clip(np.round((time_s - grid[0]) / step_s).astype(int), 0, len(grid) - 1)
    count = np.bincount(place, minlength=len(grid))
    total = np.bincount(place, weights=rpm, minlength=len(grid))
    have = count > 0
    level = np.interp(grid, grid[have], total[have] / count[have])
    if step_s <= _GRID_S * 1.01:
        middle = median_filter(level, 3, mode="nearest")
        stray = np.abs(level - middle) > _STRAY_SIGMAS * grid_noise(level)
        level = np.where(stray, middle, level)
    return np.asarray(level)


def _closed(level: np.ndarray, size: int) -> np.ndarray:
    """Return the level with every valley filled that is narrower than `size` rows. Before its first row it is taken to have been as
    it was there: a level that rises later, as ice melts, makes no valley of what lay before."""
    before = np.concatenate([np.full(size, level[0]), level])
    closed = minimum_filter1d(maximum_filter1d(before, size, mode="nearest"), size, mode="nearest")
    return np.asarray(closed[size:])


def _valleys(depth: np.ndarray, least: float) -> list[tuple[int, int]]:
    """Return (first, last) on the grid of each valley: the rows below half of its own depth, one stray row not counted."""
    found = []
    for first, end in runs(depth > least):
        part = depth[first : end + 1]
        deepest = float(np.sort(part)[-max(len(part) // 3, 1)])
        low = part > deepest / 2
        if len(low) > 4:
            low[1:-1] |= low[:-2] & low[2:]
        found += [(first + a, first + b) for a, b in runs(low)]
    return found


def _trimmed(rpm: np.ndarray, first: int, last: int, depth: float) -> Span:
    """Return the span from and to the outermost rows that are nearer to the bottom."""
    rows = rpm[first : last + 1]
    bottom = float(np.median(np.sort(rows)[: max(len(rows) // 2, 1)]))
    low = np.flatnonzero(rows < bottom + depth / 2)
    return Span(first + int(low[0]), first + int(low[-1]))


def rounding_rpm(rpm: np.ndarray) -> float:
    """Return the step [RPM] that a tachometer writes in, 0 where it shows none."""
    known = rpm[np.isfinite(rpm)]
    for step in _ROUNDED_TO_RPM:
        if known.size > 5 and np.abs(known / step - np.round(known / step)).max() < 1e-6:
            return step
    return 0.0


def gust_rpm(time_s: np.ndarray, rpm: np.ndarray, spans: Sequence[Span], noise_rpm: float) -> float:
    """Return how far [RPM, sigma] the level wanders by itself, away from the falls: gusts on the propeller, in twelve seconds."""
    calm = np.isfinite(rpm)
    for span in spans:
        calm &= (time_s < time_s[span.first] - _CALM_AROUND_S) | (time_s > time_s[span.last] + _CALM_AROUND_S)
    found = []
    for first, end in runs(calm):
        rows = np.arange(first, end + 1)
        while rows.size and time_s[rows[-1]] - time_s[rows[0]] >= _GUSTS_OVER_S / 2:
            part = rows[time_s[rows] < time_s[rows[0]] + _GUSTS_OVER_S]
            if part.size >= 5 and np.ptp(rpm[part]) < 12 * noise_rpm + 40:
                found.append(_wander_rpm(time_s[part], rpm[part]))
            rows = rows[part.size :]
    if len(found) < 2:
        return _USUAL_GUST_RPM
    wander = float(np.median(found)) ** 2 - noise_rpm**2
    return float(np.clip(np.sqrt(max(wander, 0.0)), _LEAST_GUST_RPM, _MOST_GUST_RPM))


def _wander_rpm(time_s: np.ndarray, rpm: np.ndarray) -> float:
    """Return the spread (sigma) [RPM] around a straight line, without rows (rows,) that stand out: a slip of the switch is no
    gust."""
    for _ in range(_CLIPPED_TIMES):
        left = rpm - np.polyval(np.polyfit(time_s, rpm, 1), time_s)
        away = np.abs(left - np.median(left))
        close = away <= _STANDS_OUT_SIGMAS * 1.4826 * max(float(np.median(away)), _LEAST_GUST_RPM)
        if close.all() or close.sum() < 4:
            break
        time_s, rpm = time_s[close], rpm[close]
    return float((rpm - np.polyval(np.polyfit(time_s, rpm, 1), time_s)).std(ddof=2))


def own_time(
    time_s: np.ndarray, span: Span, others: Sequence[Span], left_for_the_next: Sequence[Span] = ()
) -> tuple[float, float]:
    """Return the times between which the rows around a span belong to it alone: after the last span has settled, and
    before the next begins. One of `left_for_the_next` is the level that the next began from: it has settled a while after it
    began."""
    before, after = -np.inf, np.inf
    for other in others:
        if other.last < span.first:
            settled_s = time_s[other.last if other not in left_for_the_next else other.first] + SETTLED_AFTER_S
            before = max(before, settled_s)
        elif other.first > span.last:
            after = min(after, time_s[other.first] - 0.01)
    return before, after


def in_groups(time_s: np.ndarray, rows: Sequence[T], span_of: Callable[[T], Span], within_s: float) -> list[list[T]]:
    """Return what belongs to spans (in order of time) in groups: a new one begins where more than `within_s` [s] lie between."""
    groups: list[list[T]] = []
    for row in rows:
        if groups and time_s[span_of(row).first] - time_s[span_of(groups[-1][-1]).last] <= within_s:
            groups[-1].append(row)
        else:
            groups.append([row])
    return groups
