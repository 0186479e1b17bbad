"""What the screen shows of a start: one thing at a time, very large, while both hands are busy; and the clocks that run.

From the call "clear" to oil pressure nothing needs a touch and nothing relies on sound. By hand, the same from taps.
"""

from collections.abc import Mapping
from typing import Any

from ..aircraft import Profile
from ..base.figures import figure
from ..flight.fold import FlightState, starting_engine
from ..live.following import Now
from ..start.engine_state import EngineState
from ..start.following import StartWatch, of_engine, speed_of

_TONE_AFTER_S = 20.0
_SEEN_FOR_S, _DIED_FOR_S = 4.0, 8.0
_DIES_BELOW = 1.0
_SLOW_FOULS_AFTER_S = 60.0
_WARM_UP_SINCE_S = 20.0
_DRILL = "Fire or smoke at the intake: keep cranking, mixture cut-off, throttle open, fuel off."
_STOP_NEXT = "Mixture cut-off. Find the cause with a mechanic."


def describe_start(
    profile: Profile, state: FlightState, watches: Mapping[int, StartWatch], now: Now | None, now_s: float
) -> dict[str, Any]:
    """Return the clocks of the engine that is started, what is shown very large (`large`, or None), the taps that a
    pilot without needles has, and what is to be watched while it warms."""
    number = _looked_at(profile, state, now_s)
    engine, watch = state.engine(number), watches.get(number, StartWatch())
    readings = of_engine(now.readings, number) if now else {}
    names = dict(profile.engines)
    return {
        "engine": number,
        "engine_name": names[number] if len(names) > 1 else None,
        "large": _large(profile, state, engine, watch, readings, now_s),
        "starter": _starter(profile, engine, now_s),
        "primed": engine.primed,
        "unit": profile.start.unit,
        "blades": engine.blades,
        "attempts": len(engine.tries),
        "taps": taps(engine),
        "warnings": _warnings(profile, state, watches, now, now_s),
    }


def _looked_at(profile: Profile, state: FlightState, now_s: float) -> int:
    """Return the engine to show: the one that is started, but for a moment still the one whose oil pressure just came."""
    number = starting_engine(profile, state)
    if state.engine(number).turning_since_s is not None:
        return number
    for other, engine in state.engines.items():
        clock = engine.oil_clock
        if clock and clock.seconds is not None and now_s - clock.since_s - clock.seconds < _SEEN_FOR_S:
            return other
    return number


def taps(engine: EngineState) -> list[dict[str, str]]:
    """Return the taps that mean something now, the likeliest first."""
    if engine.turning_since_s is not None and not engine.runs:
        return [{"what": "fired", "say": "It fires"}, {"what": "let_go", "say": "Let go, no fire"}]
    if not engine.runs:
        return [{"what": "crank", "say": "Starter on"}, {"what": "fired", "say": "It runs"}]
    if engine.oil_clock and engine.oil_clock.verdict != "seen":
        return [{"what": "oil_seen", "say": "Oil pressure seen"}, {"what": "stopped", "say": "It stopped"}]
    return [{"what": "stopped", "say": "Engine stopped"}]


def _starter(profile: Profile, engine: EngineState, now_s: float) -> dict[str, Any]:
    """Return seconds of this push, its limit, and the rest still due: in full after half the limit and more, less in
    proportion after a shorter push."""
    limit_s = profile.limit("starter_on_max_s")
    rest_s = profile.limits["starter_rest_s"].value if "starter_rest_s" in profile.limits else 0.0
    turned_s = None if engine.turning_since_s is None else max(now_s - engine.turning_since_s, 0.0)
    left_s = 0.0
    if engine.cranks and turned_s is None and not engine.runs:
        ended_s, cranked_s = engine.cranks[-1]
        left_s = rest_s * min(2 * cranked_s / limit_s, 1.0) - (now_s - ended_s)
    return {
        "turned_s": None if turned_s is None else round(turned_s, 1),
        "limit_s": limit_s,
        "over": turned_s is not None and turned_s >= limit_s,
        "rest_left_s": max(round(left_s), 0),
    }


def _large(
    profile: Profile,
    state: FlightState,
    engine: EngineState,
    watch: StartWatch,
    readings: Mapping[str, float],
    now_s: float,
) -> dict[str, Any] | None:
    clock = engine.oil_clock
    untold = clock is not None and clock.verdict == "running" and not readings  # by hand: nobody has tapped
    if clock and (clock.verdict == "missing" or untold and now_s - clock.since_s > clock.limit_s):
        unread = clock.no_reading or untold
        why = "No oil-pressure reading" if unread else "No oil pressure"
        more = " Read the gauge; nothing there:" if unread else ""
        return _say(
            "stop", "STOP THE ENGINE", f"{clock.limit_s:.0f} s", f"{why} in {clock.limit_s:.0f} s.{more} {_STOP_NEXT}"
        )
    if engine.turning_since_s is not None:
        return _turning(profile, engine, watch, now_s)
    if watch.energising_s > 0 and profile.start.energise_s:
        return _energising(profile, watch, readings)
    speed = speed_of(readings)
    if clock and clock.verdict == "running":
        left_s = max(round(clock.limit_s - (now_s - clock.since_s)), 0)
        if speed is not None and speed < _DIES_BELOW * profile.limit("rpm_firing_min"):
            return _say("dying", "IT DIES", f"{left_s} s", "Smoke or a smell of fuel: too rich. Else: too little.")
        shown = readings.get("oil_p_psi")
        line = (
            "No oil-pressure reading: read the gauge. The clock runs on."
            if shown is None
            else f"{figure(shown, 'psi')} so far."
        )
        return _say("oil", "OIL PRESSURE", f"{left_s} s", line, tone=now_s - clock.since_s > _TONE_AFTER_S)
    if clock and clock.seconds is not None and now_s - clock.since_s - clock.seconds < _SEEN_FOR_S:
        return _say("seen", "OIL PRESSURE ✓", f"{clock.seconds:.0f} s", f"Within {clock.limit_s:.0f} s of first fire.")
    if not engine.runs and engine.tries and engine.cranks and now_s - engine.cranks[-1][0] < _DIED_FOR_S:
        if engine.tries[-1].get("died"):
            return _say("died", "IT DIED", "", "It caught and died: too rich. Treat it as flooded.")
        return _say("no_fire", "NO FIRE", "", "Let the starter rest. What next: below, when the rest is over.")
    return None


