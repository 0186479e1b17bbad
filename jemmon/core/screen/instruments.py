"""The needles that the screen shows: name, unit, limits, and whether a figure is out of them, all by the registry of signals."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal

from ..aircraft import Profile
from ..flight.state import FlightState
from ..start.following import starter_draws
from ..trace.sample import Sample, with_hottest
from ..trace.signals import BY_COLUMN, SIGNALS, Signal, Watch, When, engine_of, reading_row

_BUS_OFF_V = 1.0
_AT_SPEED_FROM_RPM = 1500.0  # of a direct-drive engine: a pump at idle is not judged (common practice)
_DOES_NOT_COME_BY_ITSELF = ("fp", "cat")  # only where the profile's phase shows it
_MAY_COME = tuple(
    row.column
    for row in SIGNALS.values()
    if row.watched_by and not row.is_per_cylinder and row.name not in _DOES_NOT_COME_BY_ITSELF
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Tachometer:
    """How a speed is shown where the type's tachometer has percent: what to multiply RPM with, decimals, label."""

    scale: float
    decimals: int
    label: str


def tachometer_of(profile: Profile) -> Tachometer | None:
    """Return how an aircraft's tachometer shows its speed, None where it shows RPM."""
    full = profile.engine.get("rpm_at_100_pct")
    return None if full is None else Tachometer(scale=100 / float(full), decimals=1, label="%")


@dataclass(frozen=True, slots=True, kw_only=True)
class Instrument:
    """One needle: figure and limits in its core unit, `state` by the limits that count now; `came_by_itself` when the phase does
    not show it and it is out of limits; `age_s` is how long ago [s] it was read out and typed, None where a wire tells it. `name`
    is what it shows, `engine` whose it is: 0 where the aircraft has one."""

    id: str
    name: str
    engine: int
    label: str
    unit: str
    value: float | None
    low: float | None
    high: float | None
    state: Literal["ok", "low", "high", "none"]
    came_by_itself: bool = False
    age_s: float | None = None


def unit_of(signal: str) -> str:
    """Return the core unit of a reading by its name (`rpm`, `e2_oil_p_psi`, `egt3_f`); empty for levers and switches."""
    row = reading_row(signal)
    return row.unit if row else ""


def instrument(
    profile: Profile,
    name: str,
    readings: Mapping[str, float],
    runs: bool,
    cranks: bool = False,
    flies: bool = False,
) -> Instrument:
    """Return one instrument by its reading's name, of an engine that `runs`, or whose starter turns it (`cranks`), in a phase that
    is flown or not. Raises KeyError where there is no such signal."""
    number, own = engine_of(name)
    row, value = BY_COLUMN[own], readings.get(name)
    low_watch, high_watch = _of_side(row, False), _of_side(row, True)
    counts = {**_counting(profile, number, readings, runs), When.CRANKING: cranks, When.NOT_CRANKING: not cranks}
    counts[When.FLYING] = runs and flies
    low, high = (None if watch is None else profile.find_limit(watch.limit) for watch in (low_watch, high_watch))
    return Instrument(
        id=name,
        name=row.title,
        engine=0 if row.is_shared or len(profile.engines) < 2 else number,
        label=_label(profile, row, number),
        unit=profile.units.of(name, row.unit),
        value=value,
        low=low,
        high=high,
        state=_state(profile, row, value, counts),
    )


def _label(profile: Profile, row: Signal, number: int) -> str:
    names = dict(profile.engines)
    if len(names) < 2 or row.is_shared:
        return row.title
    return f"{row.title}, {names[number][:1].lower()}{names[number][1:]}"


def _of_side(row: Signal, is_high: bool) -> Watch | None:
    """Return the watch whose limit the gauge is drawn with: the first of that side."""
    return next((watch for watch in row.watched_by if watch.is_high is is_high), None)


def _counting(profile: Profile, number: int, readings: Mapping[str, float], runs: bool) -> dict[When, bool]:
    """Say which limits of an engine that runs or stands count at this moment, by when they do."""
    prefix = "e2_" if number == 2 else ""
    rpm, percent = readings.get(f"{prefix}rpm"), readings.get(f"{prefix}rpm_pct")
    full = profile.engine.get("rpm_at_100_pct")
    speed = percent * float(full) / 100 if rpm is None and percent is not None and full is not None else rpm
    oil_f, gate = readings.get(f"{prefix}oil_t_f"), profile.find_limit("oil_t_runup_min_f")
    fast = runs and speed is not None and speed >= _AT_SPEED_FROM_RPM * max(profile.speed_scale, 0.5)
    idles = runs and speed is not None and not fast
    own_idle = profile.has_limit("oil_pressure_idle_min_psi")
    return {
        When.ALWAYS: True,
        When.RUNNING: runs and not (own_idle and idles),
        When.IDLING: bool(idles),
        When.WARM: oil_f is None or gate is None or oil_f >= gate,
        When.AT_SPEED: bool(fast),
    }


def _state(
    profile: Profile, row: Signal, value: float | None, counts: Mapping[When, bool]
) -> Literal["ok", "low", "high", "none"]:
    """Return whether a figure is out of the limits that count now, by no more than a needle can show."""
    if value is None:
        return "none"
    if row.name == "volts" and value < _BUS_OFF_V:
        return "ok"  # the master is off: nothing is low
    for watch in row.watched_by:
        limit = profile.find_limit(watch.limit)
        if limit is None or not counts[watch.when]:
            continue
        if watch.is_high and value > limit + row.slack:
            return "high"
        if not watch.is_high and value < limit - row.slack:
            return "low"
    return "ok"


def instruments(
    profile: Profile, state: FlightState, now: Sample | None, now_s: float, also: tuple[str, ...] = ()
) -> tuple[Instrument, ...]:
    """Return the phase's instruments (five at most) and those of `also`, and any other that is out of limits while its engine
    runs. One that was typed long ago keeps its figure, with its age, and is held against nothing."""
    readings = with_hottest(now.readings) if now else {}
    of_phase = [name for name in profile.phase(state.phase).instruments if engine_of(name)[1] in BY_COLUMN]
    wanted = [*also, *(name for name in of_phase if name not in also)]
    cranks = starter_draws(state.engines.values(), now.levers if now else {})
    flies = profile.kind_of(state.phase).flies
    shown = [instrument(profile, name, readings, _runs(state, name), cranks, flies) for name in wanted]
    for number, _ in profile.engines:
        for column in _MAY_COME:
            name = f"e2_{column}" if number == 2 and not BY_COLUMN[column].is_shared else column
            if name in wanted or not _runs(state, name) or any(one.id == name for one in shown):
                continue
            extra = instrument(profile, name, readings, True, cranks, flies)
            if extra.state in ("low", "high"):
                shown.append(_by_itself(extra))
    return tuple(_with_age(one, state, now_s) for one in shown)


def _with_age(one: Instrument, state: FlightState, now_s: float) -> Instrument:
    read = state.read.get(one.id)
    if read is None or (one.value is not None and one.value != read.value):
        return one
    return replace(one, value=read.value, age_s=round(now_s - read.at_s))


def _runs(state: FlightState, name: str) -> bool:
    """Say whether the engine of a needle runs; a shared one's, whether any does."""
    number, own = engine_of(name)
    return state.engine_runs if BY_COLUMN[own].is_shared else state.engine(number).runs


def _by_itself(one: Instrument) -> Instrument:
    return replace(one, came_by_itself=True)
