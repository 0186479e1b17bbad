"""The photo of an aircraft's panel and the spots of its controls."""

import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass

_PUT = """
INSERT INTO panels (profile_id, jpeg, width, height, added_utc) VALUES (?, ?, ?, ?, ?)
ON CONFLICT (profile_id) DO UPDATE SET jpeg = excluded.jpeg, width = excluded.width, height = excluded.height,
  added_utc = excluded.added_utc
"""


@dataclass(frozen=True, slots=True, kw_only=True)
class Photo:
    """A photo as a JPEG, with its size in pixels."""

    jpeg: bytes
    width: int
    height: int


def put_photo(db: sqlite3.Connection, profile_id: str, photo: Photo, added_utc: str) -> None:
    """Keep the photo of an aircraft's panel in the place of the one before; its spots stay."""
    db.execute(_PUT, (profile_id, photo.jpeg, photo.width, photo.height, added_utc))


def photo_of(db: sqlite3.Connection, profile_id: str) -> Photo | None:
    """Return the photo of an aircraft's panel, or None."""
    row = db.execute("SELECT jpeg, width, height FROM panels WHERE profile_id = ?", (profile_id,)).fetchone()
    return Photo(jpeg=row["jpeg"], width=row["width"], height=row["height"]) if row else None


def photo_size(db: sqlite3.Connection, profile_id: str) -> tuple[int, int] | None:
    """Return the size of an aircraft's photo [pixels], or None where it has none."""
    row = db.execute("SELECT width, height FROM panels WHERE profile_id = ?", (profile_id,)).fetchone()
    return (row["width"], row["height"]) if row else None


def drop_photo(db: sqlite3.Connection, profile_id: str) -> None:
    """Forget an aircraft's photo and its spots."""
    db.execute("DELETE FROM panels WHERE profile_id = ?", (profile_id,))
    db.execute("DELETE FROM spots WHERE profile_id = ?", (profile_id,))


def put_spots(db: sqlite3.Connection, profile_id: str, spots: Mapping[str, tuple[float, float]]) -> None:
    """Keep where each control is on the photo (from its left and its top edge, 0 to 1), in the place of all before."""
    db.execute("DELETE FROM spots WHERE profile_id = ?", (profile_id,))
    rows = [(profile_id, control, x, y) for control, (x, y) in spots.items()]
    db.executemany("INSERT INTO spots (profile_id, control, x, y) VALUES (?, ?, ?, ?)", rows)


def spots_of(db: sqlite3.Connection, profile_id: str) -> dict[str, tuple[float, float]]:
    """Return where each control is on the photo."""
    rows = db.execute("SELECT control, x, y FROM spots WHERE profile_id = ? ORDER BY control", (profile_id,))
    return {row["control"]: (row["x"], row["y"]) for row in rows}
