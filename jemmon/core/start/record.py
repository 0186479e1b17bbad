"""The starts of an aircraft as a record: one row a start, with what was given and what came of it; and the book's line."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..aircraft import Profile
from .advice import advise_start, book_strokes, recorded_attempts
from .engine_state import DIED_WITHIN_S

# what the plot of starts shows: our own choice
_LINE_C = np.arange(-20.0, 41.0, 2.5)


@dataclass(frozen=True, slots=True, kw_only=True)
class StartRow:
    """One start: metal [°C], prime in the type's unit, attempts, cranking in all [s], blades, lowest volts while
    cranking, seconds to oil pressure (None where it did not come), and whether it ran in the end."""

    flight: str
    day: str
    engine: int
    metal_c: float | None
    amount: float | None
    attempts: int
    cranking_s: float
    blades: int | None
    volts_v: float | None
    throttle: float | None
    oil_s: float | None
    ran: bool


def start_rows(flights: Sequence[tuple[str, str, Sequence[tuple[str, Mapping[str, Any]]]]]) -> list[StartRow]:
    """Return one row for each start in the kept events of flights: (flight, day, [(kind, body), ...]), oldest first."""
    rows: list[StartRow] = []
    for flight, day, events in flights:
        for number in sorted({int(body.get("engine", 1)) for _, body in events}):
            own = [(kind, body) for kind, body in events if int(body.get("engine", 1)) == number]
            rows += _rows_of_engine(flight, day, number, own)
    return rows


def _rows_of_engine(
    flight: str, day: str, number: int, events: Sequence[tuple[str, Mapping[str, Any]]]
) -> list[StartRow]:
    rows: list[StartRow] = []
    tries: list[Mapping[str, Any]] = []
    oil_s: float | None = None
    runs = False

    def close(ran: bool) -> None:
        nonlocal tries, oil_s
        if tries:
            rows.append(_row(flight, day, number, tries, oil_s, ran))
        tries, oil_s = [], None

    for kind, body in events:
        if kind in ("engine_fired", "start_failed"):
            tries.append(body)
            runs = kind == "engine_fired"
        elif kind == "oil_pressure_seen":
            oil_s = float(body["seconds"])
        elif kind == "engine_stopped":
            if float(body.get("ran_s", 999.0)) > DIED_WITHIN_S:
                close(True)
            runs = False
    close(runs)
    return rows


def _row(
    flight: str, day: str, number: int, tries: Sequence[Mapping[str, Any]], oil_s: float | None, ran: bool
) -> StartRow:
    last = tries[-1]
    volts = [body["volts_v"] for body in tries if body.get("volts_v") is not None]
    return StartRow(
        flight=flight,
        day=day,
        engine=number,
        metal_c=last.get("metal_c"),
        amount=last.get("strokes"),
        attempts=len(tries),
        cranking_s=round(sum(float(body.get("cranking_s") or 0.0) for body in tries), 1),
        blades=last.get("blades"),
        volts_v=min(volts, default=None),
        throttle=last.get("throttle"),
        oil_s=oil_s,
        ran=ran,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class PrimeLine:
    """What the book and the advice of today say of the prime at a temperature [°C], in the unit of the type's method."""

    metal_c: float
    book: float
    advised: float


def prime_lines(profile: Profile, flights: Sequence[Sequence[tuple[str, Mapping[str, Any]]]]) -> tuple[PrimeLine, ...]:
    """Return what the book and the advice of today say over the temperature [°C], for the plot of the starts."""
    if not profile.prime:
        return ()
    history = recorded_attempts(flights)
    return tuple(
        PrimeLine(
            metal_c=float(metal_c),
            book=round(book_strokes(profile, float(metal_c)), 2),
            advised=advise_start(profile, float(metal_c), history, cht_f=None).strokes,
        )
        for metal_c in _LINE_C
    )
