"""Heads, turbine and mixture as they are watched in the air and at the end: the hottest, the spread, how fast they move, what
stands apart, when to lean again, how long to idle before the cut-off. Pure."""

from collections.abc import Mapping
from typing import Any

import numpy as np
from scipy.ndimage import uniform_filter1d

from .aircraft import Profile
from .flight import FlightState
from .judgement.engine_health import causes
from .live import Now
from .trace import Trace
from .watch_climb import slope

_SLOPE_S, _COMES_WITHIN_S = 40.0, 90.0
_FALLS_F_MIN, _FALL_OVER_S = 50.0, 40.0
_FLOWN_KT = 45.0
_LEAN_AGAIN_FT, _LEAN_AGAIN_INHG, _LEAN_AGAIN_RPM = 1000.0, 1.0, 100.0
_ABOVE_BY_RPM = 150.0
_CRUISE_LEAN = "cruise_lean"
_CYLINDER_APART_AFTER_S, _EGT_APART_F, _CHT_APART_F = 60.0, 35.0, 25.0
_IDLE_SHARE, _STEADY_SHARE = 0.8, 0.05
_SHUTDOWN = ("shutdown", "after_landing")


def heat_lines(profile: Profile, state: FlightState, recent: Trace, now: Now) -> list[dict[str, Any]]:
    """Return what is to be said of temperatures and of the mixture that was set, each `{id, say, kind}`."""
    if not state.engine_runs:
        return []
    if state.phase in _SHUTDOWN:
        return cooling(profile, state, recent, now)
    if now.readings.get("ias_kt", 0.0) < _FLOWN_KT:
        return []
    lines = [
        *_heads(profile, state, recent, now),
        *_falling(_all_heads(profile, recent), recent),
        *_lean_again(state, now),
        *_apart(recent),
    ]
    return [*lines, *_carburettor_heat(profile, state, now)]


def _heads(profile: Profile, state: FlightState, recent: Trace, now: Now) -> list[dict[str, Any]]:
    act = profile.limits.get("cht_act_f")
    heads = _all_heads(profile, recent)
    if act is None or not heads:
        return []
    hottest = max(heads, key=lambda name: float(heads[name][-1]))
    value, coolest = float(heads[hottest][-1]), min(float(h[-1]) for h in heads.values())
    climbs = state.phase.startswith(("take_off", "climb"))
    then = "nose down or richer" if climbs else "richer, or less power"
    then += ", cowl flaps open" if "cowl_flaps" in now.levers else ""
    rises = slope(recent, heads[hottest], _SLOPE_S)
    if value > act.value:
        say = f"{hottest} at {value:.0f} °F, act at {act.value:.0f}: {then}."
        return [{"id": "head", "kind": "look", "say": say}]
    if rises > 0 and (act.value - value) / rises < _COMES_WITHIN_S:
        say = f"{hottest} at {value:.0f} °F will be at {act.value:.0f} in {(act.value - value) / rises:.0f} s: {then}."
        return [{"id": "head", "kind": "look", "say": say}]
    say = f"Heads {coolest:.0f} to {value:.0f} °F, hottest {_in_a_sentence(hottest)}."
    return [{"id": "head", "kind": "soft", "say": say}]


def _all_heads(profile: Profile, recent: Trace) -> dict[str, np.ndarray]:
    """Return the heads of every engine that show now, by name."""
    found: dict[str, np.ndarray] = {}
    for number, engine in profile.engines:
        whose = f"{engine}, cylinder" if len(profile.engines) > 1 else "Cylinder"
        heads = recent.of_engine(number).cylinders("cht")
        found |= {f"{whose} {cylinder}": h for cylinder, h in heads.items() if np.isfinite(h[-1])}
    return found


def _in_a_sentence(name: str) -> str:
    return name[0].lower() + name[1:]


def _falling(heads: Mapping[str, np.ndarray], recent: Trace) -> list[dict[str, Any]]:
    if not heads:
        return []
    fall = -min(slope(recent, values, _FALL_OVER_S) for values in heads.values()) * 60
    if fall < _FALLS_F_MIN:
        return []
    say = f"A head falls {fall:.0f} °F a minute: some power on. Whether it harms is disputed."
    return [{"id": "falling", "kind": "soft", "say": say}]


