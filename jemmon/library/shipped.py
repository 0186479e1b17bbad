"""The aircraft that ship with Jemmon: every profile beside this file, checked as it is read."""

import json
from pathlib import Path

from ..core.aircraft import Profile, profile_from_json

FOLDER = Path(__file__).parent


def shipped_profiles() -> dict[str, Profile]:
    """Return the shipped profiles by id."""
    found = [profile_from_json(json.loads(path.read_text(encoding="utf-8"))) for path in sorted(FOLDER.glob("*.json"))]
    return {profile.id: profile for profile in found}
