"""The JSON Schema (draft 2020-12) of an aircraft profile. `jemmon profile-schema` prints it; docs/formats.md explains it."""

from typing import Any

from ..trace.signals import SWITCHES
from .lists import STYLES
from .phases import PHASE_KINDS
from .upgrade import FORMAT

WATCHES = ("start", "lean", "day", "weather", "briefing", "wind", "prime")
_PROOF = "^(oil_pressure|(item|check|finding):[a-z0-9_@-]{1,40})$"
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
_CONDITION = _object(
    {"of": _ID, "is": {"type": ("string", "boolean", "number"), "maxLength": 40}, "above": _NUMBER, "below": _NUMBER},
    *("is", "above", "below"),
)
_CONDITIONS = {"type": "array", "items": _CONDITION, "minItems": 1, "maxItems": 6}
_MEASURE = _object(
    {
        "title": _TEXT,
        "unit": {"enum": ("rpm", "psi", "f", "v", "a", "inhg", "gal", "s", "pct", "qt")},
        "min": _NUMBER,
        "max": _NUMBER,
        "min_limit": _ID,
        "max_limit": _ID,
    },
    *("min", "max", "min_limit", "max_limit"),
)
_ITEM_OPTIONS: dict[str, Any] = {
    "of": _ID,
    "caution": _TEXT,
    "lever": _ID,
    "reading": _READING,
    "check": _ID,
    "manual": _ID,
    "watch": {"enum": WATCHES},
    "counts": {"const": "strokes"},
    "only_if": _CONDITIONS,
    "where": _TEXT,
    "mistaken_for": _TEXT,
    "killer": {"type": "boolean"},
    "gate": _ID,
    "hold_s": {"type": "number", "exclusiveMinimum": 0, "maximum": 900},
    "count_to": {"type": "number", "minimum": 1, "maximum": 60},
    "count_of": {"enum": ("blades", "strokes", "cycles", "shots")},
    "measure": _MEASURE,
    "away": _ID,
    "back": _ID,
    "seen_is_enough": {"type": "boolean"},
    "holds": {"type": "boolean"},
    "meanwhile": {"type": "boolean"},
}
_ITEM = _object(
    {"id": _ID, "challenge": _TEXT, "response": _TEXT, "why": _TEXT, **_ITEM_OPTIONS},
    *_ITEM_OPTIONS,
)
_LIST = _object(
    {
        "id": _ID,
        "title": _TEXT,
        "style": {"enum": STYLES},
        "flow": {"type": "array", "items": _TEXT, "maxItems": 16},
        "only_if": _CONDITIONS,
        "memory": {"type": "boolean"},
        "each_engine": {"type": "boolean"},
        "locked": _TEXT,
        "items": {"type": "array", "items": _ITEM, "minItems": 1, "maxItems": 60},
    },
    *("style", "flow", "only_if", "memory", "each_engine", "locked"),
)
_PUT_BACK = _object(
    {
        "id": _ID,
        "title": _TEXT,
        "back": _TEXT,
        "lever": _ID,
        "due_s": {"type": "number", "exclusiveMinimum": 0},
        "back_by": _ID,
        "needs_engine": {"type": "boolean"},
        "away_above": _NUMBER,
        "away_below": _NUMBER,
        "away_least": _NUMBER,
        "away_is": {"type": "array", "items": _TEXT},
        "away_at_rest": _CONDITIONS,
        "phases": {"type": "array", "items": _ID},
    },
    *(
        "lever",
        "back_by",
        "needs_engine",
        "away_above",
        "away_below",
        "away_least",
        "away_is",
        "away_at_rest",
        "phases",
    ),
)
_PAIR = {"type": "array", "items": {"type": "number", "minimum": 0}, "minItems": 2, "maxItems": 2}
_RATING = _object({"name": _TEXT, "above_rpm": _NUMBER, "above_map_inhg": _NUMBER, "seconds": _NUMBER})
_RISING = {"type": "array", "items": _NUMBER, "minItems": 2}
_SETTING = _object({"id": _ID, "title": _TEXT, "rpm": _NUMBER, "map_inhg": _NUMBER}, *("rpm", "map_inhg"))
_MAP_LIMIT = _object(
    {"palt_ft": _RISING, "oat_c": _RISING, "map_inhg": {"type": "array", "items": {"type": "array", "items": _NUMBER}}}
)
_FULL_THROTTLE = _object(
    {"rpm": _RISING, "palt_ft": _RISING, "map_inhg": {"type": "array", "items": {"type": "array", "items": _NUMBER}}}
)
_VNE = _object(
    {"palt_ft": _RISING, "oat_c": _RISING, "kt": {"type": "array", "items": {"type": "array", "items": _NUMBER}}}
)
_DETENT = _object(
    {"name": _TEXT, "lever": _NUMBER, "below_rpm": _NUMBER, "below_map_inhg": _NUMBER}, *("below_rpm", "below_map_inhg")
)
_POWER_ADDS: dict[str, Any] = {  # what only some types have or say
    "points": {
        "type": "array",
        "items": _object({"palt_ft": _NUMBER, "rpm": _NUMBER, "map_inhg": _NUMBER, "pct": _NUMBER}),
        "minItems": 5,
        "maxItems": 60,
    },
    "settings": {"type": "array", "items": _SETTING, "maxItems": 6},
    "band_rpm": _NUMBER,
    "band_inhg": _NUMBER,
    "climb_lean": {"enum": ("steps", "target_egt", "none")},
    "lean_from_ft": _NUMBER,
    "blower_shift_ft": _NUMBER,
    "map_limit": _MAP_LIMIT,
    "full_throttle": _FULL_THROTTLE,
    "detents": {"type": "array", "items": _DETENT},
    "mixture": {"enum": ("lever", "detents", "automatic")},
}
_POWER_TABLE = ("sources", "friction_pct", "palt_ft", "rpm", "map_inhg", "pct")
_POWER = _object(
    {
        "sources": _TEXT,
        "temperature_exponent": {"type": "number", "minimum": 0, "maximum": 1.2},
        "friction_pct": {"type": "number", "minimum": 0, "maximum": 40},
        "palt_ft": _RISING,
        "rpm": _RISING,
        "map_inhg": _RISING,
        "pct": {"type": "array", "items": {"type": "array", "items": {"type": "array", "items": _NUMBER}}},
        "map_most": {"type": "array", "items": _object({"rpm": _NUMBER, "map_inhg": _NUMBER})},
        "ratings": {"type": "array", "items": _RATING},
        "avoid_rpm": {"type": "array", "items": {"type": "array", "items": _NUMBER, "minItems": 2, "maxItems": 2}},
        **_POWER_ADDS,
    },
    *("temperature_exponent", "map_most", "ratings", "avoid_rpm", *_POWER_TABLE, *_POWER_ADDS),
)
# a table of power is whole or not there: a type without one still says how its mixture is set
_POWER["dependentRequired"] = {name: [other for other in _POWER_TABLE if other != name] for name in _POWER_TABLE}
_FUEL = _object(
    {
        "tanks": {"type": "array", "items": _TEXT, "minItems": 1, "maxItems": 8},
        "change_every_s": {"type": "number", "minimum": 60, "maximum": 14_400},
        "reserve_min": {"type": "number", "minimum": 0, "maximum": 180},
        "each_engine_its_own": {"type": "boolean"},
        "engine_tanks": {"type": "array", "items": {"type": "array", "items": _TEXT, "minItems": 1}, "minItems": 2},
        "change_by": {"enum": ["balance", "order"]},
    },
    *("change_every_s", "reserve_min", "each_engine_its_own", "engine_tanks", "change_by"),
)
_START_OPTIONS: dict[str, Any] = {
    "unit": {"enum": ("strokes", "seconds", "shots", "none")},
    "primer": _TEXT,
    "throttle": _TEXT,
    "mixture": _TEXT,
    "pump": _TEXT,
    "hot": _TEXT,
    "flooded": _TEXT,
    "primes": _CONDITIONS,
    "throttle_is": {"type": "number", "minimum": 0, "maximum": 5},
    "turned_by": {"enum": SWITCHES},
    "crank_s": _PAIR,
    "energise_s": _PAIR,
    "energise_ground_power_s": _PAIR,
    "leans_above_ft": _NUMBER,
    "blades": {"type": "integer", "minimum": 1, "maximum": 6},
    "gear_ratio": {"type": "number", "minimum": 1, "maximum": 4},
    "boils": {"type": "boolean"},
    "stops": _TEXT,
    "shows_cranking": {"type": "boolean"},
}
_START = _object(_START_OPTIONS, *_START_OPTIONS)
_UNITS = _object(
    {
        "families": {"type": "object", "propertyNames": _ID, "additionalProperties": _ID},
        "gauges": {"type": "object", "propertyNames": _ID, "additionalProperties": _ID},
    },
    *("families", "gauges"),
)
_STATION = _object(
    {
        "id": _ID,
        "title": _TEXT,
        "arm_m": _NUMBER,
        "across_m": _NUMBER,
        "most_kg": {"type": "number", "exclusiveMinimum": 0},
        "is_fuel": {"type": "boolean"},
        "takes_ballast": {"type": "boolean"},
    },
    *("across_m", "most_kg", "is_fuel", "takes_ballast"),
)
_MASS = {"type": "number", "exclusiveMinimum": 0, "maximum": 20_000}
_BALANCE = _object(
    {
        "empty_kg": _MASS,
        "empty_arm_m": _NUMBER,
        "empty_across_m": _NUMBER,
        "most_take_off_kg": _MASS,
        "most_landing_kg": _MASS,
        "most_zero_fuel_kg": _MASS,
        "stations": {"type": "array", "items": _STATION, "minItems": 1, "maxItems": 30},
        "envelope": {
            "type": "array",
            "items": _object({"arm_m": _NUMBER, "mass_kg": _NUMBER}),
            "minItems": 3,
            "maxItems": 20,
        },
        "across": {
            "type": "array",
            "items": _object({"arm_m": _NUMBER, "across_m": _NUMBER}),
            "minItems": 3,
            "maxItems": 20,
        },
    },
    *("empty_across_m", "most_landing_kg", "most_zero_fuel_kg", "across"),
)
PROFILE_SCHEMA: dict[str, Any] = {
    "$schema": "https://json-schema.org/draft/2020-12/schema",
    "title": "Jemmon aircraft profile",
    **_object(
        {
            "format": {"const": FORMAT},
            "id": _ID,
            "name": _TEXT,
            "registration": {"type": "string", "pattern": "^[A-Z0-9-]{2,10}$"},
            "about": _TEXT,
            "owner_signed": {"type": "boolean"},
            "engine": _object(
                {
                    "count": {"enum": (1, 2)},
                    "names": {"type": "array", "items": _TEXT, "minItems": 1, "maxItems": 2},
                    "order": {"type": "array", "items": {"enum": (1, 2)}, "minItems": 1, "maxItems": 2},
                    "cylinders": {"type": "integer", "minimum": 1, "maximum": 18},
                    "displacement_l": {"type": "number", "minimum": 0.5, "maximum": 60},
                    "compression_ratio": {"type": "number", "minimum": 5, "maximum": 14},
                    "rated_power_hp": {"type": "number", "minimum": 20, "maximum": 4000},
                    "rated_rpm": {"type": "number", "minimum": 1000, "maximum": 7000},
                    "fuel_system": {"enum": ("carburettor", "injection", "electronic_injection")},
                    "propeller": {"enum": ("fixed_pitch", "constant_speed", "automatic", "rotor")},
                    "bus_v": {"enum": (14, 28)},
                    "ignition": {"enum": ("magnetos", "magneto_and_electronic", "lanes")},
                    "mag_first": {"enum": ("left", "right")},
                    "rpm_at_100_pct": {"type": "number", "minimum": 1000, "maximum": 7000},
                    "rpm_lag_s": {"type": "number", "minimum": 0.1, "maximum": 3},
                    "fuel_octane": {"type": "number", "minimum": 70, "maximum": 130},
                    "propeller_hub": {"enum": ("oil", "electric")},
                },
                *(
                    "names",
                    "order",
                    "ignition",
                    "mag_first",
                    "rpm_at_100_pct",
                    "rpm_lag_s",
                    "fuel_octane",
                    "propeller_hub",
                ),
            ),
            "limits": {
                "type": "object",
                "propertyNames": _ID,
                "additionalProperties": _object({"value": _NUMBER, "source": _SOURCE, "note": _TEXT}),
            },
            "lean_targets": {
                "type": "array",
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
                "items": _object({"below_c": _NUMBER, "amount": {"type": "number", "minimum": 0}, "source": _SOURCE}),
            },
            "power": _POWER,
            "fuel": _FUEL,
            "start": _START,
            "put_backs": {"type": "array", "items": _PUT_BACK},
            "schedule": {"type": "object", "additionalProperties": _NUMBER},
            "phases": {
                "type": "array",
                "minItems": 1,
                "items": _object(
                    {
                        "id": _ID,
                        "title": _TEXT,
                        "kind": {"enum": tuple(PHASE_KINDS)},
                        "instruments": {"type": "array", "items": _ID, "maxItems": 5},
                        "begins": _CONDITIONS,
                        "lists": {"type": "array", "items": _LIST, "minItems": 1, "maxItems": 20},
                    },
                    *("begins",),
                ),
            },
            "delays": _object(
                {
                    "killer_s": {"type": "number", "minimum": 60, "maximum": 7200},
                    "briefing_s": {"type": "number", "minimum": 60, "maximum": 7200},
                }
            ),
            "take_off": _object(
                {
                    "phase": _ID,
                    "when": _CONDITIONS,
                    "needs": {
                        "type": "array",
                        "items": _object({"say": _TEXT, "proof": {"type": "string", "pattern": _PROOF}}),
                    },
                }
            ),
            "briefing": _object(
                {
                    "kind": {"enum": ("single", "twin", "helicopter")},
                    "rotate_kt": _NUMBER,
                    "climb_kt": _NUMBER,
                    "glide_kt": _NUMBER,
                    "turn_back_ft": _NUMBER,
                    "blue_line_kt": _NUMBER,
                    "red_line_kt": _NUMBER,
                },
                *("blue_line_kt", "red_line_kt", "turn_back_ft", "rotate_kt"),
            ),
            "emergency": {
                "type": "array",
                "minItems": 1,
                "items": _object(
                    {
                        "title": _TEXT,
                        "steps": {"type": "array", "items": _TEXT, "minItems": 1},
                        "when": {"enum": ["power_loss"]},
                    },
                    "when",
                ),
            },
            "units": _UNITS,
            "balance": _BALANCE,
            "never_exceed": _VNE,
            "bench": {"type": "object"},
        },
        *("bench", "start", "power", "fuel", "units", "balance", "never_exceed"),
    ),
}
