"""From events to the state: a flight is an append-only list, and everything shown follows from it. No clock and no database.

`fold` gives the state, `step` moves it by one event, `undo` is an event that names another.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from itertools import islice
from typing import Any

from ..aircraft import Profile
from ..base.errors import EventError
from ..base.names import check_known
from . import (  # noqa: F401  (each registers its kinds)
    drill_events,
    fuel_events,
    list_events,
    needle_events,
    pilot_events,
    start_events,
    watch_events,
)
from .events import EVENTS, Body, Event, Sender, pilot_kinds, read_body, step
from .state import FlightState


def fold(profile: Profile, events: Iterable[Event]) -> FlightState:
    """Return the state after all events in order of `seq`; an undone pilot event counts as never made."""
    ordered = sorted(events, key=lambda event: event.seq)
    undone = undone_ids(ordered)
    state = first_state(profile)
    for event in ordered:
        if event.id not in undone:
            state = step(profile, state, event)
        state = replace(state, last_seq=event.seq)
    return state


def first_state(profile: Profile) -> FlightState:
    """Return the state of a flight before anything happened."""
    return FlightState(phase=profile.phases[0].id)


def undone_ids(events: Iterable[Event]) -> set[str]:
    """Return the ids of pilot events that an `undo` names; undoing twice, an undo or an unknown id changes nothing."""
    events = list(events)
    undos = {str(event.body.get("event")) for event in events if event.kind == "undo"}
    return {event.id for event in events if event.id in undos and _is_pilots(event.kind) and event.kind != "undo"}


def _is_pilots(kind: str) -> bool:
    cls = EVENTS.get(kind)
    return cls is not None and cls.SENDER is Sender.PILOT


def last_undoable(events: Iterable[Event]) -> Event | None:
    """Return the pilot event that backspace takes back: the last that is neither undone nor an undo."""
    return next(_undoable(list(events)), None)


def undoable_ids(events: Sequence[Event], most: int) -> tuple[str, ...]:
    """Return the ids of the newest `most` pilot events that can be taken back, newest first."""
    return tuple(event.id for event in islice(_undoable(events), most))


def _undoable(events: Sequence[Event]) -> Iterator[Event]:
    undone = undone_ids(events)
    can_be = (e for e in reversed(events) if _is_pilots(e.kind) and EVENTS[e.kind].CAN_UNDO)
    return (e for e in can_be if e.id not in undone)


def is_ended(events: Iterable[Event]) -> bool:
    """Say whether a flight has ended, an end that was taken back counting as never made."""
    events = list(events)
    undone = undone_ids(events)
    return any(event.kind == "flight_ended" and event.id not in undone for event in events)


def check_pilot_event(profile: Profile, state: FlightState, kind: str, body: Mapping[str, Any]) -> Body:
    """Return what a pilot says, if it may be said now.

    Raises:
        EventError: there is no such kind, something is missing or not known, or it cannot be said now.
    """
    check_known("event", kind, pilot_kinds(), EventError)
    cls = EVENTS[kind]
    if state.ended and not cls.AFTER_END:
        raise EventError("This flight has ended; begin a new one.")
    try:
        said = cls.from_kept(body, cls.VERSION)
    except KeyError as error:
        raise EventError(f"Event {kind!r} needs `{error.args[0]}`.") from error
    said.check(profile, state)
    return said


__all__ = [
    "Event",
    "check_pilot_event",
    "first_state",
    "fold",
    "is_ended",
    "last_undoable",
    "read_body",
    "step",
    "undoable_ids",
    "undone_ids",
]
