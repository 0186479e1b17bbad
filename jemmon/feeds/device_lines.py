"""One line of an engine instrument (JSON Lines, docs/formats.md) as readings in the core's units. Anything may be on the
line: what is no reading is left out, and nothing here raises."""

import json
import math

from ..core.base.units import TO_CORE
from ..core.bench.layout import MAG_POSITIONS
from ..core.trace.columns import SIGNAL_UNITS, signal_of

MOST_LINE_BYTES = 20_000
_MOST_READINGS = 200
_LEVERS = ("throttle", "mixture", "prop", "carb_heat")


def readings_from(line: bytes) -> tuple[float, dict[str, float], dict[str, float | str]] | None:
    """Return (the instrument's own seconds, readings by trace column in core units, levers), or None where the line says
    nothing of use."""
    try:
        body = json.loads(line)
    except (ValueError, RecursionError):
        return None
    if not isinstance(body, dict) or not _is_number(body.get("t")):
        return None
    readings: dict[str, float] = {}
    levers: dict[str, float | str] = {}
    for name, value in list(body.items())[:_MOST_READINGS]:
        known = signal_of(name) if len(name) < 40 else None
        if known is None:
            continue
        engine, signal, unit = known
        prefix = "" if engine == 1 else f"e{engine}_"
        if signal == "mag" and value in MAG_POSITIONS:
            levers[prefix + signal] = str(value)
        elif not _is_number(value):
            continue
        elif signal in _LEVERS:
            levers[prefix + signal] = float(value)
        elif unit:
            core = SIGNAL_UNITS.get(signal) or SIGNAL_UNITS[signal.rstrip("0123456789")]
            readings[f"{prefix}{signal}_{core}"] = float(TO_CORE[core][unit].to_core(value))
        else:
            readings[prefix + signal] = float(value)
    return float(body["t"]), readings, levers


def _is_number(value: object) -> bool:
    try:
        return not isinstance(value, bool) and isinstance(value, int | float) and math.isfinite(value)
    except OverflowError:  # an integer of a thousand digits
        return False
