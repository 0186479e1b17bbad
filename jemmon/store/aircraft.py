"""Aircraft whose profiles were read in; each names the content that counts now."""

import sqlite3

from ..core.aircraft import Profile
from .flights import keep_profile, read_profile

_PUT = """
INSERT INTO aircraft (profile_id, content_hash, imported_utc) VALUES (?, ?, ?)
ON CONFLICT (profile_id) DO UPDATE SET content_hash = excluded.content_hash, imported_utc = excluded.imported_utc
"""
_ALL = """
SELECT profiles.body FROM aircraft JOIN profiles ON profiles.content_hash = aircraft.content_hash
ORDER BY aircraft.profile_id
"""


def put_aircraft(db: sqlite3.Connection, profile: Profile, imported_utc: str) -> None:
    """Let this profile count for its id from now on; an earlier content is kept."""
    keep_profile(db, profile)
    db.execute(_PUT, (profile.id, profile.content_hash, imported_utc))


def imported_aircraft(db: sqlite3.Connection) -> list[Profile]:
    """Return the profiles that were read in; of one that today's rules refuse what can be shown (`refused` says why)."""
    return [read_profile(row["body"]) for row in db.execute(_ALL)]
