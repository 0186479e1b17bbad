"""Keeps what happens in one flight: what a pilot says before it counts, what the needles say as soon as the disk takes it.

A pilot's event is on disk when it is answered. What Jemmon notes of a sample counts at once, because the next sample is followed
from it, and is written by a thread of its own: a locked or full database never makes the needles wait. Everything is written in the
order in which it came.
"""

import logging
import sqlite3
import threading
import time
from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import UTC, datetime

from ..core.flight.events import Event
from ..core.flight.state import FlightState
from ..core.screen.frame import Trouble
from ..core.screen.record import summary_of
from ..store import flights
from ..store.database import Database, NotWritten, reason_of
from .flight_log import FlightLog
from .recorder import Recorder

_WRITES_EVERY_S = 0.25
_AGAIN_AFTER_S = 1.0
_ASKS_FOR_S = 1.5
_log = logging.getLogger(__name__)


def wall_utc() -> str:
    """Return the time of the wall clock, to the millisecond."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")


class Keeper:
    """The log of one flight and the way to its disk. `state_lock` guards what is in memory and is never held while the database
    is asked for; `_order` makes one event follow the other, and is."""

    def __init__(
        self,
        database: Database,
        flight_id: str,
        log: FlightLog,
        state_lock: threading.RLock,
        each_turn: Callable[[], None] = lambda: None,
    ):
        self._database, self._flight_id, self._log, self._state = database, flight_id, log, state_lock
        self._order, self._each_turn = threading.RLock(), each_turn
        self._noted: list[Event] = []
        self._wake, self._is_stopped = threading.Event(), False
        self._thread = threading.Thread(target=self._run, name="keeper", daemon=True)
        self.recorder: Recorder | None = None
        self.trouble: Trouble | None = None

    def start(self) -> None:
        """Begin to write what is noted."""
        self._thread.start()

    def stop(self) -> None:
        """Write what is open, if the database takes it, and stop; what it does not take is logged."""
        self._is_stopped = True
        self._wake.set()
        if self._thread.is_alive() and self._thread is not threading.current_thread():
            self._thread.join(2 * _ASKS_FOR_S)
        try:
            self._write_all(is_last=True)
        except NotWritten as error:
            _log.error("the end of flight %s was not written: %s", self._flight_id, error)

    def write_now(self) -> None:
        """Write all that is open. Raises NotWritten where the database does not take it."""
        self._write_all(is_last=True)

    def note(self, events: Sequence[Event]) -> None:
        """Let events of Jemmon's own count now and be written soon; one whose id is known is left out."""
        with self._state:
            for event in events:
                if self._log.find(event.id) is None:
                    noted = replace(event, wall_utc=wall_utc(), seq=self._log.state.last_seq)
                    self._log.add(noted)
                    self._noted.append(noted)
                    self._wake.set()

    def keep(self, make: Callable[[FlightState], Event]) -> tuple[Event, bool]:
        """Write an event of a pilot and let it count then; `make` gives it from the state that it meets. Return it and whether it
        is new.

        Raises:
            NotWritten: the database does not take it; then nothing has changed. SameIdOtherBody: another event has its id. What
            `make` raises, where it may not be said.
        """
        with self._order:
            event = replace(make(self._log.state), wall_utc=wall_utc())
            known = self._log.find(event.id)
            kept, is_new = self._write([*self._unwritten(), event])[-1]
            with self._state:
                if known is None:
                    self._log.add(kept)
            return (known or kept), is_new

    def _unwritten(self) -> list[Event]:
        with self._state:
            return list(self._noted)

    def _write(self, events: Sequence[Event]) -> list[tuple[Event, bool]]:
        """Write events and the summary that follows, in one transaction. Return each with its `seq`, and whether it is new."""
        written: list[tuple[Event, bool]] = []
        try:
            with self._database.writing(_ASKS_FOR_S) as db:
                for event in events:
                    seq, is_new = flights.add_event(db, self._flight_id, event)
                    written.append((replace(event, seq=seq), is_new))
                ahead = self._log.ahead([event for event, _ in written])
                length_s = max([self._log.last_s, *(event.at_s for event, _ in written)])
                flights.put_summary(db, self._flight_id, summary_of(self._log.profile, ahead, length_s))
        except NotWritten as error:
            self._tell_trouble(error.code)
            raise
        with self._state:
            ids = {event.id for event, _ in written}
            self._noted = [event for event in self._noted if event.id not in ids]
            for event, _ in written:
                self._log.settle(event)
        self.trouble = None
        return written

    def _write_all(self, *, is_last: bool = False) -> None:
        """Write what was noted, and the samples that are due: all where it `is_last`."""
        with self._order:
            if noted := self._unwritten():
                self._write(noted)
            if self.recorder:
                try:
                    self.recorder.write(_ASKS_FOR_S, now=is_last)
                except NotWritten as error:
                    self._tell_trouble(error.code)
                    raise
            if self.trouble and not noted:
                self._write([])  # nothing waits: is the database there again?
            self.trouble = None

    def _tell_trouble(self, code: str) -> None:
        if self.trouble is None or self.trouble.code != code:
            _log.warning("flight %s: nothing is being written: %s", self._flight_id, code)
            self.trouble = Trouble.of(code, self.trouble.since_utc if self.trouble else wall_utc())

    def _run(self) -> None:
        while not self._is_stopped:
            self._wake.wait(_WRITES_EVERY_S)
            self._wake.clear()
            try:
                self._each_turn()
                self._write_all()
            except NotWritten:
                time.sleep(_AGAIN_AFTER_S)
            except Exception as error:  # whatever it was, the needles go on and it is tried again
                _log.exception("the keeper of flight %s", self._flight_id)
                self._tell_trouble(reason_of(error) if isinstance(error, sqlite3.Error) else "disk_error")
                time.sleep(_AGAIN_AFTER_S)
