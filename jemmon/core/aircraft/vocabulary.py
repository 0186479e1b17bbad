"""Every word of a profile that the registries of signals and facts own: one that is not known is refused with the nearest that
is. Limits are checked in `limits`, kinds of check where they are registered (`judgement.registry`)."""

from collections.abc import Mapping
from typing import Any

from ..base.errors import ProfileError
from ..base.names import check_known
from ..base.units import DISPLAYS, FAMILIES
from ..trace.signals import SIGNALS, engine_of, reading_row
from .lists import FACTS

_READINGS = tuple(row.column for row in SIGNALS.values() if not row.is_lever)
_LEVERS = tuple(row.name for row in SIGNALS.values() if row.is_lever)


def check_vocabulary(body: Mapping[str, Any]) -> None:
    """Raise ProfileError for the first word of a profile's JSON (in the present format) that no registry has."""
    for phase in body["phases"]:
        place = f"Phase {phase['id']!r}"
        for name in phase["instruments"]:
            _check_reading(place, name)
        _check_conditions(place, phase.get("begins", ()))
        for one in phase["lists"]:
            _check_conditions(f"List {one['id']!r}", one.get("only_if", ()))
            for item in one["items"]:
                _check_item(item)
    _check_units(body.get("units", {}))
    _check_conditions("`take_off`", body["take_off"]["when"])
    _check_conditions("`start`", body.get("start", {}).get("primes", ()))
    for row in body["put_backs"]:
        _check_conditions(f"Put-back {row['id']!r}", row.get("away_at_rest", ()))
        if "lever" in row:
            check_known(f"Put-back {row['id']!r}", engine_of(row["lever"])[1], _LEVERS, ProfileError)


def _check_units(units: Mapping[str, Any]) -> None:
    """Refuse a family, a gauge or a choice of units that there is not."""
    families = {family.name: family for family in FAMILIES}
    for name, choice in units.get("families", {}).items():
        check_known("`units.families`", name, families, ProfileError)
        check_known(f"`units.families.{name}`", choice, families[name].choices, ProfileError)
    for column, choice in units.get("gauges", {}).items():
        _check_reading("`units.gauges`", column)
        row = reading_row(column)
        check_known(f"`units.gauges.{column}`", choice, DISPLAYS.get(row.unit, {}) if row else (), ProfileError)


def _check_item(item: Mapping[str, Any]) -> None:
    place = f"Item {item['id']!r}"
    if "lever" in item:
        check_known(f"{place}, `lever`", engine_of(item["lever"])[1], _LEVERS, ProfileError)
    if "reading" in item:
        _check_reading(f"{place}, `reading`", item["reading"]["signal"])
    _check_conditions(place, item.get("only_if", ()))


def _check_reading(place: str, name: str) -> None:
    row = reading_row(name)
    if row is None:
        check_known(place, engine_of(name)[1], (*_READINGS, *_LEVERS), ProfileError)


def _check_conditions(place: str, conditions: Any) -> None:
    for condition in conditions:
        name = condition["of"]
        if name not in FACTS and reading_row(name) is None:
            check_known(f"{place}, condition", engine_of(name)[1], (*FACTS, *_READINGS, *_LEVERS), ProfileError)
