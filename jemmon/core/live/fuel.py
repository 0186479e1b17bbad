"""The fuel that the engines burn, summed from their flow, and the selector where a lever shows it; as events."""

from ..aircraft import Profile
from ..flight.events import Event
from ..flight.state import FlightState
from ..fuel.tanks import Burn, fed_by, follow_flow, is_crossfed, tank_at
from ..trace.sample import Sample
from ..trace.signals import prefix_of


def follow_tank(flight_id: str, profile: Profile, state: FlightState, now: Sample) -> list[Event]:
    """Return the event of this sample where the fuel selector is seen at another tank: nobody has to tap what a lever shows."""
    tank = tank_at(profile, now.levers.get("tank"))
    if tank is None or tank == state.fuel.seen or not state.engine_runs:
        return []
    return [Event(id=f"{flight_id}:tank:{now.at_s:.2f}", kind="tank_seen", at_s=now.at_s, body={"tank": tank})]


def follow_burn(
    flight_id: str, profile: Profile, state: FlightState, burn: Burn, now: Sample
) -> tuple[Burn, list[Event]]:
    """Return (what to remember for the next sample, the events that tell what each tank gave [US gal])."""
    flows = {}
    for number, _ in profile.engines:
        flow = now.readings.get(f"{prefix_of(number)}ff_gph")
        if flow is not None:
            flows[number] = flow
    by_tank = fed_by(profile, state.fuel, flows, is_crossfed(now.levers, state.away))
    burn, told = follow_flow(burn, now.at_s, by_tank)
    events = [
        Event(
            id=f"{flight_id}:fuel_used:{tank}:{now.at_s:.2f}",
            kind="fuel_used",
            at_s=now.at_s,
            body={"gal": round(gallons, 4), "tank": tank},
        )
        for tank, gallons in told.items()
    ]
    return burn, events
