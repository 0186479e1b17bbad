"""The scores of flown drills."""

import json
import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass

_PUT = """
INSERT INTO drill_scores (flight_id, drill, pilot, flown_utc, total, by_skill, fact) VALUES (?, ?, ?, ?, ?, ?, ?)
ON CONFLICT (flight_id) DO UPDATE SET total = excluded.total, by_skill = excluded.by_skill, fact = excluded.fact
"""


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptScore:
    """How a drill was flown once: `flown_utc` in ISO 8601, `total` and `by_skill` from 0 to 100."""

    flight: str
    drill: str
    pilot: str
    flown_utc: str
    total: int
    by_skill: Mapping[str, int]
    fact: str


def put_score(db: sqlite3.Connection, score: KeptScore) -> None:
    """Keep the score of a flight, or the one that it has now."""
    row = (
        score.flight,
        score.drill,
        score.pilot,
        score.flown_utc,
        score.total,
        json.dumps(dict(score.by_skill)),
        score.fact,
    )
    db.execute(_PUT, row)


def scores_of(db: sqlite3.Connection, pilot: str) -> list[KeptScore]:
    """Return a pilot's scores, oldest first, without those of flights that are taken out of the records."""
    sql = """
    SELECT s.* FROM drill_scores s JOIN flights f ON f.id = s.flight_id
    WHERE s.pilot = ? AND f.hidden_utc IS NULL ORDER BY s.flown_utc, s.rowid
    """
    return [_score(row) for row in db.execute(sql, (pilot,)).fetchall()]


def _score(row: sqlite3.Row) -> KeptScore:
    return KeptScore(
        flight=row["flight_id"],
        drill=row["drill"],
        pilot=row["pilot"],
        flown_utc=row["flown_utc"],
        total=row["total"],
        by_skill=json.loads(row["by_skill"]),
        fact=row["fact"],
    )
