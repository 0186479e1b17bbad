"""The demo's flights as scripts of the simulated engine: one short flight by the lists of each of three aircraft."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Literal

from ..core.aircraft.phases import (
    AFTER_LANDING,
    BEFORE_LANDING,
    BEFORE_START,
    BEFORE_TAKE_OFF,
    CLIMB,
    CRUISE,
    DESCENT,
    RUN_UP,
    SHUTDOWN,
    START,
    TAKE_OFF,
    WARM_UP,
)

Step = dict[str, Any]
PHASE_BEGINS_S = {
    BEFORE_START: 0.0,
    START: 14.0,
    WARM_UP: 36.0,
    RUN_UP: 410.0,
    BEFORE_TAKE_OFF: 524.0,
    TAKE_OFF: 538.0,
    CLIMB: 600.0,
    CRUISE: 780.0,
    DESCENT: 1_000.0,
    BEFORE_LANDING: 1_020.0,
    AFTER_LANDING: 1_045.0,
    SHUTDOWN: 1_060.0,
}
END_S = 1_115.0
# the throttle of an injected engine while its pump primes it, and when that has pressure
_PRIMED_AT, _PRESSURE_AFTER_S = 0.15, 0.5
_CRANKED_S = 3.5


@dataclass(frozen=True, slots=True, kw_only=True)
class Hands:
    """What the pilot of one aircraft sets: positions of levers from 0 to 1, by what it is primed, which engines there are (the
    prefixes of their levers); `leaned` are the mixture past the peaks and the one that is left."""

    start_throttle: float
    run_up_throttle: float
    cruise_throttle: float
    leaned: tuple[float, float]
    primes_by: Literal["strokes", "pump", "primer"]
    engines: tuple[str, ...] = ("",)
    propeller: float | None = None
    has_carb_heat: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class Day:
    """One flight's day: outside temperature [°C], the prime in the type's unit, the fault that the engine has and its size."""

    oat_c: float
    prime: float
    fault: str
    size: float


def flight_script(hands: Hands, day: Day) -> list[Step]:
    """Return the bench script of a short flight: cold start, warm-up, run-up, climb, cruise leaned, shutdown."""
    on_ground = {"oat_c": day.oat_c, "palt_ft": 600}
    steps: list[Step] = [
        {"at": 0, "air": on_ground},
        {"at": 0, "engine": {"soak_h": 14}},
        {"at": 0, "fault": day.fault, "size": day.size},
        *_starts(hands, day),
        _all(hands, 420, {"throttle": hands.run_up_throttle}, 4),
        *_run_up(hands),
        _all(hands, 500, {"throttle": 0.0}, 3),
        _all(hands, 512, {"throttle": 0.1}, 2),
        _all(hands, 540, {"throttle": 1.0}, 3),
        {"at": 555, "air": {**on_ground, "ias_kt": 75}},
        {"at": 660, "air": {"oat_c": day.oat_c - 4, "palt_ft": 2500, "ias_kt": 85}},
        {"at": 780, "air": {"oat_c": day.oat_c - 7, "palt_ft": 4500, "ias_kt": 105}},
        _all(hands, 780, {"throttle": hands.cruise_throttle}, 4),
        _all(hands, 840, {"mixture": hands.leaned[0]}, 60),
        _all(hands, 906, {"mixture": hands.leaned[1]}, 8),
        _all(hands, 1000, {"mixture": 1.0}, 5),
        {"at": 1010, "air": {**on_ground, "ias_kt": 0}},
        _all(hands, 1010, {"throttle": 0.1}, 4),
        _all(hands, 1090, {"mixture": 0.0}, 5),
        _all(hands, 1105, {"mag": "OFF"}),
        {"at": 1106, "set": {"master": False}},
        {"at": END_S, "end": True},
    ]
    if hands.propeller is not None:
        steps += [_all(hands, 790, {"prop": hands.propeller}, 4), _all(hands, 1002, {"prop": 1.0}, 4)]
    return sorted(steps, key=lambda step: step["at"])


def _all(hands: Hands, at_s: float, levers: Step, ramp_s: float = 0.0) -> Step:
    """Return one step that sets levers of every engine."""
    own = {f"{prefix}{name}": value for prefix in hands.engines for name, value in levers.items()}
    return {"at": at_s, "set": own, **({"ramp_s": ramp_s} if ramp_s else {})}


def _starts(hands: Hands, day: Day) -> Iterator[Step]:
    yield {"at": 2, "set": {"master": True}}
    yield _all(hands, 2, {"mixture": 1.0, "throttle": hands.start_throttle})
    for number, prefix in enumerate(hands.engines):
        yield from _start(hands, day, prefix, 8.0 + 14.0 * number)
    yield _all(hands, 40, {"throttle": 0.13}, 2)


def _start(hands: Hands, day: Day, prefix: str, at_s: float) -> Iterator[Step]:
    if hands.primes_by == "strokes":
        primed_s = at_s + 5.0
        yield {"at": at_s, "set": {f"{prefix}prime_strokes": day.prime}}
    elif hands.primes_by == "primer":
        primed_s = at_s + day.prime
        yield {"at": at_s, "set": {f"{prefix}primer": True}}
        yield {"at": primed_s, "set": {f"{prefix}primer": False}}
    else:
        primed_s = at_s + _PRESSURE_AFTER_S + day.prime
        yield {"at": at_s, "set": {f"{prefix}pump": True, f"{prefix}throttle": _PRIMED_AT}}
        yield {"at": primed_s, "set": {f"{prefix}pump": False, f"{prefix}throttle": hands.start_throttle}}
    crank_s = primed_s + 1.0
    yield {"at": crank_s, "set": {f"{prefix}mag": "BOTH", f"{prefix}starter": True}}
    yield {"at": crank_s + _CRANKED_S, "set": {f"{prefix}starter": False}}


def _run_up(hands: Hands) -> Iterator[Step]:
    at_s = 432.0
    for prefix in hands.engines:
        for side in ("L", "R"):
            yield {"at": at_s, "set": {f"{prefix}mag": side}}
            yield {"at": at_s + 6, "set": {f"{prefix}mag": "BOTH"}}
            at_s += 13.0 if len(hands.engines) == 1 else 12.0
    if hands.has_carb_heat:
        yield _all(hands, 483, {"carb_heat": 1.0}, 0.5)
        yield _all(hands, 492, {"carb_heat": 0.0}, 0.5)
