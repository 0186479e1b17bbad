"""What the events say of one engine: whether it runs, its oil clock, its prime, its starter, its tries.

A start ends well or badly here: what fired and died within seconds was too rich, what never caught had too little.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from ..base.errors import EventError

KINDS = (
    "engine_fired",
    "engine_stopped",
    "start_failed",
    "oil_pressure_seen",
    "oil_pressure_missing",
    "prime_stroke",
    "primed",
    "hand_action",
    "energised",
    "cranking_began",
    "cranking_ended",
    "alternator_2_in",
    "alternator_2_missing",
    "not_charging",
    "charging",
)
TAPS = ("crank", "let_go", "fired", "stopped", "oil_seen", "blade", "charging")
# common practice, but where it says otherwise
DIED_WITHIN_S = 12.0


@dataclass(frozen=True, slots=True, kw_only=True)
class OilClock:
    """From first fire to oil pressure: `verdict` is running, seen or missing; `no_reading` when no needle told;
    `limit_s` None where the profile gives no time."""

    since_s: float
    limit_s: float | None
    verdict: str = "running"
    seconds: float | None = None
    no_reading: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class EngineState:
    """`primed` is in the unit of the type's method; `cranks` are (let go at, seconds turned), oldest first;
    `turning_since_s` is when the starter began to turn it; `charging` and `alternator_2` are None until known."""

    runs: bool = False
    fired_s: float | None = None
    oil_clock: OilClock | None = None
    primed: float = 0
    blades: int = 0
    tries: tuple[Mapping[str, Any], ...] = ()
    cranks: tuple[tuple[float, float], ...] = ()
    turning_since_s: float | None = None
    alternator_2: bool | None = None
    charging: bool | None = None


def engine_step(engine: EngineState, kind: str, at_s: float, body: Mapping[str, Any]) -> EngineState:
    """Return the engine after one event of `KINDS`. Flight time `at_s` [s]."""
    clock = engine.oil_clock
    match kind:
        case "engine_fired":
            limit_s = body.get("limit_s")
            began = OilClock(since_s=at_s, limit_s=None if limit_s is None else float(limit_s))
            return replace(engine, runs=True, fired_s=at_s, oil_clock=began, alternator_2=None, charging=None)
        case "start_failed":
            return replace(engine, tries=(*engine.tries, body))
        case "engine_stopped":
            return _stopped(engine, body)
        case "oil_pressure_seen" if clock:
            seen = replace(clock, verdict="seen", seconds=float(body["seconds"]))
            return replace(engine, oil_clock=seen)
        case "oil_pressure_missing" if clock:
            return replace(engine, oil_clock=replace(clock, verdict="missing", no_reading=bool(body.get("no_reading"))))
        case "prime_stroke":
            return replace(engine, primed=engine.primed + float(body.get("strokes", 1)))
        case "primed":
            return replace(engine, primed=round(engine.primed + float(body["amount"]), 2))
        case "hand_action" if str(body.get("action", "")).endswith("turn_blades"):
            return replace(engine, blades=engine.blades + int(body["amount"]))
        case "cranking_began":
            return replace(engine, turning_since_s=at_s)
        case "cranking_ended":
            turned = (*engine.cranks, (at_s, float(body["cranking_s"])))
            return replace(engine, cranks=turned, turning_since_s=None)
        case "alternator_2_in" | "alternator_2_missing":
            return replace(engine, alternator_2=kind == "alternator_2_in")
        case "charging" | "not_charging":
            return replace(engine, charging=kind == "charging")
    return engine


def _stopped(engine: EngineState, body: Mapping[str, Any]) -> EngineState:
    ran_s = float(body.get("ran_s", 999.0))
    kept = EngineState(cranks=engine.cranks, turning_since_s=engine.turning_since_s)
    if ran_s > DIED_WITHIN_S:
        return kept  # the next start counts anew
    died = {**body, "died": True}
    return replace(kept, primed=engine.primed, tries=(*engine.tries, died))


def events_of_tap(
    engine: EngineState, what: str, at_s: float, limit_s: float | None, metal_c: float | None
) -> list[tuple[str, dict[str, Any]]]:
    """Return the (kind, body) rows that one tap of a pilot without needles means, none where it means nothing now.

        Raises:
            EventError: no such tap.
    Flight time `at_s` [s]."""
    since = engine.turning_since_s
    cranked = {"cranking_s": 0.0 if since is None else round(at_s - since, 1)}
    known = {} if metal_c is None else {"metal_c": metal_c, "strokes": engine.primed}
    match what:
        case "crank" if since is None and not engine.runs:
            return [("cranking_began", {})]
        case "let_go" if since is not None:
            failed = [("start_failed", {**cranked, **known})] if not engine.runs else []
            return [("cranking_ended", cranked), *failed]
        case "fired" if not engine.runs:
            fired = ("engine_fired", {"limit_s": limit_s, "attempt": len(engine.tries) + 1, **cranked, **known})
            return [fired] if since is None else [fired, ("cranking_ended", cranked)]
        case "stopped" if engine.runs:
            return [("engine_stopped", {"ran_s": round(at_s - (engine.fired_s or at_s), 1), **known})]
        case "oil_seen" if engine.oil_clock:
            return [("oil_pressure_seen", {"seconds": round(at_s - engine.oil_clock.since_s, 1)})]
        case "charging" if engine.runs:
            return [("charging", {})]
        case "blade":
            return [("hand_action", {"action": "turn_blades", "amount": 1})]
    if what not in TAPS:
        raise EventError(f"There is no tap {what!r} of the start; known are {', '.join(TAPS)}.")
    return []
