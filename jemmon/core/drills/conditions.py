"""What a drill waits for and scores by: a signal above, below or at a value, what the pilot said, and these together."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from ..base.errors import DrillError, checked_number
from ..bench.layout import ACTIONS

Values = Mapping[str, Any]
"""The value of each signal and lever: one of this moment, or a column of a whole flight (rows,)."""

SAID, DECIDED = "said:", "decided:"
ANY = "*"  # any cause, any decision
_BOUNDS = ("above", "below", "is")


def said(cause: str) -> str:
    """Return the column that is 1 from the moment on when the pilot named a cause."""
    return SAID + cause


def decided(decision: str) -> str:
    """Return the column that is 1 from the moment on when the pilot decided something."""
    return DECIDED + decision


def holds(condition: Mapping[str, Any], values: Values) -> Any:
    """Return whether a condition holds: one truth for values of a moment, one a row (rows,) for columns. What is not known (a
    needle that is not there at that moment) does not hold.

        Raises:
            DrillError: the condition names a signal that there is not.
    """
    if "all" in condition:
        return _together(np.logical_and, condition["all"], values)
    if "any" in condition:
        return _together(np.logical_or, condition["any"], values)
    if "not" in condition:
        return np.logical_not(holds(condition["not"], values))
    if "say" in condition:
        return _is_one(values, said(condition["say"]))
    if "decide" in condition:
        return _is_one(values, decided(condition["decide"]))
    return _bounded(condition, values)


def _together(join: Any, parts: Any, values: Values) -> Any:
    found = holds(parts[0], values)
    for part in parts[1:]:
        found = join(found, holds(part, values))
    return found


def _is_one(values: Values, name: str) -> Any:
    """A pilot who said nothing at all has no such column."""
    return np.asarray(values.get(name, 0.0)) > 0.5


def _bounded(condition: Mapping[str, Any], values: Values) -> Any:
    name = condition["of"]
    if name not in values and name in ACTIONS:
        return False  # nothing of the kind was done
    if name not in values:
        raise DrillError(f"There is no signal and no lever {name!r} on this aircraft.", name)
    value = values[name]
    if "is" not in condition and np.asarray(value).dtype.kind in "OU":
        raise DrillError(f"{name!r} has places, no figures: ask what it `is`.", name)
    found: Any = np.full(np.shape(value), True)
    if "above" in condition:
        found = found & (value > condition["above"])
    if "below" in condition:
        found = found & (value < condition["below"])
    if "is" in condition:
        found = found & (value == _as_lever(condition["is"]))
    return found


def _as_lever(value: float | str | bool) -> float | str:
    return float(value) if isinstance(value, bool) else value


def check_condition(condition: object, where: str) -> None:
    """Raise DrillError, with `where` it is, unless this is a condition in form."""
    if not isinstance(condition, Mapping) or not condition:
        raise DrillError(f"{where}: a condition is an object such as {{'of': 'rpm', 'above': 1000}}.", where)
    for joint in ("all", "any"):
        if joint in condition:
            parts = condition[joint]
            if not isinstance(parts, list) or not parts or len(condition) > 1:
                raise DrillError(f"{where}: `{joint}` holds a list of conditions and stands alone.", where)
            for number, part in enumerate(parts, 1):
                check_condition(part, f"{where}, part {number}")
            return
    if "not" in condition:
        check_condition(condition["not"], f"{where}, not")
        return
    if "say" in condition or "decide" in condition:
        if len(condition) > 1 or not all(isinstance(word, str) for word in condition.values()):
            raise DrillError(f"{where}: `say` and `decide` hold a word and stand alone in a condition.", where)
        return
    _check_bounds(condition, where)


def _check_bounds(condition: Mapping[str, Any], where: str) -> None:
    unknown = sorted(condition.keys() - {"of", *_BOUNDS})
    if unknown or not isinstance(condition.get("of"), str):
        part = f"an unknown part {unknown[0]!r}" if unknown else "no `of`"
        raise DrillError(f"{where}: the condition has {part}; known are of, above, below, is.", where)
    if not condition.keys() & set(_BOUNDS):
        raise DrillError(f"{where}: the condition on {condition['of']!r} has no above, below or is.", where)
    if not isinstance(condition.get("is", ""), str | int | float):
        raise DrillError(f"{where}: `is` holds a word, a figure, true or false.", where)
    for bound in ("above", "below"):
        if bound in condition:
            checked_number(f"{where}: `{bound}`", condition[bound], DrillError)


def names_in(condition: Mapping[str, Any]) -> set[str]:
    """Return the signals and levers that a condition reads."""
    if "of" in condition:
        return {condition["of"]}
    parts = [*condition.get("all", ()), *condition.get("any", ()), *([condition["not"]] if "not" in condition else [])]
    return {name for part in parts for name in names_in(part)}
