"""Power as the flight screen shows it: percent by table and flow, ratings on their clock, manifold pressure ahead of RPM,
which ways to lean are allowed. Pure."""

from dataclasses import asdict
from typing import Any

from .aircraft import Profile
from .flight import Event, FlightState
from .live import Now
from .power import pressure_ahead, read_power
from .power.levers import rating_of
from .power.schools import refusal

_LEAN = "cruise_lean"


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
    """Return the event of this sample where the engine comes into a time-limited rating, or out of it."""
    here = figures(profile, now)
    if here is None or not state.engine_runs:
        return []
    rating = rating_of(profile, *here)
    name = rating["name"] if rating else None
    if name == (state.rating[0] if state.rating else None):
        return []
    body = {"name": name}
    return [Event(id=f"{flight_id}:rating:{name}:{now.at_s:.2f}", kind="rating", at_s=now.at_s, body=body)]


def warnings(profile: Profile, state: FlightState, now: Now | None, now_s: float) -> list[str]:
    """Return what must be said at once about power: pressure ahead of RPM on either engine, a rating whose time is over."""
    said = []
    for number, name in profile.engines:
        here = figures(profile, now, number)
        ahead = pressure_ahead(profile, *here) if here and state.engine_runs else None
        if ahead:
            said.append(ahead if len(profile.engines) == 1 else f"{name}: {ahead}")
    clock = rating_clock(profile, state, now_s)
    if clock and clock["left_s"] <= 0:
        said.append(f"{clock['name']} power for longer than its {clock['seconds']:.0f} s: reduce to continuous power.")
    return said


def rating_clock(profile: Profile, state: FlightState, now_s: float) -> dict[str, Any] | None:
    """Return the clock of the time-limited rating that the engine is in, or None."""
    if state.rating is None:
        return None
    name, since_s = state.rating
    rating = next((r for r in (profile.body.get("power") or {}).get("ratings", []) if r["name"] == name), None)
    if rating is None:
        return None
    left = rating["seconds"] - (now_s - since_s)
    return {"name": name, "seconds": rating["seconds"], "left_s": round(left)}


def describe_power(profile: Profile, state: FlightState, now: Now | None, now_s: float) -> dict[str, Any] | None:
    """Return what the screen shows of power, or None where nothing tells it or the type has no table."""
    here = figures(profile, now)
    if here is None or now is None or profile.power is None or not state.engine_runs:
        return None
    side, offset = _mixture(state)
    oat_f = now.readings.get("oat_f")
    reading = read_power(
        profile,
        *here,
        now.readings.get("palt_ft", 0.0),
        None if oat_f is None else (oat_f - 32) / 1.8,
        now.readings.get("ff_gph"),
        side,
        offset,
    )
    lean = state.latest_finding("lean")
    spread = lean["measured"].get("spread_gph") if lean else None
    return {
        **{name: round(v, 1) if isinstance(v, float) else v for name, v in asdict(reading).items()},
        "clock": rating_clock(profile, state, now_s),
        "refused": {t.id: why for t in profile.lean_targets if (why := refusal(profile, t, reading.best_pct, spread))},
    }


def _mixture(state: FlightState) -> tuple[str | None, float | None]:
    """Return where the mixture stands by the last leaning, while it is still lean for cruise."""
    lean = state.latest_finding("lean")
    if lean is None or _LEAN not in state.away:
        return None, None
    return lean["measured"].get("side"), lean["measured"].get("offset_f")
