"""Samples as rows of figures, as they are kept: time first, then one column each; a switch with positions as its number."""

from collections.abc import Iterator, Mapping, Sequence

import numpy as np

from .columns import Trace
from .sample import Sample
from .signals import MAG_POSITIONS, Kind, column_of, reading_row, row_of, signal_of


def kept_names(sample: Sample) -> list[str]:
    """Return the columns of a sample that a record keeps: readings, then levers, without what follows from others."""
    names = [*sample.readings, *sample.levers]
    return [name for name in names if not ((row := reading_row(name)) and row.is_derived)]


def row_of_sample(sample: Sample, names: Sequence[str]) -> np.ndarray:
    """Return one row (shape (1 + columns,)): flight time [s], then each column's figure, NaN where there is none."""
    known = {**sample.readings, **sample.levers}
    cells = [_number(known.get(name)) for name in names]
    return np.array([sample.at_s, *cells], dtype=float)


def _number(value: float | str | None) -> float:
    if isinstance(value, str):
        return float(MAG_POSITIONS.index(value)) if value in MAG_POSITIONS else np.nan
    return np.nan if value is None else float(value)


def trace_from_rows(rows: np.ndarray, names: Sequence[str]) -> Trace:
    """Return the trace in rows (shape (rows, 1 + columns)) as they are kept."""
    columns: dict[str, np.ndarray] = {}
    for number, name in enumerate(names, 1):
        signal, values = reading_row(name), rows[:, number]
        is_word = signal is not None and signal.kind is Kind.WORD
        columns[name] = _positions(values) if is_word else values.copy()
    return Trace(np.round(rows[:, 0], 3), columns)


def _positions(values: np.ndarray) -> np.ndarray:
    """Return switch positions as text; a row without one is empty."""
    return np.array([MAG_POSITIONS[int(v)] if np.isfinite(v) else "" for v in values], dtype=object)


def moments_of(trace: Trace, rows: np.ndarray) -> Iterator[Sample]:
    """Yield one engine's samples at these rows, readings in the core's units; what has no figure in a row is left out."""
    readings: dict[str, np.ndarray] = {}
    levers: dict[str, np.ndarray] = {}
    words: dict[str, list[str]] = {}
    for column in trace.columns:
        known = signal_of(column)
        row = row_of(known[1]) if known else None
        values = trace.signal(known[1]) if known and known[0] == 1 else None
        if known is None or row is None or values is None:
            continue
        if row.kind is Kind.WORD:
            words[known[1]] = [str(value) for value in values[rows]]
        else:
            (levers if row.is_lever else readings)[column_of(known[1])] = values[rows]
    shown, moved = _row_by_row(readings, len(rows)), _row_by_row(levers, len(rows))
    for place, at_s in enumerate(trace.time_s[rows].tolist()):
        said = {name: texts[place] for name, texts in words.items() if texts[place]}
        yield Sample(at_s=at_s, readings=shown[place], levers={**moved[place], **said})


def _row_by_row(columns: Mapping[str, np.ndarray], count: int) -> list[dict[str, float]]:
    """Return the figures of each row by their names; what has no figure in a row is left out. Columns without a gap, nearly all,
    are taken together."""
    whole = {name: values.tolist() for name, values in columns.items() if not np.isnan(values).any()}
    made = [dict(zip(whole, row, strict=True)) for row in zip(*whole.values(), strict=True)] or [
        {} for _ in range(count)
    ]
    for name in columns.keys() - whole.keys():
        for row, value in zip(made, columns[name].tolist(), strict=True):
            if value == value:
                row[name] = value
    return made
