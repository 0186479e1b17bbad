"""What a drill's flight showed, as columns that rules read: the needles, the levers, what the pilot said and decided."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..trace import Trace
from .conditions import ANY, decided, said


@dataclass(frozen=True, slots=True)
class Told:
    """What a pilot said of a drill: that it is a cause (`say`), or what is to be done (`decide`), and when [s]."""

    at_s: float
    kind: str
    word: str


@dataclass(frozen=True, slots=True)
class Happened:
    """What the drill did, and when [s]: the step of its `happens` at this place."""

    at_s: float
    place: int
    step: Mapping[str, Any]


@dataclass(frozen=True, slots=True)
class Hand:
    """What hands did at once (`prime_strokes`, `turn_blades`, ...), how much, and when [s]."""

    at_s: float
    action: str
    amount: float


TELLS = "tells"
"""The column that counts what the pilot was told."""


@dataclass(frozen=True)
class FlownDrill:
    """A flown drill: the time of each row [s] (rows,), the shown needles and the levers by name (rows,), what was told and what
    happened."""

    time_s: np.ndarray
    columns: Mapping[str, np.ndarray]
    told: tuple[Told, ...]
    happened: tuple[Happened, ...]

    def values(self) -> dict[str, np.ndarray]:
        """Return the columns with one more for each word that the pilot said: 1 from then on until the next word of its kind, so
        that who names every cause has named the last. The column of `ANY` is 1 from the first word on."""
        found = dict(self.columns)
        for kind, column in (("say", said), ("decide", decided)):
            words = [one for one in self.told if one.kind == kind]
            for one in words:
                found[column(one.word)] = np.zeros(len(self.time_s))
            ends_s = [*(one.at_s for one in words[1:]), np.inf]
            for one, end_s in zip(words, ends_s, strict=False):
                since_s = min(one.at_s, self.time_s[-1])  # a last word counts, though no needle was kept after it
                found[column(one.word)][(self.time_s >= since_s) & (self.time_s < end_s)] = 1.0
            if words:
                found[column(ANY)] = (self.time_s >= min(words[0].at_s, self.time_s[-1])).astype(float)
        return found

    def trace(self) -> Trace:
        """Return the flight as a trace to be judged."""
        return Trace(self.time_s, dict(self.columns))


def of_rows(
    time_s: Sequence[float],
    rows: Sequence[Mapping[str, Any]],
    told: Sequence[Told],
    happened: Sequence[Happened],
) -> FlownDrill:
    """Return a flown drill from one mapping of values a row; `time_s` is theirs [s]."""
    columns = {
        name: np.array([row[name] for row in rows], dtype=object if isinstance(value, str) else float)
        for name, value in rows[0].items()
    }
    return FlownDrill(np.asarray(time_s), columns, tuple(told), tuple(happened))


def of_trace(trace: Trace, told: Sequence[Told], happened: Sequence[Happened], hands: Sequence[Hand]) -> FlownDrill:
    """Return a flown drill from what was kept of its flight: needles and levers, what was said, what happened, and what hands did
    at once."""
    columns = {name: column for name, column in trace.columns.items() if name not in ("roughness", "primer_unlocked")}
    for name in {hand.action for hand in hands}:
        columns[name] = _counted(trace.time_s, [(hand.at_s, hand.amount) for hand in hands if hand.action == name])
    columns[TELLS] = _counted(trace.time_s, [(one.at_s, 1.0) for one in happened if "tell" in one.step])
    return FlownDrill(trace.time_s, columns, tuple(told), tuple(happened))


def _counted(time_s: np.ndarray, moments: Sequence[tuple[float, float]]) -> np.ndarray:
    """Return what has come together up to each row (rows,) of amounts at their moments."""
    found = np.zeros(len(time_s))
    for at_s, amount in moments:
        found += amount * (time_s >= at_s)
    return found
