"""Power as the flight screen shows it: percent by table and flow, ratings on their clock, manifold pressure ahead of RPM,
which ways to lean are allowed. Pure."""

from dataclasses import asdict
from typing import Any

from ..aircraft import Profile
from ..base.figures import figure
from ..flight.fold import Event, FlightState
from ..fuel.tanks import tank_at
from ..power import PowerReading, pressure_ahead, read_power
from ..power.levers import rating_of
from ..power.map_limit import map_limit_inhg
from ..power.schools import lean_power_most_pct, mixture_advice, refusal
from ..power.wanted import power_choices, wanted_steps
from .following import Now, outside_temperature_c

_SAME_FLOW = 0.04
_SLACK_INHG, _POWER_OVER_PCT, _SAFELY_RICH_F = 0.3, 3.0, 90.0


def figures(profile: Profile, now: Now | None, number: int = 1) -> tuple[float, float] | None:
    """Return (RPM, manifold pressure [inHg]) of an engine, or None where one of them is not known."""
    if now is None:
        return None
    prefix = "e2_" if number == 2 else ""
    rpm, pressure = now.readings.get(f"{prefix}rpm"), now.readings.get(f"{prefix}map_inhg")
    percent, full = now.readings.get(f"{prefix}rpm_pct"), profile.engine.get("rpm_at_100_pct")
    if rpm is None and percent is not None and full is not None:
        rpm = percent * float(full) / 100
    return None if rpm is None or pressure is None else (rpm, pressure)


def follow_ratings(flight_id: str, profile: Profile, state: FlightState, now: Now) -> list[Event]:
    """Return the event of this sample where an engine comes into a time-limited rating, or the last one out of it; where two
    engines are in different ones, the shorter counts."""
    known = [here for number, _ in profile.engines if (here := figures(profile, now, number)) is not None]
    if not known or not state.engine_runs:
        return []
    ratings = [rating for here in known if (rating := rating_of(profile, *here)) is not None]
    name = min(ratings, key=lambda rating: rating["seconds"])["name"] if ratings else None
    if name == (state.rating[0] if state.rating else None):
        return []
    body = {"name": name}
    return [Event(id=f"{flight_id}:rating:{name}:{now.at_s:.2f}", kind="rating", at_s=now.at_s, body=body)]


def follow_tank(flight_id: str, profile: Profile, state: FlightState, now: Now) -> list[Event]:
    """Return the event of this sample where the fuel selector is seen at another tank: nobody has to tap what a lever tells."""
    tank = tank_at(profile, now.levers.get("tank"))
    if tank is None or tank == state.fuel.seen or not state.engine_runs:
        return []
    return [Event(id=f"{flight_id}:tank:{now.at_s:.2f}", kind="tank_seen", at_s=now.at_s, body={"tank": tank})]


def warnings(profile: Profile, state: FlightState, now: Now | None, now_s: float) -> list[str]:
    """Return what must be said at once about power: pressure ahead of RPM on either engine, a rating whose time is over."""
    said = []
    for number, name in profile.engines:
        here = figures(profile, now, number)
        ahead = pressure_ahead(profile, *here) if here and state.engine_runs else None
        if ahead:
            said.append(ahead if len(profile.engines) == 1 else f"{name}: {ahead}")
        said += _over_limit(profile, here, now)
    said += _too_lean_for_power(profile, state, now)
    clock = rating_clock(profile, state, now_s)
    if clock and clock["left_s"] <= 0:
        said.append(f"{clock['name']} power for longer than its {clock['seconds']:.0f} s: reduce to continuous power.")
    return said


def _over_limit(profile: Profile, here: tuple[float, float] | None, now: Now | None) -> list[str]:
    most = None if now is None else limit_of_the_day(profile, now)
    if here is None or most is None or here[1] <= most + _SLACK_INHG:
        return []
    return [
        f"Manifold pressure {figure(here[1], 'inhg')} is above the limit of the day, {figure(most, 'inhg')}: "
        "lower the collective."
    ]


def _too_lean_for_power(profile: Profile, state: FlightState, now: Now | None) -> list[str]:
    """Say so where more power was set with the mixture of an engine still lean for cruise: rich comes before power."""
    said: list[str] = []
    if now is None:
        return said
    for number, name in profile.engines:
        here, (side, offset) = figures(profile, now, number), _mixture(state, now, number)
        if here is None or side is None or side == "rich" and (offset or 0.0) > _SAFELY_RICH_F:
            continue
        reading = read_power(profile, *here, now.readings.get("palt_ft", 0.0), outside_temperature_c(now.readings))
        if reading.best_pct is not None and reading.best_pct > lean_power_most_pct(profile) + _POWER_OVER_PCT:
            words = f"{reading.best_pct:.0f} % with the mixture lean for cruise: rich before more power."
            said.append(profile.whose(name) + words)
    return said


