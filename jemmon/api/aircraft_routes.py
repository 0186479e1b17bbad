"""Aircraft: which there are, a profile's plain view, and profiles in and out as JSON."""

import json
import re
from collections.abc import Sequence
from dataclasses import asdict
from datetime import UTC, datetime
from typing import Any

from flask import Blueprint, Response, current_app, request

from ..app.hangar import Hangar
from ..core.aircraft import Profile, profile_from_json
from ..core.aircraft.profile import canonical_json
from ..core.base.errors import EventError, ProfileError, checked_number
from ..core.flight.fold import Event, fold
from ..core.judgement.engine_health import nozzle_drift
from ..core.judgement.method import methods
from ..core.judgement.trend import FIGURES, figure_trend, figures_of
from ..core.power.plan import plan
from ..core.start.record import READ_KINDS, prime_lines, start_rows, told_starts
from ..store.aircraft import put_aircraft
from ..store.flights import events_of_aircraft

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


@bp.get("/aircraft/<profile_id>/starts")
def show_starts(profile_id: str):
    """The starts of this aircraft: one row a start, and what book and advice say over the temperature."""
    profile = _hangar().profile(profile_id)
    with _hangar().database.reading() as db:
        kept = events_of_aircraft(db, profile.registration, READ_KINDS)
    told = [(flight, day, told_starts(profile, events)) for flight, day, events in kept]
    rows = start_rows(told)
    return {
        "aircraft": aircraft_line(profile),
        "unit": profile.start.unit,
        "engines": [name for _, name in sorted(profile.engines)],
        "oil_limit_s": profile.limit("oil_pressure_time_s"),
        "rows": [asdict(row) for row in rows],
        "lines": prime_lines(profile, [events for _, _, events in told]),
    }


@bp.get("/methods")
def show_methods():
    """How each verdict is made, without the figures of an aircraft."""
    return {"methods": methods()}


@bp.get("/aircraft/<profile_id>/methods")
def show_methods_of(profile_id: str):
    """How each verdict is made, with the limits of this aircraft that it uses."""
    profile = _hangar().profile(profile_id)
    rows = methods(profile)
    for row in rows:
        row["limits"] = [{**limit, **_title_and_unit(profile, limit["name"])} for limit in row["limits"]]
    return {"aircraft": aircraft_line(profile), "methods": rows}


@bp.get("/aircraft/<profile_id>/trends")
def show_trends(profile_id: str):
    """Each figure of this aircraft over its flights, with its limit and what it does."""
    profile = _hangar().profile(profile_id)
    with _hangar().database.reading() as db:
        kept = events_of_aircraft(db, profile.registration, ("finding", "typed_reading"))
    flown = [(flight, day, _findings(profile, events)) for flight, day, events in kept]
    rows: list[dict[str, Any]] = []
    health: list[dict[str, Any]] = []
    for number, name in sorted(profile.engines):
        whose = profile.whose(name)
        rows += _trend_rows(profile, flown, number, whose)
        leanings = [f["measured"] for *_, found in flown for f in found if f["kind"] == "lean" and _engine(f) == number]
        health += [{**line, "engine": number, "say": whose + line["say"]} for line in nozzle_drift(leanings)]
    return {"aircraft": aircraft_line(profile), "figures": rows, "health": health}


def _engine(finding: Any) -> int:
    return int(finding.get("engine", 1))


def _trend_rows(
    profile: Profile, flown: list[tuple[str, str, list[Any]]], engine: int, whose: str
) -> list[dict[str, Any]]:
    """Return each figure of one engine over the flights that have it, with its trend."""
    runup = profile.limits.get("runup_rpm")
    days = [(flight, day, figures_of(found, runup.value if runup else None, engine)) for flight, day, found in flown]
    rows = []
    for name, (words, unit, _, _, limit_name, is_low) in FIGURES.items():
        values = [found[name] for *_, found in days if name in found]
        if not values:
            continue
        points = [{"flight": flight, "day": day, "value": found[name]} for flight, day, found in days if name in found]
        known, title = profile.limits.get(limit_name), whose + words
        limit = known.value if known else None
        trend = figure_trend(values, limit, title, unit, is_low)
        own = {"id": name if engine == 1 else f"e2_{name}", "title": title, "unit": unit, "limit": limit}
        rows.append({**own, "points": points, **asdict(trend)})
    return rows


@bp.get("/aircraft/<profile_id>/plan")
def show_plan(profile_id: str):
    """What to set for a power at a height, what full throttle still gives, and the climb there."""
    profile = _hangar().profile(profile_id)
    asked = {name: _asked(name) for name in ("pct", "palt_ft", "oat_c", "fuel_gal", "wind_kt")}
    made = plan(
        profile,
        65.0 if asked["pct"] is None else asked["pct"],
        profile.schedule.get("cruise_ft", 5000.0) if asked["palt_ft"] is None else asked["palt_ft"],
        asked["oat_c"],
        request.args.get("target") or None,
        asked["fuel_gal"],
        asked["wind_kt"] or 0.0,
    )
    targets = [{"id": t.id, "name": t.name} for t in profile.lean_targets]
    return {
        "aircraft": aircraft_line(profile),
        "targets": targets,
        "cruise_ft": profile.schedule.get("cruise_ft"),
        **made,
    }


def _asked(name: str) -> float | None:
    """Return a figure of the query, or None where it was left out; refuses what is no number."""
    text = request.args.get(name, "").strip()
    return checked_number(f"`{name}`", float(text) if _IS_NUMBER.match(text) else text, EventError) if text else None


def _findings(profile: Profile, events: Sequence[Event]) -> list[Any]:
    """Return the findings in a flight's events, typed ones judged."""
    return list(fold(profile, events).findings)


_IS_NUMBER = re.compile(r"^-?\d{1,6}(\.\d{1,3})?$")
_UNITS = {"f": "°F", "c": "°C", "psi": "psi", "rpm": "RPM", "s": "s", "inhg": "inHg", "v": "V", "pct": "%"}
_WORDS = {
    "t": "temperature",
    "rpm": "RPM",
    "map": "manifold pressure",
    "cht": "head temperature",
    "egt": "exhaust temperature",
    "tit": "turbine inlet temperature",
    "mag": "magneto",
    "runup": "run-up",
    "alt2": "second alternator",
    "carb": "carburettor",
    "prop": "propeller",
}


def _title_and_unit(profile: Profile, limit_name: str) -> dict[str, str]:
    """Return a limit's name as a pilot reads it, and its unit; an engine that reads in percent has no RPM."""
    parts = limit_name.split("_")
    unit = next((part for part in reversed(parts) if part in _UNITS), "")
    words = " ".join(_WORDS.get(part, part) for n, part in enumerate(parts) if part != unit or n < len(parts) - 1)
    percent = unit == "rpm" and "rpm_pct_max_pct" in profile.limits
    return {"title": words[:1].upper() + words[1:], "unit": "%" if percent else _UNITS.get(unit, "")}


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
