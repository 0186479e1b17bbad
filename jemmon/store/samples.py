"""Samples in blocks of one minute of flight, and the feed's state beside the open block."""

import json
import sqlite3
from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from ..core.trace import Trace, read_trace_csv, trace_from_rows

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


def put_feed_state(db: sqlite3.Connection, flight_id: str, at_s: float, body: Mapping[str, Any]) -> None:
    """Keep the feed's state."""
    db.execute(_PUT_STATE, (flight_id, at_s, json.dumps(body)))


def feed_state(db: sqlite3.Connection, flight_id: str) -> tuple[float, dict[str, Any]] | None:
    """Return (flight time, state) of a flight's feed, or None."""
    row = db.execute("SELECT at_s, body FROM bench_states WHERE flight_id = ?", (flight_id,)).fetchone()
    return (row["at_s"], json.loads(row["body"])) if row else None


def put_file(db: sqlite3.Connection, flight_id: str, csv: bytes) -> None:
    """Keep a trace file as it came."""
    db.execute("INSERT INTO trace_files (flight_id, csv) VALUES (?, ?)", (flight_id, csv))


def file_of(db: sqlite3.Connection, flight_id: str) -> bytes | None:
    """Return the trace file that a flight was read from, or None."""
    row = db.execute("SELECT csv FROM trace_files WHERE flight_id = ?", (flight_id,)).fetchone()
    return bytes(row["csv"]) if row else None


def columns_of(db: sqlite3.Connection, flight_id: str) -> list[str]:
    """Return the trace columns (without time_s) that the newest block of a flight holds; earlier blocks hold the first of
    them, because a column that comes later is put at the end."""
    row = db.execute("SELECT columns FROM flights WHERE id = ?", (flight_id,)).fetchone()
    return list(json.loads(row["columns"])) if row else []


def newest_rows(db: sqlite3.Connection, flight_id: str, blocks: int) -> np.ndarray:
    """Return the rows of the newest blocks of a flight (shape (rows, 1 + columns)); none where it has no samples."""
    sql = "SELECT rows, cells FROM sample_blocks WHERE flight_id = ? ORDER BY minute DESC LIMIT ?"
    return _rows(db.execute(sql, (flight_id, blocks)).fetchall()[::-1], len(columns_of(db, flight_id)))


def _rows(blocks: Sequence[sqlite3.Row], columns: int) -> np.ndarray:
    made = [np.full((0, 1 + columns), np.nan)]
    for block in blocks:
        cells = np.frombuffer(block["cells"], "<f8").reshape(block["rows"], -1)
        wide = np.full((len(cells), 1 + columns), np.nan)
        wide[:, : cells.shape[1]] = cells
        made.append(wide)
    return np.concatenate(made)


def trace_of(db: sqlite3.Connection, flight_id: str) -> Trace | None:
    """Return all samples of a flight as a trace, or None where it has none."""
    if (csv := file_of(db, flight_id)) is not None:
        return read_trace_csv(csv)
    names = columns_of(db, flight_id)
    sql = "SELECT rows, cells FROM sample_blocks WHERE flight_id = ? ORDER BY minute"
    rows = _rows(db.execute(sql, (flight_id,)).fetchall(), len(names))
    return trace_from_rows(rows, names) if len(rows) else None
