"""Flights as they are kept: one line in a list, one flight as a timeline."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from ..aircraft import Profile
from ..flight.drill_events import DrillHappened
from ..flight.events import Event
from ..flight.fold import fold
from ..flight.pilot_events import PhaseEntered
from ..flight.state import FlightState, KeptFinding, latest_findings, open_item_ids, sentence
from ..flight.watch_events import FaultPractised
from ..trace.finding import RANK, gravest
from .aircraft import AircraftLine
from .findings import ShownFinding, Verdict, shown_finding

_FLIGHTS = 5


FlightKind = Literal["practice", "by_hand", "instrument", "file", "demo", "drill"]
PRACTICE: tuple[FlightKind, ...] = ("practice", "drill")  # never in one trend, picture or advice with the real ones


@dataclass(frozen=True, slots=True, kw_only=True)
class EngineDrops:
    """The two magneto drops [RPM] of one engine; its name where there are several, the order where the sides are not known."""

    engine: str | None
    first_rpm: float | None
    second_rpm: float | None
    sides_known: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class FlightSummary:
    """What a list of flights shows of one, kept beside it so that nothing is folded to show a list."""

    ended: bool
    findings: int
    verdict: Verdict | None
    drop_left_rpm: float | None
    drop_right_rpm: float | None
    last_seq: int
    length_s: float = 0.0
    drops: tuple[EngineDrops, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class FlightLine:
    """One flight of a list."""

    id: str
    aircraft: str
    registration: str
    pilot: str
    title: str
    source: str
    kind: FlightKind
    is_practice: bool
    started_utc: str
    length_s: float
    note: str
    hidden: bool
    ended: bool
    findings: int
    verdict: Verdict | None
    drop_left_rpm: float | None
    drop_right_rpm: float | None
    drops: tuple[EngineDrops, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class FlightList:
    """Flights, newest first, with one sentence of what they show; `of` is how many there are in all."""

    flights: tuple[FlightLine, ...]
    sentence: str
    of: int


@dataclass(frozen=True, slots=True, kw_only=True)
class TimelineLine:
    """One event of a flight, as it is kept and in words, with the title of the phase that it happened in; `is_quiet` where many of
    its kind are one line of a page."""

    seq: int
    id: str
    kind: str
    at_s: float
    wall_utc: str
    body: Mapping[str, Any]
    text: str
    phase: str
    is_quiet: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenItems:
    """How many items of a phase were left open."""

    phase: str
    count: int


_TOLD_AT_THE_END = (FaultPractised.KIND, DrillHappened.KIND)  # else what is practised would be told before it is seen


@dataclass(frozen=True, slots=True, kw_only=True)
class FlightRecord:
    """One flight: what was done, measured and judged, in order of flight time; `practised` is the fault that it was given, told
    when it has ended, `drill` the drill that it is. `flags` are places on its trace in order of time: of a check that was
    judged as it went, the last word."""

    flight: FlightLine
    aircraft: AircraftLine
    profile_hash: str
    sentence: str
    timeline: tuple[TimelineLine, ...]
    findings: tuple[ShownFinding, ...]
    flags: tuple[ShownFinding, ...]
    open: tuple[OpenItems, ...]
    practised: str | None
    drill: str | None


def summary_of(profile: Profile, state: FlightState, length_s: float, is_file: bool = False) -> FlightSummary:
    """Return what a list shows of a flight in this state, which has lasted so long [s]; a file that was read in has ended."""
    mags = state.latest_finding("mag_check")
    measured = mags["measured"] if mags else {}
    verdict: Any = gravest([finding["verdict"] for finding in latest_findings(state.findings)])
    return FlightSummary(
        ended=state.ended or is_file,
        findings=len(state.findings),
        verdict=verdict,
        drop_left_rpm=measured.get("drop_left_rpm"),
        drop_right_rpm=measured.get("drop_right_rpm"),
        last_seq=state.last_seq,
        length_s=round(length_s, 1),
        drops=_drops(profile, state),
    )


def _drops(profile: Profile, state: FlightState) -> tuple[EngineDrops, ...]:
    names, rows = dict(profile.engines), []
    for number in names:
        found = state.latest_finding("mag_check", number)
        if found is None:
            continue
        measured = found["measured"]
        known = "drop_left_rpm" in measured or "drop_right_rpm" in measured
        sides = ("left", "right") if known else ("first", "second")
        first, second = (measured.get(f"drop_{side}_rpm") for side in sides)
        name = names[number] if len(names) > 1 else None
        rows.append(EngineDrops(engine=name, first_rpm=first, second_rpm=second, sides_known=known))
    return tuple(rows)


def timeline(profile: Profile, events: Sequence[Event]) -> tuple[TimelineLine, ...]:
    """Return the events of a flight that a timeline shows, in order of flight time; those that this version does not know too."""
    phase, lines = profile.phases[0].title, []
    for happened in sorted(events, key=lambda e: (e.at_s, e.seq)):
        if happened.kind == PhaseEntered.KIND:
            phase = _words(profile, happened)
        if happened.said.IS_TOLD:
            lines.append(_line(profile, happened, phase))
    return tuple(lines)


def _line(profile: Profile, happened: Event, phase: str) -> TimelineLine:
    return TimelineLine(
        seq=happened.seq,
        id=happened.id,
        kind=happened.kind,
        at_s=happened.at_s,
        wall_utc=happened.wall_utc,
        body=dict(happened.body),
        text=_words(profile, happened),
        phase=phase,
        is_quiet=happened.said.IS_QUIET,
    )


def _words(profile: Profile, happened: Event) -> str:
    """Return what an event says in words; one that names what the profile does not have, by its kind."""
    try:
        return happened.said.words(profile)
    except (KeyError, TypeError, ValueError, LookupError):
        return happened.kind.replace("_", " ").capitalize()


def _last_words(findings: Sequence[KeptFinding]) -> list[KeptFinding]:
    in_time = sorted(findings, key=lambda one: (one["start_s"], one["end_s"]))
    last = {(one["kind"], one.get("engine", 1), one["start_s"]): one for one in in_time}
    return list(last.values())


def _gravest_first(finding: KeptFinding) -> int:
    return -RANK[finding["verdict"]]


def record(profile: Profile, line: FlightLine, aircraft: AircraftLine, events: Sequence[Event]) -> FlightRecord:
    """Return one flight as a record."""
    state = fold(profile, events)
    told = [event for event in events if state.ended or event.kind not in _TOLD_AT_THE_END]
    missing = ((phase.title, len(open_item_ids(profile, state, phase.id))) for phase in profile.phases)
    return FlightRecord(
        flight=line,
        aircraft=aircraft,
        profile_hash=profile.content_hash,
        sentence=sentence(state),
        timeline=timeline(profile, told),
        drill=state.drill.id if state.drill else None,
        practised=next((str(event.body["says"]) for event in told if event.kind == FaultPractised.KIND), None),
        findings=tuple(shown_finding(profile, finding) for finding in sorted(state.findings, key=_gravest_first)),
        flags=tuple(shown_finding(profile, finding) for finding in _last_words(state.findings)),
        open=tuple(OpenItems(phase=title, count=count) for title, count in missing if count),
    )


def of_one_use(lines: Sequence[FlightLine]) -> list[FlightLine]:
    """Return the real flights, or those for practice where there are no others."""
    return [line for line in lines if not line.is_practice] or list(lines)


def drop_sentence(lines: Sequence[FlightLine]) -> str:
    """Return one sentence on the magneto drop [RPM] that has risen most over the last five flights of its aircraft, of
    the real flights where there are any; `lines` are newest first."""
    known: dict[str, list[float]] = {}
    for line in of_one_use(lines):
        for whose, drop in _named_drops(line):
            known.setdefault(whose, []).append(drop)
    last = {whose: drops[:_FLIGHTS] for whose, drops in known.items() if len(drops) > 1}
    if not last:
        return "No two flights with a magneto check yet."
    whose, same = max(last.items(), key=lambda row: row[1][0] - row[1][-1])
    change = same[0] - same[-1]
    way = "up" if change >= 0 else "down"
    return f"{whose} drop {same[0]:.0f} RPM, {way} {abs(change):.0f} in {len(same)} flights."


def _named_drops(line: FlightLine) -> Iterator[tuple[str, float]]:
    """Yield (aircraft, engine and side in words; drop [RPM]) of the sides that are known."""
    whose = (EngineDrops(engine=None, first_rpm=line.drop_left_rpm, second_rpm=line.drop_right_rpm),)
    for one in line.drops or whose:
        engine = f", {one.engine[:1].lower()}{one.engine[1:]}" if one.engine else ""
        for side, drop in (("left", one.first_rpm), ("right", one.second_rpm)):
            if drop is not None and one.sides_known:
                yield f"{line.registration}{engine}: {side}", drop


__all__ = ["FlightLine", "FlightList", "FlightRecord", "FlightSummary", "KeptFinding", "record"]
