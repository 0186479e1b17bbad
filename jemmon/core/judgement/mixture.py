"""Leaning as it is judged: who peaks first and last, the spread, and on which side of peak the mixture was left."""

from collections.abc import Mapping
from typing import Any

import numpy as np
from scipy.ndimage import gaussian_filter1d

from ..aircraft import LeanTarget, Profile
from ..base.atmosphere import standard_pressure_pa
from ..base.errors import EventError, checked_number
from ..base.figures import difference
from ..base.units import PASCAL_PER_INHG, celsius
from ..power import read_power
from ..power.schools import refusal
from ..trace import Trace
from ..trace.finding import LOOK, UNKNOWN, WITHIN, Finding, Reasons
from ..trace.masks import filled, runs
from .airborne import on_ground
from .check import PRACTICE, TYPE, Check, Evidence, Field, Ripe, Rule, Shown, TrendFigure
from .exhausts import working_probes
from .mixture_fit import LeanFit, Peak, fit_leaning

_LEAST_FALL = 0.10  # of fuel flow: less is not a leaning (common practice)
_LEAST_RPM, _LEAST_ROWS, _SMOOTH_S, _END_ROWS = 1500.0, 10, 1.5, 4  # common practice
# how much other air is another power, how long a hand takes to lean [s], how far exhausts rise on the way [°F]; fitted to
# tests/strange, seeds 0 to 199
_ON_PROPELLER_CURVE = 1.5  # air by speed of a fixed pitch, which leaning slows too (common practice)
_PROPELLER_LAW = (
    3.0  # power, and so fuel flow, goes with the cube of a fixed pitch's speed (published: McCormick, chapter 6)
)
_FALLS_BY_HAND = 0.07  # in a minute; fitted to tests/strange, seeds 72,000 to 72,059
_SAME_AIR, _LEANED_WITHIN_S, _LEAST_RISE_F, _RISE_ALONE_F, _THROTTLED_WITHIN_S = 0.08, 240.0, 12.0, 22.0, 5.0
# fitted to tests/corpora/leanings.py, seeds 13 to 18, but where it says otherwise
_LONGEST_S = 420.0
# fitted to tests/corpora/leanings.py, seeds 13 to 18: what a throttle moves, how long a mixture rests, where it is at peak
_MOVE_INHG, _MOVE_S, _BY_MIXTURE = 0.5, 6.0, 3.0
_RESTED_S, _LEAVES_S, _RESTS, _PLATEAU_S = 45.0, 12.0, 0.03, 14.0
_SETTLED_S = 60.0  # common practice: a mixture that stays for a minute has been set
_MOST_ROWS = (0.05, 0.95)  # a few noisy ones do not move a mixture
_AT_PEAK, _AT_PEAK_F = 0.012, 2.0  # in fuel flow and in EGT; the second common practice: no needle shows less
_COVERS = 2.0  # sigmas: 95 %
# common practice: an EGT within 25 °F of its peak is at peak; what is less sure than that is not said
_SURE_OF_PEAK_F = 25.0
# of the fuel flow at a peak, which the flow sensor shows late by what nobody knows; fitted to tests/strange, seeds 0 to 199
_FLOW_COVERS, _FLOW_LEFT_GPH = 4.0, 0.04
_POWER_SLACK_PCT = 3.0  # what readings and table leave open (tests/corpora/leanings.py)
_LEAST_PEAK_F, _MOST_PEAK_F = 800.0, 1800.0  # common practice
_RESTS_FOR_S, _RESTS_WITHIN, _SAME_PLACE_F = 8.0, 0.08, 4.0  # common practice
_TOO_NEAR_F = 35.0  # common practice: nearer than that is the hottest CHT at any power

_NOT_PASSED = "No cylinder was seen to pass its peak."
_TOO_FAST = "The mixture moved faster than the EGTs follow: how far from peak it is, they do not show."


def find_leanings(evidence: Evidence) -> list[Finding]:
    """Return a `lean` finding for each pull of the mixture at steady power. Common practice: the leanest peaks first."""
    trace, findings = evidence.trace, []
    for start, end, fit in evidence.once(fitted_leanings):
        if not any(peak.passed for peak in fit.peaks) and _rise_f(trace, start, end)[0] < _RISE_ALONE_F:
            continue  # less fuel, and the exhausts did not answer
        span_s = (float(trace.time_s[start]), float(trace.time_s[end - 1]))
        findings.append(judge_leaning(evidence.profile, fit, span_s, _set_at(trace, start, end)))
    return findings


