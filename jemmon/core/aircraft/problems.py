"""Everything that is wrong with a profile that is being written, each with the field, the rule and the way out.

The door (`profile_from_json`) refuses at the first fault; who writes wants to see all of them, beside the fields they are in.
"""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from functools import partial
from typing import Any

import jsonschema

from ..base.errors import ProfileError
from .limits import check_limits
from .lists import conditions_from, phase_from
from .profile import profile_from_json
from .schema import PROFILE_SCHEMA
from .vocabulary import check_vocabulary

_MOST = 40
_Path = tuple[str | int, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Wrong:
    """One fault: the path of the field in the JSON (`phases.0.lists.1.items.2.challenge`; empty where no one field is at fault),
    the rule it is against, and what to do."""

    place: str
    rule: str
    way_out: str


def wrong_in(body: Mapping[str, Any], more: Callable[[Mapping[str, Any]], object] | None = None) -> tuple[Wrong, ...]:
    """Return what is wrong with a profile's JSON in the present format, at most forty faults; nothing where it can be flown. `more`
    is a door that knows more rules (kinds of check, the simulated engine); it raises ProfileError."""
    found = list(_by_schema(body))
    if not found:
        found = list(_by_rule(body))
    if not found:
        found = [_told("", error) for error in _raised(partial(more or profile_from_json, body))]
    return tuple(dict.fromkeys(found))[:_MOST]


def _by_schema(body: Mapping[str, Any]) -> Iterator[Wrong]:
    validator = jsonschema.Draft202012Validator(PROFILE_SCHEMA)
    for error in validator.iter_errors(body):
        path = tuple(error.absolute_path)
        if error.validator == "required":
            missing = [name for name in error.validator_value if name not in error.instance]
            for name in missing:
                yield Wrong(place=_dotted((*path, name)), rule="This field is needed.", way_out="Fill it in.")
        else:
            yield Wrong(place=_dotted(path), rule=_rule_of(error), way_out=_way_out(error))


_RULES: Mapping[str, str] = {
    "minLength": "This text must not be empty.",
    "maxLength": "This text must be at most {} characters.",
    "minItems": "At least {} of these are needed.",
    "maxItems": "At most {} of these are taken.",
    "minimum": "This figure must be at least {}.",
    "maximum": "This figure must be at most {}.",
    "exclusiveMinimum": "This figure must be above {}.",
    "enum": "This word must be one of its list.",
    "additionalProperties": "A profile has no field of this name.",
    "pattern": "This must be of the form that its field has.",
}


def _rule_of(error: jsonschema.ValidationError) -> str:
    """Return what a field must be, in words."""
    value: Any = error.validator_value
    if error.validator == "type":
        return f"This must be a {value if isinstance(value, str) else ' or '.join(value)}."
    rule = _RULES.get(str(error.validator), "This does not fit a profile.")
    return rule.format(value)


def _way_out(error: jsonschema.ValidationError) -> str:
    value: Any = error.validator_value
    if error.validator == "enum":
        return f"Choose one of: {', '.join(str(one) for one in value)[:160]}."
    if error.validator == "pattern":
        return f"Write it as {value}."
    return "Change it, or undo."


def _by_rule(body: Mapping[str, Any]) -> Iterator[Wrong]:
    """Yield the faults that each part has by itself."""
    limits = {name: float(row["value"]) for name, row in body["limits"].items()}
    for name, value in limits.items():
        for error in _raised(partial(check_limits, {name: value})):
            yield _told(f"limits.{name}.value", error)
    count = body["engine"]["count"]
    engines = tuple((number, str(number)) for number in range(1, count + 1))
    for place, alone in _parts(body):
        for error in _raised(partial(_check_alone, alone, body, limits, engines)):
            yield _told(place, error)


def _parts(body: Mapping[str, Any]) -> Iterator[tuple[str, Mapping[str, Any]]]:
    """Yield each item alone in its phase, with its place; then each list without items, each put-back pair."""
    for p, phase in enumerate(body["phases"]):
        for at, one in enumerate(phase["lists"]):
            bare = {key: value for key, value in one.items() if key != "only_if"}
            for i, item in enumerate(one["items"]):
                alone = {**phase, "begins": [], "instruments": [], "lists": [{**bare, "items": [item]}]}
                yield f"phases.{p}.lists.{at}.items.{i}", {"phases": [alone]}
            if "only_if" in one:
                yield (
                    f"phases.{p}.lists.{at}.only_if",
                    {"phases": [{**phase, "begins": [], "instruments": [], "lists": [{**one, "items": []}]}]},
                )
        yield f"phases.{p}.instruments", {"phases": [{**phase, "begins": [], "lists": []}]}
    for number, row in enumerate(body["put_backs"]):
        yield f"put_backs.{number}", {"put_backs": [row]}


def _check_alone(part: Mapping[str, Any], body: Mapping[str, Any], limits: Mapping[str, float], engines: Any) -> None:
    """Raise ProfileError for what is wrong with one part, all else being left out."""
    phases, rows = part.get("phases", []), part.get("put_backs", [])
    check_vocabulary({"phases": phases, "put_backs": rows, "take_off": {"when": []}})
    for phase in phases:
        conditions_from(phase.get("begins") or (), "Phase")
        phase_from({key: value for key, value in phase.items() if value or key != "begins"}, limits, engines)
    ids = [one["id"] for one in body["phases"]]
    for row in rows:
        for name in (row.get("back_by"), *row.get("phases", ())):
            if name is not None and name not in ids:
                raise ProfileError(f"There is no phase {name!r}. The phases are {', '.join(ids)}.")


def _raised(check: Callable[[], object]) -> list[ProfileError]:
    try:
        check()
    except ProfileError as error:
        return [error]
    return []


def _told(place: str, error: ProfileError) -> Wrong:
    return Wrong(place=place or error.where or "", rule=str(error), way_out="Change it, or undo.")


def _dotted(path: _Path) -> str:
    return ".".join(str(part) for part in path)
