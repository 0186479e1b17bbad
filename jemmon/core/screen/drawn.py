"""A flight's samples as they are drawn and read off: thinned over what is asked for, every signal in its core unit."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..aircraft import Profile
from ..fuel.tanks import tank_at
from ..trace import Trace
from ..trace.signals import Kind, Signal, cylinder_of, row_of, signal_of

_MOST_POINTS = 1500  # more than a screen has columns of light; a closer look is asked for by its own start and end


@dataclass(frozen=True, slots=True, kw_only=True)
class Channel:
    """One signal of a trace, thinned as its times are: `values` in `unit`, or `words` for a switch with named positions; None
    where there is no reading."""

    id: str
    title: str
    unit: str
    values: tuple[float | None, ...] | None = None
    words: tuple[str | None, ...] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class TracePoints:
    """A flight's samples thinned to be drawn: time [s], the speed and the mean EGT [°F] that are drawn, and every channel to be
    read under the cursor. `start_s` and `end_s` are where the whole trace begins and ends."""

    start_s: float
    end_s: float
    time_s: tuple[float, ...]
    rpm: tuple[float | None, ...] | None
    mean_egt_f: tuple[float | None, ...] | None
    channels: tuple[Channel, ...]


def trace_points(trace: Trace, profile: Profile, from_s: float | None = None, to_s: float | None = None) -> TracePoints:
    """Return what is drawn of a trace from one time to another [s], of the whole where none is given."""
    first = 0 if from_s is None else int(np.searchsorted(trace.time_s, from_s))
    last = len(trace) if to_s is None else int(np.searchsorted(trace.time_s, to_s, side="right"))
    part = trace.part(first, last)
    every = max(len(part) // _MOST_POINTS, 1)
    return TracePoints(
        start_s=float(trace.time_s[0]) if len(trace) else 0.0,
        end_s=float(trace.time_s[-1]) if len(trace) else 0.0,
        time_s=tuple(part.time_s[::every].tolist()),
        rpm=_plain(part.speed(), every),
        mean_egt_f=_plain(_mean(list(part.cylinders("egt").values())), every),
        channels=tuple(_channels(part, profile, every)),
    )


def _channels(part: Trace, profile: Profile, every: int) -> list[Channel]:
    """Return every signal of a trace that has a reading, in the order of its columns."""
    made = []
    for column in part.columns:
        known = signal_of(column)
        row = row_of(known[1]) if known else None
        values = part.signal(known[1], known[0]) if known else None
        if known is None or row is None or values is None or not _has_any(row.kind, values):
            continue
        title = _title(profile, row, *known[:2])
        made.append(_channel(profile, column, title, row, values[::every]))
    return made


def _has_any(kind: Kind, values: np.ndarray) -> bool:
    return any(values.tolist()) if kind is Kind.WORD else bool(np.isfinite(values).any())


def _title(profile: Profile, row: Signal, engine: int, signal: str) -> str:
    engines = dict(profile.engines)
    cylinder = cylinder_of(signal)[1]
    own = f"{row.title} {cylinder}" if cylinder else row.title
    return f"{engines.get(engine, f'Engine {engine}')}: {own}" if len(engines) > 1 and not row.is_shared else own


def _channel(profile: Profile, column: str, title: str, row: Signal, values: np.ndarray) -> Channel:
    """Return a signal as it is read off: a needle in its unit, a lever in percent of its way, a switch and a tank in words."""
    told = [
        None if cell is None or cell != cell else cell for cell in values.tolist()
    ]  # only no figure differs from itself
    if row.name == "tank":
        words = [None if cell is None else tank_at(profile, cell) for cell in told]
    elif row.words is not None:
        words = [None if cell is None else row.read_out(cell) for cell in told]
    elif row.kind is Kind.WORD:
        words = [str(cell) if cell else None for cell in told]
    else:
        is_lever = row.kind is Kind.LEVER
        shown = _plain(values * 100.0 if is_lever else values, 1)
        return Channel(id=column, title=title, unit="pct" if is_lever else row.unit, values=shown)
    return Channel(id=column, title=title, unit="", words=tuple(words))


def _mean(rows: Sequence[np.ndarray]) -> np.ndarray | None:
    """Return the mean of those that have a figure, row by row; NaN where none has."""
    if not rows:
        return None
    known = np.isfinite(rows)
    count = known.sum(axis=0)
    total = np.where(known, rows, 0.0).sum(axis=0)
    return np.where(count > 0, total / np.maximum(count, 1), np.nan)


def _plain(values: np.ndarray | None, every: int) -> tuple[float | None, ...] | None:
    if values is None:
        return None
    return tuple(None if np.isnan(v) else round(float(v), 2) for v in values[::every])
