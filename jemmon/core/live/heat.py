"""CHT, turbine and mixture as they are watched in the air and at the end: the hottest, the spread, how fast they move, what
differs from the others, when to lean again, how long to idle before the cut-off. Pure."""

from collections.abc import Mapping

import numpy as np
from scipy.ndimage import uniform_filter1d

from ..aircraft import Profile
from ..base.figures import difference, figure
from ..flight.state import FlightState
from ..judgement.engine_health import causes
from ..trace import Trace
from ..trace.masks import slope
from ..trace.sample import Sample
from ..trace.signals import prefix_of
from .coming import comes_in_s
from .lines import AirLine, look, soft

# common practice, but where it says otherwise
_COMES_WITHIN_S = 90.0
_FALLS_F_MIN, _FALL_OVER_S = 50.0, 40.0
_FLOWN_KT = 45.0
_LEAN_AGAIN_FT, _LEAN_AGAIN_INHG, _LEAN_AGAIN_RPM = 1000.0, 1.0, 100.0
_TURBINE_NEAR_F = 30.0
_CYLINDER_APART_AFTER_S, _EGT_APART_F, _CHT_APART_F = 60.0, 35.0, 25.0
_IDLE_PCT, _TAXI_SHARE, _STEADY_SHARE = 80.0, 1.1, 0.05


def heat_lines(profile: Profile, state: FlightState, recent: Trace, now: Sample) -> list[AirLine]:
    """Return what is to be said of temperatures and of the mixture that was set, a line each."""
    if not state.engine_runs:
        return []
    kind = profile.kind_of(state.phase)
    if kind.comes_down and not kind.flies:
        return cooling(profile, recent)
    if now.readings.get("ias_kt", 0.0) < _FLOWN_KT:
        return []
    return [
        *_chts(profile, state, recent, now),
        *_turbine(profile, now),
        *_falling(_all_chts(profile, recent), recent),
        *_lean_again(profile, state, now),
        *_apart(profile, recent),
    ]


def _chts(profile: Profile, state: FlightState, recent: Trace, now: Sample) -> list[AirLine]:
    act = profile.limits.get("cht_act_f")
    chts = _all_chts(profile, recent)
    if act is None or not chts:
        return []
    hottest = max(chts, key=lambda name: float(chts[name][-1]))
    value, coolest = float(chts[hottest][-1]), min(float(h[-1]) for h in chts.values())
    then = "nose down or richer" if profile.kind_of(state.phase).climbs else "richer, or less power"
    then += ", cowl flaps open" if "cowl_flaps" in now.levers else ""
    if value > act.value:
        say = f"{hottest} at {figure(value, 'f')}, act at {figure(act.value, 'f')}: {then}."
        return [look("head", say)]
    seconds = comes_in_s(recent, chts[hottest], act.value)
    if seconds is not None and seconds < _COMES_WITHIN_S:
        say = f"{hottest} at {figure(value, 'f')} will be at {figure(act.value, 'f')} in {seconds:.0f} s: {then}."
        return [look("head", say)]
    say = f"CHT {figure(coolest, 'f')} to {figure(value, 'f')}, hottest {_in_a_sentence(hottest)}."
    return [soft("head", say)]


def _turbine(profile: Profile, now: Sample) -> list[AirLine]:
    """Say before the turbine inlet comes to its limit: it may bound the leaning before a cylinder peaks."""
    limit = profile.limits.get("tit_max_f")
    for number, name in profile.engines:
        value = now.readings.get(f"{prefix_of(number)}tit_f")
        if limit is None or value is None or value < limit.value - _TURBINE_NEAR_F:
            continue
        whose = f"{name}, turbine" if len(profile.engines) > 1 else "Turbine"
        say = f"{whose} inlet at {figure(value, 'f')}, limit {figure(limit.value, 'f')}: richer, or less power."
        return [look("turbine", say)]
    return []


def _all_chts(profile: Profile, recent: Trace) -> dict[str, np.ndarray]:
    """Return the CHTs of every engine that are known now, by name."""
    found: dict[str, np.ndarray] = {}
    for number, engine in profile.engines:
        chts = recent.of_engine(number).cylinders("cht")
        found |= {_cylinder(profile, engine, cylinder): h for cylinder, h in chts.items() if np.isfinite(h[-1])}
    return found


def _cylinder(profile: Profile, engine: str, number: int) -> str:
    return f"{engine}, cylinder {number}" if len(profile.engines) > 1 else f"Cylinder {number}"


def _in_a_sentence(name: str) -> str:
    return name[0].lower() + name[1:]


def _as_start(words: str) -> str:
    return words[0].upper() + words[1:]


def _falling(chts: Mapping[str, np.ndarray], recent: Trace) -> list[AirLine]:
    if not chts:
        return []
    fall = -min(slope(recent, values, _FALL_OVER_S) for values in chts.values()) * 60
    if fall < _FALLS_F_MIN:
        return []
    say = f"A CHT falls {difference(fall, 'f')} a minute: some power on. Whether it harms is disputed."
    return [soft("falling", say)]


