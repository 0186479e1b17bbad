"""What the application holds while it runs: the known aircraft, the database, and the one flight that is going on."""

import logging
import threading
from collections.abc import Mapping
from dataclasses import replace
from datetime import UTC, datetime

from werkzeug.exceptions import Conflict, NotFound

from ..core.aircraft import Profile
from ..core.flight.events import Event
from ..core.flight.fold import fold
from ..core.screen.record import FlightKind, summary_of
from ..feeds.practice_faults import GivenFault
from ..library.shipped import shipped_profiles
from ..store import flights
from ..store.aircraft import imported_aircraft
from ..store.database import Database
from ..store.flights import Flight
from ..store.lock import DatabaseLock
from .files import FileReader, utc_now
from .live_flight import LiveFlight
from .making import make_live_flight
from .own_engines import OwnEngines
from .practice import BegunDrill
from .settings import Settings

# what a flight is, by where its needles come from
_KINDS: Mapping[str, FlightKind] = {"manual": "by_hand", "device": "instrument"}
_log = logging.getLogger(__name__)


class Hangar:
    """One for each application. A flight that was not ended goes on when the server starts again."""

    def __init__(self, settings: Settings):
        self.settings = settings
        self.lock = DatabaseLock(settings.database)
        try:
            self.database = Database(settings.database)
        except BaseException:
            self.lock.release()
            raise
        self.files = FileReader(self.database)
        self.profiles: dict[str, Profile] = shipped_profiles()
        self.own_engines = OwnEngines(self.database)
        self._lock = threading.Lock()
        self._is_closed = False
        self.damage: str | None = None
        self.live: LiveFlight | None = None
        self._summarise()
        with self.database.reading() as db:
            own = imported_aircraft(db)
            going_on = flights.open_flight(db)
            profile = flights.profile_by_hash(db, going_on.profile_hash) if going_on else None
        self.profiles |= {profile.id: profile for profile in own if not profile.refused}
        self.not_read = tuple(profile for profile in own if profile.refused)
        threading.Thread(target=self._check_database, name="integrity check", daemon=True).start()
        if going_on and profile and profile.refused:
            _log.error("flight %s does not go on: its profile is refused: %s", going_on.id, profile.refused)
        elif going_on and profile:
            self.live = make_live_flight(self.database, going_on, profile, oat_c=settings.oat_c)
            self.live.start()

    def _check_database(self) -> None:
        """Look through the database once, beside everything else; what is wrong is told on every screen."""
        self.damage = self.database.damage()
        if self.damage:
            _log.error("the database %s is damaged: %s", self.settings.database, self.damage)

    def _summarise(self) -> None:
        """Make the summaries of flights that an earlier version kept without one."""
        with self.database.reading() as db:
            made = {}
            for flight in flights.without_summary(db):
                profile = flights.profile_by_hash(db, flight.profile_hash)
                events = flights.events_of(db, flight.id)
                length_s = max((event.at_s for event in events), default=0.0)
                made[flight.id] = summary_of(profile, fold(profile, events), length_s, is_file=flight.source == "file")
        if made:
            with self.database.writing() as db:
                for flight_id, summary in made.items():
                    flights.put_summary(db, flight_id, summary)

    def profile(self, profile_id: str) -> Profile:
        """Return a known aircraft's profile. Raises NotFound with the ids that there are."""
        if profile_id not in self.profiles:
            known = ", ".join(sorted(self.profiles))
            raise NotFound(f"There is no aircraft {profile_id[:60]!r}; known are {known}.")
        return self.profiles[profile_id]

    def begin(
        self,
        flight_id: str,
        profile: Profile,
        pilot: str,
        source: str,
        speed: int,
        feed: str = "",
        fault: GivenFault | None = None,
        drill: BegunDrill | None = None,
    ) -> LiveFlight:
        """Begin a flight, its simulated engine with a fault where one is given, or as a drill; the same id again returns the one
        that is going on. Raises Conflict if another is."""
        with self._lock:
            if self.live and self.live.flight.id == flight_id:
                return self.live
            if self.live and not self.live.state.ended:
                raise Conflict("Another flight is going on; end it first.")
            with self.database.reading() as db:
                if flights.flight_by_id(db, flight_id):
                    raise Conflict(f"A flight with the id {flight_id} is kept already.")
            if self.live:
                self.live.stop()
            flight = Flight(
                id=flight_id,
                profile_hash=profile.content_hash,
                registration=profile.registration,
                pilot=pilot,
                title=f"{profile.registration} with {pilot}" if drill is None else drill.drill.title,
                source=source,
                started_utc=datetime.now(UTC).isoformat(timespec="seconds"),
                feed=feed,
                kind=_KINDS.get(feed or source, "practice"),
            )
            self._keep_begun(flight, profile, drill)
            self.live = make_live_flight(self.database, flight, profile, speed, self.settings.oat_c)
            if fault is not None:
                self._give(self.live, fault)
            self.live.start()
            return self.live

    def _keep_begun(self, flight: Flight, profile: Profile, drill: BegunDrill | None) -> None:
        """Write a flight that begins: its profile, its row, its first events and what a list shows of it."""
        begun = Event(
            id=f"{flight.id}:begun",
            kind="flight_started",
            at_s=0.0,
            body={"profile": profile.id},
            wall_utc=flight.started_utc,
        )
        with self.database.writing() as db:
            flights.keep_profile(db, profile)
            flights.add_flight(db, flight)
            told = [begun] if drill is None else [begun, replace(drill.event(flight.id), wall_utc=flight.started_utc)]
            for event in told:
                flights.add_event(db, flight.id, event)
            flights.put_summary(db, flight.id, summary_of(profile, fold(profile, told), 0.0))

    def hide(self, flight_id: str, hidden: bool) -> None:
        """Take a flight out of the records, or bring it back. Raises Conflict where it is going on."""
        if hidden and self.live and self.live.flight.id == flight_id and not self.live.state.ended:
            raise Conflict("This flight is going on; end it first.")
        with self.database.writing() as db:
            flights.hide_flight(db, flight_id, utc_now() if hidden else None)

    def remove_hidden(self, seen: int) -> int:
        """Remove for good what was taken out of the records, as many as the pilot saw there; return how many. Raises Conflict where
        they are others by now."""
        with self._lock:
            with self.database.reading() as db:
                ids = flights.hidden_ids(db)
            if len(ids) != seen:
                raise Conflict("The deleted flights are others by now; look at them again.")
            if self.live and self.live.flight.id in ids:  # it ended, and could be taken up again: no longer
                self.live.stop()
                self.live = None
            with self.database.writing() as db:
                flights.remove_flights(db, ids)
        return len(ids)

    def _give(self, live: LiveFlight, fault: GivenFault) -> None:
        """Give the simulated engine a fault, and keep what it is until the flight has ended."""
        if fault.name and live.engine is not None:
            live.engine.set_fault(fault.name, fault.size)
        body = {"name": fault.name, "says": fault.says, "size": fault.size}
        event_id = f"{live.flight.id}:fault"
        live.note([Event(id=event_id, kind="fault_practised", at_s=0.0, body=body)])

    def live_flight(self, flight_id: str | None = None) -> LiveFlight:
        """Return the flight that is going on. Raises NotFound when there is none, or it is another."""
        if self.live is None or (flight_id is not None and self.live.flight.id != flight_id):
            raise NotFound("This flight is not going on.")
        return self.live

    def close(self) -> None:
        """Stop the flight's feed and close the database; a second call does nothing."""
        if self._is_closed:
            return
        self._is_closed = True
        if self.live:
            self.live.stop()
        self.files.close()
        self.database.close()
        self.lock.release()
