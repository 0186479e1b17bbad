"""Two versions of a profile, line by line: what was there before, what is there now, and in which words a pilot knows the place."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..base.figures import figure
from ..base.units import DISPLAYS
from .limits import LIMITS

_NAMES = ("title", "challenge", "name", "say", "id")
_SECTIONS: Mapping[str, str] = {
    "limits": "Limits",
    "phases": "Lists",
    "put_backs": "Put back",
    "lean_targets": "Lean targets",
    "prime": "Prime",
    "power": "Power",
    "fuel": "Fuel",
    "start": "Start method",
    "emergency": "Emergency cards",
    "briefing": "Briefing",
    "schedule": "Speeds and habits",
    "engine": "Engine",
    "take_off": "Before take-off power",
    "delays": "Delays",
    "bench": "Simulated engine",
    "units": "Units of the gauges",
    "balance": "Mass and balance",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Difference:
    """One line that differs: the place in words, what stood there before and what stands there now (None: nothing)."""

    place: str
    before: str | None
    after: str | None


def differences(before: Mapping[str, Any], after: Mapping[str, Any]) -> tuple[Difference, ...]:
    """Return every line in which two profiles differ, in the order of the newer one; figures of limits with their unit's mark."""
    return tuple(_compared(before, after, ()))


def _compared(before: Any, after: Any, place: tuple[str, ...]) -> Iterator[Difference]:
    if before == after:
        return
    if isinstance(before, Mapping) and isinstance(after, Mapping):
        for key in (*after, *(name for name in before if name not in after)):
            yield from _compared(before.get(key), after.get(key), (*place, key))
    elif _is_named(before) and _is_named(after):
        yield from _rows(before, after, place)
    else:
        yield Difference(place=_words(place), before=_said(before, place), after=_said(after, place))


def _rows(
    before: Sequence[Mapping[str, Any]], after: Sequence[Mapping[str, Any]], place: tuple[str, ...]
) -> Iterator[Difference]:
    """Yield what differs between rows that have names: changed, new, gone, and one line where their order is another."""
    old, new = {_name(row): row for row in before}, {_name(row): row for row in after}
    for name, row in new.items():
        if name not in old:
            yield Difference(place=_words((*place, _title(row))), before=None, after=_said(row, place))
        else:
            yield from _compared(old[name], row, (*place, _title(row)))
    for name, row in old.items():
        if name not in new:
            yield Difference(place=_words((*place, _title(row))), before=_said(row, place), after=None)
    both = [name for name in old if name in new]
    order = [name for name in new if name in old]
    if both != order:
        yield Difference(
            place=_words((*place, "order")),
            before=", ".join(_title(old[name]) for name in both),
            after=", ".join(_title(new[name]) for name in order),
        )


def _is_named(rows: Any) -> bool:
    """Say whether these are rows of which each has its name, no two the same."""
    if not isinstance(rows, list | tuple) or not all(isinstance(row, Mapping) and _name(row) for row in rows):
        return False
    return len({_name(row) for row in rows}) == len(rows)


def _name(row: Mapping[str, Any]) -> str:
    return str(row.get("id") or row.get("title") or row.get("name") or "")


def _title(row: Mapping[str, Any]) -> str:
    return next(str(row[key]) for key in _NAMES if row.get(key))


def _words(place: tuple[str, ...]) -> str:
    """Return a place as a pilot reads it: `Lists, Before start, Cabin, Seats: response`."""
    parts = [part for part in place if part not in ("lists", "items", "value")]
    parts[0] = _SECTIONS.get(parts[0], parts[0])
    if place[0] == "limits" and len(parts) > 1 and parts[1] in LIMITS:
        parts[1] = LIMITS[parts[1]].title
    return ", ".join(part.replace("_", " ") for part in parts)


def _said(value: Any, place: tuple[str, ...]) -> str | None:
    """Return a value as one line."""
    if value is None:
        return None
    if place[:1] == ("limits",) and len(place) == 2 and isinstance(value, Mapping):
        return f"{_figure_of(place[1], value['value'])}, {value['source']}"
    if place[:1] == ("limits",) and place[-1] == "value":
        return _figure_of(place[1], value)
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, Mapping):
        if "challenge" in value:
            return f"{value['challenge']}: {value['response']}"
        if "steps" in value:
            return "; ".join(value["steps"])
        return ", ".join(f"{key.replace('_', ' ')} {_said(part, ('',))}" for key, part in value.items())[:300]
    if isinstance(value, list | tuple):
        return "; ".join(str(_said(part, ("",))) for part in value)[:300]
    return f"{value:g}" if isinstance(value, float) else str(value)


def _figure_of(name: str, value: float) -> str:
    unit = LIMITS[name].unit if name in LIMITS else ""
    return figure(value, unit) if unit in DISPLAYS else f"{value:g}"
