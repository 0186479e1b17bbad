"""What all events of a flight say together: a value that moves by one event at a time."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from ..aircraft import Profile
from ..base.weather import Air
from ..fuel.tanks import FuelState
from ..judgement.registry import title_of
from ..procedure.notice import still_away
from ..procedure.progress import Done, Progress, open_items
from ..start.engine_state import EngineState, OilClock, engine_step
from ..trace.finding import INCOMPLETE, LOOK, RANK, STOP, UNKNOWN, WITHIN

KeptFinding = Mapping[str, Any]


_MINOR = ("shutdown_check", "idle_check")  # what matters least of a flight's findings of one gravity (our own choice)


@dataclass(frozen=True, slots=True, kw_only=True)
class BurnOffState:
    """The burn-offs of one engine: how many were done, when the last was over, when a tap began one [s]."""

    done: int = 0
    burnt_off_s: float = float("-inf")
    started_s: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadNeedle:
    """What a needle showed that was read out and typed: in the core's unit, at flight time [s], and the reading before it."""

    value: float
    at_s: float
    before: "ReadNeedle | None" = None


@dataclass(frozen=True, slots=True, kw_only=True)
class DrillState:
    """The drill that is flown: what may be named and decided (ids and their words), the needles to be watched, what the pilot was
    told, and the last word of the pilot's own; its length in seconds."""

    id: str
    title: str
    aim: str
    length_s: float
    causes: Mapping[str, str]
    decisions: Mapping[str, str]
    needles: tuple[str, ...] = ()
    tells: tuple[str, ...] = ()
    said: str | None = None
    decided: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class FlightState:
    """All that the events say: `progress` of the lists, `away` maps a put-back to its time, `carried` are those left away on
    purpose, `read_egts_f` the EGT figures [°F] by their probes that were typed one soon after the other, `air` is the last weather
    with what follows from it, `findings` are as they are kept."""

    phase: str
    progress: Progress = field(default_factory=Progress)
    carried: frozenset[str] = frozenset()
    air: Air | None = None
    away: Mapping[str, float] = field(default_factory=dict)
    findings: tuple[KeptFinding, ...] = ()
    engines: Mapping[int, EngineState] = field(default_factory=dict)
    lean_target: str | None = None
    remarks: tuple[str, ...] = ()
    warned: tuple[str, ...] = ()
    burn_offs: Mapping[int, BurnOffState] = field(default_factory=dict)
    rating: tuple[str, float] | None = None
    fuel: FuelState = field(default_factory=FuelState)
    power_wanted: Mapping[str, Any] | None = None
    climb_egt_f: float | None = None
    read: Mapping[str, ReadNeedle] = field(default_factory=dict)
    read_egts_f: Mapping[str, tuple[float, ...]] = field(default_factory=dict)
    drill: DrillState | None = None
    ended: bool = False
    last_seq: int = 0

    @property
    def done(self) -> Mapping[str, Done]:
        """The confirmed items."""
        return self.progress.done

    def engine(self, number: int) -> EngineState:
        """Return what the events say of one engine."""
        return self.engines.get(number, EngineState())

    def burn_off(self, number: int) -> BurnOffState:
        """Return the burn-offs of one engine."""
        return self.burn_offs.get(number, BurnOffState())

    @property
    def engine_runs(self) -> bool:
        """Whether any engine runs."""
        return any(engine.runs for engine in self.engines.values())

    @property
    def oil_clock(self) -> OilClock | None:
        """The oil clock that matters most: a missing pressure, else one that runs, else the latest."""
        clocks = [engine.oil_clock for engine in self.engines.values() if engine.oil_clock]
        rank = {"missing": 2, "running": 1, "seen": 0}
        return max(clocks, key=lambda clock: (rank[clock.verdict], clock.since_s), default=None)

    @property
    def known(self) -> dict[str, Any]:
        """The facts that conditions of lists and items ask for; a start is cold until somebody says otherwise."""
        air = {"oat_c": self.air.oat_c, "density_altitude_ft": self.air.density_altitude_ft} if self.air else {}
        return {"start": "cold", **air, **self.progress.facts}

    @property
    def lean_for_cruise(self) -> bool:
        """Whether the mixture is said, or seen, to be lean for cruise."""
        return "cruise_lean" in self.away

    def latest_finding(self, kind: str, engine: int | None = None) -> KeptFinding | None:
        """Return the last finding of a kind, of one engine or of any, or None."""
        own = (f for f in reversed(self.findings) if f["kind"] == kind)
        return next((f for f in own if engine is None or f.get("engine", 1) == engine), None)


