"""The burn-off of a fouled plug: about 2,000 RPM, lean, half a minute, then the magnetos again; twice at the most.

With needles the clock runs by itself while the engine turns fast enough; by hand one tap starts it. Pure.
"""

from collections.abc import Mapping
from typing import Any

import numpy as np

from ..aircraft import Profile
from ..flight.fold import Event, FlightState
from ..judgement.magneto import BURN_OFF_TRIES, burn_off_rpm
from ..trace import Trace

NEEDED_S = 30.0
_LONGEST_LOOK_BACK_S = 180.0
_NEAR_ENOUGH = 0.94  # of the speed asked for
_LEANER = 0.93  # of the fuel flow that the run-up had for its power: leaned
_ASKS = ("plug", "rough")


def suspect(state: FlightState) -> Mapping[str, Any] | None:
    """Return the latest magneto finding where it asks for a burn-off, or None."""
    latest = state.latest_finding("mag_check")
    if latest is None or latest["verdict"] not in ("look", "stop"):
        return None
    asks = latest["measured"].get("suspect_plugs") or any(word in latest["because"] for word in _ASKS)
    return latest if asks or "Burn off" in latest["next"] else None


def burnt_s(recent: Trace, profile: Profile, since_s: float) -> float:
    """Return the seconds since `since_s` at the speed of a burn-off, leaned where the trace tells, up to the newest row."""
    full = profile.engine.get("rpm_at_100_pct")
    rpm = (recent if full is None else recent.in_rpm(float(full))).signal("rpm")
    if rpm is None or len(recent) < 3:
        return 0.0
    there = np.nan_to_num(rpm) > _NEAR_ENOUGH * burn_off_rpm(profile)
    lever = recent.signal("mixture")
    if lever is not None:
        there &= np.nan_to_num(lever) < _LEANER
    there &= (recent.time_s > since_s) & (recent.time_s > recent.time_s[-1] - _LONGEST_LOOK_BACK_S)
    return float(np.diff(recent.time_s, append=recent.time_s[-1])[there].sum())


def follow_burn_off(flight_id: str, profile: Profile, state: FlightState, recent: Trace) -> list[Event]:
    """Return a `burnt_off` event once a burn-off that the last finding asked for has lasted long enough."""
    finding = suspect(state)
    if finding is None or "runup_rpm" not in profile.limits or state.burnt_off_s > finding["end_s"]:
        return []
    if burnt_s(recent, profile, float(finding["end_s"])) < NEEDED_S:
        return []
    at_s = float(recent.time_s[-1])
    event_id = f"{flight_id}:burnt_off:{finding['end_s']:.1f}"
    return [Event(id=event_id, kind="burnt_off", at_s=at_s, body={"seconds": NEEDED_S})]


def describe_burn_off(
    profile: Profile, state: FlightState, recent: Trace | None, now_s: float
) -> dict[str, Any] | None:
    """Return the burn-off as the screen shows it, or None where none is asked for."""
    finding = suspect(state)
    if finding is None or not state.engine_runs or "runup_rpm" not in profile.limits:
        return None
    wanted = burn_off_rpm(profile)
    is_done = state.burnt_off_s > finding["end_s"]
    started_s = state.burn_off_started_s
    seconds = 0.0 if recent is None else burnt_s(recent, profile, float(finding["end_s"]))
    if started_s is not None and started_s > finding["end_s"]:
        seconds = max(seconds, now_s - started_s)
    tries = state.burn_offs
    if is_done:
        say = "Burnt off: run-up speed, mixture back, check the magnetos again."
    elif tries >= BURN_OFF_TRIES:
        say = f"Burnt off {tries} times and still not right: do not fly; a mechanic."
    elif seconds > 0:
        say = "Hold it: it burns off."
    else:
        say = f"About {wanted:,.0f} RPM, mixture lean, half a minute."
    return {
        "say": say,
        "attempt": min(tries + (not is_done), BURN_OFF_TRIES),
        "tries": BURN_OFF_TRIES,
        "seconds": round(min(seconds, NEEDED_S)),
        "needed_s": round(NEEDED_S),
        "wanted_rpm": round(wanted),
        "done": is_done,
        "given_up": tries >= BURN_OFF_TRIES and not is_done,
        "by_tap": recent is None,
        "running": started_s is not None and started_s > finding["end_s"] and not is_done,
    }
