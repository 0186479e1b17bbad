"""Small builders for tests of flights: events in order, a moment of needles, a profile with one thing changed."""

import copy

from jemmon.core.aircraft import Profile, profile_from_json
from jemmon.core.flight.fold import Event
from jemmon.core.live.following import Now
from jemmon.library.shipped import shipped_profiles

PROFILES = shipped_profiles()


def events(*rows: tuple, step_s: float = 1.0) -> list[Event]:
    """Events in order, one a second: (kind, body) or (kind, body, at_s)."""
    made = []
    for number, row in enumerate(rows, 1):
        at_s = row[2] if len(row) > 2 else number * step_s
        made.append(Event(id=f"e{number}", kind=row[0], at_s=float(at_s), body=row[1], seq=number))
    return made


def needles(at_s: float = 0.0, levers: dict | None = None, **readings: float) -> Now:
    """One sample."""
    return Now(at_s=at_s, readings=readings, levers=levers or {})


def changed(profile_id: str, change) -> Profile:
    """A shipped profile with its JSON changed by a function."""
    body = copy.deepcopy(dict(PROFILES[profile_id].body))
    change(body)
    return profile_from_json(body)


def find_item(body: dict, item_id: str) -> dict:
    """The JSON of an item."""
    return next(i for p in body["phases"] for one in p["lists"] for i in one["items"] if i["id"] == item_id)
