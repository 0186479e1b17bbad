"""Samples in blocks of one minute of flight, and the bench's state beside the open block."""

import json
import sqlite3
from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from ..core.bench.layout import MAG_POSITIONS
from ..core.trace import Trace, read_trace_csv

BLOCK_S = 60.0
_PUT_BLOCK = """
INSERT INTO sample_blocks (flight_id, minute, rows, cells) VALUES (?, ?, ?, ?)
ON CONFLICT (flight_id, minute) DO UPDATE SET rows = excluded.rows, cells = excluded.cells
"""
_PUT_STATE = """
INSERT INTO bench_states (flight_id, at_s, body) VALUES (?, ?, ?)
ON CONFLICT (flight_id) DO UPDATE SET at_s = excluded.at_s, body = excluded.body
"""


def set_columns(db: sqlite3.Connection, flight_id: str, columns: Sequence[str]) -> None:
    """Say which trace columns (without time_s) the blocks of a flight hold."""
    db.execute("UPDATE flights SET columns = ? WHERE id = ?", (json.dumps(list(columns)), flight_id))


def put_block(db: sqlite3.Connection, flight_id: str, minute: int, rows: np.ndarray) -> None:
    """Write or rewrite one minute's samples (shape (rows, 1 + columns)); `mag` is its position's number."""
    db.execute(_PUT_BLOCK, (flight_id, minute, len(rows), rows.astype("<f8").tobytes()))


def put_bench_state(db: sqlite3.Connection, flight_id: str, at_s: float, body: Mapping[str, Any]) -> None:
    """Keep where the bench stands."""
    db.execute(_PUT_STATE, (flight_id, at_s, json.dumps(body)))


def bench_state(db: sqlite3.Connection, flight_id: str) -> tuple[float, dict[str, Any]] | None:
    """Return (flight time, state) of a flight's bench, or None."""
    row = db.execute("SELECT at_s, body FROM bench_states WHERE flight_id = ?", (flight_id,)).fetchone()
    return (row["at_s"], json.loads(row["body"])) if row else None


def put_file(db: sqlite3.Connection, flight_id: str, csv: bytes) -> None:
    """Keep a trace file as it came."""
    db.execute("INSERT INTO trace_files (flight_id, csv) VALUES (?, ?)", (flight_id, csv))


def file_of(db: sqlite3.Connection, flight_id: str) -> bytes | None:
    """Return the trace file that a flight was read from, or None."""
    row = db.execute("SELECT csv FROM trace_files WHERE flight_id = ?", (flight_id,)).fetchone()
    return bytes(row["csv"]) if row else None


def trace_of(db: sqlite3.Connection, flight_id: str) -> Trace | None:
    """Return all samples of a flight as a trace, or None where it has none."""
    if (csv := file_of(db, flight_id)) is not None:
        return read_trace_csv(csv)
    row = db.execute("SELECT columns FROM flights WHERE id = ?", (flight_id,)).fetchone()
    names = json.loads(row["columns"]) if row else []
    sql = "SELECT cells FROM sample_blocks WHERE flight_id = ? ORDER BY minute"
    blocks = [np.frombuffer(r["cells"], "<f8").reshape(-1, 1 + len(names)) for r in db.execute(sql, (flight_id,))]
    return trace_from_rows(np.concatenate(blocks), names) if blocks else None


def trace_from_rows(rows: np.ndarray, names: Sequence[str]) -> Trace:
    """Return the trace in rows (shape (rows, 1 + columns)) as they are kept."""
    columns: dict[str, np.ndarray] = {}
    for number, name in enumerate(names, 1):
        values = rows[:, number]
        columns[name] = _positions(values) if name == "mag" else values.copy()
    return Trace(np.round(rows[:, 0], 3), columns)


def _positions(values: np.ndarray) -> np.ndarray:
    """Return switch positions as text; a row without one is empty."""
    return np.array([MAG_POSITIONS[int(v)] if np.isfinite(v) else "" for v in values], dtype=object)
