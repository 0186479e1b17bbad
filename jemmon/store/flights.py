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
from ..core.screen.aircraft import LastFlown
from ..core.screen.record import PRACTICE, EngineDrops, FlightKind, FlightLine, FlightSummary

_INSERT_PROFILE = "INSERT OR IGNORE INTO profiles (content_hash, profile_id, body) VALUES (?, ?, ?)"
_INSERT_FLIGHT = """
INSERT INTO flights (id, profile_hash, registration, pilot, title, source, started_utc, feed, kind)
VALUES (:id, :profile_hash, :registration, :pilot, :title, :source, :started_utc, :feed, :kind)
"""
_INSERT_EVENT = """
INSERT INTO events (flight_id, id, kind, version, at_s, wall_utc, body)
VALUES (?, ?, ?, ?, ?, ?, ?) RETURNING seq
"""
_LINES = """
SELECT f.id, p.profile_id, f.registration, f.pilot, f.title, f.source, f.kind, f.started_utc, f.note, f.hidden_utc,
       s.ended, s.findings, s.verdict, s.drop_left_rpm, s.drop_right_rpm, s.length_s, s.drops
FROM flights AS f JOIN profiles AS p ON p.content_hash = f.profile_hash
LEFT JOIN flight_summaries AS s ON s.flight_id = f.id
"""
_PUT_SUMMARY = """
INSERT INTO flight_summaries (flight_id, ended, findings, verdict, drop_left_rpm, drop_right_rpm, last_seq, length_s, drops)
VALUES (:flight_id, :ended, :findings, :verdict, :drop_left_rpm, :drop_right_rpm, :last_seq, :length_s, :drops)
ON CONFLICT (flight_id) DO UPDATE SET ended = excluded.ended, findings = excluded.findings, verdict = excluded.verdict,
  drop_left_rpm = excluded.drop_left_rpm, drop_right_rpm = excluded.drop_right_rpm, last_seq = excluded.last_seq,
  length_s = excluded.length_s, drops = excluded.drops
"""
_FLIGHT_COLUMNS = "id, profile_hash, registration, pilot, title, source, started_utc, feed, kind"
_IS_PRACTICE = "kind IN ('" + "', '".join(PRACTICE) + "')"

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
    kind: FlightKind = "practice"

    @property
    def is_practice(self) -> bool:
        """Say whether it was flown on a simulated engine for practice."""
        return self.kind in PRACTICE

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


@dataclass(frozen=True, slots=True, kw_only=True)
class Wanted:
    """Which flights a list shows: of a registration, kind, gravest verdict, from and to a day (YYYY-MM-DD); hidden ones
    or the others."""

    registration: str | None = None
    kind: str | None = None
    verdict: str | None = None
    since: str | None = None
    until: str | None = None
    hidden: bool = False

    def where(self) -> tuple[str, list[str]]:
        """Return (the condition in SQL, its values)."""
        rows = [
            ("f.registration = ?", self.registration),
            ("f.kind = ?", self.kind),
            ("s.verdict = ?", self.verdict),
            ("f.started_utc >= ?", self.since),
            ("substr(f.started_utc, 1, 10) <= ?", self.until),
        ]
        given = [(text, value) for text, value in rows if value is not None]
        hidden = f"f.hidden_utc IS {'NOT ' if self.hidden else ''}NULL"
        return " AND ".join([hidden, *(text for text, _ in given)]), [value for _, value in given]


def flight_lines(
    db: sqlite3.Connection, limit: int = -1, offset: int = 0, wanted: Wanted = Wanted()
) -> list[FlightLine]:
    """Return the flights that are wanted with what a list shows of them, newest first: `limit` of them (all below 0) after the
    first `offset`."""
    where, values = wanted.where()
    sql = f"{_LINES} WHERE {where} ORDER BY f.started_utc DESC, f.id DESC LIMIT ? OFFSET ?"
    return [_line(row) for row in db.execute(sql, (*values, limit, offset))]


def flight_line(db: sqlite3.Connection, flight_id: str) -> FlightLine | None:
    """Return one flight as a list shows it, or None."""
    row = db.execute(f"{_LINES} WHERE f.id = ?", (flight_id,)).fetchone()
    return _line(row) if row else None


def count_flights(db: sqlite3.Connection, wanted: Wanted = Wanted()) -> int:
    """Return how many flights are kept of those that are wanted."""
    where, values = wanted.where()
    sql = f"SELECT count(*) AS n FROM flights AS f LEFT JOIN flight_summaries AS s ON s.flight_id = f.id WHERE {where}"
    return int(db.execute(sql, values).fetchone()["n"])


def last_flown(db: sqlite3.Connection) -> list[LastFlown]:
    """Return the last flight of each aircraft that has one."""
    sql = """
    SELECT f.registration, max(f.started_utc) AS started_utc, s.verdict
    FROM flights AS f LEFT JOIN flight_summaries AS s ON s.flight_id = f.id
    WHERE f.hidden_utc IS NULL GROUP BY f.registration
    """
    return [LastFlown(**dict(row)) for row in db.execute(sql)]


