"""Keeps the samples of a flight: one row each 0.25 s of flight, in blocks of one minute, the open one rewritten each second."""

import threading
import time

import numpy as np

from ..feeds.bench_feed import SAMPLE_S, Sample
from ..feeds.feed import Feed
from ..store import samples
from ..store.database import Database

_REWRITE_S = 1.0


class Recorder:
    """Takes every sample of one flight's feed; at most one second of samples can be lost in a crash."""

    def __init__(self, database: Database, flight_id: str, feed: Feed):
        self._database, self._flight_id, self._feed = database, flight_id, feed
        self._rows: list[np.ndarray] = []
        self._minute = -1
        self._last_row_s = -1.0
        self._written_at = time.monotonic()
        self._lock = threading.Lock()

    def take(self, sample: Sample) -> bool:
        """Take a sample if its turn has come; return whether it was kept."""
        at_s = sample.now.at_s
        with self._lock:
            if at_s - self._last_row_s < SAMPLE_S - 0.01:
                return False
            minute = int(at_s // samples.BLOCK_S)
            if minute != self._minute:
                self._write()
                self._rows, self._minute = [], minute
            self._rows.append(sample.row)
            self._last_row_s = at_s
            if time.monotonic() - self._written_at >= _REWRITE_S:
                self._write()
        return True

    def flush(self) -> None:
        """Write what is open."""
        with self._lock:
            self._write()

    def go_on(self, rows: np.ndarray) -> None:
        """Go on after a restart with the rows of the block that was open (may be empty)."""
        if len(rows):
            self._minute = int(rows[-1, 0] // samples.BLOCK_S)
            self._rows = [row for row in rows if int(row[0] // samples.BLOCK_S) == self._minute]
            self._last_row_s = float(rows[-1, 0])

    def _write(self) -> None:
        self._written_at = time.monotonic()
        if not self._rows:
            return
        state = self._feed.state()
        with self._database.writing() as db:
            samples.put_block(db, self._flight_id, self._minute, np.stack(self._rows))
            samples.put_bench_state(db, self._flight_id, float(state["at_s"]), state)
