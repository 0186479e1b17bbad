"""Profiles, flights and their events. An event's id is made where it arises: the same id twice is kept once."""

import json
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass

from ..core.aircraft import Profile, profile_from_json
from ..core.aircraft.profile import canonical_json
from ..core.flight.fold import Event

_INSERT_PROFILE = "INSERT OR IGNORE INTO profiles (content_hash, profile_id, body) VALUES (?, ?, ?)"
_INSERT_FLIGHT = """
INSERT INTO flights (id, profile_hash, registration, pilot, title, source, started_utc, feed)
VALUES (:id, :profile_hash, :registration, :pilot, :title, :source, :started_utc, :feed)
"""
_INSERT_EVENT = """
INSERT INTO events (flight_id, id, kind, version, at_s, wall_utc, body)
VALUES (?, ?, ?, ?, ?, ?, ?) RETURNING seq
"""
_FLIGHT_COLUMNS = "id, profile_hash, registration, pilot, title, source, started_utc, feed"


class SameIdOtherBody(Exception):
    """An event with this id is already kept, and says something else."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Flight:
    """A flight's row: which profile (by content), which aircraft, who, and where its samples come from."""

    id: str
    profile_hash: str
    registration: str
    pilot: str
    title: str
    source: str
    started_utc: str
    feed: str = ""

    @classmethod
    def from_row(cls, row: sqlite3.Row) -> "Flight":
        """Return the flight in a row of `flights`."""
        return cls(**{name: row[name] for name in cls.__slots__})


def keep_profile(db: sqlite3.Connection, profile: Profile) -> None:
    """Keep a profile by its content; the same content is kept once."""
    db.execute(_INSERT_PROFILE, (profile.content_hash, profile.id, canonical_json(profile.body)))


def profile_by_hash(db: sqlite3.Connection, content_hash: str) -> Profile:
    """Return a kept profile. Raises KeyError if there is none of this content."""
    row = db.execute("SELECT body FROM profiles WHERE content_hash = ?", (content_hash,)).fetchone()
    if row is None:
        raise KeyError(content_hash)
    return profile_from_json(json.loads(row["body"]))


def add_flight(db: sqlite3.Connection, flight: Flight) -> None:
    """Add a flight's row."""
    db.execute(_INSERT_FLIGHT, {name: getattr(flight, name) for name in Flight.__slots__})


def flight_by_id(db: sqlite3.Connection, flight_id: str) -> Flight | None:
    """Return a flight, or None."""
    row = db.execute(f"SELECT {_FLIGHT_COLUMNS} FROM flights WHERE id = ?", (flight_id,)).fetchone()
    return Flight.from_row(row) if row else None


def all_flights(db: sqlite3.Connection) -> list[Flight]:
    """Return all flights, newest first."""
    rows = db.execute(f"SELECT {_FLIGHT_COLUMNS} FROM flights ORDER BY started_utc DESC, id DESC")
    return [Flight.from_row(row) for row in rows]


def open_flight(db: sqlite3.Connection) -> Flight | None:
    """Return the newest flight with a feed or by hand that was begun and not ended, or None."""
    sql = f"""
    SELECT {_FLIGHT_COLUMNS} FROM flights
    WHERE source IN ('bench', 'manual')
      AND NOT EXISTS (SELECT 1 FROM events WHERE flight_id = flights.id AND kind = 'flight_ended')
    ORDER BY started_utc DESC LIMIT 1
    """
    row = db.execute(sql).fetchone()
    return Flight.from_row(row) if row else None


def add_event(db: sqlite3.Connection, flight_id: str, event: Event) -> tuple[int, bool]:
    """Keep an event; return (its seq, whether it is new).

    Raises:
        SameIdOtherBody: an event with this id says something else.
    """
    body = canonical_json(event.body)
    sql = "SELECT seq, kind, body FROM events WHERE flight_id = ? AND id = ?"
    row = db.execute(sql, (flight_id, event.id)).fetchone()
    if row is not None:
        if (row["kind"], row["body"]) != (event.kind, body):
            raise SameIdOtherBody(event.id)
        return int(row["seq"]), False
    values = (flight_id, event.id, event.kind, event.version, event.at_s, event.wall_utc, body)
    return int(db.execute(_INSERT_EVENT, values).fetchone()["seq"]), True


def events_of(db: sqlite3.Connection, flight_id: str, after_seq: int = 0) -> Sequence[Event]:
    """Return a flight's events in order, those after `after_seq`."""
    sql = """
    SELECT seq, id, kind, version, at_s, wall_utc, body FROM events
    WHERE flight_id = ? AND seq > ? ORDER BY seq
    """
    return [_event(row) for row in db.execute(sql, (flight_id, after_seq))]


def _event(row: sqlite3.Row) -> Event:
    return Event(
        id=row["id"],
        kind=row["kind"],
        at_s=row["at_s"],
        body=json.loads(row["body"]),
        seq=row["seq"],
        wall_utc=row["wall_utc"],
        version=row["version"],
    )


def events_of_aircraft(
    db: sqlite3.Connection, registration: str, kinds: Sequence[str], but: str = ""
) -> list[tuple[str, str, list[Event]]]:
    """Return (flight, its day, its events of these kinds) of an aircraft's flights, oldest first, without `but`."""
    marks = ", ".join("?" * len(kinds))
    sql = f"""
    SELECT events.*, flights.started_utc FROM events JOIN flights ON flights.id = events.flight_id
    WHERE flights.registration = ? AND flights.id <> ? AND events.kind IN ({marks})
    ORDER BY flights.started_utc, events.seq
    """
    rows: dict[str, tuple[str, list[Event]]] = {}
    for row in db.execute(sql, (registration, but, *kinds)):
        _, events = rows.setdefault(row["flight_id"], (row["started_utc"][:10], []))
        events.append(_event(row))
    return [(flight, day, events) for flight, (day, events) in rows.items()]
