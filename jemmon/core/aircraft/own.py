"""An aircraft of one's own, made from the nearest kind and the answers to its questions.

What is not answered is not taken from the kind: the figure is left out, and what needs it is not judged and says so. What is
common practice stays, with that word beside it; so do the kind's lists and cards, in which figures of the kind are replaced by the
answers, or by "(handbook)" where there is none.
"""

import re
from collections.abc import Mapping, Sequence
from typing import Any

from ..base.errors import ProfileError
from ..trace.signals import reading_row
from .profile import Profile
from .questions import Question, by_id, is_of_the_type
from .schema import PROFILE_SCHEMA

_MARK = re.compile(r"\{(~?)([+-]?[0-9.]+)\|([a-z]+)(\+?)\}")
_REGISTRATION = re.compile(PROFILE_SCHEMA["properties"]["registration"]["pattern"])
_PREFIX = "own-"
_STILL = {"rpm": 50.0, "v": 5.0, "psi": 0.5}  # at most so much is shown by what is off, on any engine (common practice)
_NOT_KNOWN = "(handbook)"


def own_profile(kind: Profile, name: str, registration: str, answers: Mapping[str, float]) -> dict[str, Any]:
    """Return the JSON of a new aircraft's profile; `answers` are core figures by the id of their question.

    Raises:
        ProfileError: an answer to no question, or one without which there is no aircraft is missing; the place is the question.
    """
    if not _REGISTRATION.fullmatch(registration):
        raise ProfileError(
            f"{registration!r} is not a registration: two to ten capital letters, figures and dashes.", "registration"
        )
    questions = by_id(kind)
    for given in answers:
        if given not in questions:
            raise ProfileError(f"An aircraft of this kind is not asked for {given!r}.", given)
    if missing := [one for one in questions.values() if one.needed and one.id not in answers]:
        raise ProfileError(f"{missing[0].title} is missing: there is no aircraft without it.", missing[0].id)
    body = _without_figures(dict(kind.body), questions, answers)
    body = {
        **body,
        "id": own_id(registration),
        "name": name,
        "registration": registration,
        "owner_signed": False,
        "about": f"Made from the kind {kind.name!r}. Its lists and cards came with the kind: read them against your handbook.",
    }
    return body


def own_id(registration: str) -> str:
    """Return the id of an aircraft of one's own: its registration in small letters.

    >>> own_id("ZZ-MIN")
    'own-zz-min'
    """
    return f"{_PREFIX}{registration.lower()}"[:40]


def is_own_id(profile_id: str) -> bool:
    """Say whether an id is that of an aircraft made from a kind."""
    return profile_id.startswith(_PREFIX)


def _without_figures(
    body: dict[str, Any], questions: Mapping[str, Question], answers: Mapping[str, float]
) -> dict[str, Any]:
    """Return the kind's JSON with the answers in the place of its own figures, and nowhere a figure that was not answered."""
    section = dict(body.get("power", {}))
    kept = {name: section[name] for name in ("mixture", "climb_lean") if name in section}
    if section.get("detents"):
        kept["detents"] = [{"name": row["name"], "lever": row["lever"]} for row in section["detents"]]
    made = {
        **body,
        "engine": {
            **{key: value for key, value in body["engine"].items() if key not in ("rpm_lag_s", "fuel_octane")},
            **_answers_of("engine", answers),
        },
        "limits": _limits(body["limits"], answers),
        "lean_targets": _targets(body["lean_targets"], answers),
        "prime": [
            {**row, "amount": answers[f"prime.{number}"]}
            for number, row in enumerate(sorted(body["prime"], key=lambda row: row["below_c"]))
            if f"prime.{number}" in answers
        ],
        "briefing": {"kind": body["briefing"]["kind"], **_answers_of("briefing", answers)},
        "schedule": _answers_of("schedule", answers),
        "power": kept,
    }
    for part in ("balance", "never_exceed"):  # of this aircraft, and of its type
        made.pop(part, None)
    if not kept:
        del made["power"]
    if "bench" in body:  # practised on is the kind's simulated engine, flown as the kind is where nothing is answered
        made["bench"] = {**body["bench"], "flown_by": dict(body["schedule"])}
    faster = made["engine"]["rated_rpm"] / body["engine"]["rated_rpm"]
    made["phases"] = [_without_own_readings(phase, faster) for phase in made["phases"]]
    made["take_off"] = {**body["take_off"], "when": _at_speed(body["take_off"]["when"], faster)}
    figures = _figures(questions, answers)
    for part in ("phases", "emergency", "put_backs", "start"):
        if part in made:
            made[part] = _said_anew(made[part], figures)
    return made