def _lean_again(state: FlightState, now: Now) -> list[dict[str, Any]]:
    """Say what changed since the mixture was set, while it is still lean for cruise."""
    lean = state.latest_finding("lean")
    if lean is None or _CRUISE_LEAN not in state.away:
        return []
    was, reasons = lean["measured"], []
    for name, most, word, unit in (
        ("palt_ft", _LEAN_AGAIN_FT, "altitude", "ft"),
        ("map_inhg", _LEAN_AGAIN_INHG, "manifold pressure", "inHg"),
        ("rpm", _LEAN_AGAIN_RPM, "RPM", ""),
    ):
        before, after = was.get(name), now.readings.get(name)
        if before is not None and after is not None and abs(after - before) > most:
            reasons.append(f"{word} changed by {after - before:+,.4g} {unit}".rstrip())
    heat = now.levers.get("carb_heat")
    if heat is not None and float(heat) > 0.5:
        reasons.append("carburettor heat is on")
    if not reasons:
        return []
    return [{"id": "lean_again", "kind": "look", "say": f"Lean again: {', '.join(reasons)}."}]


def _carburettor_heat(profile: Profile, state: FlightState, now: Now) -> list[dict[str, Any]]:
    """Say in a descent that heat comes on before the throttle goes below the type's figure."""
    least, lever, rpm = profile.limits.get("carb_heat_below_rpm"), now.levers.get("carb_heat"), now.readings.get("rpm")
    descends = state.phase.startswith(("descent", "before_landing", "landing"))
    if not descends or least is None or lever is None or rpm is None or float(lever) > 0.5:
        return []
    if rpm > least.value + _ABOVE_BY_RPM:
        return []
    say = f"Carburettor heat on before the throttle goes below {least.value:,.0f} RPM."
    return [{"id": "carb_heat", "kind": "look", "say": say}]


def _apart(recent: Trace) -> list[dict[str, Any]]:
    """Say which cylinder has moved away from the others since a minute and more, and what may be behind it."""
    t, egts, heads = recent.time_s, recent.cylinders("egt"), recent.cylinders("cht")
    early, late = t < t[-1] - _CYLINDER_APART_AFTER_S, t > t[-1] - 8.0
    if not egts or early.sum() < 10 or not _steady(recent):
        return []
    moved = {}
    for number in egts:
        pair = []
        for rows in (egts, heads):
            if number not in rows or len(rows) < 3:
                pair.append(0.0)
                continue
            others = np.median([rows[k] for k in rows if k != number], axis=0)
            apart = rows[number] - others
            pair.append(float(np.nanmedian(apart[late]) - np.nanmedian(apart[early])))
        moved[number] = pair
    number = max(moved, key=lambda k: max(moved[k][0] / _EGT_APART_F, moved[k][1] / _CHT_APART_F))
    egt, cht = moved[number]
    if egt < _EGT_APART_F and cht < _CHT_APART_F:
        return []
    first = causes(egt, cht)[0]
    say = f"Cylinder {number} stands apart (EGT {egt:+.0f}, CHT {cht:+.0f} °F): perhaps {first.what}. {first.test}"
    return [{"id": "apart", "kind": "look", "say": say}]


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


def cooling(profile: Profile, state: FlightState, recent: Trace, now: Now) -> list[dict[str, Any]]:
    """Return how long the engine idles on before its cut-off: until heads or turbine are cool, or a helicopter's idle time."""
    for signal, name, limit in (
        ("cht", "Hottest head", "cht_shutdown_max_f"),
        ("tit", "Turbine", "tit_shutdown_max_f"),
    ):
        most = profile.limits.get(limit)
        heads = list(_all_heads(profile, recent).values()) if signal == "cht" else [recent.signal("tit")]
        known = [h for h in heads if h is not None]
        if most is None or not known:
            continue
        values = np.max(known, axis=0)
        value, falls = float(values[-1]), -slope(recent, values, 60.0)
        if value <= most.value:
            return [{"id": "cooling", "kind": "soft", "say": f"{name} {value:.0f} °F: cool enough for the cut-off."}]
        left = f", about {max(round((value - most.value) / falls / 60), 1)} min" if falls > 0.02 else ""
        say = f"{name} {value:.0f} °F: idle on until below {most.value:.0f}{left}."
        return [{"id": "cooling", "kind": "look", "say": say}]
    wait = profile.limits.get("idle_before_shutdown_s")
    speed = recent.speed()
    if wait is None or speed is None:
        return []
    full = 100.0 if recent.signal("rpm") is None else float(profile.engine["rated_rpm"])
    fast = np.flatnonzero(np.nan_to_num(speed) > _IDLE_SHARE * full)
    idle_s = float(recent.time_s[-1] - (recent.time_s[fast[-1]] if fast.size else recent.time_s[0]))
    left_s = wait.value - idle_s
    if left_s <= 0:
        return [{"id": "cooling", "kind": "soft", "say": f"Idled {wait.value:.0f} s: time for the cut-off."}]
    return [{"id": "cooling", "kind": "look", "say": f"Idle on for {left_s:.0f} s before the cut-off."}]
