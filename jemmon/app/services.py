"""What the interface asks that reads or writes the database: profiles read in, starts and trends of an aircraft."""

from ..core.aircraft import Profile
from ..core.flight.fold import fold
from ..core.flight.starts import READ_KINDS, told_starts
from ..core.judgement.engine_health import nozzle_drift
from ..core.judgement.trend import FlownFindings, trend_rows
from ..core.screen.aircraft import StartsPage, TrendsPage, aircraft_line, looks_back_words
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


def starts_of(database: Database, profile: Profile) -> StartsPage:
    """Return the starts of an aircraft, one row each, and what book and advice say over the temperature."""
    with database.reading() as db:
        kept = flights.events_of_aircraft(db, profile.registration, READ_KINDS)
        looks_back = looks_back_words(flights.NEWEST, flights.count_flights(db, profile.registration))
    told = [(flight, day, told_starts(profile, events)) for flight, day, events in kept]
    return StartsPage(
        aircraft=aircraft_line(profile),
        unit=profile.start.unit,
        engines=tuple(name for _, name in sorted(profile.engines)),
        oil_limit_s=profile.find_limit("oil_pressure_time_s"),
        rows=tuple(start_rows(told)),
        lines=prime_lines(profile, [rows for _, _, rows in told]),
        looks_back=looks_back,
    )


def trends_of(database: Database, profile: Profile) -> TrendsPage:
    """Return each figure of an aircraft over its flights, and what a series of leanings says of its nozzles."""
    with database.reading() as db:
        kept = flights.events_of_aircraft(db, profile.registration, _FINDING_KINDS)
        looks_back = looks_back_words(flights.NEWEST, flights.count_flights(db, profile.registration))
    flown = [
        FlownFindings(flight=flight, day=day, findings=fold(profile, events).findings) for flight, day, events in kept
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
        looks_back=looks_back,
    )
