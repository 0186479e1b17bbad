"""The burn-off of a fouled plug: about 2,000 RPM, lean, half a minute, then the magnetos again; twice at the most.

With needles the clock runs by itself while the engine turns fast enough; by hand one tap starts it. Each engine has its own.
"""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from ..aircraft import Profile
from ..flight.events import Event
from ..flight.state import FlightState, KeptFinding
from ..judgement.check import Evidence
from ..judgement.magneto import BURN_OFF_TRIES, asks_burn_off, burn_off_rpm
from ..trace import Trace
from ..trace.finding import LOOK, STOP

# common practice, but where it says otherwise
NEEDED_S = 30.0  # common practice
_LONGEST_LOOK_BACK_S = 180.0
_NEAR_ENOUGH = 0.94  # of the speed asked for (common practice)
_LEANER = 0.93  # of the mixture lever's travel: leaned


@dataclass(frozen=True, slots=True, kw_only=True)
class BurnOff:
    """A burn-off as the screen shows it, of one engine: what to do, which attempt, its clock [s], the speed wanted [RPM],
    and whether it has begun."""

    engine: int
    engine_name: str | None
    say: str
    attempt: int
    tries: int
    seconds: int
    needed_s: int
    wanted_rpm: int
    done: bool
    given_up: bool
    by_tap: bool
    running: bool
    under_way: bool


def suspect(state: FlightState, engine: int) -> KeptFinding | None:
    """Return the latest magneto finding of an engine where it asks for a burn-off, or None."""
    latest = state.latest_finding("mag_check", engine)
    if latest is None or latest["verdict"] not in (LOOK, STOP) or not asks_burn_off(latest):
        return None
    return latest


def burnt_s(recent: Trace, profile: Profile, since_s: float) -> float:
    """Return the seconds since `since_s` at the speed of a burn-off, leaned where the trace shows it, up to the newest row;
    `recent` is the engine's own, its speed in RPM."""
    rpm = recent.signal("rpm")
    if rpm is None or len(recent) < 3:
        return 0.0
    there = np.nan_to_num(rpm) > _NEAR_ENOUGH * burn_off_rpm(profile)
    lever = recent.signal("mixture")
    if lever is not None:
        there &= np.nan_to_num(lever) < _LEANER
    there &= (recent.time_s > since_s) & (recent.time_s > recent.time_s[-1] - _LONGEST_LOOK_BACK_S)
    return float(np.diff(recent.time_s, append=recent.time_s[-1])[there].sum())


def _has_speed(profile: Profile) -> bool:
    return profile.find_limit("burn_off_rpm") is not None or profile.find_limit("runup_rpm") is not None


def follow_burn_off(
    flight_id: str, profile: Profile, state: FlightState, evidence: Mapping[int, Evidence]
) -> list[Event]:
    """Return a `burnt_off` event for each engine whose burn-off, which its last finding asked for, has lasted long enough."""
    events = []
    for number, own in evidence.items():
        finding = suspect(state, number)
        if finding is None or not _has_speed(profile) or state.burn_off(number).burnt_off_s > finding["end_s"]:
            continue
        if burnt_s(own.trace, profile, float(finding["end_s"])) < NEEDED_S:
            continue
        event_id = f"{flight_id}:burnt_off:{finding['end_s']:.1f}" + (f":{number}" if number > 1 else "")
        body = {"seconds": NEEDED_S, "engine": number}
        events.append(Event(id=event_id, kind="burnt_off", at_s=float(own.shown.time_s[-1]), body=body))
    return events


def describe_burn_off(
    profile: Profile, state: FlightState, evidence: Mapping[int, Evidence] | None, now_s: float
) -> BurnOff | None:
    """Return the burn-off that is asked for first in the profile's order, or None; by the tapped clock without needles
    (`evidence` None)."""
    for number, name in profile.engines:
        finding = suspect(state, number)
        if finding is None or not state.engine_runs or not _has_speed(profile):
            continue
        recent = None if evidence is None else evidence[number].trace
        return _described(profile, state, (number, name), float(finding["end_s"]), recent, now_s)
    return None


def _described(
    profile: Profile, state: FlightState, engine: tuple[int, str], asked_s: float, recent: Trace | None, now_s: float
) -> BurnOff:
    number, name = engine
    own, wanted = state.burn_off(number), burn_off_rpm(profile)
    is_done = own.burnt_off_s > asked_s
    by_tap_s = own.started_s if own.started_s is not None and own.started_s > asked_s else None
    seconds = 0.0 if recent is None else burnt_s(recent, profile, asked_s)
    if by_tap_s is not None:
        seconds = max(seconds, now_s - by_tap_s)
    is_given_up = own.done >= BURN_OFF_TRIES and not is_done
    if is_done:
        say = "Burnt off: run-up speed, mixture back, check the magnetos again."
    elif is_given_up:
        say = f"Burnt off {own.done} times and still not right: do not fly; a mechanic."
    elif seconds > 0:
        say = "Hold it: it burns off."
    else:
        say = f"About {wanted:,.0f} RPM, mixture lean, half a minute."
    return BurnOff(
        engine=number,
        engine_name=name if len(profile.engines) > 1 else None,
        say=say,
        attempt=min(own.done + (not is_done), BURN_OFF_TRIES),
        tries=BURN_OFF_TRIES,
        seconds=round(min(seconds, NEEDED_S)),
        needed_s=round(NEEDED_S),
        wanted_rpm=round(wanted),
        done=is_done,
        given_up=is_given_up,
        by_tap=recent is None,
        running=by_tap_s is not None and not is_done,
        under_way=is_done or seconds > 0,
    )
