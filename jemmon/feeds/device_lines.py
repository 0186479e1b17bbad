"""One line of an engine instrument (JSON Lines, docs/formats.md) as a moment in the core's units. Anything may be on the
line: what is not a reading is left out, and nothing here raises."""

import json
import math

from ..core.base.units import TO_CORE
from ..core.trace.sample import Sample
from ..core.trace.signals import MAG_POSITIONS, Kind, column_of, prefix_of, row_of, signal_of

MOST_LINE_BYTES = 20_000
_MOST_READINGS = 200
_MOST_SECONDS = 1e11  # a clock of the wall has 2e9


def sample_from(line: bytes) -> Sample | None:
    """Return the moment that a line holds, its `at_s` being the instrument's own seconds, or None where it says nothing of use.
    What a hand sets (a lever, the starter, a lane) is a lever, whoever reports it."""
    try:
        body = json.loads(line, parse_constant=lambda name: None)  # NaN and Infinity are no readings
    except (ValueError, RecursionError):
        return None
    if not isinstance(body, dict) or not _is_number(body.get("t")) or abs(body["t"]) > _MOST_SECONDS:
        return None
    readings: dict[str, float] = {}
    levers: dict[str, float | str] = {}
    for name, value in list(body.items())[:_MOST_READINGS]:
        known = signal_of(name) if len(name) < 40 else None
        row = row_of(known[1]) if known else None
        if known is None or row is None:
            continue
        engine, signal, unit = known
        if row.kind is Kind.WORD:
            if value in MAG_POSITIONS:
                levers[prefix_of(engine) + signal] = str(value)
        elif row.is_lever and (_is_number(value) or isinstance(value, bool)):
            levers[prefix_of(engine) + signal] = min(max(float(value), 0.0), 1.0)
        elif _is_number(value):
            shown = TO_CORE[row.unit][unit].to_core(float(value)) if unit else float(value)
            if row.lowest <= shown <= row.highest:  # else no sensor shows it
                readings[column_of(signal, engine)] = shown
    return Sample(at_s=float(body["t"]), readings=readings, levers=levers)


def _is_number(value: object) -> bool:
    try:
        return not isinstance(value, bool) and isinstance(value, int | float) and math.isfinite(value)
    except OverflowError:  # an integer of a thousand digits
        return False
