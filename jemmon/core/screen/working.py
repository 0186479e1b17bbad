"""What is worked out of the last minutes of a flight, once a second, for the screen."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from ..aircraft import Item, Profile
from ..aircraft.phases import TAKE_OFF
from ..flight.state import FlightState
from ..judgement.check import Evidence
from ..live.burn_off import describe_burn_off
from ..live.climb import climb_lines
from ..live.descent import descent_lines
from ..live.heat import heat_lines
from ..live.leaning import LeanWorking, lean_working
from ..live.magneto_slots import magneto_slots
from ..live.ratings import pressures_ahead, speeding_up
from ..live.rpm_ranges import speed_lines
from ..live.take_off import NOTHING, take_off_watch
from ..live.workings import gate_minutes, magneto_working, minutes_to, speed_working
from ..power.wanted import PowerChoice
from ..trace import Trace
from ..trace.sample import Sample
from .frame import Worked, Working
from .lists import current_item

_CURVE_S = 90.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Curve:
    """The trace on the flight screen: time [s], speed (RPM or percent), mean EGT [°F]."""

    time_s: tuple[float, ...] = ()
    rpm: tuple[float | None, ...] = ()
    egt_f: tuple[float | None, ...] = ()


def work_out(
    profile: Profile,
    state: FlightState,
    recent: Trace,
    evidence: Mapping[int, Evidence],
    now: Sample,
    choices: tuple[PowerChoice, ...] = (),
    own_lack_inhg: Mapping[int, float] = NOTHING,
) -> Worked:
    """Return what the last minutes show at this moment; `evidence` is what each engine showed in them, `choices` the powers that
    may be asked for, `own_lack_inhg` what full throttle of each engine lacks as a rule [inHg]."""
    now_s = now.at_s
    item = current_item(profile, state, now_s)
    runs = state.engine_runs
    is_take_off = profile.kind_of(state.phase).name == TAKE_OFF  # nobody waits for a steady needle on the roll
    lines = (
        line
        for lines in (climb_lines, heat_lines, descent_lines, speed_lines)
        for line in lines(profile, state, recent, now)
    )
    working = Working(
        magneto=magneto_working(recent, profile, state),
        slots=magneto_slots(evidence[item.engine or 1], item, now) if item else (),
        lean=_lean(evidence, state, item),
        choices=choices if runs else (),
        take_off=take_off_watch(profile, state, recent, now, own_lack_inhg) if runs else None,
        lines=tuple(lines) if runs else (),
        minutes=minutes_to(recent, item.reading) if item and item.reading else None,
        speed=speed_working(recent, item) if item and not is_take_off else None,
    )
    return Worked(
        working=working,
        burn_off=describe_burn_off(profile, state, evidence, now_s),
        gates=gate_minutes(recent, profile, state, now) if runs else {},
        ahead=pressures_ahead(profile, state, now, now_s, speeding_up(profile, recent)),
    )


def _lean(evidence: Mapping[int, Evidence], state: FlightState, item: Item | None) -> LeanWorking | None:
    return lean_working(evidence[item.engine or 1], state) if item and item.watch == "lean" else None


def curve_of(recent: Trace | None) -> Curve:
    """Return the last 90 s of speed and mean EGT."""
    rpm = None if recent is None or not len(recent) else recent.speed()
    if recent is None or rpm is None:
        return Curve()
    keep = recent.time_s > recent.time_s[-1] - _CURVE_S
    egts = [values[keep] for values in recent.cylinders("egt").values()]
    mean = np.mean(egts, axis=0) if egts else np.zeros(0)
    return Curve(time_s=tuple(recent.time_s[keep].tolist()), rpm=_plain(rpm[keep]), egt_f=_plain(mean))


def _plain(values: np.ndarray) -> tuple[float | None, ...]:
    return tuple(round(float(v), 1) if np.isfinite(v) else None for v in values)