def _lean_again(profile: Profile, state: FlightState, now: Sample) -> list[AirLine]:
    """Say what changed since the mixture was set, while it is still lean for cruise; a descent asks for steps richer instead."""
    lean = state.latest_finding("lean", 1)
    if lean is None or not state.lean_for_cruise or profile.kind_of(state.phase).comes_down:
        return []
    was, reasons = lean["measured"], []
    for name, most, word, unit in (
        ("palt_ft", _LEAN_AGAIN_FT, "altitude", "ft"),
        ("map_inhg", _LEAN_AGAIN_INHG, "manifold pressure", "inhg"),
        ("rpm", _LEAN_AGAIN_RPM, "RPM", ""),
    ):
        before, after = was.get(name), now.readings.get(name)
        if before is not None and after is not None and abs(after - before) > most:
            by = difference(after - before, unit, signed=True) if unit else f"{after - before:+,.0f}"
            reasons.append(f"{word} changed by {by}")
    heat = now.levers.get("carb_heat")
    if heat is not None and float(heat) > 0.5:
        reasons.append("carburettor heat is on")
    if not reasons:
        return []
    return [look("lean_again", f"Lean again: {', '.join(reasons)}.")]


def _apart(profile: Profile, recent: Trace) -> list[AirLine]:
    """Say which cylinder has moved away from the others since a minute and more, and what may be behind it."""
    for engine, name in profile.engines:
        own = recent.of_engine(engine)
        early = own.time_s < own.time_s[-1] - _CYLINDER_APART_AFTER_S
        if early.sum() < 10 or not own.cylinders("egt") or not _steady(own):
            continue
        moved = _moved(own, early)
        number = max(moved, key=lambda k: max(moved[k][0] / _EGT_APART_F, moved[k][1] / _CHT_APART_F))
        egt, cht = moved[number]
        if egt < _EGT_APART_F and cht < _CHT_APART_F:
            continue
        first = causes(egt, cht)[0]
        by = f"EGT {difference(egt, 'f', signed=True)}, CHT {difference(cht, 'f', signed=True)}"
        say = f"{_cylinder(profile, name, number)} differs from the others ({by}): perhaps {first.what}. {first.test}"
        return [look("apart", say)]
    return []


def _moved(own: Trace, early: np.ndarray) -> dict[int, tuple[float, float]]:
    """Return by cylinder how far its EGT and CHT moved away from the median of the others [°F] since the early rows."""
    late, egts, chts = own.time_s > own.time_s[-1] - 8.0, own.cylinders("egt"), own.cylinders("cht")

    def away(rows: dict[int, np.ndarray], number: int) -> float:
        if number not in rows or len(rows) < 3:
            return 0.0
        apart = rows[number] - np.median([rows[k] for k in rows if k != number], axis=0)
        return float(np.nanmedian(apart[late]) - np.nanmedian(apart[early]))

    return {number: (away(egts, number), away(chts, number)) for number in egts}


def _steady(recent: Trace) -> bool:
    """Say whether power and mixture stood still for as long as is looked at: moving them moves every cylinder by itself."""
    for name in ("ff", "map", "rpm"):
        values = recent.signal(name)
        if values is None:
            continue
        smooth = uniform_filter1d(np.nan_to_num(values), max(round(5 * recent.rate_hz), 1))
        if np.ptp(smooth) > _STEADY_SHARE * max(float(np.median(smooth)), 1e-6):
            return False
    return True


def cooling(profile: Profile, recent: Trace) -> list[AirLine]:
    """Return how long the engine idles on before its cut-off: until cylinders and turbines are cool, and its idle time is over."""
    turbines = [recent.signal("tit", number) for number, _ in profile.engines]
    known = [t for t in turbines if t is not None and np.isfinite(t[-1])]
    done = []
    for name, hot, limit in (
        ("hottest CHT", list(_all_chts(profile, recent).values()), "cht_shutdown_max_f"),
        ("turbine", known, "tit_shutdown_max_f"),
    ):
        most = profile.limits.get(limit)
        if most is None or not hot:
            continue
        values = np.max(hot, axis=0)
        value, falls = float(values[-1]), -slope(recent, values, 60.0)
        if value > most.value:
            left = f", about {max(round((value - most.value) / falls / 60), 1)} min" if falls > 0.02 else ""
            say = f"{_as_start(name)} at {figure(value, 'f')}: idle on until below {figure(most.value, 'f')}{left}."
            return [look("cooling", say)]
        done.append(f"{name} at {figure(value, 'f')}")
    left_s = _idle_left_s(profile, recent)
    if left_s is not None and left_s > 0:
        return [look("cooling", f"Idle on for {left_s:.0f} s before the cut-off.")]
    done += [] if left_s is None else [f"idled {profile.limit('idle_before_shutdown_s'):.0f} s"]
    if not done:
        return []
    say = f"{', '.join(done)}: enough for the cut-off."
    return [soft("cooling", _as_start(say))]


def _idle_left_s(profile: Profile, recent: Trace) -> float | None:
    """Return how long the type still asks it to idle [s], or None where it asks for no time."""
    wait = profile.limits.get("idle_before_shutdown_s")
    speeds = [s for number, _ in profile.engines if (s := recent.of_engine(number).speed()) is not None]
    if wait is None or not speeds:
        return None
    warm_up = profile.limits.get("warm_up_max_rpm")  # taxiing no faster than that is idling too
    by_rpm = recent.signal("rpm") is not None and warm_up is not None
    idle = _TAXI_SHARE * warm_up.value if by_rpm and warm_up else _IDLE_PCT
    fast = np.flatnonzero(np.max(np.nan_to_num(speeds), axis=0) > idle)
    return wait.value - float(recent.time_s[-1] - (recent.time_s[fast[-1]] if fast.size else recent.time_s[0]))
