"""Holds the samples of a flight: one row each 0.25 s of flight, in blocks of one minute, the open one written again each second.

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
    """Takes every sample of one flight; at most one second of samples can be lost in a crash, and what the database does not take
    waits. `feed_state` returns what the feed needs to go on after a restart; it is kept beside the samples."""

    def __init__(self, database: Database, flight_id: str, feed_state: Callable[[], Mapping[str, Any]]):
        self._database, self._flight_id, self.feed_state = database, flight_id, feed_state
        self._lock = threading.Lock()
        with database.reading() as db:
            self._names = samples.columns_of(db, flight_id)
            kept = samples.newest_rows(db, flight_id, _BLOCKS_READ)
        self._recent: deque[np.ndarray] = deque(kept, maxlen=int(_RECENT_S / SAMPLE_S))
        self._minute = int(kept[-1, 0] // samples.BLOCK_S) if len(kept) else -1
        self._blocks = {self._minute: [row for row in kept if int(row[0] // samples.BLOCK_S) == self._minute]}
        self._is_due = False
        self._newest: Sample | None = None
        self._last_row_s = float(kept[-1, 0]) if len(kept) else -1.0
        self._written_at = time.monotonic()

    def take(self, sample: Sample) -> bool:
        """Take a sample if its turn has come; return whether it was kept."""
        with self._lock:
            self._newest = sample
            if sample.at_s - self._last_row_s < SAMPLE_S - 0.01:
                return False
            self._keep(sample)
        return True

    def _keep(self, sample: Sample) -> None:
        minute = int(sample.at_s // samples.BLOCK_S)
        if minute != self._minute:
            self._minute = minute
            self._blocks[minute] = []
        known = set(self._names)
        self._names += [name for name in kept_names(sample) if name not in known][: _MOST_COLUMNS - len(known)]
        row = row_of_sample(sample, self._names)
        self._blocks[minute].append(row)
        self._recent.append(row)
        self._last_row_s, self._is_due = sample.at_s, True

    def recent(self) -> Trace | None:
        """Return the last seven minutes, or None before the first sample."""
        with self._lock:
            if not self._recent:
                return None
            return trace_from_rows(self._stacked(self._recent), self._names)

    def _stacked(self, rows: deque[np.ndarray] | list[np.ndarray]) -> np.ndarray:
        """Return rows (shape (rows, 1 + columns)), those from before a column came filled up with NaN."""
        made = np.full((len(rows), 1 + len(self._names)), np.nan)
        for number, row in enumerate(rows):
            made[number, : len(row)] = row
        return made

    def write(self, patience_s: float, *, now: bool = False) -> None:
        """Write what is open, where a second has passed since it was written last, or `now`; waits so long [s] for others who
        write. Raises NotWritten; then all of it is written the next time."""
        with self._lock:  # what is written last ends with the last sample, though its turn had not come
            if now and self._newest is not None and self._newest.at_s > self._last_row_s:
                self._keep(self._newest)
        if not self._is_due or (time.monotonic() - self._written_at < _REWRITE_S and not now):
            return
        state = self.feed_state()  # not under the lock: the feed may be handing over a sample
        with self._lock:
            names, self._is_due = list(self._names), False
            blocks = {minute: self._stacked(rows) for minute, rows in self._blocks.items() if rows}
        try:
            with self._database.writing(patience_s) as db:
                samples.set_columns(db, self._flight_id, names)
                for minute, rows in blocks.items():
                    samples.put_block(db, self._flight_id, minute, rows)
                samples.put_feed_state(db, self._flight_id, float(state["at_s"]), {**state, "wall_s": time.time()})
        except BaseException:
            self._is_due = True
            raise
        self._written_at = time.monotonic()
        with self._lock:
            for minute in blocks:
                if minute != self._minute and len(self._blocks[minute]) == len(blocks[minute]):
                    del self._blocks[minute]
