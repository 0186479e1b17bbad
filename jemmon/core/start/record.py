"""The starts of an aircraft as a record: one row a start, with what was given and what came of it; and the book's line."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..aircraft import Profile
from ..flight.fold import Event, FlightState, step, told_by_tap, undone_ids
from ..trace import Trace
from ..trace.columns import core_unit, signal_of
from .advice import advise_start, book_strokes, recorded_attempts
from .engine_state import DIED_WITHIN_S, EngineState, engine_step
from .following import StartWatch, watch_start
from .judging import find_starts

KINDS = ("engine_fired", "start_failed", "engine_stopped", "oil_pressure_seen", "oil_pressure_missing")
_MOVES = (
    *("start_tap", "prime_stroke", "primed", "weather", "engine_fired", "engine_stopped", "start_failed"),
    *("timer_started", "item_done"),
)
READ_KINDS = (*KINDS, *_MOVES, "undo")
_LOOKED_BEFORE_S, _LOOKED_AFTER_S = 60.0, 120.0
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


def told_starts(profile: Profile, events: Sequence[Event]) -> list[tuple[str, Mapping[str, Any]]]:
    """Return the (kind, body) rows of the starts in a flight's events, those of taps by hand among them."""
    undone = undone_ids(events)
    state = FlightState(phase=profile.phases[0].id)
    told: list[tuple[str, Mapping[str, Any]]] = []
    for event in events:
        if event.id in undone:
            continue
        if event.kind == "start_tap":
            told += told_by_tap(profile, state, event)
        elif event.kind in KINDS:
            told.append((event.kind, event.body))
        if event.kind in _MOVES:
            state = step(profile, state, event)
    return [(kind, body) for kind, body in told if kind in KINDS]


def starts_of_trace(profile: Profile, trace: Trace, primed: float = 0.0) -> list[tuple[float, str, dict[str, Any]]]:
    """Return (time [s], kind, body) of what a recorded trace shows of its starts, as a live flight would have kept it;
    `primed` is the prime given before, which no needle shows."""
    made: list[tuple[float, str, dict[str, Any]]] = []
    for number, _ in profile.engines:
        own = trace.of_engine(number)
        fired_s = [float(f.measured["first_fire_s"]) for f in find_starts(own, profile)]
        engine, watch = EngineState(primed=primed), StartWatch()
        near = np.zeros(len(own), dtype=bool)
        for at_s in fired_s:
            near |= (own.time_s > at_s - _LOOKED_BEFORE_S) & (own.time_s < at_s + _LOOKED_AFTER_S)
        for row in np.flatnonzero(near).tolist():
            at_s, known = float(own.time_s[row]), _row_of(own, row)
            watch, events = watch_start(profile, engine, watch, at_s, known, known)
            for kind, body in events:
                engine = engine_step(engine, kind, at_s, body)
                made.append((at_s, kind, {**body, "engine": number}))
    return sorted(made, key=lambda row: row[0])


def _row_of(trace: Trace, row: int) -> dict[str, Any]:
    """Return one row's figures in the core's units under the names of live readings."""
    known: dict[str, Any] = {}
    for column, values in trace.columns.items():
        parts = signal_of(column)
        if parts is None or values.dtype.kind != "f" or not np.isfinite(values[row]):
            continue
        figures = trace.signal(parts[1])
        unit = core_unit(parts[1])
        if figures is not None:
            known[f"{parts[1]}_{unit}" if unit else parts[1]] = float(figures[row])
    return known


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


def prime_lines(profile: Profile, flights: Sequence[Sequence[tuple[str, Mapping[str, Any]]]]) -> list[dict[str, float]]:
    """Return what the book and the advice of today say over the temperature [°C], for the plot of the starts."""
    if not profile.prime:
        return []
    history = recorded_attempts(flights)
    return [
        {
            "metal_c": float(metal_c),
            "book": round(book_strokes(profile, float(metal_c)), 2),
            "advised": advise_start(profile, float(metal_c), history, cht_f=None).strokes,
        }
        for metal_c in _LINE_C
    ]
