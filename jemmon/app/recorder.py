"""Keeps the samples of a flight: one row each 0.25 s of flight, in blocks of one minute, the open one rewritten each second.

What an instrument sends decides which columns there are; one that comes later is put at the end.
"""

import threading
import time
from collections import deque
from collections.abc import Callable, Mapping
from typing import Any

import numpy as np

from ..core.trace import Sample, Trace, kept_names, row_of_sample, trace_from_rows
from ..store import samples
from ..store.database import Database

SAMPLE_S = 0.25
_REWRITE_S = 1.0
_RECENT_S = 420.0
_BLOCKS_READ = 8
_MOST_COLUMNS = 400


class Recorder:
    """Takes every sample of one flight; at most one second of samples can be lost in a crash. `feed_state` returns what the
    feed needs to go on after a restart; it is kept beside the samples."""

    def __init__(self, database: Database, flight_id: str, feed_state: Callable[[], Mapping[str, Any]]):
        self._database, self._flight_id, self._feed_state = database, flight_id, feed_state
        self._lock = threading.Lock()
        with database.reading() as db:
            self._names = samples.columns_of(db, flight_id)
            kept = samples.newest_rows(db, flight_id, _BLOCKS_READ)
        self._recent: deque[np.ndarray] = deque(kept, maxlen=int(_RECENT_S / SAMPLE_S))
        self._minute = int(kept[-1, 0] // samples.BLOCK_S) if len(kept) else -1
        self._rows = [row for row in kept if int(row[0] // samples.BLOCK_S) == self._minute]
        self._last_row_s = float(kept[-1, 0]) if len(kept) else -1.0
        self._written_at = time.monotonic()

    def take(self, sample: Sample) -> bool:
        """Take a sample if its turn has come; return whether it was kept."""
        with self._lock:
            if sample.at_s - self._last_row_s < SAMPLE_S - 0.01:
                return False
            minute = int(sample.at_s // samples.BLOCK_S)
            if minute != self._minute:
                self._write()
                self._rows, self._minute = [], minute
            known = set(self._names)
            self._names += [name for name in kept_names(sample) if name not in known][: _MOST_COLUMNS - len(known)]
            row = row_of_sample(sample, self._names)
            self._rows.append(row)
            self._recent.append(row)
            self._last_row_s = sample.at_s
            if time.monotonic() - self._written_at >= _REWRITE_S:
                self._write()
        return True

    def recent(self) -> Trace | None:
        """Return the last seven minutes, or None before the first sample."""
        with self._lock:
            if not self._recent:
                return None
            return trace_from_rows(self._stacked(self._recent), self._names)

    def flush(self) -> None:
        """Write what is open."""
        with self._lock:
            self._write()

    def _stacked(self, rows: deque[np.ndarray] | list[np.ndarray]) -> np.ndarray:
        """Return rows (shape (rows, 1 + columns)), those from before a column came filled up with NaN."""
        made = np.full((len(rows), 1 + len(self._names)), np.nan)
        for number, row in enumerate(rows):
            made[number, : len(row)] = row
        return made

    def _write(self) -> None:
        self._written_at = time.monotonic()
        if not self._rows:
            return
        state = self._feed_state()
        with self._database.writing() as db:
            samples.set_columns(db, self._flight_id, self._names)
            samples.put_block(db, self._flight_id, self._minute, self._stacked(self._rows))
            samples.put_feed_state(db, self._flight_id, float(state["at_s"]), state)
