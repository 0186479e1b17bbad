"""A start told: what the events of one engine say of it, from the starter to oil pressure and charge. Live events are read as
they are; a recorded trace is followed sample by sample, by the same rules, and its events read the same way."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..aircraft import Profile
from ..trace import Trace, moments_of
from ..trace.sample import speed_of
from .engine_state import EngineState, engine_step
from .following import StartWatch, watch_start

# common practice, but where it says otherwise
_LOOKED_BEFORE_S, _RUNS_DOWN_S = 60.0, 20.0
_FIRES_ON_S = 2.0  # what stops sooner was a blip of the needle, or never ran (common practice)
_CHARGE_LOOKED_AT_S = 120.0  # after it fired, what the bus shows belongs to the start (common practice)
_CLOCKS, _SLACK_S = (
    ("oil_pressure_time_s", "oil_pressure_time_cold_s", "alt2_within_s"),
    10.0,
)  # looked at until they are over
_GAP_S = 30.0  # what lies between was not followed
Told = tuple[float, str, Mapping[str, Any]]


@dataclass(frozen=True, slots=True, kw_only=True)
class StartStory:
    """One start: when it began and fired [s], how long it was cranked before in all and at one time, the lowest volts; its oil
    clock (`oil_s` seconds to pressure, None where it did not come; `oil_late` when its time was over first); what the
    alternators gave; when it stopped, and until when it was followed."""

    began_s: float
    fired_s: float
    cranking_s: float
    longest_crank_s: float
    volts_v: float | None
    oil_limit_s: float | None
    oil_s: float | None = None
    oil_late: bool = False
    charging: bool | None = None
    charging_v: float | None = None
    alternator_2: bool | None = None
    stopped_s: float | None = None
    until_s: float = 0.0

    @property
    def ran_s(self) -> float:
        """How long it ran, or has run [s]."""
        return (self.until_s if self.stopped_s is None else self.stopped_s) - self.fired_s


def stories(told: Iterable[Told], until_s: float) -> tuple[StartStory, ...]:
    """Return the starts in one engine's events (time [s], kind, body), in order, up to `until_s`."""
    made: list[StartStory] = []
    pushes: list[tuple[float, float]] = []
    began_s: float | None = None
    open_s: float | None = None
    for at_s, kind, body in told:
        match kind:
            case "cranking_began":
                began_s, open_s = (at_s if began_s is None else began_s), at_s
            case "cranking_ended":
                pushes, open_s = [*pushes, (at_s, float(body.get("cranking_s") or 0.0))], None
            case "engine_fired":
                turned = [seconds for _, seconds in pushes] + ([at_s - open_s] if open_s is not None else [])
                made.append(_fired(at_s, body, began_s, turned, until_s))
                pushes, began_s = [], None
            case "engine_stopped" if made:
                made[-1] = replace(made[-1], stopped_s=at_s, until_s=at_s)
                pushes, began_s = [], None
            case _ if made and made[-1].stopped_s is None:
                made[-1] = _went_on(made[-1], at_s, kind, body)
    return tuple(story for story in made if story.stopped_s is None or story.ran_s >= _FIRES_ON_S)


def _fired(
    at_s: float, body: Mapping[str, Any], began_s: float | None, turned_s: Sequence[float], until_s: float
) -> StartStory:
    limit_s, volts = body.get("limit_s"), body.get("volts_v")
    cranking_s = sum(turned_s) if turned_s else float(body.get("cranking_s") or 0.0)
    return StartStory(
        began_s=at_s if began_s is None else began_s,
        fired_s=at_s,
        cranking_s=cranking_s,
        longest_crank_s=max(turned_s, default=cranking_s),
        volts_v=None if volts is None else float(volts),
        oil_limit_s=None if limit_s is None else float(limit_s),
        until_s=until_s,
    )


def _went_on(story: StartStory, at_s: float, kind: str, body: Mapping[str, Any]) -> StartStory:
    match kind:
        case "oil_pressure_seen":
            return replace(story, oil_s=float(body["seconds"]))
        case "oil_pressure_missing":
            return replace(story, oil_late=True)
        case "charging" | "not_charging" if at_s - story.fired_s <= _CHARGE_LOOKED_AT_S:
            volts = body.get("volts_v")
            return replace(story, charging=kind == "charging", charging_v=None if volts is None else float(volts))
        case "alternator_2_in" | "alternator_2_missing":
            return replace(story, alternator_2=kind == "alternator_2_in")
    return story


