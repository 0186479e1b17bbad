"""What the screen shows of a start: one thing at a time, very large, while both hands are busy; and the clocks that run.

From the call "clear" to oil pressure nothing needs a touch and nothing relies on sound. By hand, the same from taps.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from ..aircraft import Profile
from ..aircraft.phases import BEFORE_START, START
from ..base.figures import figure
from ..flight.state import FlightState, starting_engine
from ..procedure.progress import open_items
from ..start.engine_state import EngineState, OilClock
from ..start.following import StartWatch, starter_rest_s
from ..trace.sample import Sample, speed_of
from ..trace.signals import of_engine

_TONE_AFTER_S = 20.0
_SEEN_FOR_S, _DIED_FOR_S = 4.0, 8.0
_DIES_BELOW = 1.0
_SLOW_FOULS_AFTER_S = 60.0  # common practice
_WARM_UP_SINCE_S, _TOO_FAST = 20.0, 1.15
_WEAK_SHARE, _WEAK_BY_V = 0.75, 1.0  # common practice: an inertia starter on a weak bus gets three quarters of the time
# common practice: how long a starter that turns nothing is held, and how far it pulls the bus down then
_STANDS_S, _STANDS_ROWS, _PULLED_DOWN_V = 1.0, 2, 1.0
_LOCK = "The propeller does not turn: a hydraulic lock, or a starter that does not engage. Do not force it; never turn it back."
Mode = Literal["stop", "let_go", "cranking", "dying", "oil", "seen", "died", "no_fire"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Large:
    """The one thing that is shown very large while both hands are busy."""

    mode: Mode
    say: str
    figure: str
    line: str
    tone: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Starter:
    """The starter: seconds of this push, its limit (None where the profile gives none), when the type usually fires (from, to), the
    rest still due [s] and of how many in all."""

    turned_s: float | None
    limit_s: float | None
    usual_from_s: float
    usual_to_s: float
    over: bool
    rest_left_s: int
    rest_s: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Tap:
    """A tap of a pilot without needles: what it says, and its word."""

    what: str
    say: str


@dataclass(frozen=True, slots=True, kw_only=True)
class StartNow:
    """The start of the engine that is started now (`primed` in `unit`), and what is to be watched while it warms."""

    engine: int
    engine_name: str | None
    large: Large | None
    starter: Starter
    primed: float
    unit: str
    blades: int
    attempts: int
    taps: tuple[Tap, ...]
    warnings: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownOilClock:
    """The clock from first fire to oil pressure [s]; no limit where the profile gives none."""

    verdict: Literal["running", "seen", "missing"]
    elapsed_s: float
    left_s: int | None
    limit_s: float | None
    seconds: float | None


def shown_oil_clock(clock: OilClock, now_s: float) -> ShownOilClock:
    """Return an oil clock as it is at flight time `now_s` [s]."""
    waited_s = now_s - clock.since_s
    return ShownOilClock(
        verdict=clock.verdict,  # type: ignore[arg-type]
        elapsed_s=round(min(waited_s, 999), 1),
        left_s=None if clock.limit_s is None else max(round(clock.limit_s - waited_s), 0),
        limit_s=clock.limit_s,
        seconds=clock.seconds,
    )


def describe_start(
    profile: Profile, state: FlightState, watches: Mapping[int, StartWatch], now: Sample | None, now_s: float
) -> StartNow:
    """Return the clocks of the engine that is started, what is shown very large, the taps that a pilot without needles has, and
    what is to be watched while it warms. Flight time `now_s` [s]."""
    number = _looked_at(profile, state, now_s)
    engine, watch = state.engine(number), watches.get(number, StartWatch())
    readings = of_engine(now.readings, number) if now else {}
    names = dict(profile.engines)
    return StartNow(
        engine=number,
        engine_name=names[number] if len(names) > 1 else None,
        large=_large(profile, engine, watch, readings, now_s, on_ground_power=_on_ground_power(profile, state, now)),
        starter=_starter(profile, engine, now_s),
        primed=engine.primed,
        unit=profile.start.unit,
        blades=engine.blades,
        attempts=len(engine.tries),
        taps=taps(engine),
        warnings=_warnings(profile, state, watches, now, now_s),
    )


def _looked_at(profile: Profile, state: FlightState, now_s: float) -> int:
    """Return the engine to show: the one that is started, but briefly still the one whose oil pressure just came."""
    number = starting_engine(profile, state)
    if state.engine(number).turning_since_s is not None:
        return number
    for other, engine in state.engines.items():
        clock = engine.oil_clock
        if clock and clock.seconds is not None and now_s - clock.since_s - clock.seconds < _SEEN_FOR_S:
            return other
    return number


def taps(engine: EngineState) -> tuple[Tap, ...]:
    """Return the taps that mean something now, the likeliest first."""
    if engine.turning_since_s is not None and not engine.runs:
        return Tap(what="fired", say="It fires"), Tap(what="let_go", say="Let go, no fire")
    if not engine.runs:
        return Tap(what="crank", say="Starter on"), Tap(what="fired", say="It runs")
    if engine.oil_clock and engine.oil_clock.verdict != "seen":
        return Tap(what="oil_seen", say="Oil pressure seen"), Tap(what="stopped", say="It stopped")
    return (Tap(what="stopped", say="Engine stopped"),)


def _starter(profile: Profile, engine: EngineState, now_s: float) -> Starter:
    limit_s = profile.find_limit("starter_on_max_s")
    turned_s = None if engine.turning_since_s is None else max(now_s - engine.turning_since_s, 0.0)
    return Starter(
        turned_s=None if turned_s is None else round(turned_s, 1),
        limit_s=limit_s,
        usual_from_s=profile.start.crank_s[0],
        usual_to_s=profile.start.crank_s[1],
        over=turned_s is not None and limit_s is not None and turned_s >= limit_s,
        rest_left_s=round(starter_rest_s(profile, engine, now_s)),
        rest_s=round(starter_rest_s(profile, engine, engine.cranks[-1][0])) if engine.cranks else 0,
    )


def _large(
    profile: Profile,
    engine: EngineState,
    watch: StartWatch,
    readings: Mapping[str, float],
    now_s: float,
    *,
    on_ground_power: bool,
) -> Large | None:
    clock = engine.oil_clock
    if clock and (stop := _stop(profile, clock, bool(readings), now_s)):
        return stop
    if engine.turning_since_s is not None:
        return _turning(profile, engine, watch, now_s)
    if watch.energising_s > 0 and profile.start.energise_s:
        return _energising(profile, watch, readings, on_ground_power)
    if clock and clock.verdict == "running":
        return _awaiting_oil(profile, clock, readings, now_s)
    if clock and clock.seconds is not None and now_s - clock.since_s - clock.seconds < _SEEN_FOR_S:
        within = "" if clock.limit_s is None else f"Within {clock.limit_s:.0f} s of first fire."
        return _say("seen", "OIL PRESSURE ✓", f"{clock.seconds:.0f} s", within)
    if not engine.runs and engine.tries and engine.cranks and now_s - engine.cranks[-1][0] < _DIED_FOR_S:
        if engine.tries[-1].get("died"):
            return _say("died", "IT DIED", "", "It caught and died: too rich. Treat it as flooded.")
        return _say("no_fire", "NO FIRE", "", "Let the starter rest. What next: below, when the rest is over.")
    return None


def _stop(profile: Profile, clock: OilClock, has_needles: bool, now_s: float) -> Large | None:
    """Say stop where the oil clock has run out; by hand, where nobody has tapped."""
    if clock.limit_s is None:
        return None
    untold = clock.verdict == "running" and not has_needles
    if clock.verdict != "missing" and not (untold and now_s - clock.since_s > clock.limit_s):
        return None
    unread = clock.no_reading or untold
    why = "No oil-pressure reading" if unread else "No oil pressure"
    more = " Read the gauge; nothing there:" if unread else ""
    limit = f"{clock.limit_s:.0f} s"
    return _say(
        "stop",
        "STOP THE ENGINE",
        limit,
        f"{why} in {limit}.{more} {profile.start.stops}. Find the cause with a mechanic.",
    )


def _awaiting_oil(profile: Profile, clock: OilClock, readings: Mapping[str, float], now_s: float) -> Large:
    waited_s = now_s - clock.since_s
    clock_words = f"{waited_s:.0f} s" if clock.limit_s is None else f"{max(round(clock.limit_s - waited_s), 0)} s"
    speed, firing = speed_of(readings), profile.find_limit("rpm_firing_min")
    if speed is not None and firing is not None and speed < _DIES_BELOW * firing:
        return _say("dying", "IT DIES", clock_words, "Smoke or a smell of fuel: too rich. Else: too little.")
    shown = readings.get("oil_p_psi")
    no_reading = "No oil-pressure reading: read the gauge. The clock runs on."
    line = no_reading if shown is None else f"{figure(shown, 'psi')} so far."
    return _say("oil", "OIL PRESSURE", clock_words, line, tone=waited_s > _TONE_AFTER_S)


def _turning(profile: Profile, engine: EngineState, watch: StartWatch, now_s: float) -> Large:
    limit_s = profile.find_limit("starter_on_max_s")
    turned_s = now_s - (engine.turning_since_s or now_s)
    if engine.runs:
        return _say("let_go", "LET GO", "", "It runs: the starter must not be dragged along.")
    if limit_s is not None and turned_s >= limit_s:
        return _say("let_go", "LET GO", f"{turned_s:.0f} s", f"{limit_s:.0f} s at one time is the starter's limit.")
    if stands := _stands(profile, engine, watch):
        return stands
    blades = round(watch.blades)
    counted = f"{blades} blade{'s' * (blades > 1)}. " if blades else ""
    at_most = "" if limit_s is None else f"At most {limit_s:.0f} s. "
    return _say("cranking", "CRANKING", f"{turned_s:.0f} s", f"{counted}{at_most}{_drill(profile)}")


def _drill(profile: Profile) -> str:
    stops = profile.start.stops[0].lower() + profile.start.stops[1:]
    return f"Fire or smoke at the intake: keep cranking, {stops}, throttle open, fuel off."


def _stands(profile: Profile, engine: EngineState, watch: StartWatch) -> Large | None:
    """Say stop where the starter is held and nothing turns: only where this tachometer shows cranking, else that no rotation is
    seen. A bus that is pulled down says that the starter pushes."""
    if watch.still_s < _STANDS_S or watch.still_rows < _STANDS_ROWS:
        return None
    shows = profile.start.shows_cranking or any(float(one.get("top_rpm") or 0.0) > 0 for one in engine.tries)
    usual = profile.find_limit("volts_min_v")
    pushes = watch.volts_v is None or usual is None or watch.volts_v < usual - _PULLED_DOWN_V
    if shows and pushes:
        return _say("stop", "LET GO", "", _LOCK)
    return _say(
        "cranking", "NO ROTATION SEEN", f"{watch.turning_s:.0f} s", f"Look at the propeller: it stands? Let go. {_LOCK}"
    )


def _on_ground_power(profile: Profile, state: FlightState, now: Sample | None) -> bool:
    """Say whether ground power feeds the bus, by its lever or by what the pilot and the bus have said of it."""
    if now is not None and "ground_power" in now.levers:
        return float(now.levers["ground_power"]) > 0.5
    return any(pair.lever == "ground_power" and pair.id in state.away for pair in profile.put_backs)


def _energising(profile: Profile, watch: StartWatch, readings: Mapping[str, float], on_ground_power: bool) -> Large:
    """Say how long to energise: shorter on ground power; an inertia starter on a weak bus gets three quarters of the time."""
    on_battery = profile.start.energise_s or (0.0, 0.0)
    low, high = (on_ground_power and profile.start.energise_ground_power_s) or on_battery
    volts, least = readings.get("volts_v"), profile.find_limit("volts_min_v")
    weak = volts is not None and least is not None and volts < least - _WEAK_BY_V
    high = max(_WEAK_SHARE * high, low) if weak else high
    if watch.energising_s > high:
        return _say("let_go", "MESH NOW", f"{watch.energising_s:.0f} s", f"{high:.0f} s is the limit of energising.")
    say = "MESH WHEN READY" if watch.energising_s >= low else "ENERGISING"
    line = f"{low:.0f} to {high:.0f} s{', weak bus' if weak else ''}."
    return _say("cranking", say, f"{watch.energising_s:.0f} s", line)


def _say(mode: Mode, say: str, shown: str, line: str, tone: bool = False) -> Large:
    return Large(mode=mode, say=say, figure=shown, line=line, tone=tone or mode in ("stop", "let_go"))


def _warnings(
    profile: Profile, state: FlightState, watches: Mapping[int, StartWatch], now: Sample | None, now_s: float
) -> tuple[str, ...]:
    """Return what to look at while an engine warms: the alternators, cold thick oil, too slow, too fast; in a phase that is flown
    the alternators only, and nobody is told to stop an engine there."""
    said: list[str] = []
    flies = profile.kind_of(state.phase).flies
    for number, name in profile.engines:
        engine, readings = state.engine(number), of_engine(now.readings, number) if now else {}
        if not engine.runs:
            said += [f"{profile.whose(name)}{words}" for words in _not_turned_through(profile, state, number)]
            continue
        lines = _electric(profile, engine, readings, flies)
        if not flies:
            lines += [*_cold_oil(profile, readings), *_warming(profile, engine, watches.get(number), readings, now_s)]
        said += [f"{profile.whose(name)}{words}" for words in lines]
    return tuple(said)


def _not_turned_through(profile: Profile, state: FlightState, number: int) -> list[str]:
    """Return the words where the blades of an engine that stood were to be turned through and were not, said before its starter."""
    here, engine = profile.place(state.phase), state.engine(number)
    if profile.kind_of(state.phase).name not in (BEFORE_START, START) or starting_engine(profile, state) != number:
        return []
    skipped = [
        item
        for phase in profile.phases[: here + 1]
        for item in open_items(phase, state.progress, state.known)
        if item.count_of == "blades" and item.engine in (0, number)
        if profile.place(phase.id) < here or item.id in state.progress.aside
    ]
    item = next((one for one in skipped if engine.blades < (one.count_to or 0)), None)
    if item is None or engine.tries:
        return []
    return [f"blades not turned through: {item.count_to} by hand, ignition off, before the starter. A lock bends rods."]


def _electric(profile: Profile, engine: EngineState, readings: Mapping[str, float], flies: bool) -> list[str]:
    said = []
    least, cut_in, within = (
        profile.find_limit(name) for name in ("volts_charging_min_v", "alt2_cut_in_rpm", "alt2_within_s")
    )
    if engine.charging is False and least is not None:
        volts = readings.get("volts_v")
        shown = f" the bus shows {volts:.1f} V," if volts is not None else ""
        said.append(
            f"the alternator does not charge:{shown} at least {least:g} V.{'' if flies else ' Not for flight as it is.'}"
        )
    if engine.alternator_2 is False and flies:
        said.append("the second alternator is out.")
    elif engine.alternator_2 is False and cut_in is not None and within is not None:
        said.append(
            f"the second alternator did not cut in within {within:.0f} s: once above {cut_in:,.0f} RPM now; if it stays "
            "out, stop and start again."
        )
    return said


def _is_cold(profile: Profile, readings: Mapping[str, float]) -> bool:
    oil_f, gate = readings.get("oil_t_f"), profile.find_limit("oil_t_runup_min_f")
    return oil_f is not None and gate is not None and oil_f < gate


def _cold_oil(profile: Profile, readings: Mapping[str, float]) -> list[str]:
    pressure, high = readings.get("oil_p_psi"), profile.find_limit("oil_pressure_max_psi")
    if not _is_cold(profile, readings) or pressure is None or high is None or pressure <= high:
        return []
    return [
        f"oil pressure {figure(pressure, 'psi')} is above {figure(high, 'psi')} because the oil is cold and thick: "
        "RPM low until it is warm."
    ]


def _warming(
    profile: Profile, engine: EngineState, watch: StartWatch | None, readings: Mapping[str, float], now_s: float
) -> list[str]:
    speed, said = speed_of(readings), []
    ran_s = now_s - (engine.fired_s if engine.fired_s is not None else now_s)
    if speed is None or ran_s < _WARM_UP_SINCE_S:
        return []
    most, least = profile.find_limit("warm_up_max_rpm"), profile.find_limit("warm_up_min_rpm")
    if _is_cold(profile, readings) and most is not None and speed > _TOO_FAST * most:
        said.append(f"{speed:,.0f} RPM on cold oil: at most {most:,.0f} until it is warm.")
    if watch and watch.slow_s > _SLOW_FOULS_AFTER_S and least is not None:
        said.append(f"below {least:,.0f} RPM for {watch.slow_s:.0f} s: slow and rich fouls plugs.")
    return said