def set_away(state: FlightState, put_back: str, at_s: float) -> FlightState:
    """Return the state with a temporary setting since flight time `at_s` [s]; a repeat keeps the first time."""
    return replace(state, away={put_back: at_s, **state.away})


def set_back(state: FlightState, put_back: str) -> FlightState:
    """Return the state with something put back."""
    away = {name: at_s for name, at_s in state.away.items() if name != put_back}
    return replace(state, away=away, carried=state.carried - {put_back})


def with_engine(state: FlightState, kind: str, at_s: float, body: Mapping[str, Any]) -> FlightState:
    """Return the state after an event of one engine's start, at flight time `at_s` [s]."""
    number = int(body.get("engine", 1))
    return replace(state, engines={**state.engines, number: engine_step(state.engine(number), kind, at_s, body)})


def open_item_ids(profile: Profile, state: FlightState, phase_id: str | None = None) -> list[str]:
    """Return the ids of the items of a phase (the current one by default) that are open, in order."""
    phase = profile.phase(phase_id or state.phase)
    return [item.id for item in open_items(phase, state.progress, state.known)]


def is_complete(profile: Profile, state: FlightState, phase_id: str) -> bool:
    """Say whether a phase may be called complete: no open item, nothing away that should be back."""
    away = still_away(profile, phase_id, state.away, state.carried)
    return not open_item_ids(profile, state, phase_id) and not away


def starting_engine(profile: Profile, state: FlightState) -> int:
    """Return the engine that is started now: the one that turns, else the one whose oil pressure is awaited, else the first
    that does not run in the profile's order, else the last."""
    order = [number for number, _ in profile.engines]
    awaited = [n for n in order if (clock := state.engine(n).oil_clock) and clock.verdict != "seen"]
    standing = [n for n in order if not state.engine(n).runs]
    turning = [n for n in order if state.engine(n).turning_since_s is not None]
    return next(iter([*turning, *awaited, *standing]), order[-1])


def latest_findings(findings: Iterable[KeptFinding]) -> list[KeptFinding]:
    """Return the last finding of each kind and engine, in order: a later one supersedes, the earlier stay in the record."""
    last = {(finding["kind"], finding.get("engine", 1)): finding for finding in findings}
    return list(last.values())


def sentence(state: FlightState) -> str:
    """Return one sentence of what a flight showed: the gravest of what is not within limits, what else is not, or that all is."""
    findings = latest_findings(state.findings)
    if not findings:
        return "Nothing was measured in this flight."
    against = [finding for finding in findings if finding["verdict"] != WITHIN]
    good = len(findings) - len(against)
    within = f"{good} check{'s' * (good > 1)}, all within limits{_before_that(state, findings)}"
    if not against:
        return f"{within}."
    if good and all(finding["kind"] in _MINOR and finding["verdict"] == UNKNOWN for finding in against):
        left = ", ".join(title_of(finding["kind"]) for finding in against)
        return f"{within}; not judged: {left}."
    against.sort(key=lambda finding: (RANK[finding["verdict"]], finding["kind"] not in _MINOR), reverse=True)
    rest = list(dict.fromkeys(title_of(finding["kind"]) for finding in against[1:]))
    return str(against[0]["because"]) + (f" Also not within: {', '.join(rest)}." if rest else "")


def _before_that(state: FlightState, last: Sequence[KeptFinding]) -> str:
    """Return in words what was a look or a stop before it was made again; empty where nothing was."""
    earlier = [
        one for one in state.findings if one["verdict"] in (LOOK, STOP) and all(one is not kept for kept in last)
    ]
    titles = dict.fromkeys(title_of(one["kind"]) for one in earlier)
    return f" when last made; before that not: {', '.join(titles)}" if titles else ""


def half_checks(profile: Profile, state: FlightState) -> list[str]:
    """Return the titles of the checks that were begun and are only half done on an engine: never passed, shown as incomplete."""
    kinds = {item.check for item in profile.items.values() if item.check}
    half = {f["kind"] for f in latest_findings(state.findings) if f["verdict"] == INCOMPLETE}
    return [title_of(kind) for kind in sorted(kinds & half)]