def fitted_leanings(evidence: Evidence) -> list[tuple[int, int, LeanFit]]:
    """Return (first row, end row, fit) of each pull of the mixture that has samples enough."""
    trace = evidence.trace
    fitted = [(start, end, fit_leaning(trace.part(start, end))) for start, end in leaning_spans(evidence)]
    return [(start, end, fit) for start, end, fit in fitted if fit is not None]


def _set_at(trace: Trace, start: int, end: int) -> dict[str, float | None]:
    """Return altitude, outside temperature, manifold pressure and RPM at which the mixture was set: what has to stay for it to
    stay right, and what shows its power."""
    found: dict[str, float | None] = {}
    for name, signal in (("palt_ft", "palt"), ("oat_f", "oat"), ("map_inhg", "map"), ("rpm", "rpm")):
        values = trace.signal(signal)
        known = np.zeros(0) if values is None else values[max(start, end - 20) : end]
        known = known[np.isfinite(known)]
        found[name] = float(np.median(known)) if known.size else None
    return found


def leaning_spans(evidence: Evidence) -> list[tuple[int, int]]:
    """Return rows (start, end) of each stretch in which fuel flow fell by more than the engine's air explains: by speed, manifold
    pressure, else the altitude, each as far as it is known. Not on the ground. Speed-density (Heywood, chapter 7)."""
    trace, profile = evidence.trace, evidence.profile
    rpm, flow = trace.signal("rpm"), trace.signal("ff")
    if rpm is None or flow is None or len(trace) < _LEAST_ROWS or not trace.cylinders("egt"):
        return []
    width = max(1.0, _SMOOTH_S * trace.rate_hz)
    is_fixed_pitch = profile.engine["propeller"] == "fixed_pitch"
    air = _air(trace, width, is_fixed_pitch)
    fuel = gaussian_filter1d(filled(flow), width)
    steady = (filled(rpm) > _LEAST_RPM * profile.speed_scale) & ~on_ground(evidence)
    pressure = trace.signal("map")
    if pressure is not None and np.isfinite(pressure).any():
        smooth = gaussian_filter1d(filled(pressure), width)
        steady &= ~_throttle_moved(smooth, fuel, max(1, round(_MOVE_S * trace.rate_hz)))
    else:
        steady &= ~_fell_at_once(trace, is_fixed_pitch)
    by_pressure = pressure is not None and bool(np.isfinite(pressure).any())
    spans = []
    for first, last in runs(steady):
        spans += _pulls(trace, fuel / air, air, (first, last + 1), by_pressure)
    return [(a, b) for a, b in spans if _burns_less(fuel[a:b]) and _exhausts_move(trace, a, b, by_pressure)]


