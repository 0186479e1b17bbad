"""The JSON Schema (draft 2020-12) of an aircraft profile. `jemmon profile-schema` prints it; docs/formats.md explains it."""

from typing import Any

CHECKS = ("start", "mag_check", "carb_heat_check", "idle_check", "lean")
_ID = {"type": "string", "pattern": "^[a-z0-9_-]{1,40}$"}
_TEXT = {"type": "string", "minLength": 1, "maxLength": 300}
_NUMBER = {"type": "number"}
_SOURCE = {"type": "string", "pattern": "^(type|common practice|published: .+)$"}


def _object(properties: dict[str, Any], *optional: str) -> dict[str, Any]:
    required = [name for name in properties if name not in optional]
    return {"type": "object", "properties": properties, "required": required, "additionalProperties": False}


_READING = _object(
    {
        "signal": _ID,
        "min": _NUMBER,
        "max": _NUMBER,
        "min_limit": _ID,
        "max_limit": _ID,
        "near_limit": _ID,
        "band_limit": _ID,
        "is": _TEXT,
    },
    *("min", "max", "min_limit", "max_limit", "near_limit", "band_limit", "is"),
)
_ITEM = _object(
    {
        "id": _ID,
        "challenge": _TEXT,
        "response": _TEXT,
        "why": _TEXT,
        "caution": _TEXT,
        "lever": _ID,
        "reading": _READING,
        "check": {"enum": CHECKS},
        "manual": {"enum": CHECKS},
        "watch": {"enum": ("start", "lean")},
        "counts": {"const": "strokes"},
    },
    *("caution", "lever", "reading", "check", "manual", "watch", "counts"),
)
_PUT_BACK = _object(
    {
        "id": _ID,
        "title": _TEXT,
        "back": _TEXT,
        "lever": _ID,
        "due_s": {"type": "number", "exclusiveMinimum": 0},
        "away_above": _NUMBER,
        "away_below": _NUMBER,
        "away_least": _NUMBER,
        "away_is": {"type": "array", "items": _TEXT},
        "phases": {"type": "array", "items": _ID},
    },
    *("away_above", "away_below", "away_least", "away_is", "phases"),
)
PROFILE_SCHEMA: dict[str, Any] = {
    "$schema": "https://json-schema.org/draft/2020-12/schema",
    "title": "Jemmon aircraft profile",
    **_object(
        {
            "format": {"const": 1},
            "id": _ID,
            "name": _TEXT,
            "registration": {"type": "string", "pattern": "^[A-Z0-9-]{2,10}$"},
            "about": _TEXT,
            "owner_signed": {"type": "boolean"},
            "engine": _object(
                {
                    "count": {"enum": (1, 2)},
                    "cylinders": {"type": "integer", "minimum": 1, "maximum": 18},
                    "displacement_l": {"type": "number", "minimum": 0.5, "maximum": 60},
                    "compression_ratio": {"type": "number", "minimum": 5, "maximum": 14},
                    "rated_power_hp": {"type": "number", "minimum": 20, "maximum": 4000},
                    "rated_rpm": {"type": "number", "minimum": 1000, "maximum": 7000},
                    "fuel_system": {"enum": ("carburettor", "injection")},
                    "propeller": {"enum": ("fixed_pitch", "constant_speed")},
                    "bus_v": {"enum": (14, 28)},
                }
            ),
            "limits": {
                "type": "object",
                "propertyNames": _ID,
                "additionalProperties": _object({"value": _NUMBER, "source": _SOURCE, "note": _TEXT}),
            },
            "lean_targets": {
                "type": "array",
                "minItems": 1,
                "items": _object(
                    {
                        "id": _ID,
                        "name": _TEXT,
                        "side": {"enum": ("rich", "lean")},
                        "offset_f": {"type": "number", "minimum": 0, "maximum": 200},
                        "source": _SOURCE,
                    }
                ),
            },
            "prime": {
                "type": "array",
                "minItems": 1,
                "items": _object({"below_c": _NUMBER, "strokes": {"type": "number", "minimum": 0}, "source": _SOURCE}),
            },
            "put_backs": {"type": "array", "items": _PUT_BACK},
            "schedule": {"type": "object", "additionalProperties": _NUMBER},
            "phases": {
                "type": "array",
                "minItems": 1,
                "items": _object(
                    {
                        "id": _ID,
                        "title": _TEXT,
                        "instruments": {"type": "array", "items": _ID, "maxItems": 5},
                        "items": {"type": "array", "items": _ITEM, "minItems": 1},
                    }
                ),
            },
            "emergency": {
                "type": "array",
                "minItems": 1,
                "items": _object({"title": _TEXT, "steps": {"type": "array", "items": _TEXT, "minItems": 1}}),
            },
            "bench": {"type": "object"},
        },
        "bench",
    ),
}
