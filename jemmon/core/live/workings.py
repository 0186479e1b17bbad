"""What a screen shows while something is being done: the drop as it is made, how near a speed is, minutes to a temperature."""

from dataclasses import dataclass

import numpy as np

from ..aircraft import Item, Profile, Reading
from ..flight.state import FlightState
from ..judgement.magneto import side_word
from ..procedure import gates
from ..procedure.notice import minutes_left
from ..trace import Trace
from ..trace.sample import Sample, with_hottest
from ..trace.signals import engine_of, reading_row

# common practice, but where it says otherwise
_SLOPE_OVER_S = 60.0
_STEADY_FOR_S, _STEADY_WITHIN = 3.0, 0.02  # common practice
_BEFORE_S, _SETTLES_S = (4.0, 0.3), 1.5
_DIPS = ("one_magneto", "one_lane", "carb_heat")


@dataclass(frozen=True, slots=True, kw_only=True)
class MagnetoWorking:
    """The drop as it is being made: speed before, now, the drop so far, in `unit` (RPM or %); whether it has settled."""

    what: str
    side: str
    unit: str
    base_rpm: float
    now_rpm: float
    drop_rpm: float
    settled: bool


def magneto_working(recent: Trace, profile: Profile, state: FlightState) -> MagnetoWorking | None:
    """Return the drop as it is being made, or None when nothing is away."""
    which = next((name for name in _DIPS if name in state.away), None)
    rpm = recent.speed()
    if which is None or rpm is None or not len(recent):
        return None
    since_s = state.away[which]
    before = (recent.time_s > since_s - _BEFORE_S[0]) & (recent.time_s < since_s - _BEFORE_S[1])
    settled = recent.time_s > max(recent.time_s[-1] - _SETTLES_S, since_s + _SETTLES_S)
    if not before.any():
        return None
    base = float(np.mean(rpm[before]))
    now = float(np.mean(rpm[settled])) if settled.any() else float(rpm[-1])
    switch = recent.ignition()
    side = {"L": "left", "R": "right"}.get(str(switch[-1]) if switch is not None else "", "")
    is_percent = recent.signal("rpm") is None
    decimals = 1 if is_percent else 0
    base, now = round(base, decimals), round(now, decimals)
    return MagnetoWorking(
        what=which,
        side="hot" if which == "carb_heat" else side_word(profile, side),
        unit="%" if is_percent else "RPM",
        base_rpm=base,
        now_rpm=now,
        drop_rpm=round(base - now, decimals),  # of the two as they are read beside it
        settled=bool(settled.any()),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class SpeedWorking:
    """Whether the engine's speed is near what an item asks for, and what that means: within its band is right."""

    near: bool
    say: str


def speed_working(recent: Trace, item: Item) -> SpeedWorking | None:
    """Return how near the engine's speed is to what the item asks for, of the last seconds, so that one sample on its way
    through is not taken for it."""
    reading = item.reading
    if reading is None or engine_of(reading.signal)[1] not in ("rpm", "rpm_pct") or not len(recent):
        return None
    speed = recent.of_engine(engine_of(reading.signal)[0]).speed()
    if speed is None:
        return None
    last = speed[recent.time_s > recent.time_s[-1] - _STEADY_FOR_S]
    last = last[np.isfinite(last)]
    inside = reading.holds(float(np.mean(last))) if last.size else None
    if inside is None:
        return None
    if not inside:
        return SpeedWorking(near=False, say="not there yet")
    steady = bool(np.ptp(last) < _STEADY_WITHIN * abs(float(np.mean(last))))
    return SpeedWorking(
        near=True, say="within the band, and steady: leave it" if steady else "within the band, settling"
    )


def minutes_to(recent: Trace, reading: Reading) -> float | None:
    """Return the minutes until a slow temperature (oil, CHT, coolant) comes up to its least figure, by its last minute; None
    for anything else: a pressure does not rise by waiting."""
    row = reading_row(reading.signal)
    if row is None or row.unit != "f" or reading.lowest is None:
        return None
    own = recent.of_engine(engine_of(reading.signal)[0])
    values = own.signal(row.name)
    if row.name == "cht_max" and (chts := own.cylinders("cht")):
        values = np.max(list(chts.values()), axis=0)
    if values is None:
        return None
    last = (own.time_s > own.time_s[-1] - _SLOPE_OVER_S) & np.isfinite(values)
    rows = list(zip(own.time_s[last].tolist(), values[last].tolist(), strict=True))
    return minutes_left(rows[:: max(len(rows) // 60, 1)], reading.lowest)


def gate_minutes(recent: Trace, profile: Profile, state: FlightState, now: Sample) -> dict[str, int]:
    """Return the minutes until each gate that is still cold is met, by the slowest of its temperatures; none where a
    temperature is not on its way."""
    first = gates.gate_of_phase(profile, state.phase)
    if first is None:
        return {}
    readings, names, left = with_hottest(now.readings), list(gates.GATES), {}
    for gate in names[names.index(first) :]:
        cold = [row for row in gates.gate_rows(profile, gate, readings) if row.state == gates.COLD]
        minutes = [minutes_to(recent, row.reading_of_engine) for row in cold]
        known = [m for m in minutes if m is not None]
        if known and len(known) == len(minutes):
            left[gate] = max(round(max(known)), 1)
    return left