def _burns_less(fuel: np.ndarray) -> bool:
    """Say whether fuel flow itself fell, not only against the air."""
    return bool(fuel.min() < (1 - _LEAST_FALL / 2) * fuel[: max(len(fuel) // 4, 1)].max())


def _air(trace: Trace, width: float, is_fixed_pitch: bool) -> np.ndarray:
    """Return how much air the engine takes (rows,), in a measure of its own."""
    rpm, pressure, altitude = (trace.signal(name) for name in ("rpm", "map", "palt"))
    assert rpm is not None
    speed = np.maximum(gaussian_filter1d(filled(rpm), width), 1.0) / 2500.0
    by_pressure = pressure is not None and np.isfinite(pressure).any()
    if is_fixed_pitch and not by_pressure:
        speed = speed**_ON_PROPELLER_CURVE
    if pressure is not None and np.isfinite(pressure).any():
        return np.asarray(speed * np.maximum(gaussian_filter1d(filled(pressure), width), 1.0))
    if altitude is not None and np.isfinite(altitude).any():
        smooth = gaussian_filter1d(filled(altitude), width)
        heights_ft = np.linspace(smooth.min(), smooth.max() + 1.0, 64)
        outside = np.array([standard_pressure_pa(float(height)) for height in heights_ft]) / PASCAL_PER_INHG
        return np.asarray(speed * np.interp(smooth, heights_ft, outside))
    return np.asarray(speed * 25.0)


def _is_by_hand(trace: Trace, start: int, end: int) -> bool:
    """Say whether a fall of fuel flow is a hand's on the mixture: as quick as one, and the exhausts answer."""
    return _falls_as_by_hand(trace, start, end) and _exhausts_move(trace, start, end, by_pressure=False)


def _falls_in_a_minute(t: np.ndarray, mixture: np.ndarray) -> float:
    """Return the largest share of itself by which fuel for the air (rows,) fell within a minute: a climb, and the small steps of a
    hand in it, take several for what a leaning does in one."""
    back = np.searchsorted(t, t - 60.0)
    return float(np.max(1.0 - mixture / mixture[back], initial=0.0))


def _falls_as_by_hand(trace: Trace, start: int, end: int) -> bool:
    """Say whether fuel flow fell within the time that a hand takes for a mixture: a climb takes many minutes."""
    flow = trace.signal("ff")
    assert flow is not None
    part, t = filled(flow[start:end]), trace.time_s[start:end]
    highest = float(np.median(np.sort(part[: max(len(part) // 4, 1)])[-3:]))
    low = np.flatnonzero(part < (1 - _LEAST_FALL) * highest)
    if not low.size:
        return True
    high = np.flatnonzero(part[: low[0]] > 0.97 * highest)
    began_s = t[high[-1]] if high.size else t[0]
    least = float(np.quantile(part, 0.03))
    ended_s = t[np.flatnonzero(part < least + 0.15 * (highest - least))[0]]
    return bool(ended_s - began_s < _LEANED_WITHIN_S)


def _fell_at_once(trace: Trace, is_fixed_pitch: bool) -> np.ndarray:
    """Return the rows (rows,) over which fuel flow fell as far as a leaning does in the few seconds of a throttle. A throttle slows
    a fixed pitch with it, by a third of the flow's share (propeller law); a quick hand on the mixture hardly does."""
    t, flow, rpm = trace.time_s, trace.signal("ff"), trace.signal("rpm")
    assert flow is not None
    assert rpm is not None
    flow, rpm = filled(flow), filled(rpm)
    within_s = max(_THROTTLED_WITHIN_S, 1.6 / trace.rate_hz)
    back = np.searchsorted(t, t - within_s)
    by_throttle = flow < (1 - _LEAST_FALL) * flow[back]
    if is_fixed_pitch:
        by_throttle &= rpm < (1 - _LEAST_FALL / _PROPELLER_LAW / 2) * rpm[back]
    moved = np.zeros(len(t), dtype=bool)
    for row in np.flatnonzero(by_throttle):
        moved[back[row] : row + 1] = True
    return moved


def _exhausts_move(trace: Trace, start: int, end: int, by_pressure: bool) -> bool:
    """Say whether the exhausts moved in a pull as they do on the way to their peak, and beyond it. Where no manifold pressure
    shows that the throttle stayed, they must rise: less fuel by less air does not do that."""
    rise, fall = _rise_f(trace, start, end)
    return max(rise, fall) > _LEAST_RISE_F if by_pressure else rise > _RISE_ALONE_F


def _rise_f(trace: Trace, start: int, end: int) -> tuple[float, float]:
    """Return how far [°F] the middle exhaust rose from the plateau before a pull, and how far it fell again by its end."""
    first = trace.time_s[start:end] < trace.time_s[start] + _PLATEAU_S
    rises, falls = [], []
    for values in working_probes(trace).values():
        part = values[start:end]
        if np.isfinite(part[first]).any() and np.isfinite(part[~first]).any():
            highest = float(np.nanquantile(part, 0.97))
            rises.append(highest - float(np.nanmedian(part[first])))
            falls.append(highest - float(np.nanmedian(part[-_END_ROWS:])))
    return (float(np.nanmedian(rises)), float(np.nanmedian(falls))) if rises else (0.0, 0.0)


def _throttle_moved(pressure: np.ndarray, flow: np.ndarray, reach: int) -> np.ndarray:
    """Return the rows around which manifold pressure moved by another hand than the mixture's: a throttle moves fuel flow about
    in proportion; a mixture moves it far more than the pressure, which follows the RPM of a propeller on its stop."""
    moved = np.zeros(len(pressure), bool)
    if len(pressure) <= reach:
        return moved
    change = np.abs(pressure[reach:] - pressure[:-reach])
    share = change / np.maximum(pressure[reach:], 1.0)
    flow_share = np.abs(flow[reach:] - flow[:-reach]) / np.maximum(flow[reach:], 0.1)
    by_throttle = (change > _MOVE_INHG) & (flow_share < _BY_MIXTURE * share)
    around = np.convolve(by_throttle, np.ones(reach), mode="full") > 0
    moved[: len(around)] = around
    return moved


def _pulls(
    trace: Trace, mixture: np.ndarray, air: np.ndarray, rows: tuple[int, int], by_pressure: bool
) -> list[tuple[int, int]]:
    """Split one steady stretch into pulls: from the rich plateau before each fall until the next rich plateau, or until the power
    is another one. Where no pressure shows the power, a fall that is a climb's hides none that begins in it."""
    t, (first, end), spans = trace.time_s, rows, []
    exhaust_f = _middle_exhaust_f(trace)
    while end - first >= _LEAST_ROWS // 2:
        part, when = mixture[first:end], t[first:end]
        highest = _highest_lately(when, part)
        fallen = np.flatnonzero(part < (1 - _LEAST_FALL) * highest)
        if fallen.size == 0:
            break
        begun = int(fallen[0])
        plateau = np.flatnonzero(part[:begun] > 0.985 * highest[begun])
        start = max(int(plateau[-1]) if plateau.size else 0, 0)
        start = int(np.searchsorted(when, when[start] - 6.0))
        is_other = np.abs(air[first:end] / air[first + begun] - 1) > _SAME_AIR
        if is_other[start:begun].any():  # the plateau was at another power: what was before tells nothing of this one
            first += start + int(np.flatnonzero(is_other[start:begun])[-1]) + 1
            continue
        other = np.flatnonzero(is_other[begun:])
        stop = int(np.searchsorted(when, when[begun] + _LONGEST_S))
        stop = min(stop, begun + int(other[0])) if other.size else stop
        rich_again = np.flatnonzero(part[begun:stop] > 0.97 * highest[begun])
        if rich_again.size:
            stop = _where_it_ends(when, part, begun, begun + int(rich_again[0]))
        next_row = max(stop, begun + 1)
        if not rich_again.size and exhaust_f is not None and not by_pressure:
            stop = _until_it_was_set(when, part, exhaust_f[first:end], begun, stop)
            next_row = _richer_again(part, stop) if stop < next_row else next_row
        quick = _falls_in_a_minute(when[start:stop], part[start:stop]) > _FALLS_BY_HAND
        if by_pressure or quick and _is_by_hand(trace, first + start, first + stop):
            spans.append((first + start, first + stop))
            first += next_row
        else:
            first += max(begun, 1)
    return spans


def _highest_lately(t: np.ndarray, values: np.ndarray) -> np.ndarray:
    """Return the highest figure (rows,) of the last minutes: a leaning by hand takes no longer."""
    back = np.searchsorted(t, t - _LEANED_WITHIN_S)
    return np.array([values[b : n + 1].max() for n, b in enumerate(back)])


def _where_it_ends(t: np.ndarray, flow: np.ndarray, begun: int, rich: int) -> int:
    """Return the row up to which a pull belongs together that came back to the rich plateau at row `rich`: a mixture that
    rested for long before was the one flown with; else the plateau itself is where it was left."""
    resting = flow[(t > t[rich] - _RESTED_S - _LEAVES_S) & (t < t[rich] - _LEAVES_S)]
    is_long = t[rich] - t[begun] > _RESTED_S + _LEAVES_S
    if is_long and resting.size and np.ptp(np.quantile(resting, _MOST_ROWS)) < _RESTS * flow[rich]:
        return int(np.searchsorted(t, t[rich] - _LEAVES_S))
    stays = np.flatnonzero((t > t[rich]) & (flow < 0.95 * flow[rich]))
    until = min(t[rich] + _PLATEAU_S, t[stays[0]] if stays.size else np.inf)
    return int(np.searchsorted(t, until))


def _middle_exhaust_f(trace: Trace) -> np.ndarray | None:
    """Return the median [°F] (rows,) of the working probes, smoothed; None without one."""
    probes = working_probes(trace)
    if not probes:
        return None
    middle = np.median([filled(values) for values in probes.values()], axis=0)
    return np.asarray(gaussian_filter1d(middle, max(1.0, _SMOOTH_S * trace.rate_hz)))


def _until_it_was_set(t: np.ndarray, flow: np.ndarray, exhaust_f: np.ndarray, begun: int, stop: int) -> int:
    """Return the row up to which a pull goes where nothing shows the power: until the mixture has rested for a minute, unless it is
    leaned on and the exhausts rise further. What comes later may be less power, as in a descent where a fixed pitch keeps its
    speed, and looks like another mixture."""
    for row in range(begun, stop):
        end = int(np.searchsorted(t, t[row] + _SETTLED_S))
        if end >= stop:
            return stop
        thirds = [float(np.median(part)) for part in np.array_split(flow[row:end], 3)]  # a coarse sensor flickers
        if np.ptp(thirds) > _RESTS * thirds[0]:
            continue
        level, rested_f = float(np.median(flow[row:end])), float(np.median(exhaust_f[row:end]))
        moved = np.flatnonzero(np.abs(flow[end:stop] / level - 1) > _LEAST_FALL / 2)
        if not moved.size:
            return stop
        at = end + int(moved[0])
        later_f = exhaust_f[at : int(np.searchsorted(t, t[at] + _PLATEAU_S))]
        was_rich = exhaust_f[begun:end].max() < rested_f + _LEAST_RISE_F
        leans_on = was_rich and flow[at] < level and later_f.max() > rested_f + _LEAST_RISE_F
        return stop if leans_on else max(int(np.searchsorted(t, t[at] - _LEAVES_S)), row + 1)
    return stop


def _richer_again(flow: np.ndarray, row: int) -> int:
    """Return the row from which the mixture is richer than it was set at row `row`, or the end: before that nobody leans again."""
    richer = np.flatnonzero(flow[row:] > (1 + _LEAST_FALL) * float(np.median(flow[max(row - _END_ROWS, 0) : row])))
    return row + int(richer[0]) if richer.size else len(flow)


def judge_leaning(
    profile: Profile, fit: LeanFit, span_s: tuple[float, float], set_at: Mapping[str, float | None]
) -> Finding:
    """Return the `lean` finding: peaks passed, first and last, spread, on which side by how much it ends, and at which power.
    `set_at` is what `_set_at` found, None where there was no reading. Offsets in °F, fuel flow in gal/h; power by the type's
    limit, the rest common practice."""
    seen = [peak for peak in fit.peaks if peak.passed]
    passed = [] if fit.was_pulled else seen  # no probe has shown them
    first = max(passed, key=lambda p: p.ff_gph) if passed else None
    last = min(passed, key=lambda p: p.ff_gph) if passed else None
    everyone = len(passed) == len(fit.peaks)
    side, reference = _place_of(fit, seen)
    offset = None if reference is None or side == "peak" else fit.offset_f(reference)
    spread = first.ff_gph - last.ff_gph if first and last and everyone and len(passed) > 1 else None
    power = _power_pct(profile, fit, set_at, side, offset)
    measured = {
        "peaks": [
            {"cylinder": p.cylinder, "egt_f": p.egt_f, "ff_gph": p.ff_gph, "at_s": p.at_s}
            for p in sorted(passed, key=lambda p: -p.ff_gph)
        ],
        "first_to_peak": first.cylinder if first else None,
        "last_to_peak": last.cylinder if last and everyone and len(passed) > 1 else None,
        "spread_gph": spread,
        "side": side,
        "offset_f": 0.0 if side == "peak" else offset,
        "offset_plus_minus_f": None if reference is None else _COVERS * fit.offset_sigma_f(reference),
        "reference": reference.cylinder if reference else None,
        "power_pct": power,
        "ff_gph": fit.final_gph,
        "ff_plus_minus_gph": max((_FLOW_LEFT_GPH + _FLOW_COVERS * peak.ff_sigma_gph for peak in passed), default=None),
        "lag_s": fit.lag_s,
        **set_at,
    }
    reasons = Reasons()
    if not seen:
        reasons.add(UNKNOWN, _NOT_PASSED, "Lean on slowly until the EGT falls, then richer.")
    elif reference is None:
        reasons.add(UNKNOWN, _TOO_FAST, "Richer until the EGT falls, then lean slowly past the peaks.")
    else:
        _judge_place(profile, side, offset or 0.0, power, spread, reasons)
    return Finding.of(
        "lean",
        span_s,
        reasons.outcome(_place(side, offset or 0.0, reference, power), "common practice"),
        measured,
        {"power_max_pct": profile.limit("lean_power_max_pct")} if "lean_power_max_pct" in profile.limits else {},
    )


def _power_pct(
    profile: Profile, fit: LeanFit, set_at: Mapping[str, float | None], side: str, offset_f: float | None
) -> float | None:
    """Return percent of rated power at the end of the leaning, or None where the readings or the type do not tell it."""
    rpm, pressure, palt_ft, oat_f = (set_at[name] for name in ("rpm", "map_inhg", "palt_ft", "oat_f"))
    if rpm is None or pressure is None or palt_ft is None or profile.power is None:
        return None
    oat_c = None if oat_f is None else celsius(oat_f)
    return read_power(profile, rpm, pressure, palt_ft, oat_c, fit.final_gph, side, offset_f).best_pct


def _place(side: str, offset_f: float, reference: Peak | None, power_pct: float | None) -> str:
    """Return where the mixture was left, in words."""
    at = "" if power_pct is None else f" at {power_pct:.0f} % power"
    if side == "peak":
        return f"At peak EGT on some cylinders{at}."
    name, which = (reference.cylinder if reference else 0), "first" if side == "rich" else "last"
    return f"{difference(offset_f, 'f')} {side} of peak on cylinder {name}, the {which} to peak{at}."


def _judge_place(
    profile: Profile, side: str, offset_f: float, power_pct: float | None, spread_gph: float | None, reasons: Reasons
) -> None:
    """Hold the place against what the power, the type and the evenness of the cylinders allow: the same rules that refuse a
    target before it is flown."""
    target = LeanTarget(id="here", name="here", side=side, offset_f=offset_f, source="common practice")
    against = refusal(profile, target, power_pct, spread_gph, _POWER_SLACK_PCT)
    if against is not None:
        limit = profile.limits.get("lean_power_max_pct")
        by_type = limit is not None and side != "peak" and (power_pct or 0.0) > limit.value + _POWER_SLACK_PCT
        reasons.add(LOOK, against, "Richer, or less power.", limit.source if limit and by_type else "common practice")
    elif side == "peak" and power_pct is None:
        because = "The mixture is at peak EGT on some cylinders."
        reasons.add(LOOK, because, "Richer to your target, or allowed only at low power by your handbook.")
    elif side == "rich" and offset_f < _TOO_NEAR_F:
        because = f"Only {difference(offset_f, 'f')} rich of peak: near the hottest CHT."
        reasons.add(LOOK, because, f"Richer to {difference(50, 'f')} or more rich of peak.")


def _place_of(fit: LeanFit, seen: list[Peak]) -> tuple[str, Peak | None]:
    """Return (side, the cylinder that it is counted from) as far as the exhausts show it: no cylinder where the mixture was pulled
    faster than they follow, and no side either where it seems at peak."""
    side, reference = _side(fit, seen)
    is_sure = not fit.was_pulled
    if side == "peak" and reference is not None:
        is_sure = is_sure and _COVERS * fit.offset_sigma_f(reference) <= _SURE_OF_PEAK_F
    if is_sure:
        return side, reference
    return ("unknown" if side == "peak" else side), None


def _side(fit: LeanFit, passed: list[Peak]) -> tuple[str, Peak | None]:
    """Return the side of peak at the end and the cylinder that it is counted from."""
    if not passed:
        return "unknown", None
    first = max(passed, key=lambda p: p.ff_gph)
    last = min(fit.peaks, key=lambda p: p.ff_gph)
    if fit.final_gph > first.ff_gph * (1 + _AT_PEAK) and fit.offset_f(first) > _AT_PEAK_F:
        return "rich", first
    if last.passed and fit.final_gph < last.ff_gph * (1 - _AT_PEAK) and fit.offset_f(last) > _AT_PEAK_F:
        return "lean", last
    return "peak", first


def _judge_typed(profile: Profile, body: Mapping[str, Any], at_s: float) -> Finding:
    """Return the finding of typed figures `peak_egt_f` and `target_egt_f`: rich of the peak that was read.

    Raises:
        EventError: a figure is missing, is not a number, or is out of range.
    """
    peak, target = (checked_number(f"`{name}`", body.get(name), EventError) for name in ("peak_egt_f", "target_egt_f"))
    if not _LEAST_PEAK_F <= peak <= _MOST_PEAK_F or target > peak:
        raise EventError(
            "These are not a peak and a target: a peak must be a usual exhaust gas temperature, and the target must be below it."
        )
    offset, reasons = peak - target, Reasons()
    if offset < _TOO_NEAR_F:
        because = f"Only {difference(offset, 'f')} rich of peak: near the hottest CHT."
        reasons.add(LOOK, because, f"Richer to {difference(50, 'f')} or more.")
    nothing = dict.fromkeys(("first_to_peak", "last_to_peak", "spread_gph", "reference", "power_pct"))
    measured: dict[str, Any] = {**nothing, "peaks": [], "side": "rich", "offset_f": offset, "peak_egt_f": peak}
    outcome = reasons.outcome(f"{difference(offset, 'f')} rich of the typed peak.", PRACTICE)
    return Finding.of(CHECK.kind, (at_s, at_s), outcome, measured, {})


def _is_ripe(finding: Finding, recent: Trace) -> bool:
    """Say whether the mixture rests where the finding places it: fuel flow has hardly moved for some seconds."""
    flow = recent.signal("ff")
    last = recent.time_s > recent.time_s[-1] - _RESTS_FOR_S
    rests = flow is not None and bool(np.ptp(flow[last]) < _RESTS_WITHIN * np.median(flow[last]))
    return finding.measured["side"] != "unknown" and rests


def _same_place(told: Mapping[str, Any], now: Mapping[str, Any]) -> bool:
    """Say whether two kept measurements place the mixture alike: a nudge moves it more than that."""
    apart = abs((told["offset_f"] or 0.0) - (now["offset_f"] or 0.0))
    return bool(told["side"] == now["side"] and apart < _SAME_PLACE_F)


CHECK = Check(
    kind="lean",
    title="Leaning",
    place=70,
    find=find_leanings,
    may_use=("lean_power_max_pct", "lean_spread_max_gph"),
    ripe=Ripe(after_s=_RESTS_FOR_S, is_ripe=_is_ripe),
    is_traced=True,
    same_place=_same_place,
    trends=(
        TrendFigure(
            id="spread",
            title="Fuel flow between first and last peak",
            unit="gph",
            measured="spread_gph",
            limit="lean_spread_max_gph",
        ),
    ),
    fields=(
        Field(name="peak_egt_f", title="Peak EGT", unit="f"),
        Field(name="target_egt_f", title="Set to", unit="f", drop_from="peak_egt_f"),
    ),
    judge_typed=_judge_typed,
    shows=(Shown(measured="spread_gph", title="Spread", unit="gph"),),
    measures="The EGT of every cylinder is fitted against fuel flow at once, each with a peak of its own, all with one lag of "
    "the probe. The first to peak is the leanest cylinder: rich of peak counts from it, lean of peak from the last. Where the "
    "mixture ends is read from the last seconds of fuel flow.",
    rules=(
        Rule(WITHIN, "the mixture rests where its power allows it", TYPE),
        Rule(
            LOOK,
            f"at peak above 65 % power, or lean of it above what the type allows (else 75 %), {_POWER_SLACK_PCT:.0f} % granted",
            TYPE,
        ),
        Rule(
            LOOK,
            f"less than {difference(75, 'f')} rich of peak above that power, or less than {difference(_TOO_NEAR_F, 'f')} at any: "
            "the hottest CHT",
            PRACTICE,
        ),
        Rule(LOOK, f"lean of peak with cylinders that peak more than {difference(0.5, 'gph')} apart", PRACTICE),
        Rule(LOOK, "at peak, and the power is not known", PRACTICE),
        Rule(UNKNOWN, "no cylinder was seen to pass its peak", PRACTICE),
        Rule(
            UNKNOWN,
            f"at peak, and the figure is not sure to {difference(_SURE_OF_PEAK_F, 'f')}, or the mixture was pulled faster than a "
            "probe follows",
            PRACTICE,
        ),
    ),
)
