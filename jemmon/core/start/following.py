"""What an engine's needles show while it is started, from sample to sample, and the events that follow. Pure.

A `StartWatch` is what one sample leaves for the next: how far the propeller turned, the lowest volts, how long a lever
primes. What matters afterwards becomes an event, so that a restart loses nothing but the seconds in between.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from math import isfinite
from typing import Any

from ..aircraft import Profile
from .engine_state import EngineState
from .judging import oil_pressure_limit_s

_TURNS_FROM = 0.06  # of the firing speed: a propeller that a wind or a hand moves is slower
_STOPPED_BELOW = 0.13
_A_TRY_S = 2.0  # a shorter push of the starter is no attempt
_RUN_DOWN = 0.3
_CATCHES_WITHIN_S = 3.0
_LEAST_PRIME = 0.2
_CHARGES_AFTER_S, _NOT_CHARGING_FOR_S = 20.0, 8.0
_SECOND_ALTERNATOR_GIVES_A = 1.0
_SHARED = (
    "volts_v",
    "batt_amps_a",
    "suction_inhg",
    "oat_f",
    "palt_ft",
    "ias_kt",
    "master",
    "ground_power",
    "crossfeed",
)
Made = list[tuple[str, dict[str, Any]]]


@dataclass(frozen=True, slots=True, kw_only=True)
class StartWatch:
    """What one engine's samples left: `blades` and `volts_v` of this push of the starter (`energised_v` of the
    inertia starter's motor before it), `rpm` of the last sample,
    seconds that a lever has primed or energised, throttle opened at rest, how long the bus has
    not charged, how long the engine has idled below warm-up speed, the signs of a
    try that has not yet run down."""

    at_s: float | None = None
    rpm: float = 0.0
    turning_s: float = 0.0
    blades: float = 0.0
    volts_v: float | None = None
    top_rpm: float = 0.0
    priming_s: float = 0.0
    energising_s: float = 0.0
    energised_v: float | None = None
    throttle: float | None = None
    opened: float = 0.0
    low_bus_s: float = 0.0
    slow_s: float = 0.0
    tried: Mapping[str, Any] | None = None


def of_engine(values: Mapping[str, Any], number: int) -> dict[str, Any]:
    """Return the readings or levers of one engine under their own names, with those that both share."""
    if number == 1:
        return {name: value for name, value in values.items() if not name.startswith("e2_")}
    own = {name.removeprefix("e2_"): value for name, value in values.items() if name.startswith("e2_")}
    return {**{name: values[name] for name in _SHARED if name in values}, **own}


def speed_of(readings: Mapping[str, float]) -> float | None:
    """Return the engine's speed [RPM, or percent of a type that shows percent], or None without a reading."""
    speed = readings.get("rpm", readings.get("rpm_pct"))
    return None if speed is None or not isfinite(speed) else speed


def is_turned(profile: Profile, engine: EngineState, readings: Mapping[str, float], levers: Mapping[str, Any]) -> bool:
    """Say whether the starter turns the engine: by its switch where that is known, else by a speed below firing."""
    switch = levers.get(profile.start.turned_by)
    if switch is not None:
        return float(switch) > 0.5
    speed, firing = speed_of(readings), profile.limit("rpm_firing_min")
    return not engine.runs and speed is not None and _TURNS_FROM * firing < speed < firing


def watch_start(
    profile: Profile,
    engine: EngineState,
    watch: StartWatch,
    at_s: float,
    readings: Mapping[str, float],
    levers: Mapping[str, Any],
) -> tuple[StartWatch, Made]:
    """Return (what to remember, the events of this sample as (kind, body)) of one engine; `readings` and `levers` are
    its own (see `of_engine`). A reading that is missing makes no event and stops no clock."""
    dt = 0.0 if watch.at_s is None else min(max(at_s - watch.at_s, 0.0), 5.0)
    made: Made = []
    after = replace(watch, at_s=at_s)
    after = _prime(profile, engine, after, {**readings, **levers}, dt, made)
    after = _turn(profile, engine, after, at_s, readings, levers, dt, made)
    speed = speed_of(readings)
    if speed is not None:
        made += _fire_or_stop(profile, engine, after, at_s, speed, readings, levers)
        least = profile.limits.get("warm_up_min_rpm")
        is_slow = engine.runs and least is not None and speed < 0.97 * least.value
        after = replace(after, rpm=speed, slow_s=after.slow_s + dt if is_slow else 0.0)
    if engine.runs:
        made += _oil(profile, engine, at_s, readings)  # also without a speed: a missing reading stops no clock
        if float(levers.get("ground_power", 0.0)) < 0.5:  # a plugged-in bus proves no alternator
            after = _charge(profile, engine, after, at_s, speed, readings, dt, made)
    return after, made


