"""The starts in a flight's events, those of taps by hand among them."""

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from ..aircraft import Profile
from ..start.story import StartStory, Told, stories
from .events import Event
from .fold import first_state, step, undone_ids
from .start_events import told_by_tap

KINDS = ("engine_fired", "start_failed", "engine_stopped", "oil_pressure_seen", "oil_pressure_missing")
_FOLLOWED = (
    *(
        "cranking_began",
        "cranking_ended",
        "engine_fired",
        "engine_stopped",
        "oil_pressure_seen",
        "oil_pressure_missing",
    ),
    *("charging", "not_charging", "alternator_2_in", "alternator_2_missing"),
)
_MOVES = (
    *("start_tap", "prime_stroke", "primed", "weather", "engine_fired", "engine_stopped", "start_failed"),
    *("timer_started", "item_done"),
)
READ_KINDS = (*KINDS, *_MOVES, "undo")
ONLY_BESIDE = (
    ("item_done", "start_tap"),
)  # the many confirmed items say something of a start only where it was tapped


def told_starts(profile: Profile, events: Sequence[Event]) -> list[tuple[str, Mapping[str, Any]]]:
    """Return the (kind, body) rows of the starts in a flight's events, those of taps by hand among them."""
    undone = undone_ids(events)
    standing = [event for event in events if event.id not in undone]
    if not any(event.kind == "start_tap" for event in standing):  # the needles told everything: nothing to be followed
        return [(event.kind, event.body) for event in standing if event.kind in KINDS]
    state = first_state(profile)
    told: list[tuple[str, Mapping[str, Any]]] = []
    for event in standing:
        if event.kind == "start_tap":
            told += told_by_tap(profile, state, event)
        elif event.kind in KINDS:
            told.append((event.kind, event.body))
        if event.kind in _MOVES:
            state = step(profile, state, event)
    return [(kind, body) for kind, body in told if kind in KINDS]


def flown_starts(events: Iterable[Event], engine: int, until_s: float) -> tuple[StartStory, ...]:
    """Return the starts of one engine that a live flight has followed by its needles, up to flight time `until_s` [s]."""
    told: list[Told] = [
        (event.at_s, event.kind, event.body)
        for event in events
        if event.kind in _FOLLOWED and int(event.body.get("engine", 1)) == engine
    ]
    return stories(told, until_s)
