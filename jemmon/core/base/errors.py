"""The errors of the core.

CoreError
├── OutOfRange      a figure is outside the range that a formula holds for
├── ProfileError    an aircraft profile is not complete or not consistent
├── TraceError      a trace file cannot be read; carries line and column
├── ScriptError     a bench script names a lever, a fault or a value that does not exist
├── DrillError      a drill is not complete or not consistent
└── EventError      an event cannot be taken into a flight

Each class has a stable `code`; the web layer turns it into a status.
"""

import math
from typing import Any


class CoreError(Exception):
    """Something handed to the core is wrong; the message says what, where and what to do."""

    code = "core_error"

    def __init__(self, message: str, where: str | None = None):
        super().__init__(message)
        self.where = where

    def __reduce__(self) -> tuple[Any, ...]:
        return _again, (type(self), str(self), self.__dict__)


def _again(cls: type[CoreError], message: str, fields: dict[str, Any]) -> CoreError:
    """Return an error as it was in another process."""
    error = cls.__new__(cls, message)
    error.__dict__.update(fields)
    return error


class OutOfRange(CoreError):
    """A figure is outside the range that a formula holds for."""

    code = "out_of_range"


class ProfileError(CoreError):
    """An aircraft profile is not complete or not consistent."""

    code = "profile_error"


class TraceError(CoreError):
    """A trace cannot be read. `line` counts from 1 (the header is line 1); `column` is the header's name, if known."""

    code = "trace_error"

    def __init__(self, what: str, line: int | None = None, column: str | None = None):
        place = ", ".join(
            part for part in (f"line {line}" if line else "", f"column {column}" if column else "") if part
        )
        super().__init__(f"{place}: {what}" if place else what, place or None)
        self.line = line
        self.column = column


class ScriptError(CoreError):
    """A bench script names a lever, a fault or a value that does not exist."""

    code = "script_error"


class DrillError(CoreError):
    """A drill is not complete, or names something that its aircraft does not have."""

    code = "drill_error"


class EventError(CoreError):
    """An event cannot be taken into a flight."""

    code = "event_error"


def check_range(what: str, value: float, lowest: float, highest: float, unit: str) -> None:
    """Raise OutOfRange unless `lowest <= value <= highest`; not-a-number is out of range."""
    if not lowest <= value <= highest:
        raise OutOfRange(f"The {what} is {value:g} {unit}; it must be within {lowest:g} to {highest:g} {unit}.")


def checked_number(
    what: str, value: object, error: type[CoreError], lowest: float = -math.inf, highest: float = math.inf
) -> float:
    """Return `value` as a float, or raise `error` if it is not a finite number within the bounds: one wording for all."""
    if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value):
        raise error(f"{what} is {value!r}; it must be a number.")
    if not lowest <= value <= highest:
        bounds = f"at least {lowest:g}" if highest == math.inf else f"within {lowest:g} to {highest:g}"
        raise error(f"{what} is {value:g}; it must be {bounds}.")
    return float(value)
