"""Small builders for tests of flights: events in order, a moment of needles, a profile with one thing changed."""

import copy
from collections.abc import Mapping
from dataclasses import fields, is_dataclass
from typing import Any

from jemmon.core.aircraft import Profile, profile_from_json
from jemmon.core.flight.events import Event
from jemmon.core.flight.state import FlightState
from jemmon.core.screen.frame import describe
from jemmon.core.trace.sample import Sample
from jemmon.library.shipped import shipped_profiles

PROFILES = shipped_profiles()


def events(*rows: tuple, step_s: float = 1.0) -> list[Event]:
    """Events in order, one a second: (kind, body) or (kind, body, at_s)."""
    made = []
    for number, row in enumerate(rows, 1):
        at_s = row[2] if len(row) > 2 else number * step_s
        made.append(Event(id=f"e{number}", kind=row[0], at_s=float(at_s), body=row[1], seq=number))
    return made


def needles(at_s: float = 0.0, levers: dict | None = None, **readings: float) -> Sample:
    """One sample."""
    return Sample(at_s=at_s, readings=readings, levers=levers or {})


def changed(profile_id: str, change) -> Profile:
    """A shipped profile with its JSON changed by a function."""
    body = copy.deepcopy(dict(PROFILES[profile_id].body))
    change(body)
    return profile_from_json(body)


def find_item(body: dict, item_id: str) -> dict:
    """The JSON of an item."""
    return next(i for p in body["phases"] for one in p["lists"] for i in one["items"] if i["id"] == item_id)


def data(value: Any) -> Any:
    """A value of the core as plain data, as it goes over the wire: dictionaries and lists."""
    if is_dataclass(value) and not isinstance(value, type):
        return {f.name: data(getattr(value, f.name)) for f in fields(value)}
    if isinstance(value, Mapping):
        return {key: data(part) for key, part in value.items()}
    if isinstance(value, tuple | list):
        return [data(part) for part in value]
    return value


def screen_of(profile: Profile, state: FlightState, now: Sample | None, at_s: float, **more: Any) -> dict[str, Any]:
    """What the flight screen shows at a moment, as plain data."""
    return dict(data(describe(profile, state, now, at_s, **more)))