def count_by_use(db: sqlite3.Connection, registration: str) -> tuple[int, int]:
    """Return how many flights of a registration are (real, practice), without hidden ones."""
    sql = f"""
    SELECT sum(NOT {_IS_PRACTICE}) AS own, sum({_IS_PRACTICE}) AS practised FROM flights
    WHERE registration = ? AND hidden_utc IS NULL
    """
    row = db.execute(sql, (registration,)).fetchone()
    return int(row["own"] or 0), int(row["practised"] or 0)


def hide_flight(db: sqlite3.Connection, flight_id: str, since_utc: str | None) -> None:
    """Take a flight out of the records since a time, or bring it back (None)."""
    db.execute("UPDATE flights SET hidden_utc = ? WHERE id = ?", (since_utc, flight_id))


def put_note(db: sqlite3.Connection, flight_id: str, note: str) -> None:
    """Keep the pilot's note of a flight."""
    db.execute("UPDATE flights SET note = ? WHERE id = ?", (note, flight_id))


def hidden_ids(db: sqlite3.Connection) -> list[str]:
    """Return the ids of the flights that are out of the records."""
    return [row["id"] for row in db.execute("SELECT id FROM flights WHERE hidden_utc IS NOT NULL")]


def demo_ids(db: sqlite3.Connection) -> list[str]:
    """Return the flights that the demo brought, which may be made anew."""
    return [row["id"] for row in db.execute("SELECT id FROM flights WHERE kind = 'demo' AND id LIKE 'demo-%'")]


def remove_flights(db: sqlite3.Connection, ids: Sequence[str]) -> None:
    """Remove flights for good, with all that is kept of them."""
    rows = [(flight_id,) for flight_id in ids]
    for table in ("events", "sample_blocks", "bench_states", "trace_files", "flight_summaries", "drill_scores"):
        db.executemany(f"DELETE FROM {table} WHERE flight_id = ?", rows)
    db.executemany("DELETE FROM flights WHERE id = ?", rows)


def _line(row: sqlite3.Row) -> FlightLine:
    return FlightLine(
        id=row["id"],
        aircraft=row["profile_id"],
        registration=row["registration"],
        pilot=row["pilot"],
        title=row["title"],
        source=row["source"],
        kind=row["kind"],
        is_practice=row["kind"] in PRACTICE,
        started_utc=row["started_utc"],
        length_s=row["length_s"] or 0.0,
        note=row["note"],
        hidden=row["hidden_utc"] is not None,
        ended=bool(row["ended"]),
        findings=row["findings"] or 0,
        verdict=row["verdict"],
        drop_left_rpm=row["drop_left_rpm"],
        drop_right_rpm=row["drop_right_rpm"],
        drops=_drops(row),
    )


def _drops(row: sqlite3.Row) -> tuple[EngineDrops, ...]:
    """Return the drops of each engine; a summary of an earlier version has those of one."""
    kept = tuple(EngineDrops(**one) for one in json.loads(row["drops"] or "[]"))
    left, right = row["drop_left_rpm"], row["drop_right_rpm"]
    if kept or (left is None and right is None):
        return kept
    return (EngineDrops(engine=None, first_rpm=left, second_rpm=right),)


def put_summary(db: sqlite3.Connection, flight_id: str, summary: FlightSummary) -> None:
    """Keep what a list shows of a flight."""
    fields = asdict(summary)
    db.execute(_PUT_SUMMARY, {"flight_id": flight_id, **fields, "drops": json.dumps(fields["drops"])})


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
    db: sqlite3.Connection,
    registration: str,
    kinds: Sequence[str],
    *,
    practice: bool,
    but: str = "",
    newest: int = NEWEST,
    only_beside: Sequence[tuple[str, str]] = (),
) -> list[tuple[str, str, list[Event]]]:
    """Return (flight, its day, its events of these kinds) of the `newest` flights of an aircraft, oldest first, without `but` and
    hidden ones: those for practice, or the real ones. `only_beside`: kinds that are read only of flights which have another kind,
    for the many that are then of no use."""
    marks = ", ".join("?" * len(kinds))
    beside = "".join(
        " AND (events.kind <> ? OR EXISTS (SELECT 1 FROM events AS other WHERE other.flight_id = own.id AND other.kind = ?))"
        for _ in only_beside
    )
    sql = f"""
    SELECT events.*, own.started_utc FROM events JOIN (
      SELECT id, started_utc FROM flights WHERE registration = ? AND id <> ? AND hidden_utc IS NULL AND {_IS_PRACTICE} = ?
      ORDER BY started_utc DESC, id DESC LIMIT ?
    ) AS own ON own.id = events.flight_id
    WHERE events.kind IN ({marks}){beside}
    ORDER BY own.started_utc, events.seq
    """
    rows: dict[str, tuple[str, list[Event]]] = {}
    pairs = (name for pair in only_beside for name in pair)
    for row in db.execute(sql, (registration, but, int(practice), newest, *kinds, *pairs)):
        _, events = rows.setdefault(row["flight_id"], (row["started_utc"][:10], []))
        events.append(_event(row))
    return [(flight, day, events) for flight, (day, events) in rows.items()]
