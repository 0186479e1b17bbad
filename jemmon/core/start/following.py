"""What an engine's needles and levers show while it is started, from sample to sample, and the events that follow. Pure.

A `StartWatch` is what one sample leaves for the next: how far the propeller turned, the lowest volts, how long a lever
primes. What matters afterwards becomes an event, so that a restart loses nothing but the seconds in between. Live flights
and recorded traces are followed by the same rules; there are no others.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from math import isfinite
from typing import Any

from ..aircraft import Profile
from ..base.units import celsius
from ..trace.sample import Sample, outside_c, speed_of
from ..trace.signals import SECOND
from .engine_state import EngineState

_TURNS_FROM = 0.06  # of the firing speed: a propeller that a wind or a hand moves is slower (common practice)
# common practice, but where it says otherwise
_STOPPED_BELOW = 0.13  # of the firing speed (common practice)
DOES_NOT_TURN = 0.04  # of the firing speed (common practice)
_A_TRY_S = 2.0  # a shorter push of the starter is not an attempt (common practice)
_RUN_DOWN = 0.3  # of the firing speed: a try has failed once the engine has run down to it
_CATCHES_WITHIN_S = 3.0  # some engines catch just after the starter is let go (common practice)
_LEAST_PRIME = 0.2
_CHARGES_AFTER_S, _NOT_CHARGING_FOR_S = 20.0, 8.0  # a battery that gave its all takes a while (common practice)
_SLOW_SHARE = 0.97  # of the least warm-up speed: an alternator gives little below it
_SECOND_ALTERNATOR_GIVES_A, _BATTERY_TAKES_A = 1.0, 2.0
# common practice: a switch is off for its check for half a minute at most, or until its item comes; after a minute it is forgotten
_COUNTS_WHILE_OFF = 1 / 8
_DRAW_ON_BUS = ("starter", "energise", "mesh")  # levers
Made = list[tuple[str, dict[str, Any]]]


@dataclass(frozen=True, slots=True, kw_only=True)
class StartWatch:
    """What one engine's samples left: `blades` and `volts_v` of this push of the starter (`energised_v` of the inertia
    starter's motor before it), seconds and rows of it without rotation, `rpm` of the last sample, seconds that a lever has
    primed or energised, throttle opened at rest, how long the bus has not charged, how long the engine has idled below warm-up
    speed, the signs of a try that has not yet run down."""

    at_s: float | None = None
    rpm: float = 0.0
    turning_s: float = 0.0
    still_s: float = 0.0
    still_rows: int = 0
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


@dataclass(frozen=True, slots=True, kw_only=True)
class _Moment:
    """One sample of one engine, with what is known of it: the seconds since the last one, its speed, the type's firing speed
    (None where the profile does not give it: then nobody knows when it fires); whether any engine's starter draws on the bus."""

    profile: Profile
    engine: EngineState
    sample: Sample
    dt_s: float
    speed: float | None
    firing: float | None
    bus_is_drawn: bool

    @property
    def at_s(self) -> float:
        """Flight time [s]."""
        return self.sample.at_s

    def reading(self, name: str) -> float | None:
        """Return a reading that is a figure, or None."""
        value = self.sample.readings.get(name)
        return None if value is None or not isfinite(value) else value

    def lever(self, name: str) -> float:
        """Return a lever's place, 0 where it is not known."""
        return float(self.sample.levers.get(name, 0.0))


def oil_pressure_limit_s(profile: Profile, oat_c: float | None) -> float | None:
    """Return the longest time from first fire to oil pressure [s], longer in the cold, by the profile; None where it gives
    none."""
    cold_c = profile.find_limit("oil_pressure_cold_below_c")
    if oat_c is not None and cold_c is not None and oat_c < cold_c:
        return profile.find_limit("oil_pressure_time_cold_s")
    return profile.find_limit("oil_pressure_time_s")


