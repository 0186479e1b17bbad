"""One fall of RPM that came back, weighed: how likely it looks as a magneto, as hot air, as a propeller cycle, or as nothing.

Every channel adds its weight, none decides alone: how deep and how long the fall is, how fast it came, how the exhausts moved,
what manifold pressure and oil pressure did. A channel that is missing, broken or noisy weighs little. Which label a fall gets is
decided in `recognition`, where the others beside it count too.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from math import hypot, inf, log, pi

import numpy as np
from scipy.ndimage import uniform_filter1d
from scipy.special import log_ndtr

from ..aircraft import Profile
from ..base.atmosphere import standard_pressure_pa
from ..base.units import PASCAL_PER_INHG
from ..trace import Trace
from ..trace.dips import Span, highest_held
from .exhausts import egt_changes

MAGNETO, HEAT, CYCLE, NOTHING = "magneto", "heat", "cycle", "nothing"
LABELS = (MAGNETO, HEAT, CYCLE, NOTHING)

# What each cause looks like: (share, middle, spread). Depth [RPM of a direct-drive engine], seconds and pace by the logarithm.
# Common practice (docs/method.md); spreads fitted to tests/strange and tests/corpora/whole_run_ups.py, seeds 0 to 199
_DEPTH_RPM = {
    MAGNETO: ((0.96, 75.0, 0.55), (0.04, 230.0, 0.45)),
    HEAT: ((0.95, 80.0, 0.6), (0.05, 30.0, 0.5)),
    CYCLE: ((0.75, 350.0, 0.6), (0.25, 130.0, 0.5)),
    NOTHING: ((0.8, 20.0, 0.5), (0.12, 100.0, 1.0), (0.08, 800.0, 0.5)),
}
_LASTS_S = {
    MAGNETO: ((1.0, 6.5, 0.55),),
    HEAT: ((1.0, 8.5, 0.55),),
    CYCLE: ((1.0, 4.0, 0.55),),
    NOTHING: ((1.0, 6.0, 1.0),),
}
_FALLS_IN_S = {
    MAGNETO: ((1.0, 1.0, 0.5),),
    HEAT: ((0.75, 4.0, 0.8), (0.25, 1.3, 0.4)),
    CYCLE: ((0.6, 2.0, 0.5), (0.4, 0.7, 0.45)),
    NOTHING: ((1.0, 1.5, 0.9),),
}
# exhausts [°F] by how far the middle one moved: on one magneto they rise, else they fall a little. A single probe far down the
# pipe may hardly move: still is weak evidence
_EGT_F = {
    HEAT: ((0.9, -18.0, 22.0), (0.1, -20.0, 60.0)),
    CYCLE: ((0.9, -25.0, 25.0), (0.1, -25.0, 70.0)),
    NOTHING: ((0.9, -4.0, 16.0), (0.1, -10.0, 70.0)),
}
_RISES_F, _RISES_SPREAD, _STILL, _STILL_ALONE, _COLLAPSES = 55.0, 0.65, 0.02, 0.25, 0.03
# manifold pressure, by what it rose beyond the lower speed's own effect, as a share
_MAP_BEYOND = {MAGNETO: (0.0, 0.004, 0.12), HEAT: (0.005, 0.03, 0.0), CYCLE: (0.004, 0.008, 0.12)}
_THROTTLE_PER_FALL, _THROTTLE_SPREAD = -2.2, 1.0
# not every box and engine shows that rise: as a share of the cases, with the middle and spread of the rise as a share of the fall
_MAP_OTHERWISE, _OTHERWISE_PER_FALL, _OTHERWISE_SPREAD = 0.05, 0.4, 0.4
_MAP_RISE_SPREAD = 0.005  # of a gauge's tenth at run-up; a throttle that is closed never lets manifold pressure rise
_MAP_PER_FALL, _CHOKED_AT = 0.85, 0.528  # the second: critical pressure ratio of air, arithmetic
_OIL_DIPS_PSI, _OIL_SPREAD_PSI = 4.5, 2.5
_DEEPEST_CHECK_RPM = 700.0  # of a direct-drive engine (common practice): no check costs more
# ice that melts in hot air (FAA SAIB CE-09-35): RPM climbs back while hot, longer than any magneto takes [s], and ends above where
# it began [RPM], seen some time after [s]; what that says was fitted to tests/corpora/whole_run_ups.py, seeds
# 1,500,000 to 1,501,499
_MELTS_FOR_S, _ENDS_HIGHER_RPM, _ENDS_S, _MELTS = 3.0, 30.0, (4.0, 10.0), 1.5
# a deep fall [RPM] that comes back to the same speed, looked at so long after it [s], was no hand on the throttle: how near [share
# of the fall], and what that says (our own choice, tried on data of a third making)
_DEEP_RPM, _SAME_AFTER_S, _SAME_SHARE, _SAME = 100.0, (1.5, 4.0), 0.06, 1.0
_HOT_FOR_S, _HOT_COSTS_RPM = 30.0, 200.0  # common practice: what is longer or deeper is not hot air on the ground
_LEAST_LOG = -9.0  # no single channel rules a cause out alone
# common practice: how long a slow engine takes to half of its fall [s]; what of it noise may be
_FALLS_FOR_S, _STILL_THERE = 3.0, 0.1
_BACK_AFTER_S = 1.2  # common practice: a fixed pitch is nearly back on both by then
_SMOOTH_S = 1.0  # our own choice: what jitters within a second is no lowest place
# so long before its half [s] the slowest hot air begins, and the share of a fall beyond which it had begun before; fitted to
# tests/strange, seeds 1,600,000 to 1,600,599
_SLOWEST_S, _SLOWLY = 15.0, 0.6
_SHOWS_PACE = 5.0  # times the noise


@dataclass(frozen=True, slots=True)
class Fall:
    """A fall of RPM with what speaks for each cause: log-likelihoods by label. The level before and depth [RPM]; whether manifold
    pressure shows that a throttle did it; whether it is too short for anything but a propeller's cycle."""

    span: Span
    base_rpm: float
    depth_rpm: float
    says: Mapping[str, float]
    is_throttle: bool = False
    is_short: bool = False


