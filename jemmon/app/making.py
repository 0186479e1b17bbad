"""Makes a flight ready to run: its events, the earlier starts of its aircraft, its feed and its recorder."""

from collections.abc import Mapping

from ..core.aircraft import Profile
from ..core.aircraft.phases import PhaseKind
from ..core.flight.starts import READ_KINDS, told_starts
from ..core.start.advice import recorded_attempts
from ..feeds.bench import BenchFeed
from ..feeds.device import DeviceFeed
from ..feeds.feed import Feed
from ..feeds.scripted import ScriptedFeed
from ..feeds.scripted_needles import first_needles, move, targets
from ..store import flights, samples
from ..store.database import Database
from ..store.flights import Flight
from ..store.settings import device_address
from .live_flight import LiveFlight
from .recorder import Recorder

BY_HAND = "manual"


def make_live_flight(
    database: Database, flight: Flight, profile: Profile, speed: int = 1, oat_c: float = 15.0
) -> LiveFlight:
    """Return a flight that can be started; one that was going on before goes on where it stood. `speed` is how many times real
    time its needles run, `oat_c` the outside temperature [°C] at the simulated field."""
    with database.reading() as db:
        events = flights.events_of(db, flight.id)
        earlier = flights.events_of_aircraft(db, flight.registration, READ_KINDS, but=flight.id)
    history = recorded_attempts([told_starts(profile, told) for _, _, told in earlier])
    live = LiveFlight(database, flight, profile, events, history)
    if flight.source == BY_HAND:
        return live
    feed = _feed(database, live, speed, oat_c)
    with database.reading() as db:
        kept = samples.feed_state(db, flight.id)
    if kept:
        feed.resume(kept[1])
    live.attach(feed, Recorder(database, flight.id, feed.state))
    return live


def _feed(database: Database, live: LiveFlight, speed: int, oat_c: float) -> Feed:
    """Return what makes the needles of a flight: an instrument, the simulated engine, or scripted needles without one."""
    profile = live.profile

    def phase_kind() -> PhaseKind:
        return profile.kind_of(live.state.phase)

    if live.flight.feed == "device":
        with database.reading() as db:
            address = device_address(db)
        return DeviceFeed(live.take, address.host, address.port)
    if profile.bench is not None:
        return BenchFeed(profile, live.take, phase_kind, oat_c=oat_c, speed=speed)

    def follow(kind: PhaseKind, phase_s: float, needles: Mapping[str, float], dt_s: float) -> dict[str, float]:
        return move(needles, targets(profile, kind, phase_s), dt_s)

    return ScriptedFeed(live.take, phase_kind, first_needles(profile, oat_c), follow, speed)