def starter_rest_s(profile: Profile, engine: EngineState, now_s: float) -> float:
    """Return the rest [s] that the starter is still due: in full after half of its limit and more, less in proportion after a
    shorter push (common practice); 0 where the profile gives no rest."""
    rest_s, limit_s = profile.find_limit("starter_rest_s"), profile.find_limit("starter_on_max_s")
    if rest_s is None or not engine.cranks or engine.turning_since_s is not None or engine.runs:
        return 0.0
    ended_s, cranked_s = engine.cranks[-1]
    share = 1.0 if limit_s is None else min(2 * cranked_s / limit_s, 1.0)
    return max(rest_s * share - (now_s - ended_s), 0.0)


def starter_draws(engines: Iterable[EngineState], levers: Mapping[str, float | str]) -> bool:
    """Say whether the starter of any engine draws on the bus, which all of them share: it turns one, or its levers are on."""
    on = (float(levers.get(f"{prefix}{name}", 0.0)) > 0.5 for prefix in ("", SECOND) for name in _DRAW_ON_BUS)
    return any(engine.turning_since_s is not None for engine in engines) or any(on)


def watch_start(
    profile: Profile, engine: EngineState, watch: StartWatch, sample: Sample, *, bus_is_drawn: bool = False
) -> tuple[StartWatch, Made]:
    """Return (what to remember, the events of this sample as (kind, body)) of one engine; `sample` is its own. A reading that
    is missing makes no event and stops no clock. `bus_is_drawn`: by the starter of any engine, so that it proves nothing of an
    alternator."""
    dt_s = 0.0 if watch.at_s is None else min(max(sample.at_s - watch.at_s, 0.0), 5.0)
    moment = _Moment(
        profile=profile,
        engine=engine,
        sample=sample,
        dt_s=dt_s,
        speed=speed_of(sample.readings),
        firing=profile.find_limit("rpm_firing_min"),
        bus_is_drawn=bus_is_drawn,
    )
    made: Made = []
    after = _prime(moment, watch, made)
    after = _energise(moment, after, made)
    after = _turn(moment, after, made)
    rpm, slow_s = after.rpm, after.slow_s
    if moment.speed is not None:
        made += _fire_or_stop(moment, after)
        least = profile.find_limit("warm_up_min_rpm")
        is_slow = engine.runs and least is not None and moment.speed < _SLOW_SHARE * least
        rpm, slow_s = moment.speed, slow_s + dt_s if is_slow else 0.0
    if engine.runs:
        made += _oil(moment)  # also without a speed: a missing reading stops no clock
        if moment.lever("ground_power") < 0.5:  # a plugged-in bus proves no alternator
            after = _charge(moment, after, made)
            made += _second_alternator(moment)
    return replace(after, at_s=sample.at_s, rpm=rpm, slow_s=slow_s), made


def _with(watch: StartWatch, **changes: object) -> StartWatch:
    """Return the watch with these changes, itself where it has them already: most samples change nothing, and there are many."""
    same = all(getattr(watch, name) == value for name, value in changes.items())
    return watch if same else replace(watch, **changes)  # type: ignore[arg-type]


def _prime(moment: _Moment, watch: StartWatch, made: Made) -> StartWatch:
    """Count what primes by itself: seconds of a lever, openings of the throttle of a standing engine."""
    method, runs = moment.profile.start, moment.engine.runs
    if not runs and method.is_priming(moment.sample.known):
        watch = replace(watch, priming_s=watch.priming_s + moment.dt_s)
    elif watch.priming_s > 0:
        if watch.priming_s >= _LEAST_PRIME:
            made.append(("primed", {"amount": round(watch.priming_s, 1)}))
        watch = replace(watch, priming_s=0.0)
    throttle = moment.sample.levers.get("throttle")
    if throttle is None:
        return watch
    opened = max(float(throttle) - (watch.throttle if watch.throttle is not None else float(throttle)), 0.0)
    total = 0.0 if runs else watch.opened + opened * method.throttle_is
    if opened == 0.0 and total >= _LEAST_PRIME:
        made.append(("primed", {"amount": round(total, 2), "by": "throttle"}))
        total = 0.0
    return _with(watch, throttle=float(throttle), opened=total)


