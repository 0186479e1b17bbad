"""Aircraft whose profiles were made or read in; each names the content that counts now, and every version before it is kept."""

import json
import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..core.aircraft import Profile
from ..core.aircraft.profile import canonical_json
from .flights import keep_profile, profile_by_hash, read_profile

_PUT = """
INSERT INTO aircraft (profile_id, content_hash, imported_utc) VALUES (?, ?, ?)
ON CONFLICT (profile_id) DO UPDATE SET content_hash = excluded.content_hash, imported_utc = excluded.imported_utc
"""
_ALL = """
SELECT profiles.body FROM aircraft JOIN profiles ON profiles.content_hash = aircraft.content_hash
ORDER BY aircraft.profile_id
"""
_ADD_VERSION = """
INSERT INTO versions (profile_id, number, content_hash, note, who, saved_utc)
SELECT :profile_id, coalesce(max(number), 0) + 1, :content_hash, :note, :who, :saved_utc
FROM versions WHERE profile_id = :profile_id RETURNING number
"""
_PUT_DRAFT = """
INSERT INTO drafts (profile_id, body, saved_utc) VALUES (?, ?, ?)
ON CONFLICT (profile_id) DO UPDATE SET body = excluded.body, saved_utc = excluded.saved_utc
"""
_SIGN = """
INSERT INTO signatures (profile_id, limit_name, value, who, signed_on) VALUES (?, ?, ?, ?, ?)
ON CONFLICT (profile_id, limit_name, value) DO UPDATE SET who = excluded.who, signed_on = excluded.signed_on
"""
_PUT_ADDITION = """
INSERT INTO additions (profile_id, pilot, list_id, items) VALUES (?, ?, ?, ?)
ON CONFLICT (profile_id, pilot, list_id) DO UPDATE SET items = excluded.items
"""


@dataclass(frozen=True, slots=True, kw_only=True)
class Version:
    """One content that counted for an aircraft: its number from 1, what was said of it, by whom, and when."""

    number: int
    content_hash: str
    note: str
    who: str
    saved_utc: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Signature:
    """Who has held a limit's figure [its core unit] against the handbook, and on which day."""

    limit: str
    value: float
    who: str
    signed_on: str


def put_aircraft(
    db: sqlite3.Connection, profile: Profile, saved_utc: str, note: str = "Read in", who: str = ""
) -> None:
    """Let this profile count for its id from now on, as a version of its own; the same content again is none."""
    keep_profile(db, profile)
    newest = versions_of(db, profile.id)
    if not newest or newest[0].content_hash != profile.content_hash:
        row = {"profile_id": profile.id, "content_hash": profile.content_hash, "note": note, "who": who}
        db.execute(_ADD_VERSION, {**row, "saved_utc": saved_utc}).fetchone()
    db.execute(_PUT, (profile.id, profile.content_hash, saved_utc))


def imported_aircraft(db: sqlite3.Connection) -> list[Profile]:
    """Return the profiles that were read in; of one that today's rules refuse what can be shown (`refused` says why)."""
    return [read_profile(row["body"]) for row in db.execute(_ALL)]


def versions_of(db: sqlite3.Connection, profile_id: str) -> list[Version]:
    """Return the versions of an aircraft, the newest first."""
    rows = db.execute(
        "SELECT number, content_hash, note, who, saved_utc FROM versions WHERE profile_id = ? ORDER BY number DESC",
        (profile_id,),
    )
    return [Version(**dict(row)) for row in rows]


def profile_of_version(db: sqlite3.Connection, profile_id: str, number: int) -> Profile:
    """Return an aircraft's profile as a version has it. Raises KeyError if there is none of this number."""
    row = db.execute(
        "SELECT content_hash FROM versions WHERE profile_id = ? AND number = ?", (profile_id, number)
    ).fetchone()
    if row is None:
        raise KeyError(number)
    return profile_by_hash(db, row["content_hash"])


def put_draft(db: sqlite3.Connection, profile_id: str, body: Mapping[str, Any], saved_utc: str) -> None:
    """Keep what is being written for an aircraft, whatever is wrong with it."""
    db.execute(_PUT_DRAFT, (profile_id, canonical_json(body), saved_utc))


def draft_of(db: sqlite3.Connection, profile_id: str) -> dict[str, Any] | None:
    """Return what is being written for an aircraft, or None."""
    row = db.execute("SELECT body FROM drafts WHERE profile_id = ?", (profile_id,)).fetchone()
    return json.loads(row["body"]) if row else None


def drop_draft(db: sqlite3.Connection, profile_id: str) -> None:
    """Forget what was being written for an aircraft."""
    db.execute("DELETE FROM drafts WHERE profile_id = ?", (profile_id,))


def sign(db: sqlite3.Connection, profile_id: str, signature: Signature) -> None:
    """Keep that a limit's figure was held against the handbook."""
    db.execute(_SIGN, (profile_id, signature.limit, signature.value, signature.who, signature.signed_on))


def signatures_of(db: sqlite3.Connection, profile: Profile) -> list[Signature]:
    """Return the signatures that hold: those of the figures that the profile has now."""
    rows = db.execute(
        "SELECT limit_name, value, who, signed_on FROM signatures WHERE profile_id = ?", (profile.id,)
    ).fetchall()
    kept = [Signature(limit=r["limit_name"], value=r["value"], who=r["who"], signed_on=r["signed_on"]) for r in rows]
    return [one for one in kept if profile.find_limit(one.limit) == one.value]


def put_addition(
    db: sqlite3.Connection, profile_id: str, pilot: str, list_id: str, items: Sequence[Mapping[str, Any]]
) -> None:
    """Keep a pilot's own items at the end of a list; none takes them away."""
    if items:
        db.execute(_PUT_ADDITION, (profile_id, pilot, list_id, canonical_json(list(items))))
    else:
        db.execute(
            "DELETE FROM additions WHERE profile_id = ? AND pilot = ? AND list_id = ?", (profile_id, pilot, list_id)
        )


def additions_of(db: sqlite3.Connection, profile_id: str, pilot: str) -> dict[str, list[dict[str, Any]]]:
    """Return a pilot's own items by the list that they end."""
    rows = db.execute("SELECT list_id, items FROM additions WHERE profile_id = ? AND pilot = ?", (profile_id, pilot))
    return {row["list_id"]: json.loads(row["items"]) for row in rows}
