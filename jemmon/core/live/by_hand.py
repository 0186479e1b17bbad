"""A flight by hand: the needles that were read out stand for a sample, as long as each is fresh enough to go by."""

from collections.abc import Mapping
from types import MappingProxyType

from ..aircraft import Profile
from ..flight.state import FlightState, ReadNeedle
from ..procedure import gates
from ..trace.sample import Sample, with_hottest
from ..trace.signals import reading_row

# how long a figure that was read out is gone by [s]: what moves with a lever, and what warms and cools slowly (common practice)
FAST_S, SLOW_S = 120.0, 600.0
NOTHING: Mapping[str, float] = MappingProxyType({})
_SLOW_UNITS = ("f", "gal")
_RISES_F_S = 0.005  # a slower rise tells no minutes (common practice: a third of a degree a minute)


def sample_by_hand(state: FlightState, now_s: float, heard: Mapping[str, float] = NOTHING) -> Sample | None:
    """Return what the needles showed that were read out lately, and what is `heard` at this moment, as a moment of flight time [s];
    None where there is neither."""
    fresh = {name: one.value for name, one in state.read.items() if is_fresh(name, one, now_s)} | dict(heard)
    return Sample(at_s=now_s, readings=fresh) if fresh else None


def is_fresh(name: str, one: ReadNeedle, now_s: float) -> bool:
    """Say whether a reading is young enough to go by."""
    row = reading_row(name)
    return now_s - one.at_s <= (SLOW_S if row is not None and row.unit in _SLOW_UNITS else FAST_S)


def gate_minutes_by_hand(profile: Profile, state: FlightState, now: Sample) -> dict[str, int]:
    """Return the minutes until each gate is met that is still cold, from two readings of each of its temperatures; none where one
    was read once only, or does not rise."""
    first = gates.gate_of_phase(profile, state.phase)
    if first is None:
        return {}
    readings, names, left = with_hottest(now.readings), list(gates.GATES), {}
    for gate in names[names.index(first) :]:
        cold = [row for row in gates.gate_rows(profile, gate, readings) if row.state == gates.COLD]
        minutes = [_minutes(state.read.get(row.signal), row.reading.lowest, now.at_s) for row in cold]
        known = [m for m in minutes if m is not None]
        if known and len(known) == len(minutes):
            left[gate] = max(round(max(known)), 1)
    return left


def _minutes(one: ReadNeedle | None, lowest: float | None, now_s: float) -> float | None:
    if one is None or one.before is None or lowest is None or one.at_s <= one.before.at_s:
        return None
    slope = (one.value - one.before.value) / (one.at_s - one.before.at_s)
    return None if slope < _RISES_F_S else ((lowest - one.value) / slope - (now_s - one.at_s)) / 60