def _prime(
    profile: Profile,
    engine: EngineState,
    watch: StartWatch,
    known: Mapping[str, Any],
    dt: float,
    made: Made,
) -> StartWatch:
    """Count what primes by itself: seconds of a lever, openings of the throttle of a standing engine, energising."""
    method = profile.start
    if not engine.runs and method.is_priming(known):
        watch = replace(watch, priming_s=watch.priming_s + dt)
    elif watch.priming_s > 0:
        if watch.priming_s >= _LEAST_PRIME:
            made.append(("primed", {"amount": round(watch.priming_s, 1)}))
        watch = replace(watch, priming_s=0.0)
    throttle = known.get("throttle")
    if throttle is not None:
        opened = max(float(throttle) - (watch.throttle if watch.throttle is not None else float(throttle)), 0.0)
        total = 0.0 if engine.runs else watch.opened + opened * method.throttle_is
        if opened == 0.0 and total >= _LEAST_PRIME:
            made.append(("primed", {"amount": round(total, 2), "by": "throttle"}))
            total = 0.0
        watch = replace(watch, throttle=float(throttle), opened=total)
    if method.energise_s and float(known.get("energise", 0.0)) > 0.5:
        lowest = _lowest(known.get("volts_v"), watch.energised_v if watch.energising_s > 0 else None)
        return replace(watch, energising_s=watch.energising_s + dt, energised_v=lowest)
    if watch.energising_s > 0:
        made.append(("energised", {"seconds": round(watch.energising_s, 1)}))
    return replace(watch, energising_s=0.0)


def _turn(
    profile: Profile,
    engine: EngineState,
    watch: StartWatch,
    at_s: float,
    readings: Mapping[str, float],
    levers: Mapping[str, Any],
    dt: float,
    made: Made,
) -> StartWatch:
    """Follow the starter: when it began and ended, how far it turned the propeller, how low the bus fell."""
    turned = is_turned(profile, engine, readings, levers)
    speed, volts = speed_of(readings) or 0.0, readings.get("volts_v")
    if turned:
        if engine.turning_since_s is None:
            made.append(("cranking_began", {}))
            watch = replace(watch, turning_s=0.0, blades=0.0, volts_v=None, top_rpm=0.0)
        per_turn = profile.start.blades / profile.start.gear_ratio
        blades = 0.0 if "rpm" not in readings else 0.5 * (speed + watch.rpm) / 60 * dt * per_turn
        return replace(
            watch,
            turning_s=watch.turning_s + dt,
            blades=watch.blades + blades,
            volts_v=_lowest(volts, watch.volts_v, watch.energised_v),
            top_rpm=max(watch.top_rpm, speed),
        )
    if engine.turning_since_s is None:
        return _failed(profile, engine, watch, readings, levers, made)
    cranked_s = round(at_s - engine.turning_since_s, 1)
    signs = {"cranking_s": cranked_s, "blades": round(watch.blades), "top_rpm": round(watch.top_rpm)}
    if watch.volts_v is not None:
        signs["volts_v"] = round(watch.volts_v, 1)
    made.append(("cranking_ended", signs))
    tried = signs if not engine.runs and cranked_s >= _A_TRY_S else None
    return _failed(profile, engine, replace(watch, tried=tried), readings, levers, made)


def _failed(
    profile: Profile,
    engine: EngineState,
    watch: StartWatch,
    readings: Mapping[str, float],
    levers: Mapping[str, Any],
    made: Made,
) -> StartWatch:
    """Call a try failed once the engine has run down: some catch just after the starter is let go."""
    if watch.tried is None or engine.runs:
        return replace(watch, tried=None)
    speed = speed_of(readings)
    if speed is not None and speed > _RUN_DOWN * profile.limit("rpm_firing_min"):
        return watch
    made.append(("start_failed", {**watch.tried, **how_started(engine, readings, levers)}))
    return replace(watch, tried=None)


def _lowest(*volts: float | None) -> float | None:
    return min((v for v in volts if v is not None and isfinite(v)), default=None)