def limit_of_the_day(profile: Profile, now: Now) -> float | None:
    """Return the manifold-pressure limit [inHg] by pressure altitude and temperature, where the type has a chart."""
    oat_c = outside_temperature_c(now.readings)
    return None if oat_c is None else map_limit_inhg(profile, now.readings.get("palt_ft", 0.0), oat_c)


def rating_clock(profile: Profile, state: FlightState, now_s: float) -> dict[str, Any] | None:
    """Return the clock of the time-limited rating that the engine is in, or None."""
    if state.rating is None:
        return None
    name, since_s = state.rating
    rating = next((r for r in profile.power_section.get("ratings", []) if r["name"] == name), None)
    if rating is None:
        return None
    left = rating["seconds"] - (now_s - since_s)
    return {"name": name, "seconds": rating["seconds"], "left_s": round(left)}


def describe_power(profile: Profile, state: FlightState, now: Now | None, now_s: float) -> dict[str, Any] | None:
    """Return what the screen shows of power, or None where nothing tells it or the type has no table. Of two engines each has
    its percentage; the steps and the rest go by the first, what is refused by the stronger."""
    here = figures(profile, now)
    if here is None or now is None or profile.power is None or not state.engine_runs:
        return None
    each = {number: _reading(profile, state, now, number) for number, _ in sorted(profile.engines)}
    reading = each[1]
    lever = now.levers.get("mixture")
    lean = state.latest_finding("lean", 1)
    spread = lean["measured"].get("spread_gph") if lean else None
    powers = [one.best_pct for one in each.values() if one.best_pct is not None]
    return {
        **{name: _rounded(v) for name, v in asdict(reading).items()},
        "engines": [{"name": name, "pct": _rounded(each[number].best_pct)} for number, name in sorted(profile.engines)],
        "clock": rating_clock(profile, state, now_s),
        "limit_inhg": limit_of_the_day(profile, now),
        "mixture": mixture_advice(profile, *here, None if lever is None else float(lever)),
        "wanted": wanted_steps(profile, state.power_wanted, *here, state.lean_for_cruise)
        if state.power_wanted
        else None,
        "refused": {
            t.id: why for t in profile.lean_targets if (why := refusal(profile, t, max(powers, default=None), spread))
        },
    }


def _rounded(value: Any) -> Any:
    return round(value, 1) if isinstance(value, float) else value


def _reading(profile: Profile, state: FlightState, now: Now, number: int) -> PowerReading:
    """Return the power of one engine: unknown where one of its needles is."""
    here = figures(profile, now, number)
    if here is None:
        return PowerReading(by_table_pct=None, by_flow_pct=None, best_pct=None, disagree=False, say="No reading.")
    flow = now.readings.get("e2_ff_gph" if number == 2 else "ff_gph")
    palt_ft, oat_c = now.readings.get("palt_ft", 0.0), outside_temperature_c(now.readings)
    return read_power(profile, *here, palt_ft, oat_c, flow, *_mixture(state, now, number))


def choices(profile: Profile, state: FlightState, now: Now | None) -> list[dict[str, Any]]:
    """Return the powers that may be asked for here; sums that take their time, for every few seconds."""
    if now is None or profile.power is None or not state.engine_runs:
        return []
    target = state.lean_target or (profile.lean_targets[0].id if profile.lean_targets else None)
    return power_choices(profile, now.readings.get("palt_ft", 0.0), outside_temperature_c(now.readings), target)


def _mixture(state: FlightState, now: Now | None, number: int) -> tuple[str | None, float | None]:
    """Return where the mixture of an engine stands by its last leaning: while it is said to be lean for cruise, or fuel flow is
    still what it was left at."""
    lean = state.latest_finding("lean", number)
    if lean is None:
        return None, None
    left_at = lean["measured"].get("ff_gph")
    flow = None if now is None else now.readings.get("e2_ff_gph" if number == 2 else "ff_gph")
    as_left = left_at is not None and flow is not None and abs(flow - left_at) < _SAME_FLOW * left_at
    if not state.lean_for_cruise and not as_left:
        return None, None
    return lean["measured"].get("side"), lean["measured"].get("offset_f")