def follow_trace(profile: Profile, trace: Trace, primed: float = 0.0) -> list[Told]:
    """Return (time [s], kind, body) of what one engine's recorded trace shows of its starts, as a live flight would have kept
    it; `primed` is the prime given before, which no needle shows. Only the time around a start or a stop is followed: in
    between nothing of it changes."""
    made: list[Told] = []
    engine, watch = EngineState(primed=primed), StartWatch()
    firing, last_s = profile.find_limit("rpm_firing_min"), -np.inf
    rows = _rows_near(profile, trace)
    idle = _nothing_happens(profile, trace)[rows]
    for sample, is_idle in zip(moments_of(trace, rows), idle.tolist(), strict=True):
        if is_idle and _is_settled(profile, engine) and sample.at_s - last_s <= _GAP_S:
            last_s = sample.at_s
            continue
        speed = speed_of(sample.readings)
        if sample.at_s - last_s > _GAP_S and firing is not None and speed is not None and speed > firing:
            engine = engine if engine.runs else EngineState(runs=True, fired_s=float(trace.time_s[0]))  # it ran before
        last_s = sample.at_s
        watch, events = watch_start(profile, engine, watch, sample)
        for kind, body in events:
            engine = engine_step(engine, kind, sample.at_s, body)
            made.append((sample.at_s, kind, body))
    return made


def _is_settled(profile: Profile, engine: EngineState) -> bool:
    """Say whether a start has shown all that it can: what follows may only take it back."""
    clock = engine.oil_clock
    second = profile.find_limit("alt2_cut_in_rpm") is None or engine.alternator_2 is True
    return engine.runs and (clock is None or clock.verdict == "seen") and engine.charging is True and second


def _nothing_happens(profile: Profile, trace: Trace) -> np.ndarray:
    """Return the rows (shape (rows,), bool) in which an engine that is settled shows nothing new, nor in the row after: it runs,
    its bus is charged, no starter turns. Two hours have many."""
    speed, volts = trace.speed(), trace.signal("volts")
    firing, least = profile.find_limit("rpm_firing_min"), profile.find_limit("volts_charging_min_v")
    starter = trace.signal(profile.start.turned_by)
    if speed is None or volts is None or firing is None or least is None:
        return np.zeros(len(trace), dtype=bool)
    calm = (np.nan_to_num(speed) > firing) & (np.nan_to_num(volts) >= least)
    if starter is not None:
        calm &= np.nan_to_num(starter) < 0.5
    return np.asarray(calm & np.append(calm[1:], False))


def stories_of_trace(profile: Profile, trace: Trace) -> tuple[StartStory, ...]:
    """Return the starts that one engine's recorded trace shows. An engine that runs from the first row on was not started in
    it, nor one whose speed is not known before."""
    speed = trace.speed()
    known = np.zeros(0, dtype=int) if speed is None else np.flatnonzero(np.isfinite(speed))
    trace = trace.part(int(known[0]), len(trace)) if known.size else trace
    return stories(follow_trace(profile, trace), float(trace.time_s[-1]) if len(trace) else 0.0)


def starts_of_trace(profile: Profile, trace: Trace, primed: float = 0.0) -> list[Told]:
    """Return `follow_trace` of every engine in order of time, each body naming its engine. Times in seconds [s]; `primed` in
    the unit of the type's method."""
    made = [
        (at_s, kind, {**body, "engine": number})
        for number, _ in profile.engines
        for at_s, kind, body in follow_trace(profile, trace.of_engine(number), primed)
    ]
    return sorted(made, key=lambda row: row[0])


def _rows_near(profile: Profile, trace: Trace) -> np.ndarray:
    """Return the rows around every passing of the firing speed, up or down."""
    speed, firing, t = trace.speed(), profile.find_limit("rpm_firing_min"), trace.time_s
    if speed is None or firing is None or not len(trace):
        return np.zeros(0, dtype=int)
    fires = np.nan_to_num(speed) > firing
    near = np.zeros(len(trace), dtype=bool)
    times = [profile.find_limit(name) or 0.0 for name in _CLOCKS]
    looked_after_s = max(_CHARGE_LOOKED_AT_S, *times) + _SLACK_S
    for row in (np.flatnonzero(fires[1:] != fires[:-1]) + 1).tolist():
        after_s = looked_after_s if fires[row] else _RUNS_DOWN_S
        near |= (t >= t[row] - _LOOKED_BEFORE_S) & (t <= t[row] + after_s)
    return np.flatnonzero(near)