def how_started(engine: EngineState, readings: Mapping[str, float], levers: Mapping[str, Any]) -> dict[str, Any]:
    """Return what the advice for the next start learns from: how warm the metal is [°C], the prime given so far, and
    where throttle, mixture and pump stood."""
    heads = [value for name, value in readings.items() if name.startswith("cht")]
    warm = [t for t in (readings.get("oat_f"), readings.get("coolant_t_f"), *heads) if t is not None and isfinite(t)]
    if not warm:
        return {}
    stood = {name: round(float(levers[name]), 2) for name in ("throttle", "mixture", "pump") if name in levers}
    return {"metal_c": round((max(warm) - 32) / 1.8, 1), "strokes": engine.primed, **stood}


def _fire_or_stop(
    profile: Profile,
    engine: EngineState,
    watch: StartWatch,
    at_s: float,
    speed: float,
    readings: Mapping[str, float],
    levers: Mapping[str, Any],
) -> Made:
    firing = profile.limit("rpm_firing_min")
    if not engine.runs:
        if speed <= firing:
            return []
        outside_f = readings.get("oat_f")
        limit_s = oil_pressure_limit_s(profile, None if outside_f is None else (outside_f - 32) / 1.8)
        turned_s = 0.0 if engine.turning_since_s is None else round(at_s - engine.turning_since_s, 1)
        if engine.turning_since_s is None and engine.cranks and at_s - engine.cranks[-1][0] < _CATCHES_WITHIN_S:
            turned_s = engine.cranks[-1][1]  # it caught just after it was let go
        signs = {"cranking_s": turned_s, "attempt": len(engine.tries) + 1, "blades": round(watch.blades)}
        if watch.volts_v is not None:
            signs["volts_v"] = round(watch.volts_v, 1)
        return [("engine_fired", {"limit_s": limit_s, **signs, **how_started(engine, readings, levers)})]
    if speed >= _STOPPED_BELOW * firing:
        return []
    ran_s = at_s - (engine.fired_s if engine.fired_s is not None else at_s)
    return [("engine_stopped", {"ran_s": round(ran_s, 1), **how_started(engine, readings, levers)})]


def _oil(profile: Profile, engine: EngineState, at_s: float, readings: Mapping[str, float]) -> Made:
    clock, pressure = engine.oil_clock, readings.get("oil_p_psi")
    if clock is None or clock.verdict == "seen":
        return []
    known = pressure is not None and isfinite(pressure)
    waited_s = at_s - clock.since_s
    if known and pressure >= profile.limit("oil_pressure_min_psi"):  # type: ignore[operator]
        return [("oil_pressure_seen", {"seconds": round(waited_s, 2)})]
    if waited_s > clock.limit_s and clock.verdict == "running":
        return [("oil_pressure_missing", {"limit_s": clock.limit_s, "no_reading": not known})]
    return []


def _charge(
    profile: Profile,
    engine: EngineState,
    watch: StartWatch,
    at_s: float,
    speed: float | None,
    readings: Mapping[str, float],
    dt: float,
    made: Made,
) -> StartWatch:
    """Prove the alternators: the bus rises at warm-up speed; a second one gives current, or its speed was reached."""
    ran_s = at_s - (engine.fired_s or at_s)
    limits, volts = profile.limits, readings.get("volts_v")
    low_s = watch.low_bus_s
    if volts is not None and isfinite(volts) and "volts_charging_min_v" in limits:
        slow = "warm_up_min_rpm" in limits and (speed or 0.0) < 0.97 * limits["warm_up_min_rpm"].value
        low_s = low_s + dt if volts < limits["volts_charging_min_v"].value and not slow else 0.0
        if low_s >= _NOT_CHARGING_FOR_S and ran_s > _CHARGES_AFTER_S and engine.charging is not False:
            made.append(("not_charging", {"volts_v": round(volts, 1)}))
        elif volts >= limits["volts_charging_min_v"].value and engine.charging is not True:
            made.append(("charging", {"volts_v": round(volts, 1)}))
    if "alt2_cut_in_rpm" in limits and engine.alternator_2 is not True:
        gives_a = readings.get("amps2_a")
        reached = (
            (speed or 0.0) > limits["alt2_cut_in_rpm"].value
            if gives_a is None
            else gives_a > _SECOND_ALTERNATOR_GIVES_A
        )
        if reached:
            made.append(("alternator_2_in", {"seconds": round(ran_s, 1)}))
        elif ran_s >= profile.limit("alt2_within_s") and engine.alternator_2 is None:
            made.append(("alternator_2_missing", {"within_s": profile.limit("alt2_within_s")}))
    return replace(watch, low_bus_s=low_s)
