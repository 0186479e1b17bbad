"""What the interface asks that reads or writes the database: profiles read in, starts and trends of an aircraft."""

import json
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ..core.aircraft import Profile
from ..core.aircraft.limits import LIMITS
from ..core.base.errors import ProfileError
from ..core.base.names import check_known
from ..core.flight.events import Event
from ..core.flight.fold import fold
from ..core.flight.starts import ONLY_BESIDE, READ_KINDS, told_starts
from ..core.judgement.engine_health import nozzle_drift
from ..core.judgement.trend import FlownFindings, TrendRow, nearness, trend_rows
from ..core.screen.aircraft import StartsPage, TrendsPage, Use, aircraft_line, looks_back_words
from ..core.start.record import prime_lines, start_rows
from ..library.shipped import shipped_profiles
from ..store import flights
from ..store.database import Database
from .doors import profile_from_text
from .files import utc_now
from .workshop import Saying, keep

_FINDING_KINDS = ("finding", "typed_reading", "sides_named", "undo")


class NotShipped(Exception):
    """There is no shipped profile to go back to; the message says so."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Why:
    """Why a limit is changed: the source (`type`, `common practice`, `published: ...`), the reason, and who changes it."""

    source: str
    reason: str
    who: str


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
    keep(database, profile, Saying(note="Read in", who=""))
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
        own = flights.events_of_aircraft(db, profile.registration, kinds, practice=is_practice, only_beside=ONLY_BESIDE)
    shown = practised if is_practice else real
    use = Use(practice=is_practice, real_flights=real, practice_flights=practised)
    return _Kept(own, use, looks_back_words(flights.NEWEST, shown))


def change_limit(database: Database, profile: Profile, name: str, value: float, why: Why) -> Profile:
    """Let a limit [in the unit of its row] count for an aircraft from now on, and return its profile; what was before stays kept.

    Raises:
        ProfileError: there is no such limit, or the figure is out of its range or against another. Then nothing is changed.
    """
    note = f"{why.reason.strip()} ({why.who.strip()}, {utc_now()[:10]})"
    row = {"value": value, "source": why.source, "note": note}
    saying = Saying(note=f"{_title(name)}: {why.reason.strip()}", who=why.who.strip())
    return _with_limit(database, profile, name, row, saying)


def restore_shipped(database: Database, profile: Profile, name: str | None) -> Profile:
    """Bring one limit back to what ships, or the whole profile (no name), and return it.

    Raises:
        NotShipped: no aircraft of this id ships.
    """
    ships = shipped_profiles().get(profile.id)
    if ships is None:
        raise NotShipped(f"No aircraft with the id {profile.id} ships: there is nothing to go back to.")
    if name is not None:
        saying = Saying(note=f"{_title(name)}: back to what ships", who="")
        return _with_limit(database, profile, name, ships.body["limits"].get(name), saying)
    keep(database, ships, Saying(note="Back to what ships", who=""))
    return ships


def _title(limit: str) -> str:
    """Return what a limit is called; of one that there is not its own name, which is refused later."""
    return LIMITS[limit].title if limit in LIMITS else limit


def _with_limit(
    database: Database, profile: Profile, name: str, row: Mapping[str, Any] | None, saying: Saying
) -> Profile:
    check_known("The limit", name, LIMITS, ProfileError)
    limits = {key: value for key, value in profile.body["limits"].items() if key != name}
    if row is not None:
        limits[name] = dict(row)
    changed = profile_from_text(json.dumps({**profile.body, "limits": limits}).encode())
    keep(database, changed, saying)
    return changed


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


def _urgency(row: TrendRow) -> tuple[bool, float]:
    """Order by what a mechanic is told of, then by nearness to the limit."""
    return row.trend.message is None, nearness([point.value for point in row.points], row.limit)


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
        figures=tuple(
            sorted((row for number, _ in numbers for row in trend_rows(profile, flown, number)), key=_urgency)
        ),
        health=tuple(
            drift for number, name in numbers for drift in nozzle_drift(leanings[number], number, profile.whose(name))
        ),
        looks_back=own.looks_back,
        use=own.use,
    )
