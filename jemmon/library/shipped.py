"""The aircraft that ship with Jemmon: every profile beside this file, composed from `items.json` and checked as it is read."""

import functools
import json
from pathlib import Path

from ..core.aircraft import Profile, profile_from_json
from ..core.aircraft.composition import Library, library_from_json, unfolded

FOLDER = Path(__file__).parent


@functools.cache
def item_library() -> Library:
    """Return the library of items by id."""
    return library_from_json(json.loads((FOLDER / "items.json").read_text(encoding="utf-8")))


def whole_profile(body: object) -> object:
    """Return a profile's JSON with its references to the library unfolded. Raises ProfileError for one that there is not."""
    return unfolded(body, item_library())


def shipped_profiles() -> dict[str, Profile]:
    """Return the shipped profiles by id; they are read once."""
    return dict(_read_once())


@functools.cache
def _read_once() -> dict[str, Profile]:
    paths = sorted(FOLDER.glob("?-*.json"))
    found = [profile_from_json(whole_profile(json.loads(path.read_text(encoding="utf-8")))) for path in paths]
    return {profile.id: profile for profile in found}