def _answers_of(section: str, answers: Mapping[str, float]) -> dict[str, float]:
    rows = {
        name.removeprefix(f"{section}."): value for name, value in answers.items() if name.startswith(f"{section}.")
    }
    return {name: round(value, 4) for name, value in rows.items()}


def _limits(limits: Mapping[str, Any], answers: Mapping[str, float]) -> dict[str, Any]:
    kept = {name: dict(row) for name, row in limits.items() if not is_of_the_type(row["source"])}
    told = _answers_of("limits", answers)
    return kept | {
        name: {"value": value, "source": "type", "note": "read off the handbook when the aircraft was made"}
        for name, value in told.items()
    }


def _targets(rows: list[dict[str, Any]], answers: Mapping[str, float]) -> list[dict[str, Any]]:
    made = []
    for row in rows:
        own = answers.get(f"lean_targets.{row['id']}")
        if not is_of_the_type(row["source"]):
            made.append(row)
        elif own is not None:
            made.append({**row, "offset_f": own, "name": f"{{~{own:g}|f}} {row['side']} of first to peak"})
    return made


def _at_speed(conditions: Sequence[Mapping[str, Any]], faster: float) -> list[dict[str, Any]]:
    """Return the conditions by which a phase is noticed, their engine speeds scaled to this engine's rated speed."""
    return [
        {**row, "above": round(row["above"] * faster)} if row["of"] == "rpm" and "above" in row else dict(row)
        for row in conditions
    ]


def _without_own_readings(phase: Mapping[str, Any], faster: float) -> dict[str, Any]:
    """Return a phase whose items hold no reading against a figure of the kind's own; levers stay, and what is off on any
    engine."""
    begins = {"begins": _at_speed(phase["begins"], faster)} if "begins" in phase else {}
    return {
        **phase,
        **begins,
        "lists": [{**one, "items": [_without_own_reading(item) for item in one["items"]]} for one in phase["lists"]],
    }


def _without_own_reading(item: Mapping[str, Any]) -> dict[str, Any]:
    reading, made = item.get("reading", {}), dict(item)
    row = reading_row(reading["signal"]) if reading else None
    is_still = "min" not in reading and reading.get("max", 0) <= _STILL.get(row.unit if row else "", 0.0)
    if row is not None and not row.is_lever and ("min" in reading or "max" in reading) and not is_still:
        made = {key: value for key, value in item.items() if key not in ("reading", "seen_is_enough", "holds")}
    if "measure" in made:
        made["measure"] = {key: value for key, value in made["measure"].items() if key not in ("min", "max")}
    return made


def _figures(questions: Mapping[str, Question], answers: Mapping[str, float]) -> dict[tuple[float, str], float | None]:
    """Return by (the kind's figure, unit) what was answered; None where it was not, or two answers differ."""
    rows: dict[tuple[float, str], float | None] = {}
    for question in questions.values():
        key = (question.kind_has, question.unit)
        told = answers.get(question.id)
        rows[key] = told if key not in rows or rows[key] == told else None
    return rows


def _said_anew(part: Any, figures: Mapping[tuple[float, str], float | None]) -> Any:
    """Return texts in which figures of the kind stand no more."""
    if isinstance(part, dict):
        return {key: _said_anew(value, figures) for key, value in part.items()}
    if isinstance(part, list):
        return [_said_anew(value, figures) for value in part]
    if not isinstance(part, str):
        return part

    def own(mark: re.Match[str]) -> str:
        value, unit = float(mark[2]), mark[3]
        if (value, unit) in figures and not mark[1]:
            told = figures[(value, unit)]
            return _NOT_KNOWN if told is None else f"{{{told:g}|{unit}}}"
        return _NOT_KNOWN if unit == "kt" else mark[0]  # every speed is a type's own

    return _MARK.sub(own, part)
