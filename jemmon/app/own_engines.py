"""The simulated engines that are fitted to the flights of an aircraft: made when asked for, kept until there are other flights."""

import json
import threading
from dataclasses import dataclass, replace

from werkzeug.exceptions import Conflict

from ..core.aircraft import Profile
from ..core.drills.own_engine import OwnEngine, OwnFlight, fit_engine
from ..core.flight.events import Event
from ..core.flight.fold import fold
from ..core.flight.starts import READ_KINDS, told_starts
from ..core.screen.aircraft import AircraftLine, aircraft_line
from ..core.start.advice import recorded_attempts
from ..store import flights, samples
from ..store.database import Database
from .doors import profile_from_text
from .workshop import Saying, keep

_TRACES_READ = 4  # of the newest flights: what a cruise shows changes little, reading one takes a second
_FINDING_KINDS = ("finding", "typed_reading", "sides_named", "undo")


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnEnginePage:
    """The simulated engine fitted to an aircraft's flights: what would change, and whether they are real ones."""

    aircraft: AircraftLine
    fit: OwnEngine
    flights: int
    is_practice: bool


class OwnEngines:
    """One fit an aircraft, kept while its profile and its flights are the same; one is made at a time, since each takes seconds of
    a processor that a flight going on needs too."""

    def __init__(self, database: Database):
        self._database = database
        self._lock = threading.Lock()
        self._made: dict[str, tuple[_Told, OwnEnginePage]] = {}

    def page(self, profile: Profile) -> OwnEnginePage:
        """Return what the flights of an aircraft say of its simulated engine: real ones where there are any, else those for
        practice. Takes some seconds where it is not kept."""
        with self._lock:
            told = _told(self._database, profile)
            kept = self._made.get(profile.id)
            if kept is None or kept[0] != told:
                kept = (told, _fitted_page(self._database, profile, told))
                self._made[profile.id] = kept
            return kept[1]

    def keep(self, profile: Profile, who: str) -> Profile:
        """Let the fitted engine count for practice from now on, as a version of the aircraft, and return its profile.

        Raises:
            Conflict: there is nothing to fit it to.
        """
        page = self.page(profile)
        if not page.fit.constants:
            raise Conflict("No flight of this aircraft shows a figure to fit its simulated engine to.")
        body = {**profile.body, "bench": {**profile.body["bench"], **page.fit.constants}}
        fitted = profile_from_text(json.dumps(body).encode())
        keep(self._database, fitted, Saying(note="Simulated engine fitted to its flights", who=who.strip()))
        with self._lock:  # what was fitted is what there is now: nothing is fitted a second time
            figures = tuple(replace(row, before=row.after) for row in page.fit.figures)
            now = replace(page, aircraft=aircraft_line(fitted), fit=replace(page.fit, figures=figures))
            self._made[fitted.id] = (_told(self._database, fitted), now)
        return fitted


@dataclass(frozen=True, slots=True)
class _Told:
    """What the flights of an aircraft tell, oldest first: (flight, its day, its events) for its findings and for its starts."""

    profile_hash: str
    is_practice: bool
    findings: list[tuple[str, str, list[Event]]]
    starts: list[tuple[str, str, list[Event]]]


def _told(database: Database, profile: Profile) -> _Told:
    with database.reading() as db:
        real, _ = flights.count_by_use(db, profile.registration)
        read = (_FINDING_KINDS, READ_KINDS)
        found = [flights.events_of_aircraft(db, profile.registration, kinds, practice=real == 0) for kinds in read]
    return _Told(profile.content_hash, real == 0, *found)


def _fitted_page(database: Database, profile: Profile, told: _Told) -> OwnEnginePage:
    with database.reading() as db:
        traces = {flight: samples.trace_of(db, flight) for flight, _, _ in told.findings[-_TRACES_READ:]}
    flown = [
        OwnFlight(findings=fold(profile, events).findings, trace=traces.get(flight))
        for flight, _, events in told.findings
    ]
    history = recorded_attempts([told_starts(profile, events) for _, _, events in told.starts])
    return OwnEnginePage(
        aircraft=aircraft_line(profile),
        fit=fit_engine(profile, flown, history),
        flights=len(flown),
        is_practice=told.is_practice,
    )
