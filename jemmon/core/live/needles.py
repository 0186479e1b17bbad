"""What one new sample says of put-backs and lists, as events: temporary settings, seen, contradicted, unproven."""

from collections.abc import Iterable, Mapping
from typing import Any

from ..aircraft import Item, Profile, PutBack
from ..aircraft.phases import START
from ..flight.events import Event
from ..flight.proofs import open_stops, unproven
from ..flight.state import FlightState
from ..judgement.registry import title_of
from ..procedure.notice import phase_begun, power_rises
from ..procedure.progress import lists_of, waiting_items
from ..trace.sample import Sample
from ..trace.signals import engine_of, reading_row

_CONTRADICTS_AFTER_S = 2.0  # a lever takes a moment to move what it was just confirmed for (common practice)
Made = list[tuple[str, dict[str, Any]]]


def all_known(state: FlightState, now: Sample | None) -> dict[str, Any]:
    """Return everything that a condition may ask for: facts of the day, readings and levers of this moment."""
    return {**state.known, **(now.known if now else {})}


def as_events(flight_id: str, at_s: float, made: Iterable[tuple[str, dict[str, Any]]]) -> list[Event]:
    """Return (kind, body) rows as events of flight time `at_s` [s], named so that a restart does not make one twice."""
    return [
        Event(id=f"{flight_id}:{kind}:{_about(body)}:{at_s:.2f}", kind=kind, at_s=at_s, body=body)
        for kind, body in made
    ]


def _about(body: Mapping[str, Any]) -> str:
    number = body.get("engine", 1)
    return str(body.get("put_back") or body.get("item") or body.get("phase") or ("" if number == 1 else number))


def follow_needles(flight_id: str, profile: Profile, state: FlightState, now: Sample) -> list[Event]:
    """Return the events that one new sample makes: put-backs, and what it says of the lists."""
    made: Made = []
    known = all_known(state, now)
    for put_back in profile.put_backs:
        position = now.levers.get(put_back.lever) if put_back.lever else None
        away = _at_rest(put_back, state, known) if position is None else _is_away(put_back, position, state)
        if away is not None and away != (put_back.id in state.away):
            made.append(("put_back_away" if away else "put_back_back", {"put_back": put_back.id}))
    made += _phase_seen(profile, state, known)
    made += _first_item_seen(profile, state, known)
    made += _contradicted(profile, state, known, now.at_s)
    made += _unproven(profile, state, known)
    return as_events(flight_id, now.at_s, made)


def _is_away(put_back: PutBack, position: float | str, state: FlightState) -> bool:
    return put_back.is_away(position, state.phase) and (state.engine_runs or not put_back.needs_engine)


def _at_rest(put_back: PutBack, state: FlightState, known: Mapping[str, Any]) -> bool | None:
    """Say whether readings show that something is on while the engine stands, or None where they cannot say: what a running
    engine's readings show may be its own, and a bus pulled down by the starter proves nothing. The pilot says that it is off."""
    if not put_back.away_at_rest or state.engine_runs:
        return None
    return True if all(condition.holds(known) is True for condition in put_back.away_at_rest) else None


def _phase_seen(profile: Profile, state: FlightState, known: Mapping[str, Any]) -> Made:
    begun, seen = phase_begun(profile, state.phase, known), state.progress.seen_phase
    if begun and (seen is None or profile.place(begun) > profile.place(seen)):
        return [("phase_seen", {"phase": begun})]
    return []


def _first_item_seen(profile: Profile, state: FlightState, known: Mapping[str, Any]) -> Made:
    """Say so where data alone confirm the item of this moment."""
    phase = profile.phase(state.phase)
    first = next(iter(waiting_items(profile, phase, state.progress, state.known)), None)
    if first is None or state.progress.is_paused:
        return []
    if first.seen_is_enough and first.reading:
        _, value, as_expected = first.reading.worst(known)
        if as_expected:
            return [("item_seen", {"item": first.id, "shown": value})]
    return [("item_seen", {"item": first.id})] if _hands_were_full(profile, state, first) else []


def _hands_were_full(profile: Profile, state: FlightState, item: Item) -> bool:
    """Say whether the needles alone confirm an item of the start, because no hand is free: it fired, oil pressure came."""
    engine = state.engine(item.engine or profile.engines[0][0])
    if item.watch == "start":
        return engine.runs
    is_oil = item.reading is not None and engine_of(item.reading.signal)[1] == "oil_p_psi"
    clock = engine.oil_clock
    is_start = profile.kind_of(state.phase).name == START
    return is_oil and clock is not None and clock.verdict == "seen" and is_start


def _contradicted(profile: Profile, state: FlightState, known: Mapping[str, Any], at_s: float) -> Made:
    """Say which confirmed items of this phase the data contradict."""
    made: Made = []
    for item in (item for one in lists_of(profile.phase(state.phase), state.known) for item in one.items):
        done = state.progress.done.get(item.id)
        if not item.holds or item.reading is None or done is None or at_s - done.at_s < _CONTRADICTS_AFTER_S:
            continue
        signal, value, as_expected = item.reading.worst(known)
        if as_expected is False:
            row = reading_row(signal)
            name, shown = (row.title, row.read_out(value)) if row and value is not None else (signal, str(value))
            note = f"Confirmed as “{item.response}”, but now: {name} {shown}."
            made.append(("item_reopened", {"item": item.id, "note": note}))
    return made


def _unproven(profile: Profile, state: FlightState, known: Mapping[str, Any]) -> Made:
    if not power_rises(profile, state.phase, known):
        return []
    missing = [*unproven(profile, state, known), *(f"STOP: {title_of(stop['kind'])}" for stop in open_stops(state))]
    return [("take_off_unproven", {"missing": missing})] if missing and tuple(missing) != state.warned else []
