"""The JSON Schema (draft 2020-12) of a drill and of a surprise; docs/formats.md explains them."""

from typing import Any

import jsonschema

from ..base.errors import DrillError

SKILLS = {
    "notice": "Seen in time",
    "cause": "The right cause",
    "order": "The right order",
    "limits": "Limits kept",
    "put_back": "Put back what was moved",
    "stop": "When to stop",
    "target": "The engine as it should be",
}
"""What a pilot learns by drills, and what each is called."""

DECISIONS = {
    "go_on": "Go on",
    "again": "Do the check again",
    "taxi_back": "Taxi back, have it looked at",
    "stop_engine": "Stop the engine",
    "stop_take_off": "Stop the take-off",
    "land_ahead": "Land ahead",
    "land_soon": "Land at the nearest field",
    "fly_on_one": "Fly on with one engine",
}
"""What a pilot may decide in a drill, and what each is called."""

KINDS = (
    *("Surprise", "Starts", "Warm-up", "Run-up", "Take-off", "Climb", "Cruise", "Leaning", "Descent"),
    *("Twin", "Helicopter", "Controls"),
)
"""The kinds of drills in the order of a flight, surprises first."""

_LONGEST_S = 3600.0
_TEXT = {"type": "string", "minLength": 1, "maxLength": 300}
_ID = {"type": "string", "pattern": "^[a-z0-9_{}-]{1,60}$"}
_NUMBER = {"type": "number", "minimum": -1e6, "maximum": 1e6}
_SECONDS = {"type": "number", "minimum": 0, "maximum": _LONGEST_S}
_LEVEL = {"enum": [1, 2, 3]}
_CONDITION = {"type": "object"}  # its form is looked at by `conditions.check_condition`, as that of a pilot's script


def _object(properties: dict[str, Any], *required: str) -> dict[str, Any]:
    return {"type": "object", "properties": properties, "required": list(required), "additionalProperties": False}


def _list(items: dict[str, Any], least: int = 0, most: int = 60) -> dict[str, Any]:
    return {"type": "array", "items": items, "minItems": least, "maxItems": most}


_SHARE = {"type": "number", "minimum": 0, "maximum": 1}
_POINT = {"palt_ft": _NUMBER, "oat_c": _NUMBER, "dewpoint_c": _NUMBER, "ias_kt": _NUMBER}
_STEP = {
    "set": {"type": "object", "additionalProperties": {"type": ["string", "number", "boolean"]}},
    "ramp_s": _SECONDS,
    "fault": _ID,
    "size": _SHARE,
    "air": _object(_POINT),
    "engine": _object({"soak_h": _SECONDS, "oil_t_f": _NUMBER, "running": {"type": "boolean"}}),
    "fuel_gal": _list({"type": "number", "minimum": 0, "maximum": 1000}, 1, 4),
    "tell": _TEXT,
}
_AT = {"oneOf": [_SECONDS, _list(_SECONDS, 2, 2)]}
RULE_NEEDS = {
    "within": ("what", "good_s", "late_s"),
    "done": ("what",),
    "never": ("what",),
    "order": ("steps",),
    "at_end": ("what",),
    "finding": ("finding",),
}
_RULE = {
    **_object(
        {
            "fact": _ID,
            "rule": {"enum": list(RULE_NEEDS)},
            "skill": {"enum": list(SKILLS)},
            "weight": {"type": "number", "exclusiveMinimum": 0, "maximum": 100},
            "instead": _TEXT,
            **dict.fromkeys(("what", "from", "until", "once"), _CONDITION),
            **dict.fromkeys(("for_s", "good_s", "late_s"), _SECONDS),
            "steps": _list(_CONDITION, 1),
            "finding": _ID,
            "where": {
                "type": "object",
                "additionalProperties": {"type": "object", "propertyNames": {"enum": ["above", "below", "is"]}},
            },
            "noticed": _TEXT,
        },
        *("fact", "rule", "skill", "instead"),
    ),
    "allOf": [
        {"if": {"properties": {"rule": {"const": rule}}}, "then": {"required": list(needed)}}
        for rule, needed in RULE_NEEDS.items()
    ],
}
_ABOUT = {"id": _ID, "title": _TEXT, "aim": _TEXT, "kind": {"enum": list(KINDS)}, "level": _LEVEL}
DRILL_SCHEMA = _object(
    {
        **_ABOUT,
        "aircraft": _ID,
        "phase": _ID,
        "length_s": {"type": "number", "minimum": 5, "maximum": _LONGEST_S},
        "settle_s": _SECONDS,
        "check": {"type": "string"},
        "cause": _ID,
        "causes": {"type": "object", "additionalProperties": _TEXT},
        "decisions": _list({"enum": list(DECISIONS)}),
        "varies": {
            "type": "object",
            "additionalProperties": _list(
                {"oneOf": [{"type": "string"}, {"type": "object", "additionalProperties": {"type": "string"}}]}, 1
            ),
        },
        "begins": _list(_object(_STEP)),
        "path": _list(_object({"at": _SECONDS, **_POINT}, *("at", *_POINT))),
        "happens": _list(
            {
                **_object({**_STEP, "at": _AT, "when": _CONDITION, "after_s": _SECONDS}),
                "oneOf": [{"required": ["at"]}, {"required": ["when"]}],
            }
        ),
        "path_from": _CONDITION,
        "cue": _CONDITION,
        "watch": _list(_ID),
        "rules": _list(_RULE, 1),
    },
    *_ABOUT,
    *("aircraft", "phase", "length_s", "check", "begins", "rules"),
)
SURPRISE_SCHEMA = _object({**_ABOUT, "surprise_of": _list({"type": "string"}, 1)}, *_ABOUT, "surprise_of")


def check_form(body: object, schema: dict[str, Any]) -> None:
    """Raise DrillError, with its place, for the first thing in a drill's or a surprise's JSON that is not as its schema says."""
    error = jsonschema.exceptions.best_match(jsonschema.Draft202012Validator(schema).iter_errors(body))
    if error is None:
        return
    place = ".".join(str(part) for part in error.absolute_path) or "the drill"
    raise DrillError(f"{place}: {error.message[:200]}", place)
