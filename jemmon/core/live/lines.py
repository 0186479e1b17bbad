"""One line that is said of the flight as it is flown."""

from dataclasses import dataclass
from typing import Literal


@dataclass(frozen=True, slots=True, kw_only=True)
class AirLine:
    """What is to be said now: `look` needs a hand or an eye, `soft` can wait. The id distinguishes one line from another."""

    id: str
    kind: Literal["soft", "look"]
    say: str


def soft(line_id: str, say: str) -> AirLine:
    """Return a line that can wait."""
    return AirLine(id=line_id, kind="soft", say=say)


def look(line_id: str, say: str) -> AirLine:
    """Return a line that needs a hand or an eye."""
    return AirLine(id=line_id, kind="look", say=say)
