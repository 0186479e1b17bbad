"""Aircraft: which there are, a profile's plain view, and profiles in and out as JSON."""

import json
from datetime import UTC, datetime
from typing import Any

from flask import Blueprint, Response, current_app, request

from ..core.aircraft import Profile, profile_from_json
from ..core.aircraft.profile import canonical_json
from ..core.errors import ProfileError
from ..store.aircraft import put_aircraft
from .hangar import Hangar

bp = Blueprint("aircraft", __name__, url_prefix="/api")


def _hangar() -> Hangar:
    return current_app.extensions["hangar"]


def aircraft_line(profile: Profile) -> dict[str, Any]:
    """Return what a list of aircraft shows of one."""
    return {
        "id": profile.id,
        "name": profile.name,
        "registration": profile.registration,
        "about": profile.about,
        "owner_signed": profile.owner_signed,
        "has_bench": profile.bench is not None,
    }


@bp.get("/aircraft")
def list_aircraft():
    """All known aircraft."""
    return {"aircraft": [aircraft_line(profile) for profile in _hangar().profiles.values()]}


@bp.get("/aircraft/<profile_id>")
def show_aircraft(profile_id: str):
    """One aircraft in plain view: every limit with its source, every list with its items, what is put back."""
    profile = _hangar().profile(profile_id)
    return {
        "aircraft": aircraft_line(profile),
        "content_hash": profile.content_hash,
        "limits": [
            {"name": name, **_title_and_unit(profile, name), "value": x.value, "source": x.source, "note": x.note}
            for name, x in profile.limits.items()
        ],
        "put_backs": [{"title": p.title, "back": p.back, "due_s": p.due_s} for p in profile.put_backs],
        "phases": [
            {
                "title": phase.title,
                "lists": [
                    {
                        "title": one.title,
                        "style": one.style,
                        "memory": one.memory,
                        "only_if": [c.words for c in one.only_if],
                        "items": [_item(item) for item in one.items],
                    }
                    for one in phase.lists
                ],
            }
            for phase in profile.phases
        ],
        "emergency": profile.body["emergency"],
    }


_UNITS = {"f": "°F", "c": "°C", "psi": "psi", "rpm": "RPM", "s": "s", "inhg": "inHg", "v": "V", "pct": "%"}


def _title_and_unit(profile: Profile, limit_name: str) -> dict[str, str]:
    """Return a limit's name as a pilot reads it, and its unit; an engine that reads in percent has no RPM."""
    parts = limit_name.split("_")
    unit = next((part for part in reversed(parts) if part in _UNITS), "")
    words = ["temperature" if part == "t" else part for part in parts if part != unit or unit == "rpm"]
    percent = unit == "rpm" and "rpm_pct_max_pct" in profile.limits
    return {"title": " ".join(words).capitalize(), "unit": "%" if percent else _UNITS.get(unit, "")}


def _item(item: Any) -> dict[str, Any]:
    names = ("id", "challenge", "response", "why", "killer", "where", "mistaken_for")
    return {**{name: getattr(item, name) for name in names}, "only_if": [c.words for c in item.only_if]}


@bp.get("/aircraft/<profile_id>/profile.json")
def export_profile(profile_id: str):
    """The profile as JSON in canonical form: read in again it is the same, byte for byte."""
    profile = _hangar().profile(profile_id)
    headers = {"Content-Disposition": f'attachment; filename="{profile.id}.json"'}
    return Response(canonical_json(profile.body), mimetype="application/json", headers=headers)


@bp.post("/aircraft")
def import_profile():
    """Read a profile in; refused whole, with the place, if anything in it is wrong. A flight keeps the one it began with."""
    hangar = _hangar()
    try:
        body = json.loads(request.get_data())
    except (UnicodeDecodeError, json.JSONDecodeError, RecursionError) as error:
        raise ProfileError(f"This is not a profile: {str(error)[:160]}") from error
    profile = profile_from_json(body)
    with hangar.database.writing() as db:
        put_aircraft(db, profile, datetime.now(UTC).isoformat(timespec="seconds"))
    hangar.profiles[profile.id] = profile
    return {"aircraft": aircraft_line(profile), "content_hash": profile.content_hash}, 201
