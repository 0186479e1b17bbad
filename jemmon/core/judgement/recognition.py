"""Which dips of RPM are magnetos and which are carburettor heat, from whatever channels the trace has.

Lever positions decide where known. Else EGT: on one magneto it rises (all cylinders, or all but one with a dead plug);
with hot air it falls a little; with a throttle touched and put back it hardly moves. Else manifold pressure: hot air
raises it by more than the lower RPM explains; a closed throttle lowers it. The run-up RPM of the profile plays no part.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.ndimage import uniform_filter1d

from ..aircraft import Profile
from ..base.atmosphere import standard_pressure_pa
from ..base.units import PASCAL_PER_INHG
from ..trace import Trace
from ..trace.dips import Span, find_dips, shortest_check_s
from ..trace.masks import runs
from .check import Evidence
from .exhausts import egt_changes
from .feathering import fall_begins, feather_rows
from .propeller import cycle_rows

MAGNETO, HEAT, UNCLEAR, NOTHING = "magneto", "heat", "unclear", "nothing"
# fitted to tests/corpora/whole_run_ups.py, seeds 24 and 25, but where it says otherwise
_EGT_RISES_F = 11.0
_EGT_FALLS_F, _EGT_COLLAPSES_F = -2.5, -90.0
_MAP_RISE_PER_RPM_FALL = 0.85
_HOT_AIR_MAP_SHARE = 0.021
_CYCLE_DEEPER = 2.2
_CHOKED_AT = 0.528  # critical pressure ratio of air: arithmetic
_PARTED_PCT, _ABOVE_RPM, _SMOOTH_S = 5.0, 60.0, 1.0
_EDGE_S, _ROTOR_EDGE_S = 1.25, 2.6  # how long a step of RPM takes: a rotor slows for seconds
ONE_CHECK_GAP_S = 60.0  # docs/formats.md: a check ends when the engine has been left on both for so long
_THROTTLE_MAP_PER_RPM_FALL = -0.4  # a closed throttle lowers it; one magneto raises it, hardly so with a blower
# speeds of a direct-drive engine, scaled by `Profile.speed_scale`
_DEEPEST_DIP_RPM, _DEEPEST_HEAT_RPM = 600.0, 330.0
_CHECKED_FROM_RPM, _CHECKED_TO_RPM = 1150.0, 2900.0
_RUNS_FROM_RPM, _HEAT_FROM_RPM = 700.0, 1000.0


@dataclass(frozen=True, slots=True)
class RunUpSpans:
    """The stretches on one magneto (each with its side's name, empty where nothing shows it, `unclear` where it may be either
    check) and those on hot air, in order; `every` is both."""

    magnetos: tuple[tuple[Span, str], ...] = ()
    hot: tuple[Span, ...] = ()

    @property
    def every(self) -> list[Span]:
        """All stretches in order of time."""
        return sorted([*(span for span, _ in self.magnetos), *self.hot], key=lambda span: span.first)


def recognise(evidence: Evidence) -> RunUpSpans:
    """Return which dips of RPM are magnetos and which are carburettor heat."""
    trace, profile = evidence.trace, evidence.profile
    rpm = trace.signal("rpm")
    if rpm is None or len(trace) < 8:
        return RunUpSpans()
    scale = profile.speed_scale
    named = _magneto_spans(trace, rpm, scale)
    hot = _heat_spans(trace, rpm, scale)
    if named is None or hot is None:
        found_mags, found_hot = _from_needles(trace, rpm, profile, named is not None, hot is not None)
        cycles = [*cycle_rows(trace, profile), *feather_rows(trace, profile), *_parted_rows(trace)]  # these are neither
        found_mags = [(span, name) for span, name in found_mags if not _overlaps(span, cycles)]
        found_hot = [span for span in found_hot if not _overlaps(span, cycles)]
        named = found_mags if named is None else named
        hot = found_hot if hot is None else hot
    return RunUpSpans(tuple(named), tuple(hot))


def _parted_rows(trace: Trace) -> list[tuple[int, int]]:
    """Return (first, last row) of each stretch in which a rotor runs ahead of its engine: a throttle was chopped."""
    engine, rotor = trace.signal("rpm_pct"), trace.signal("rotor_pct")
    if engine is None or rotor is None:
        return []
    return runs(np.nan_to_num(rotor - engine) > _PARTED_PCT)


def _overlaps(span: Span, cycles: Sequence[tuple[int, int]]) -> bool:
    return any(first <= span.last and span.first <= last for first, last in cycles)


def _spans_where(trace: Trace, mask: np.ndarray, least_s: float) -> list[Span]:
    step_s = 1 / trace.rate_hz
    spans = [Span(first, last) for first, last in runs(mask)]
    return [s for s in spans if trace.time_s[s.last] - trace.time_s[s.first] + step_s > least_s + 0.01]


def _magneto_spans(trace: Trace, rpm: np.ndarray, scale: float) -> list[tuple[Span, str]] | None:
    """Return the spans on one side by the switch, or None where its position is not known."""
    switch = trace.ignition()
    if switch is None:
        return None
    step_s = 1 / trace.rate_hz
    least_s = 2.2 if step_s > 0.55 else 1.5
    speed = np.nan_to_num(rpm)
    spans = []
    for position, name in (("L", "left"), ("R", "right")):
        found = _spans_where(trace, switch == position, least_s)
        spans += [(span, name) for span in found if speed[max(span.first - 1, 0)] > _RUNS_FROM_RPM * scale]
    return sorted(spans, key=lambda row: row[0].first)


def _heat_spans(trace: Trace, rpm: np.ndarray, scale: float) -> list[Span] | None:
    """Return the applications of heat on a running engine by the lever, or None where it is not known."""
    lever = trace.signal("carb_heat")
    if lever is None or not np.isfinite(lever).any():
        return None
    spans = _spans_where(trace, (np.nan_to_num(lever) > 0.5) & (np.nan_to_num(rpm) > _HEAT_FROM_RPM * scale), 2.2)
    throttle = trace.signal("throttle")
    if throttle is None:
        return spans
    return [s for s in spans if np.ptp(throttle[max(s.first - 1, 0) : s.last + 1]) < 0.1]


def _from_needles(
    trace: Trace, rpm: np.ndarray, profile: Profile, mags_known: bool, heat_known: bool
) -> tuple[list[tuple[Span, str]], list[Span]]:
    is_rotor = profile.engine["propeller"] == "rotor"
    width_s, slow = (_ROTOR_EDGE_S, 1.0) if is_rotor else (_EDGE_S, profile.lag_scale)
    filled = np.interp(trace.time_s, trace.time_s[np.isfinite(rpm)], rpm[np.isfinite(rpm)])
    dips = [
        Span(fall_begins(trace, filled, span.first), span.last) if is_rotor else span
        for span in find_dips(trace.time_s, filled, width_s)
        if _could_be_check(trace, filled, span, profile.speed_scale, slow)
        and not (is_rotor and _falls_only_briefly(trace, filled, span))
    ]
    feathers, deepest = "feather_check_rpm" in profile.limits, _DEEPEST_HEAT_RPM * profile.speed_scale
    magnetos, hot = [], []
    kinds = [_kind_of(trace, filled, span) for span in dips]
    for span, kind in zip(dips, kinds, strict=True):
        if kind == MAGNETO and not mags_known:
            magnetos.append((span, ""))
        elif kind == HEAT and not heat_known and _depth(filled, span) < deepest:
            hot.append(span)
        elif kind == UNCLEAR and not mags_known and not (feathers and _depth(filled, span) > deepest):
            magnetos.append((span, UNCLEAR))
    governed = profile.engine["propeller"] == "constant_speed"
    return _settle_unclear(trace, _without_cycles(filled, magnetos) if governed else magnetos, hot)


def _without_cycles(rpm: np.ndarray, magnetos: list[tuple[Span, str]]) -> list[tuple[Span, str]]:
    """Return the falls without those at the front that are far deeper than all that follow: with RPM alone a propeller cycle
    looks like a magneto, and comes before them."""
    depths = [_depth(rpm, span) for span, _ in magnetos]
    first = 0
    while len(depths) - first > 2 and magnetos[first][1] == UNCLEAR:
        if depths[first] < _CYCLE_DEEPER * max(depths[first + 1 :][-2:]):
            break
        first += 1
    return magnetos[first:]


def _settle_unclear(
    trace: Trace, magnetos: list[tuple[Span, str]], hot: list[Span]
) -> tuple[list[tuple[Span, str]], list[Span]]:
    """With RPM alone, two falls close together are the two magnetos, and a third after them is the heat."""
    unclear = [span for span, name in magnetos if name == UNCLEAR]
    clear = [(span, name) for span, name in magnetos if name != UNCLEAR]
    for group in check_groups(trace, [(span, "") for span in unclear]):
        if len(group) == 1:
            clear.append((group[0][0], UNCLEAR))
        elif len(group) % 2 == 1:
            clear += group[:-1]
            hot = [*hot, group[-1][0]]
        else:
            clear += group
    return sorted(clear, key=lambda row: row[0].first), sorted(hot, key=lambda span: span.first)


def _could_be_check(trace: Trace, rpm: np.ndarray, span: Span, scale: float, lag_scale: float) -> bool:
    """Long enough, at a speed and a depth that checks are made at; the last dip may still be open."""
    t = trace.time_s
    before = rpm[max(span.first - 4, 0) : max(span.first - 1, 1)]
    base, low = float(np.mean(before)), float(np.min(rpm[span.first : span.last + 1]))
    if not _CHECKED_FROM_RPM * scale <= base <= _CHECKED_TO_RPM * scale or base - low > _DEEPEST_DIP_RPM * scale:
        return False
    return _crossing_seconds(t, rpm, span, base) > shortest_check_s(1 / trace.rate_hz) * (0.75 + 0.25 * lag_scale)


def _falls_only_briefly(trace: Trace, rpm: np.ndarray, span: Span) -> bool:
    """Say whether a rotor's speed sinks no longer than a slip of the switch lasts: it comes back slowly, and the time below
    half of the fall does not tell."""
    begun = fall_begins(trace, rpm, span.first)
    smooth = uniform_filter1d(rpm, max(round(_SMOOTH_S * trace.rate_hz), 1))
    lowest = begun + int(np.argmin(smooth[begun : span.last + 1]))
    return bool(trace.time_s[lowest] - trace.time_s[begun] < shortest_check_s(1 / trace.rate_hz))


def _depth(rpm: np.ndarray, span: Span) -> float:
    return float(
        np.mean(rpm[max(span.first - 4, 0) : max(span.first - 1, 1)]) - np.min(rpm[span.first : span.last + 1])
    )


def _crossing_seconds(t: np.ndarray, rpm: np.ndarray, span: Span, base: float) -> float:
    """Return the time spent below half of the fall, between samples by straight lines."""
    low = float(np.median(np.sort(rpm[span.first : span.last + 1])[: max(2, (span.last - span.first + 1) // 2)]))
    middle = (base + low) / 2
    a, b = span.first, span.last
    start, end = t[a], t[b]
    if a > 0 and rpm[a - 1] > middle > rpm[a]:
        start = t[a - 1] + (rpm[a - 1] - middle) / (rpm[a - 1] - rpm[a]) * (t[a] - t[a - 1])
    if b + 1 < len(t) and rpm[b + 1] > middle > rpm[b]:
        end = t[b] + (middle - rpm[b]) / (rpm[b + 1] - rpm[b]) * (t[b + 1] - t[b])
    return float(end - start)


def _kind_of(trace: Trace, rpm: np.ndarray, span: Span) -> str:
    changes = egt_changes(trace, span)
    seconds = trace.time_s[span.last] - trace.time_s[span.first]
    if _ends_far_above(trace.time_s, rpm, span):
        return HEAT if changes or _manifold_says(trace, rpm, span) == HEAT else NOTHING
    if changes:
        ordered = np.sort(np.array(list(changes.values())))
        rises = ordered[-1] > _EGT_RISES_F * min(max(seconds, 1.0) / 3.0, 1.0)
        if rises and (np.median(ordered) > 0 or ordered[0] < _EGT_COLLAPSES_F):
            return MAGNETO
        return HEAT if np.median(ordered) < _EGT_FALLS_F and _manifold_says(trace, rpm, span) != NOTHING else NOTHING
    return _manifold_says(trace, rpm, span)


def _ends_far_above(t: np.ndarray, rpm: np.ndarray, span: Span) -> bool:
    """Say whether RPM came back far above what it was: ice that melted under heat, or a throttle that was opened."""
    before = rpm[(t > t[span.first] - 3.0) & (t < t[span.first] - 0.6)]
    after = rpm[(t > t[span.last] + 1.5) & (t < t[span.last] + 10.0)]
    return bool(after.size and before.size and np.max(after) - np.mean(before) > _ABOVE_RPM)


def _manifold_says(trace: Trace, rpm: np.ndarray, span: Span) -> str:
    pressure = trace.signal("map")
    if pressure is None or not np.isfinite(pressure).any():
        return UNCLEAR
    t = trace.time_s
    before = (t >= t[span.first] - 4.0) & (t < t[span.first] - 0.2)
    away = (t >= t[span.first] + 0.7) & (t <= t[span.last])
    if not before.any() or not away.any():
        return UNCLEAR
    rise = float(np.nanmean(pressure[away]) / np.nanmean(pressure[before]) - 1)
    fall = 1 - float(np.mean(rpm[away]) / np.mean(rpm[before]))
    if rise < _THROTTLE_MAP_PER_RPM_FALL * fall:
        return NOTHING
    throttled = 1 - _open_share(trace, span, float(np.nanmean(pressure[before])))
    usual = _MAP_RISE_PER_RPM_FALL * throttled * fall
    return HEAT if rise > usual + _HOT_AIR_MAP_SHARE * (0.45 + 0.55 * throttled) else MAGNETO


def _open_share(trace: Trace, span: Span, map_inhg: float) -> float:
    """Return how far the throttle lets the outside pressure through: 0 where its flow is choked, 1 wide open."""
    height_ft = trace.signal("palt")
    known = height_ft is not None and np.isfinite(height_ft[span.first])
    outside_pa = standard_pressure_pa(float(height_ft[span.first]) if known else 0.0)  # type: ignore[index]
    over = (map_inhg * PASCAL_PER_INHG / outside_pa - _CHOKED_AT) / (1 - _CHOKED_AT)
    return float(float(np.clip(over, 0.0, 1.0)) ** 1.3)


def check_groups(trace: Trace, spans: Sequence[tuple[Span, str]]) -> list[list[tuple[Span, str]]]:
    """Split spans into checks: a new one begins when the engine was left on both for 60 s."""
    groups: list[list[tuple[Span, str]]] = []
    for row in spans:
        if groups and trace.time_s[row[0].first] - trace.time_s[groups[-1][-1][0].last] <= ONE_CHECK_GAP_S:
            groups[-1].append(row)
        else:
            groups.append([row])
    return groups
