"""Profiles, flights and their events. An event's id is made where it arises: the same id twice is kept once."""

import json
import sqlite3
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from functools import lru_cache

from ..core.aircraft import Profile, profile_from_json
from ..core.aircraft.profile import canonical_json, refused_profile
from ..core.base.errors import ProfileError
from ..core.flight.events import Event
from ..core.screen.record import FlightLine, FlightSummary

_INSERT_PROFILE = "INSERT OR IGNORE INTO profiles (content_hash, profile_id, body) VALUES (?, ?, ?)"
_INSERT_FLIGHT = """
INSERT INTO flights (id, profile_hash, registration, pilot, title, source, started_utc, feed)
VALUES (:id, :profile_hash, :registration, :pilot, :title, :source, :started_utc, :feed)
"""
_INSERT_EVENT = """
INSERT INTO events (flight_id, id, kind, version, at_s, wall_utc, body)
VALUES (?, ?, ?, ?, ?, ?, ?) RETURNING seq
"""
_LINES = """
SELECT f.id, p.profile_id, f.registration, f.pilot, f.title, f.source, f.started_utc,
       s.ended, s.findings, s.verdict, s.drop_left_rpm, s.drop_right_rpm
FROM flights AS f JOIN profiles AS p ON p.content_hash = f.profile_hash
LEFT JOIN flight_summaries AS s ON s.flight_id = f.id
"""
_PUT_SUMMARY = """
INSERT INTO flight_summaries (flight_id, ended, findings, verdict, drop_left_rpm, drop_right_rpm, last_seq)
VALUES (:flight_id, :ended, :findings, :verdict, :drop_left_rpm, :drop_right_rpm, :last_seq)
ON CONFLICT (flight_id) DO UPDATE SET ended = excluded.ended, findings = excluded.findings, verdict = excluded.verdict,
  drop_left_rpm = excluded.drop_left_rpm, drop_right_rpm = excluded.drop_right_rpm, last_seq = excluded.last_seq
"""
_FLIGHT_COLUMNS = "id, profile_hash, registration, pilot, title, source, started_utc, feed"

# what an aircraft's pages and its advice look back on; an engine of hundreds of flights ago was another one
NEWEST = 100


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
    """Return a kept profile, read once for each content. Raises KeyError if there is none of this content."""
    row = db.execute("SELECT body FROM profiles WHERE content_hash = ?", (content_hash,)).fetchone()
    if row is None:
        raise KeyError(content_hash)
    return read_profile(row["body"])


@lru_cache(maxsize=256)
def read_profile(body: str) -> Profile:
    """Return a kept profile; of one that today's rules refuse what can be shown (`refused` says why)."""
    try:
        return profile_from_json(json.loads(body))
    except ProfileError as error:
        return refused_profile(json.loads(body), str(error))


def add_flight(db: sqlite3.Connection, flight: Flight) -> None:
    """Add a flight's row."""
    db.execute(_INSERT_FLIGHT, {name: getattr(flight, name) for name in Flight.__slots__})


def flight_by_id(db: sqlite3.Connection, flight_id: str) -> Flight | None:
    """Return a flight, or None."""
    row = db.execute(f"SELECT {_FLIGHT_COLUMNS} FROM flights WHERE id = ?", (flight_id,)).fetchone()
    return Flight.from_row(row) if row else None


def flight_lines(
    db: sqlite3.Connection, limit: int = -1, offset: int = 0, registration: str | None = None
) -> list[FlightLine]:
    """Return flights (of one registration, or all) with what a list shows of them, newest first: `limit` of them (all below 0)
    after the first `offset`."""
    where = "" if registration is None else "WHERE f.registration = ?"
    own = () if registration is None else (registration,)
    sql = f"{_LINES} {where} ORDER BY f.started_utc DESC, f.id DESC LIMIT ? OFFSET ?"
    rows = db.execute(sql, (*own, limit, offset))
    return [_line(row) for row in rows]


def flight_line(db: sqlite3.Connection, flight_id: str) -> FlightLine | None:
    """Return one flight as a list shows it, or None."""
    row = db.execute(f"{_LINES} WHERE f.id = ?", (flight_id,)).fetchone()
    return _line(row) if row else None


def count_flights(db: sqlite3.Connection, registration: str | None = None) -> int:
    """Return how many flights are kept, of one registration or in all."""
    sql = "SELECT count(*) AS n FROM flights WHERE ?1 IS NULL OR registration = ?1"
    return int(db.execute(sql, (registration,)).fetchone()["n"])


def _line(row: sqlite3.Row) -> FlightLine:
    return FlightLine(
        id=row["id"],
        aircraft=row["profile_id"],
        registration=row["registration"],
        pilot=row["pilot"],
        title=row["title"],
        source=row["source"],
        started_utc=row["started_utc"],
        ended=bool(row["ended"]),
        findings=row["findings"] or 0,
        verdict=row["verdict"],
        drop_left_rpm=row["drop_left_rpm"],
        drop_right_rpm=row["drop_right_rpm"],
    )


def put_summary(db: sqlite3.Connection, flight_id: str, summary: FlightSummary) -> None:
    """Keep what a list shows of a flight."""
    db.execute(_PUT_SUMMARY, {"flight_id": flight_id, **asdict(summary)})


def without_summary(db: sqlite3.Connection) -> list[Flight]:
    """Return the flights whose summary is not kept, or is older than their last event."""
    sql = f"""
    SELECT {_FLIGHT_COLUMNS} FROM flights LEFT JOIN flight_summaries AS s ON s.flight_id = id
    WHERE s.flight_id IS NULL
       OR s.last_seq < (SELECT coalesce(max(seq), 0) FROM events WHERE events.flight_id = flights.id)
    """
    return [Flight.from_row(row) for row in db.execute(sql)]


def open_flight(db: sqlite3.Connection) -> Flight | None:
    """Return the newest flight with a feed or by hand that was begun and has not ended, or None. What ended means, the core
    says: its summary is read."""
    sql = f"""
    SELECT {_FLIGHT_COLUMNS} FROM flights JOIN flight_summaries AS s ON s.flight_id = id
    WHERE source IN ('bench', 'manual') AND NOT s.ended
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
    db: sqlite3.Connection, registration: str, kinds: Sequence[str], but: str = "", newest: int = NEWEST
) -> list[tuple[str, str, list[Event]]]:
    """Return (flight, its day, its events of these kinds) of the `newest` flights of an aircraft, oldest first, without `but`."""
    marks = ", ".join("?" * len(kinds))
    sql = f"""
    SELECT events.*, own.started_utc FROM events JOIN (
      SELECT id, started_utc FROM flights WHERE registration = ? AND id <> ? ORDER BY started_utc DESC, id DESC LIMIT ?
    ) AS own ON own.id = events.flight_id
    WHERE events.kind IN ({marks})
    ORDER BY own.started_utc, events.seq
    """
    rows: dict[str, tuple[str, list[Event]]] = {}
    for row in db.execute(sql, (registration, but, newest, *kinds)):
        _, events = rows.setdefault(row["flight_id"], (row["started_utc"][:10], []))
        events.append(_event(row))
    return [(flight, day, events) for flight, (day, events) in rows.items()]