def _energise(moment: _Moment, watch: StartWatch, made: Made) -> StartWatch:
    if moment.profile.start.energise_s and moment.lever("energise") > 0.5:
        lowest = _lowest(moment.reading("volts_v"), watch.energised_v if watch.energising_s > 0 else None)
        return replace(watch, energising_s=watch.energising_s + moment.dt_s, energised_v=lowest)
    if watch.energising_s > 0:
        made.append(("energised", {"seconds": round(watch.energising_s, 1)}))
    return _with(watch, energising_s=0.0)


def _is_turned(moment: _Moment) -> bool:
    """Say whether the starter turns the engine: by its switch where that is known, else by a speed below firing."""
    switch = moment.sample.levers.get(moment.profile.start.turned_by)
    if switch is not None:
        return float(switch) > 0.5
    speed, firing = moment.speed, moment.firing
    return not moment.engine.runs and speed is not None and firing is not None and _TURNS_FROM * firing < speed < firing


def _turn(moment: _Moment, watch: StartWatch, made: Made) -> StartWatch:
    """Follow the starter: when it began and ended, how far it turned the propeller, how low the bus fell."""
    engine, speed = moment.engine, moment.speed or 0.0
    if _is_turned(moment):
        if engine.turning_since_s is None:
            made.append(("cranking_began", {}))
            watch = replace(watch, turning_s=0.0, still_s=0.0, still_rows=0, blades=0.0, volts_v=None, top_rpm=0.0)
        per_turn = moment.profile.start.blades / moment.profile.start.gear_ratio
        has_rpm = "rpm" in moment.sample.readings
        blades = 0.5 * (speed + watch.rpm) / 60 * moment.dt_s * per_turn if has_rpm else 0.0
        stands = moment.speed is not None and moment.firing is not None and moment.speed < DOES_NOT_TURN * moment.firing
        return replace(
            watch,
            turning_s=watch.turning_s + moment.dt_s,
            still_s=watch.still_s + moment.dt_s if stands else 0.0,
            still_rows=watch.still_rows + 1 if stands else 0,
            blades=watch.blades + blades,
            volts_v=_lowest(moment.reading("volts_v"), watch.volts_v, watch.energised_v),
            top_rpm=max(watch.top_rpm, speed),
        )
    if engine.turning_since_s is None:
        return _failed(moment, watch, made)
    cranked_s = round(moment.at_s - engine.turning_since_s, 1)
    signs = {"cranking_s": cranked_s, "blades": round(watch.blades), "top_rpm": round(watch.top_rpm)}
    if watch.volts_v is not None:
        signs["volts_v"] = round(watch.volts_v, 1)
    made.append(("cranking_ended", signs))
    tried = signs if not engine.runs and cranked_s >= _A_TRY_S else None
    return _failed(moment, replace(watch, tried=tried), made)


def _failed(moment: _Moment, watch: StartWatch, made: Made) -> StartWatch:
    """Call a try failed once the engine has run down: some catch just after the starter is let go."""
    if watch.tried is None or moment.engine.runs:
        return _with(watch, tried=None)
    speed, firing = moment.speed, moment.firing
    if speed is not None and firing is not None and speed > _RUN_DOWN * firing:
        return watch
    made.append(("start_failed", {**watch.tried, **how_started(moment.engine, moment.sample)}))
    return replace(watch, tried=None)


def _lowest(*volts: float | None) -> float | None:
    return min((v for v in volts if v is not None), default=None)


def how_started(engine: EngineState, sample: Sample) -> dict[str, Any]:
    """Return what the advice for the next start learns from: how warm the metal is [°C], the prime given so far, and
    where throttle, mixture and pump stood."""
    readings, levers = sample.readings, sample.levers
    chts = [value for name, value in readings.items() if name.startswith("cht")]
    warm = [t for t in (readings.get("oat_f"), readings.get("coolant_t_f"), *chts) if t is not None and isfinite(t)]
    if not warm:
        return {}
    stood = {name: round(float(levers[name]), 2) for name in ("throttle", "mixture", "pump") if name in levers}
    return {"metal_c": round(celsius(max(warm)), 1), "strokes": engine.primed, **stood}