def weigh(trace: Trace, profile: Profile, rpm: np.ndarray, span: Span, noise_rpm: float, ended_s: float = -inf) -> Fall:
    """Return one fall with its evidence. `rpm` (rows,) without gaps; `ended_s` is when the fall before it ended [s]. Common
    practice."""
    t, scale = trace.time_s, profile.speed_scale
    base, low = levels(t, rpm, span, ended_s)
    depth = max(base - low, 1.0)
    lasts = max(float(t[span.last] - t[span.first]), 0.5) + 0.5 / max(trace.rate_hz, 0.1)
    says = {label: _mixture(log(depth / scale), _DEPTH_RPM[label]) for label in LABELS}
    _add(says, {label: _mixture(log(lasts), _LASTS_S[label]) for label in LABELS})
    if depth > _SHOWS_PACE * noise_rpm:
        pace = log(max(falls_in_s(t, rpm, span, base, low), 0.3))
        least = log(max(0.75 / max(trace.rate_hz, 0.1), 0.3))
        slower = log(max(profile.lag_scale, 1.0))
        ends_s = _fell_for_s(trace, rpm, span) if profile.engine["propeller"] == "rotor" else inf
        rows = {
            label: tuple(
                (share, max(seen_in_s(middle * np.exp(slower), ends_s), np.exp(least)), spread)
                for share, middle, spread in kinds
            )
            for label, kinds in _FALLS_IN_S.items()
        }
        _add(says, {label: _mixture(pace, rows[label]) for label in LABELS})
    _add(says, _exhausts_say(trace, Span(_begun(t, rpm, span, base, low), span.last), ended_s))
    manifold = _manifold_says(trace, rpm, span, base, low)
    _add(says, manifold)
    _add(says, _oil_says(trace, span, base, low))
    _add(says, _melting_says(trace, profile, rpm, span, base, low))
    if depth > _DEEP_RPM * scale:
        _add(says, _return_says(t, rpm, span, base, depth))
    closed = bool(manifold) and manifold[NOTHING] > max(manifold[label] for label in LABELS if label != NOTHING) + 1.0
    return Fall(span, base, depth, says, closed or depth > _DEEPEST_CHECK_RPM * scale)