def _turning(profile: Profile, engine: EngineState, watch: StartWatch, now_s: float) -> dict[str, Any]:
    limit_s = profile.limit("starter_on_max_s")
    turned_s = now_s - (engine.turning_since_s or now_s)
    if engine.runs:
        return _say("let_go", "LET GO", "", "It runs: the starter must not be dragged along.")
    if turned_s >= limit_s:
        return _say("let_go", "LET GO", f"{turned_s:.0f} s", f"{limit_s:.0f} s at one time is the starter's limit.")
    counted = f"{watch.blades:.0f} blades. " if watch.blades >= 1 else ""
    return _say("cranking", "CRANKING", f"{turned_s:.0f} s", f"{counted}At most {limit_s:.0f} s. {_DRILL}")


def _energising(profile: Profile, watch: StartWatch, readings: Mapping[str, float]) -> dict[str, Any]:
    """Say how long to energise: an inertia starter on a weak bus gets three quarters of the time."""
    low, high = profile.start.energise_s or (0.0, 0.0)
    volts = readings.get("volts_v")
    weak = volts is not None and "volts_min_v" in profile.limits and volts < profile.limit("volts_min_v") - 1
    high = max(0.75 * high, low) if weak else high
    if watch.energising_s > high:
        return _say("let_go", "MESH NOW", f"{watch.energising_s:.0f} s", f"{high:.0f} s is the limit of energising.")
    say = "MESH WHEN READY" if watch.energising_s >= low else "ENERGISING"
    return _say(
        "cranking", say, f"{watch.energising_s:.0f} s", f"{low:.0f} to {high:.0f} s{', weak bus' if weak else ''}."
    )


def _say(mode: str, say: str, figure: str, line: str, tone: bool = False) -> dict[str, Any]:
    return {"mode": mode, "say": say, "figure": figure, "line": line, "tone": tone or mode in ("stop", "let_go")}


def _warnings(
    profile: Profile, state: FlightState, watches: Mapping[int, StartWatch], now: Now | None, now_s: float
) -> list[str]:
    """Return what to look at while an engine warms: the alternators, cold thick oil, too slow, too fast."""
    said = []
    many = len(profile.engines) > 1
    for number, name in profile.engines:
        engine, readings = state.engine(number), of_engine(now.readings, number) if now else {}
        if not engine.runs:
            continue
        which = f"{name}: " if many else ""
        if engine.charging is False:
            volts = readings.get("volts_v")
            shown = f" the bus shows {volts:.1f} V," if volts is not None else ""
            least = profile.limit("volts_charging_min_v")
            said.append(f"{which}the alternator does not charge:{shown} at least {least:g}. Not for flight as it is.")
        if engine.alternator_2 is False:
            said.append(
                f"{which}the second alternator did not cut in within {profile.limit('alt2_within_s'):.0f} s: once above "
                f"{profile.limit('alt2_cut_in_rpm'):,.0f} RPM now; if it stays out, stop and start again."
            )
        said += [f"{which}{words}" for words in _warming(profile, engine, watches.get(number), readings, now_s)]
    return said


def _warming(
    profile: Profile, engine: EngineState, watch: StartWatch | None, readings: Mapping[str, float], now_s: float
) -> list[str]:
    limits, speed, oil_f = profile.limits, speed_of(readings), readings.get("oil_t_f")
    is_cold = oil_f is not None and "oil_t_runup_min_f" in limits and oil_f < limits["oil_t_runup_min_f"].value
    said = []
    pressure = readings.get("oil_p_psi")
    if is_cold and pressure is not None and "oil_pressure_max_psi" in limits:
        high = limits["oil_pressure_max_psi"].value
        if pressure > high:
            said.append(
                f"oil pressure {figure(pressure, 'psi')} is above {figure(high, 'psi')} because the oil is cold and thick: "
                "RPM low until it is warm."
            )
    ran_s = now_s - (engine.fired_s if engine.fired_s is not None else now_s)
    if speed is None or ran_s < _WARM_UP_SINCE_S:
        return said
    if is_cold and "warm_up_max_rpm" in limits and speed > 1.15 * limits["warm_up_max_rpm"].value:
        said.append(f"{speed:,.0f} RPM on cold oil: at most {limits['warm_up_max_rpm'].value:,.0f} until it is warm.")
    if watch and watch.slow_s > _SLOW_FOULS_AFTER_S and "warm_up_min_rpm" in limits:
        said.append(
            f"below {limits['warm_up_min_rpm'].value:,.0f} RPM for {watch.slow_s:.0f} s: slow and rich fouls plugs."
        )
    return said
