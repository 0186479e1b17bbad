"""What the flight screen says at this moment, as plain data: the item of now, the lists, the instruments that matter,
clocks, put-backs, notices. Words for the eye are the front end's; figures and verdicts are made here."""

from collections.abc import Mapping
from typing import Any

from ..aircraft import Profile
from ..flight.fold import FlightState, half_checks, starting_engine
from ..fuel.tanks import describe_fuel, is_crossfed
from ..live.following import Now
from ..live.power import describe_power, warnings
from ..start.engine_state import OilClock
from ..start.following import StartWatch
from .cards import summarise
from .instruments import instruments
from .lists import (
    describe_briefing,
    describe_gates,
    describe_item,
    describe_lists,
    describe_notices,
    describe_put_backs,
    describe_step,
    open_count,
    waiting,
)
from .start import describe_start


def describe(
    profile: Profile,
    state: FlightState,
    now: Now | None,
    now_s: float,
    watches: Mapping[int, StartWatch] | None = None,
) -> dict[str, Any]:
    """Return everything that the flight screen shows."""
    todo = waiting(profile, state, now_s)
    place = profile.place(state.phase)
    lists = describe_lists(profile, state, now_s)
    following = todo[1] if len(todo) > 1 else None
    after = profile.phases[place + 1] if place + 1 < len(profile.phases) else None
    return {
        "at_s": round(now_s, 1),
        "phase": state.phase,
        "phase_title": profile.phases[place].title,
        "next_phase": {"id": after.id, "title": after.title} if after else None,
        "phases": [_phase(profile, state, p.id, p.title) for p in profile.phases],
        "item": describe_item(profile, todo[0], state, now, now_s) if todo else None,
        "next_item": {"challenge": following.challenge, "response": following.response} if following else None,
        "lists": lists,
        "step": describe_step(profile, state, lists, now_s),
        "paused": state.progress.is_paused,
        "facts": state.known,
        "air": state.air,
        "briefing": describe_briefing(profile, state),
        **describe_notices(profile, state, now, now_s),
        "instruments": instruments(profile, state, now),
        "put_backs": describe_put_backs(profile, state, now_s),
        "pairs": [{"id": p.id, "title": p.title} for p in profile.put_backs],
        "oil_clock": _oil_clock(state.oil_clock, now_s) if state.oil_clock else None,
        "start": describe_start(profile, state, watches or {}, now, now_s),
        "run_up": summarise(profile, state),
        "tachometer": _tachometer(profile),
        "power": describe_power(profile, state, now, now_s),
        "fuel": describe_fuel(
            profile, state.fuel, now_s, *_flow_and_pressure(now), is_crossfed(now.levers if now else {}, state.away)
        ),
        "power_warnings": warnings(profile, state, now, now_s),
        "gates": describe_gates(profile, state, now),
        "engine_runs": state.engine_runs,
        "strokes": state.engine(starting_engine(profile, state)).primed,
        "half_checks": half_checks(profile, state),
        "emergency": profile.body["emergency"],
        "lean_targets": [{"id": t.id, "name": t.name} for t in profile.lean_targets],
        "lean_target": state.lean_target or (profile.lean_targets[0].id if profile.lean_targets else None),
        "ended": state.ended,
        "last_seq": state.last_seq,
    }


def _flow_and_pressure(now: Now | None) -> tuple[float | None, float | None]:
    if now is None:
        return None, None
    flows = [now.readings.get(name) for name in ("ff_gph", "e2_ff_gph")]
    known = [flow for flow in flows if flow is not None]
    return (sum(known) if known else None), now.readings.get("fp_psi")


def _tachometer(profile: Profile) -> dict[str, Any] | None:
    """Return how a speed is shown where the type's tachometer has percent: what to multiply RPM with, decimals, label."""
    full = profile.engine.get("rpm_at_100_pct")
    return None if full is None else {"scale": 100 / float(full), "decimals": 1, "label": "%"}


def _phase(profile: Profile, state: FlightState, phase_id: str, title: str) -> dict[str, Any]:
    left, of = open_count(profile, state, phase_id)
    return {"id": phase_id, "title": title, "open": left, "of": of}


def _oil_clock(clock: OilClock, now_s: float) -> dict[str, Any]:
    return {
        "verdict": clock.verdict,
        "elapsed_s": round(min(now_s - clock.since_s, 999), 1),
        "left_s": max(round(clock.limit_s - (now_s - clock.since_s)), 0),
        "limit_s": clock.limit_s,
        "seconds": clock.seconds,
    }