def levels(t: np.ndarray, rpm: np.ndarray, span: Span, ended_s: float = -inf) -> tuple[float, float]:
    """Return (level before, level at the bottom) [RPM] of a fall. `ended_s` is when the fall before it ended [s]: rows
    that are still on their way back from that are left out where others show the level, else the highest of them is nearest."""
    step_s = float(np.median(np.diff(t)))
    before = (t >= t[span.first] - max(4.0, 3.2 * step_s)) & (t < t[span.first] - max(1.0, 0.6 * step_s))
    back = before & (t > ended_s + _BACK_AFTER_S)
    rising = (t > ended_s) & (t < t[span.first])
    before = back if back.any() else before
    base = float(np.median(rpm[before])) if before.any() else float(rpm[max(span.first - 1, 0)])
    if ended_s > -inf and before.any() and not back.any() and rising.any():
        after = (t > t[span.last] + _BACK_AFTER_S) & (t <= t[span.last] + _BACK_AFTER_S + 3.0)
        settled = float(np.median(rpm[after])) if after.any() else inf
        base = min(float(np.max(rpm[rising])), max(settled, base))  # no gust above where it comes to rest
    inside = rpm[span.first : span.last + 1]
    low = float(np.median(np.sort(inside)[: max(len(inside) // 2, 1)]))
    high = _highest_before(t, rpm, span, ended_s, step_s)
    return (high if high - base > _SLOWLY * (base - low) else base), low


def _highest_before(t: np.ndarray, rpm: np.ndarray, span: Span, ended_s: float, step_s: float) -> float:
    """Return the highest level [RPM] that was held before a fall, after the one before it had ended (`ended_s`), in rows `step_s`
    [s] apart: hot air that comes slowly has taken its share by the time that half of the fall is reached. Minus infinity where
    nothing shows it."""
    first = int(np.searchsorted(t, max(t[span.first] - _SLOWEST_S, ended_s + _BACK_AFTER_S)))
    return highest_held(rpm[first : span.first], step_s)


def falls_in_s(t: np.ndarray, rpm: np.ndarray, span: Span, base: float, low: float) -> float:
    """Return how long [s] the fall took from a fifth to four fifths of its way, between rows by straight lines."""
    first = max(int(np.searchsorted(t, t[span.first] - 6.0)), 0)
    part, when = rpm[first : span.last + 1], t[first : span.last + 1]
    high_at, low_at = base - 0.2 * (base - low), base - 0.8 * (base - low)
    above = np.flatnonzero(part[: span.first - first + 1] >= high_at)  # before it the tail of another fall may lie
    begun = int(above[-1]) if above.size else 0
    reached = np.flatnonzero(part[begun:] <= low_at)
    if not reached.size:
        return float(t[span.last] - t[span.first])
    end = begun + int(reached[0])
    return max(_crosses(when, part, end, low_at) - _crosses(when, part, begun + 1, high_at), 0.0)


def _begun(t: np.ndarray, rpm: np.ndarray, span: Span, base: float, low: float) -> int:
    """Return the row from which on RPM is below its level: that of a slow engine falls for a second before a span begins, and its
    exhausts have risen by then."""
    first = int(np.searchsorted(t, t[span.first] - _FALLS_FOR_S))
    above = np.flatnonzero(rpm[first : span.first] >= base - _STILL_THERE * (base - low))
    return first + int(above[-1]) + 1 if above.size else span.first


def _fell_for_s(trace: Trace, rpm: np.ndarray, span: Span) -> float:
    """Return for how long [s] RPM went down before it came back."""
    smooth = uniform_filter1d(rpm[span.first : span.last + 1], max(round(_SMOOTH_S * trace.rate_hz), 1))
    return max(float(trace.time_s[span.first + int(np.argmin(smooth))] - trace.time_s[span.first]), _SMOOTH_S)


def seen_in_s(whole_s: float, fell_s: float) -> float:
    """Return how long a fall is seen to take from a fifth to four fifths of its way, where a fall left alone takes `whole_s`, but
    was ended after `fell_s` [s]: an exponential that is cut off (arithmetic). A rotor never comes to its end."""
    lag_s = whole_s / log(4)
    reached = 1 - np.exp(-fell_s / lag_s)
    return float(lag_s * log((1 - 0.2 * reached) / (1 - 0.8 * reached)))


def _crosses(t: np.ndarray, values: np.ndarray, row: int, level: float) -> float:
    row = min(row, len(t) - 1)
    if row == 0 or values[row - 1] == values[row]:
        return float(t[row])
    share = (values[row - 1] - level) / (values[row - 1] - values[row])
    return float(t[row - 1] + np.clip(share, 0, 1) * (t[row] - t[row - 1]))


def _add(says: dict[str, float], more: Mapping[str, float]) -> None:
    if not more:
        return
    most = max(more.values())
    for label in LABELS:
        says[label] += max(more[label] - most, _LEAST_LOG)


def _mixture(value: float, kinds: tuple[tuple[float, float, float], ...]) -> float:
    """Return the log-density of a value that is the logarithm of something, under a mixture of log-normals."""
    return float(
        np.logaddexp.reduce([log(share) + _normal(value, log(middle), spread) for share, middle, spread in kinds])
    )


def _normal(value: float, middle: float, spread: float) -> float:
    return float(-0.5 * ((value - middle) / spread) ** 2 - log(spread))


def _exhausts_say(trace: Trace, span: Span, ended_s: float) -> Mapping[str, float]:
    changes = egt_changes(trace, span, of_its_own=True, ended_s=ended_s)
    if not changes:
        return {}
    middle, count = float(np.median(list(changes.values()))), len(changes)
    seconds = float(trace.time_s[span.last] - trace.time_s[span.first])
    rises = _RISES_F * min(max(seconds, 1.0) / 4.0, 1.0) ** 0.5
    still = _STILL_ALONE if count == 1 else _STILL
    parts = [
        log(still) + _normal(middle, -2.0, 12.0),
        log(_COLLAPSES) + _normal(middle, -130.0, 70.0),
    ]
    if middle > 1.0:  # a log-normal, in the measure of the value itself
        parts.append(log(1 - still - _COLLAPSES) + _normal(log(middle), log(rises), _RISES_SPREAD) - log(middle))
    found = {MAGNETO: float(np.logaddexp.reduce(parts))}
    for label, kinds in _EGT_F.items():
        found[label] = float(np.logaddexp.reduce([log(s) + _normal(middle, m, w) for s, m, w in kinds]))
    return found


def _manifold_says(trace: Trace, rpm: np.ndarray, span: Span, base: float, low: float) -> Mapping[str, float]:
    pressure = trace.signal("map")
    if pressure is None or not np.isfinite(pressure).any():
        return {}
    t = trace.time_s
    step_s = float(np.median(np.diff(t)))
    before = (t >= t[span.first] - max(4.0, 3.2 * step_s)) & (t < t[span.first] - max(0.6, 0.6 * step_s))
    away = (t >= t[span.first] + min(0.7, 0.3 * step_s)) & (t <= t[span.last])
    if not np.isfinite(pressure[before]).any() or not np.isfinite(pressure[away]).any():
        return {}
    level = float(np.nanmean(pressure[before]))
    rise = float(np.nanmean(pressure[away])) / level - 1
    fall = max(base / low - 1, 1e-3)  # what a given air flow is spread over
    beyond = rise - _MAP_PER_FALL * (1 - open_share(trace, span, level)) * fall
    spread_otherwise = float(np.hypot(_MAP_RISE_SPREAD, _OTHERWISE_SPREAD * fall))
    otherwise = log(_MAP_OTHERWISE) + _normal(rise, _OTHERWISE_PER_FALL * fall, spread_otherwise)
    found = {
        label: float(
            np.logaddexp(log(1 - _MAP_OTHERWISE) + _normal(beyond, middle, hypot(spread, per_fall * fall)), otherwise)
        )
        for label, (middle, spread, per_fall) in _MAP_BEYOND.items()
    }
    closed = _normal(beyond, _THROTTLE_PER_FALL * fall, hypot(0.01, _THROTTLE_SPREAD * fall))
    closed += float(log_ndtr(-rise / _MAP_RISE_SPREAD))
    found[NOTHING] = float(np.logaddexp(log(0.85) + closed, log(0.15) + _normal(beyond, 0.0, 0.02)))
    return found


def _melting_says(
    trace: Trace, profile: Profile, rpm: np.ndarray, span: Span, base: float, low: float
) -> Mapping[str, float]:
    """Return what a slow climb back to above the level before says: hot air that melted ice."""
    t, smooth = trace.time_s, uniform_filter1d(rpm, max(round(_SMOOTH_S * trace.rate_hz), 1))
    deep = np.flatnonzero(smooth[span.first : span.last + 1] < base - 0.75 * (base - low))
    back = np.flatnonzero(smooth[span.last :] >= base)
    ends = (t > t[span.last] + _ENDS_S[0]) & (t < t[span.last] + _ENDS_S[1])
    is_long = t[span.last] - t[span.first] > _HOT_FOR_S or base - low > _HOT_COSTS_RPM * profile.speed_scale
    if is_long or not (deep.size and back.size and ends.any()):
        return {}
    climbed_s = float(t[span.last + back[0]] - t[span.first + deep[-1]])
    higher = float(np.median(rpm[ends])) - base
    if climbed_s < _MELTS_FOR_S * max(profile.lag_scale, 1.0) or higher < _ENDS_HIGHER_RPM * profile.speed_scale:
        return {}
    return {HEAT: 0.0, NOTHING: -_MELTS, MAGNETO: -2 * _MELTS, CYCLE: -2 * _MELTS}


def _return_says(t: np.ndarray, rpm: np.ndarray, span: Span, base: float, depth: float) -> Mapping[str, float]:
    """Return what it says that RPM came back to the level before: a switch, a valve or a governor leaves it as it was."""
    after = (t > t[span.last] + _SAME_AFTER_S[0]) & (t < t[span.last] + _SAME_AFTER_S[1])
    if not after.any() or abs(float(np.median(rpm[after])) - base) > _SAME_SHARE * depth:
        return {}
    return {label: -_SAME if label == NOTHING else 0.0 for label in LABELS}


def open_share(trace: Trace, span: Span, map_inhg: float) -> float:
    """Return how far the throttle lets the outside pressure through: 0 where its flow is choked, 1 wide open. `map_inhg` is the
    manifold pressure [inHg]. Compressible flow (Heywood, appendix C)."""
    height_ft = trace.signal("palt")
    known = height_ft is not None and np.isfinite(height_ft[span.first])
    outside_pa = standard_pressure_pa(float(height_ft[span.first]) if known else 0.0)  # type: ignore[index]
    over = (map_inhg * PASCAL_PER_INHG / outside_pa - _CHOKED_AT) / (1 - _CHOKED_AT)
    return float(float(np.clip(over, 0.0, 1.0)) ** 1.3)


def _oil_says(trace: Trace, span: Span, base: float, low: float) -> Mapping[str, float]:
    """Oil pressure falls with speed, and dips beyond that while a hub is filled."""
    oil, t = trace.signal("oil_p"), trace.time_s
    if oil is None:
        return {}
    before = (t >= t[span.first] - 5.0) & (t < t[span.first] - 0.8)
    during = (t >= t[span.first] - 0.3) & (t <= t[span.last] + 0.3)
    if np.isfinite(oil[before]).sum() < 2 or not np.isfinite(oil[during]).any():
        return {}
    level = float(np.nanmedian(oil[before]))
    noise = float(np.nanstd(oil[before])) + 0.5
    dip = level - float(np.nanmean(oil[during]))
    by_speed = level * (1 - low / base)  # at most: a relief valve holds it
    beyond = dip - np.clip(dip, 0.0, max(by_speed, 0.0))
    still = _normal(beyond, 0.0, noise) - 0.5 * log(2 * pi)
    dips = _normal(dip, _OIL_DIPS_PSI, float(np.hypot(_OIL_SPREAD_PSI, noise))) - 0.5 * log(2 * pi)
    cycle = float(np.logaddexp(log(0.7) + dips, log(0.3) + still))  # an electric hub shows none
    return {MAGNETO: still, HEAT: still, NOTHING: still, CYCLE: cycle}
