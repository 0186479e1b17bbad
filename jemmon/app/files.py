"""Trace files read in as flights. A large one is read, judged and kept by a process of its own, so that no needle waits for it."""

import json
import os
import threading
import uuid
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from datetime import UTC, datetime
from multiprocessing import get_context
from pathlib import Path
from typing import Any

from ..core.aircraft import Profile, profile_from_json
from ..core.aircraft.profile import canonical_json
from ..core.base.errors import TraceError
from ..core.flight.events import Event
from ..core.flight.fold import fold
from ..core.judgement.judge import FLIGHT_GAP_S, coarse_words, judge
from ..core.screen.record import summary_of
from ..core.start.story import starts_of_trace
from ..core.trace import read_trace_csv
from ..store import flights, samples
from ..store.database import Database
from ..store.flights import Flight

_OWN_PROCESS_FROM_BYTES = 300_000
_WRITES_WAIT_S = 20.0
_Told = tuple[str, float, str, dict[str, Any]]


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptFile:
    """A file that is a flight now; `notes` say what of it was not taken as it stood."""

    flight_id: str
    findings: int
    rows: int
    notes: tuple[str, ...]


def utc_now() -> str:
    """Return the time of the wall clock, to the second."""
    return datetime.now(UTC).isoformat(timespec="seconds")


class FileReader:
    """Reads files into one database; the process for large ones is begun with the first of them."""

    def __init__(self, database: Database):
        self._database = database
        self._lock = threading.Lock()
        self._pool: ProcessPoolExecutor | None = None

    def read_in(self, profile: Profile, path: Path, name: str) -> KeptFile:
        """Keep a trace file as a flight of an aircraft.

        Raises:
            TraceError: with line and column; then nothing is kept. NotWritten: the database does not take it.
        """
        if path.stat().st_size < _OWN_PROCESS_FROM_BYTES:
            return read_in(self._database, profile, path.read_bytes(), name)
        with self._lock:
            if self._pool is None:
                self._pool = ProcessPoolExecutor(
                    1, mp_context=get_context("spawn"), initializer=os.nice, initargs=(10,)
                )
            pool = self._pool
        body = canonical_json(profile.body)
        try:
            return pool.submit(_read_in_here, str(self._database.path), body, str(path), name).result()
        except BrokenProcessPool as error:
            with self._lock:
                self._pool = None
            raise TraceError("The file could not be read: its reader stopped, perhaps for want of memory.") from error

    def close(self) -> None:
        """End the process."""
        if self._pool is not None:
            self._pool.shutdown(wait=False, cancel_futures=True)


def _read_in_here(database: str, profile: str, path: str, name: str) -> KeptFile:
    own = Database(Path(database))
    try:
        return read_in(own, profile_from_json(json.loads(profile)), Path(path).read_bytes(), name)
    finally:
        own.close()


def read_in(database: Database, profile: Profile, data: bytes, name: str) -> KeptFile:
    """Keep a trace file as a flight of an aircraft: judged, with what it shows of its starts, and the text that it came as.

    Raises:
        TraceError: with line and column; then nothing is kept. NotWritten: the database does not take it.
    """
    told, rows, notes = _told_by(data, profile)
    flight_id, now = f"file-{uuid.uuid4().hex[:12]}", utc_now()
    flight = Flight(
        id=flight_id,
        profile_hash=profile.content_hash,
        registration=profile.registration,
        pilot="from a file",
        title=name,
        source="file",
        kind="file",
        started_utc=now,
    )
    events = [
        Event(id=f"{flight_id}:{what}:{number}", kind=kind, at_s=at_s, body=body, wall_utc=now)
        for number, (what, at_s, kind, body) in enumerate(told)
    ]
    with database.writing(_WRITES_WAIT_S) as db:
        flights.keep_profile(db, profile)
        flights.add_flight(db, flight)
        samples.put_file(db, flight_id, data)
        for event in events:
            flights.add_event(db, flight_id, event)
        state = fold(profile, flights.events_of(db, flight_id))
        length_s = max((event.at_s for event in events), default=0.0)
        flights.put_summary(db, flight_id, summary_of(profile, state, length_s, is_file=True))
    findings = sum(what == "finding" for what, *_ in told)
    return KeptFile(flight_id=flight_id, findings=findings, rows=rows, notes=notes)


def _told_by(data: bytes, profile: Profile) -> tuple[list[_Told], int, tuple[str, ...]]:
    """Return (what a file's trace tells, its rows, what is to be said of it); the trace itself is let go, it may be large."""
    trace = read_trace_csv(data)
    stretches = trace.stretches(FLIGHT_GAP_S)
    notes = (*trace.notes, *_gap_notes(len(stretches)), *coarse_words(trace))
    told: list[_Told] = [("finding", one.end_s, "finding", one.to_json()) for one in judge(trace, profile)]
    for stretch in stretches:
        told += [("event", at_s, kind, dict(body)) for at_s, kind, body in starts_of_trace(profile, stretch)]
    told += [("note", 0.0, "file_note", {"text": note}) for note in notes]
    return told, len(trace), notes


def _gap_notes(pieces: int) -> tuple[str, ...]:
    if pieces == 1:
        return ()
    return (
        f"The recording has gaps of more than {FLIGHT_GAP_S / 60:.0f} minutes: its {pieces} pieces are judged each by itself.",
    )
