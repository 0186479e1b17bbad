"""Makes a flight ready to run: its events, the earlier starts of its aircraft, its feed and its recorder."""

import time
from collections.abc import Callable, Mapping, Sequence
from datetime import datetime
from typing import Any

from ..core.aircraft import Profile
from ..core.aircraft.phases import PhaseKind
from ..core.drills.debrief import fault_words, says_of_step
from ..core.drills.drill import drill_of_kept
from ..core.drills.flown import Happened
from ..core.flight.drill_events import DrillHappened
from ..core.flight.events import Event
from ..core.flight.starts import ONLY_BESIDE, READ_KINDS, told_starts
from ..core.flight.take_offs import READ_KINDS as TAKE_OFF_KINDS
from ..core.flight.take_offs import own_lack_inhg
from ..core.start.advice import recorded_attempts
from ..feeds.bench import BenchFeed
from ..feeds.device import DeviceFeed
from ..feeds.drill import DrillFeed, Flown
from ..feeds.feed import Feed
from ..feeds.practice_faults import WaitingFault
from ..feeds.scripted import ScriptedFeed
from ..feeds.scripted_needles import first_needles, move, targets
from ..store import flights, samples
from ..store.database import Database
from ..store.flights import Flight
from ..store.settings import device_address
from .listening import Listening
from .live_flight import LiveFlight
from .practice import begun_of
from .recorder import Recorder

BY_HAND = "manual"


def make_live_flight(
    database: Database, flight: Flight, profile: Profile, speed: int = 1, oat_c: float = 15.0
) -> LiveFlight:
    """Return a flight that can be started; one that was going on before goes on where it stood. `speed` is how many times real
    time its needles run, `oat_c` the outside temperature [°C] at the simulated field."""
    with database.reading() as db:
        events = flights.events_of(db, flight.id)
        earlier = flights.events_of_aircraft(
            *(db, flight.registration, READ_KINDS),
            practice=flight.is_practice,
            but=flight.id,
            only_beside=ONLY_BESIDE,
        )
        take_offs = flights.events_of_aircraft(
            db, flight.registration, TAKE_OFF_KINDS, practice=flight.is_practice, but=flight.id
        )
        kept = samples.feed_state(db, flight.id)
    history = recorded_attempts([told_starts(profile, told) for _, _, told in earlier])
    at_s = flight_time_s(flight, events, kept, time.time())
    lack_inhg = own_lack_inhg([event.body for _, _, told in take_offs for event in told])
    begun = begun_of(events)
    at_s = max(at_s, begun.from_s) if begun else at_s
    live = LiveFlight(database, flight, profile, events, history, lack_inhg, at_s)
    if flight.source == BY_HAND:
        live.attach_ear(lambda: _ear(database, live))
        return live
    name = "drill" if begun else flight.feed or ("bench" if profile.bench is not None else "scripted")

    def make_feed() -> Feed:
        feed = FEEDS[name](database, live, speed, oat_c)
        if kept:
            feed.resume(kept[1])
        feed.at_s = max(feed.at_s, at_s)
        return feed

    live.attach(make_feed, lambda feed: Recorder(database, flight.id, feed.state))
    return live


def flight_time_s(
    flight: Flight, events: Sequence[Event], kept: tuple[float, Mapping[str, Any]] | None, wall_s: float
) -> float:
    """Return the flight time [s] at a time of the wall clock [s since 1970]: from the latest moment of which both are known (the
    begin, an event, the feed's kept state), time goes on while no server runs."""
    marks = [(0.0, _seconds(flight.started_utc))]
    marks += [(event.at_s, _seconds(event.wall_utc)) for event in events if event.wall_utc]
    if kept and "wall_s" in kept[1]:
        marks.append((kept[0], float(kept[1]["wall_s"])))
    at_s, known_s = max(marks)
    return at_s + max(wall_s - known_s, 0.0)


def _seconds(utc: str) -> float:
    return datetime.fromisoformat(utc).timestamp()


def _ear(database: Database, live: LiveFlight) -> tuple[Listening, Recorder]:
    recorder = Recorder(database, live.flight.id, lambda: {"at_s": live.now_s})
    return Listening(live.profile, recorder), recorder


def _phase_kind(live: LiveFlight) -> Callable[[], PhaseKind]:
    return lambda: live.profile.kind_of(live.state.phase)


def _instrument(database: Database, live: LiveFlight, speed: int, oat_c: float) -> Feed:
    with database.reading() as db:
        address = device_address(db)
    return DeviceFeed(live.take, address.host, address.port)


def _bench(database: Database, live: LiveFlight, speed: int, oat_c: float) -> Feed:
    return BenchFeed(live.profile, live.take, _phase_kind(live), oat_c=oat_c, speed=speed, on_given=_remarks(live))


def _remarks(live: LiveFlight) -> Callable[[WaitingFault], None]:
    """Return what writes into the record that a fault which waited has come."""

    def remark(fault: WaitingFault) -> None:
        says = fault_words(fault.name)
        event_id = f"{live.flight.id}:instructor:{fault.name}:{live.now_s:.1f}"
        live.note([Event(id=event_id, kind="remark", at_s=round(live.now_s, 2), body={"text": f"Instructor: {says}"})])

    return remark


def _drill(database: Database, live: LiveFlight, speed: int, oat_c: float) -> Feed:
    with database.reading() as db:
        events = flights.events_of(db, live.flight.id)
        begun = begun_of(events)
        assert begun is not None
        before = samples.trace_of(db, begun.parent) if begun.parent else None
    already = [event.said.place for event in events if isinstance(event.said, DrillHappened)]
    flown = Flown(drill_of_kept(begun.kept), begun.seed, already, before, begun.from_s)

    def tell(happened: Happened) -> None:
        body = {"place": happened.place, "says": says_of_step(happened.step), "tell": happened.step.get("tell")}
        event_id = f"{live.flight.id}:happened-{happened.place}"
        live.note([Event(id=event_id, kind=DrillHappened.KIND, at_s=round(happened.at_s, 2), body=body)])

    return DrillFeed(live.profile, live.take, flown, tell, speed, _remarks(live))


def _scripted(database: Database, live: LiveFlight, speed: int, oat_c: float) -> Feed:
    profile = live.profile

    def follow(kind: PhaseKind, phase_s: float, needles: Mapping[str, float], dt_s: float) -> dict[str, float]:
        return move(needles, targets(profile, kind, phase_s), dt_s)

    return ScriptedFeed(live.take, _phase_kind(live), first_needles(profile, oat_c), follow, speed)


# what can make the needles of a flight: (database, flight, times real time, outside temperature [°C]) -> feed
FEEDS: Mapping[str, Callable[[Database, LiveFlight, int, float], Feed]] = {
    "bench": _bench,
    "drill": _drill,
    "scripted": _scripted,
    "device": _instrument,
}
