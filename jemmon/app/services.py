"""What the interface asks that reads or writes the database: profiles read in, starts and trends of an aircraft."""

from dataclasses import dataclass

from ..core.aircraft import Profile
from ..core.flight.events import Event
from ..core.flight.fold import fold
from ..core.flight.starts import READ_KINDS, told_starts
from ..core.judgement.engine_health import nozzle_drift
from ..core.judgement.trend import FlownFindings, trend_rows
from ..core.screen.aircraft import StartsPage, TrendsPage, Use, aircraft_line, looks_back_words
from ..core.start.record import prime_lines, start_rows
from ..library.shipped import shipped_profiles
from ..store import flights
from ..store.aircraft import put_aircraft
from ..store.database import Database
from .doors import profile_from_text
from .files import utc_now

_FINDING_KINDS = ("finding", "typed_reading", "sides_named", "undo")


class TakesPlace(Exception):
    """A profile would take the place of an aircraft that ships; the message asks whether it shall."""


def take_profile(database: Database, data: bytes, may_replace: bool) -> Profile:
    """Let the profile in a file count for its id from now on.

    Raises:
        ProfileError: something in it is wrong. TakesPlace: it differs from one of its id that ships, and nobody said that it may.
        Then nothing is changed.
    """
    profile = profile_from_text(data)
    ships = shipped_profiles().get(profile.id)
    if ships is not None and ships.content_hash != profile.content_hash and not may_replace:
        raise TakesPlace(
            f"{profile.id} is the id of an aircraft that ships ({ships.registration}). Shall {profile.registration} take its place?"
        )
    with database.writing() as db:
        put_aircraft(db, profile, utc_now())
    return profile


@dataclass(frozen=True, slots=True)
class _Kept:
    """The events of the newest flights of an aircraft, those for practice or the real ones, and how many there are of either."""

    flights: list[tuple[str, str, list[Event]]]
    use: Use
    looks_back: str | None


def _kept(database: Database, profile: Profile, kinds: tuple[str, ...], practice: bool | None) -> _Kept:
    """Return the newest flights: as asked for, else the real ones where there are any, else those for practice; never both."""
    with database.reading() as db:
        real, practised = flights.count_by_use(db, profile.registration)
        is_practice = real == 0 and practised > 0 if practice is None else practice
        own = flights.events_of_aircraft(db, profile.registration, kinds, practice=is_practice)
    shown = practised if is_practice else real
    use = Use(practice=is_practice, real_flights=real, practice_flights=practised)
    return _Kept(own, use, looks_back_words(flights.NEWEST, shown))


def starts_of(database: Database, profile: Profile, practice: bool | None = None) -> StartsPage:
    """Return the starts of an aircraft, one row each, and what book and advice say over the temperature."""
    own = _kept(database, profile, READ_KINDS, practice)
    kept = own.flights
    told = [(flight, day, told_starts(profile, events)) for flight, day, events in kept]
    return StartsPage(
        aircraft=aircraft_line(profile),
        unit=profile.start.unit,
        engines=tuple(name for _, name in sorted(profile.engines)),
        oil_limit_s=profile.find_limit("oil_pressure_time_s"),
        rows=tuple(start_rows(told)),
        lines=prime_lines(profile, [rows for _, _, rows in told]),
        looks_back=own.looks_back,
        use=own.use,
    )


def trends_of(database: Database, profile: Profile, practice: bool | None = None) -> TrendsPage:
    """Return each figure of an aircraft over its flights, and what a series of leanings says of its nozzles."""
    own = _kept(database, profile, _FINDING_KINDS, practice)
    flown = [
        FlownFindings(flight=flight, day=day, findings=fold(profile, events).findings)
        for flight, day, events in own.flights
    ]
    numbers = sorted(profile.engines)
    leanings = {
        number: [
            f["measured"]
            for one in flown
            for f in one.findings
            if f["kind"] == "lean" and int(f.get("engine", 1)) == number
        ]
        for number, _ in numbers
    }
    return TrendsPage(
        aircraft=aircraft_line(profile),
        figures=tuple(row for number, _ in numbers for row in trend_rows(profile, flown, number)),
        health=tuple(
            drift for number, name in numbers for drift in nozzle_drift(leanings[number], number, profile.whose(name))
        ),
        looks_back=own.looks_back,
        use=own.use,
    )