def _fire_or_stop(moment: _Moment, watch: StartWatch) -> Made:
    engine, firing, speed, at_s = moment.engine, moment.firing, moment.speed, moment.at_s
    if firing is None or speed is None:
        return []
    if not engine.runs:
        if speed <= firing:
            return []
        limit_s = oil_pressure_limit_s(moment.profile, outside_c(moment.sample.readings))
        turned_s = 0.0 if engine.turning_since_s is None else round(at_s - engine.turning_since_s, 1)
        if engine.turning_since_s is None and engine.cranks and at_s - engine.cranks[-1][0] < _CATCHES_WITHIN_S:
            turned_s = engine.cranks[-1][1]  # it caught just after it was let go
        signs = {"cranking_s": turned_s, "attempt": len(engine.tries) + 1, "blades": round(watch.blades)}
        if watch.volts_v is not None:
            signs["volts_v"] = round(watch.volts_v, 1)
        return [("engine_fired", {"limit_s": limit_s, **signs, **how_started(engine, moment.sample)})]
    if speed >= _STOPPED_BELOW * firing:
        return []
    ran_s = at_s - (engine.fired_s if engine.fired_s is not None else at_s)
    return [("engine_stopped", {"ran_s": round(ran_s, 1), **how_started(engine, moment.sample)})]


def _oil(moment: _Moment) -> Made:
    """Watch the oil clock: pressure seen, or its time over. Without the type's least pressure neither is known."""
    clock, pressure = moment.engine.oil_clock, moment.reading("oil_p_psi")
    least = moment.profile.find_limit("oil_pressure_min_psi")
    if clock is None or clock.verdict == "seen" or least is None:
        return []
    waited_s = moment.at_s - clock.since_s
    if pressure is not None and pressure >= least:
        return [("oil_pressure_seen", {"seconds": round(waited_s, 2)})]
    if clock.limit_s is not None and waited_s > clock.limit_s and clock.verdict == "running":
        return [("oil_pressure_missing", {"limit_s": clock.limit_s, "no_reading": pressure is None})]
    return []


def _charge(moment: _Moment, watch: StartWatch, made: Made) -> StartWatch:
    """Prove the alternator: the bus rises at warm-up speed; it does not charge where it stays low for seconds on end."""
    least, volts = moment.profile.find_limit("volts_charging_min_v"), moment.reading("volts_v")
    if least is None or volts is None:
        return watch
    slow_rpm = moment.profile.find_limit("warm_up_min_rpm")
    slow = slow_rpm is not None and (moment.speed or 0.0) < _SLOW_SHARE * slow_rpm
    is_off = "alternator" in moment.sample.levers and moment.lever("alternator") < 0.5
    is_taken = (moment.reading("batt_amps_a") or 0.0) > _BATTERY_TAKES_A  # the ammeter shows that it charges
    is_low = volts < least and not (slow or moment.bus_is_drawn or is_taken)
    low_s = watch.low_bus_s + moment.dt_s * (_COUNTS_WHILE_OFF if is_off else 1.0) if is_low else 0.0
    ran_s = moment.at_s - (moment.engine.fired_s or moment.at_s)
    if low_s >= _NOT_CHARGING_FOR_S and ran_s > _CHARGES_AFTER_S and moment.engine.charging is not False:
        made.append(("not_charging", {"volts_v": round(volts, 1)}))
    elif volts >= least and moment.engine.charging is not True:
        made.append(("charging", {"volts_v": round(volts, 1)}))
    return _with(watch, low_bus_s=low_s)


def _second_alternator(moment: _Moment) -> Made:
    """Prove the second alternator: it gives current, or the speed at which it cuts in was reached, within the type's time."""
    cut_in, within_s = (moment.profile.find_limit(name) for name in ("alt2_cut_in_rpm", "alt2_within_s"))
    if cut_in is None or within_s is None or moment.engine.alternator_2 is True:
        return []
    gives_a, ran_s = moment.reading("amps2_a"), moment.at_s - (moment.engine.fired_s or moment.at_s)
    reached = (moment.speed or 0.0) > cut_in if gives_a is None else gives_a > _SECOND_ALTERNATOR_GIVES_A
    if reached:
        return [("alternator_2_in", {"seconds": round(ran_s, 1)})]
    if ran_s >= within_s and moment.engine.alternator_2 is None:
        return [("alternator_2_missing", {"within_s": within_s})]
    return []
