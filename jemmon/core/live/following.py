"""What one new sample says of a running flight, as events: starts, put-backs, lists, ratings, fuel. Pure."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from ..aircraft import Profile
from ..flight.events import Event
from ..flight.state import FlightState
from ..fuel.tanks import Burn
from ..start.following import StartWatch
from ..trace.sample import Sample
from .climb import follow_climb
from .fuel import follow_burn, follow_tank
from .needles import follow_needles
from .ratings import follow_ratings
from .starts import follow_starts


@dataclass(frozen=True, slots=True, kw_only=True)
class Following:
    """What one sample leaves for the next: the start of each engine by its number, and the fuel not yet told."""

    watches: Mapping[int, StartWatch] = field(default_factory=dict)
    burn: Burn = Burn()


def follow_read(flight_id: str, profile: Profile, state: FlightState, now: Sample) -> list[Event]:
    """Return what needles that were read out by hand say of lists, ratings and climb; a start is tapped, and fuel is not counted
    from single figures."""
    events = follow_needles(flight_id, profile, state, now)
    return [*events, *follow_ratings(flight_id, profile, state, now), *follow_climb(flight_id, profile, state, now)]


def follow(
    flight_id: str, profile: Profile, state: FlightState, following: Following, now: Sample
) -> tuple[Following, list[Event]]:
    """Return (what to remember for the next sample, the events of this one)."""
    watches, events = follow_starts(flight_id, profile, state, following.watches, now)
    events += follow_needles(flight_id, profile, state, now)
    events += follow_ratings(flight_id, profile, state, now)
    events += follow_climb(flight_id, profile, state, now)
    events += follow_tank(flight_id, profile, state, now)
    burn, burnt = follow_burn(flight_id, profile, state, following.burn, now)
    return Following(watches=watches, burn=burn), [*events, *burnt]
