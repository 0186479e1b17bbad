"""A flight is an append-only list of events; its state is a fold over them. Nothing here knows a clock or a database.

`fold` gives the state, `step` moves it by one event, `undo` is an event that names another. Unknown kinds are kept and
change nothing else. What the samples say comes in as events too (`follow` in live.py makes them).
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from ..aircraft import Item, Profile
from ..base.errors import EventError
from ..base.weather import describe_air
from ..fuel.tanks import FuelState, check_fuel_event, fuel_step
from ..judgement.magneto import name_sides
from ..judgement.typed import judge_typed
from ..power.wanted import check_wanted
from ..procedure import progress as lists
from ..procedure.checks import check_list_event
from ..procedure.notice import still_away
from ..procedure.progress import Done, Progress
from ..start import engine_state
from ..start.engine_state import EngineState, OilClock, engine_step, events_of_tap
from ..start.judging import oil_pressure_limit_s

PILOT_KINDS = (
    "phase_entered",
    "typed_reading",
    "lean_target",
    "remark",
    "undo",
    "flight_ended",
    "weather",
    "carry_on",
    "put_back_tapped",
    "start_tap",
    "burn_off_started",
    "sides_named",
    "fuel_on_board",
    "tank_selected",
    "power_wanted",
    *lists.PILOT_KINDS,
)
MADE_KINDS = (
    "flight_started",
    "put_back_away",
    "put_back_back",
    "item_reopened",
    "item_seen",
    "phase_seen",
    "take_off_unproven",
    "finding",
    "burnt_off",
    "rating",
    "fuel_used",
    "climb_egt",
    "tank_seen",
    *engine_state.KINDS,
)
KINDS = PILOT_KINDS + MADE_KINDS


@dataclass(frozen=True, slots=True, kw_only=True)
class Event:
    """One thing that happened: `at_s` is flight time, `seq` the store's order (0 before it is stored)."""

    id: str
    kind: str
    at_s: float
    body: Mapping[str, Any]
    seq: int = 0
    wall_utc: str = ""
    version: int = 1


@dataclass(frozen=True, slots=True, kw_only=True)
class FlightState:
    """All that the events say: `progress` of the lists, `away` maps a put-back to its time, `carried` are those that the
    pilot explicitly carries on with, `air` is the last weather with what follows from it."""

    phase: str
    progress: Progress = field(default_factory=Progress)
    carried: frozenset[str] = frozenset()
    air: Mapping[str, Any] | None = None
    away: Mapping[str, float] = field(default_factory=dict)
    findings: tuple[Mapping[str, Any], ...] = ()
    engines: Mapping[int, EngineState] = field(default_factory=dict)
    lean_target: str | None = None
    remarks: tuple[str, ...] = ()
    warned: tuple[str, ...] = ()
    burn_offs: int = 0
    burnt_off_s: float = float("-inf")
    burn_off_started_s: float | None = None
    rating: tuple[str, float] | None = None
    fuel: FuelState = field(default_factory=FuelState)
    power_wanted: Mapping[str, Any] | None = None
    climb_egt_f: float | None = None
    ended: bool = False
    last_seq: int = 0

    @property
    def done(self) -> Mapping[str, Done]:
        """The confirmed items."""
        return self.progress.done

    def engine(self, number: int) -> EngineState:
        """Return what the events say of one engine."""
        return self.engines.get(number, EngineState())

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
        air = {name: self.air.get(name) for name in ("oat_c", "density_altitude_ft")} if self.air else {}
        return {"start": "cold", **air, **self.progress.facts}

    @property
    def lean_for_cruise(self) -> bool:
        """Whether the mixture is said, or seen, to be lean for cruise."""
        return "cruise_lean" in self.away

    def latest_finding(self, kind: str, engine: int | None = None) -> Mapping[str, Any] | None:
        """Return the last finding of a kind, of one engine or of any, or None."""
        own = (f for f in reversed(self.findings) if f["kind"] == kind)
        return next((f for f in own if engine is None or f.get("engine", 1) == engine), None)


def check_pilot_event(
    profile: Profile, state: FlightState, events: Iterable[Event], kind: str, body: Mapping[str, Any]
) -> None:
    """Raise EventError unless a pilot may post this event now; the message says what is wrong."""
    if kind not in PILOT_KINDS:
        raise EventError(f"There is no pilot event {kind!r}; known are {', '.join(PILOT_KINDS)}.")
    needed = {"phase_entered": "phase", "lean_target": "target", "remark": "text", "undo": "event"}
    needed |= {"sides_named": "first", "carry_on": "put_back", "put_back_tapped": "put_back", "start_tap": "what"}
    if kind in needed and not isinstance(body.get(needed[kind]), str):
        raise EventError(f"Event {kind!r} needs `{needed[kind]}` as text.")
    if state.ended and kind not in ("remark", "undo"):
        raise EventError("This flight has ended; begin a new one.")
    if kind == "phase_entered" and body["phase"] not in [phase.id for phase in profile.phases]:
        raise EventError(f"The profile has no phase {body['phase']!r}.")
    if kind in lists.PILOT_KINDS:
        check_list_event(profile, kind, body)
    if "put_back" in needed.get(kind, "") and body["put_back"] not in [p.id for p in profile.put_backs]:
        raise EventError(f"The profile has no put-back pair {body['put_back']!r}.")
    if kind == "weather":
        describe_air(body)
    if kind == "start_tap":
        if body.get("engine", 1) not in [number for number, _ in profile.engines]:
            raise EventError(f"The aircraft has no engine {body.get('engine')!r}.")
        events_of_tap(state.engine(int(body.get("engine", 1))), body["what"], 0.0, 0.0, None)
    if kind in ("fuel_on_board", "tank_selected"):
        check_fuel_event(profile, kind, body)
    if kind == "power_wanted" and body:
        check_wanted(body)
    if kind == "sides_named":
        _check_sides_named(state, body)
    if kind == "lean_target" and body["target"] not in [target.id for target in profile.lean_targets]:
        raise EventError(f"The profile has no lean target {body['target']!r}.")
    if kind == "remark" and len(body["text"]) > 2000:
        raise EventError("A remark has 2,000 characters at most.")
    if kind == "typed_reading":
        judge_typed(profile, body, 0.0)


def fold(profile: Profile, events: Iterable[Event]) -> FlightState:
    """Return the state after all events in order of `seq`; an undone pilot event counts as never made."""
    ordered = sorted(events, key=lambda event: event.seq)
    undone = undone_ids(ordered)
    state = FlightState(phase=profile.phases[0].id)
    for event in ordered:
        if event.id not in undone:
            state = step(profile, state, event)
        state = replace(state, last_seq=event.seq)
    return state


def undone_ids(events: Iterable[Event]) -> set[str]:
    """Return the ids of pilot events that an `undo` names; undoing twice, an undo or an unknown id changes nothing."""
    events = list(events)
    can_be = {event.id for event in events if event.kind in PILOT_KINDS and event.kind != "undo"}
    return {str(event.body.get("event")) for event in events if event.kind == "undo"} & can_be


def last_undoable(events: Iterable[Event]) -> Event | None:
    """Return the pilot event that backspace takes back: the last that is neither undone nor an undo."""
    events = list(events)
    undone = undone_ids(events)
    kinds = tuple(kind for kind in PILOT_KINDS if kind not in ("undo", "remark", "lean_target"))
    return next((e for e in reversed(events) if e.kind in kinds and e.id not in undone), None)


def step(profile: Profile, state: FlightState, event: Event) -> FlightState:
    """Return the state after one event."""
    body = event.body
    match event.kind:
        case "phase_entered":
            return replace(state, phase=str(body["phase"]))
        case "lean_target":
            return replace(state, lean_target=str(body["target"]))
        case "remark":
            return replace(state, remarks=(*state.remarks, str(body["text"])))
        case "flight_ended":
            return replace(state, ended=True)
        case "finding":
            return replace(state, findings=(*state.findings, {**body, "event": event.id}))
        case "typed_reading":
            finding = judge_typed(profile, body, event.at_s).to_json()
            return replace(state, findings=(*state.findings, {**finding, "typed": True, "event": event.id}))
        case "weather":
            return replace(state, air=describe_air(body))
        case "put_back_away":
            return _set_away(state, str(body["put_back"]), event.at_s)
        case "put_back_back":
            return _set_back(state, str(body["put_back"]))
        case "put_back_tapped":
            name = str(body["put_back"])
            return _set_away(state, name, event.at_s) if body.get("away") else _set_back(state, name)
        case "take_off_unproven":
            return replace(state, warned=tuple(body["missing"]))
        case "rating" | "power_wanted" | "climb_egt":
            return _power_step(state, event)
        case "fuel_on_board" | "tank_selected" | "tank_seen" | "fuel_used":
            return replace(state, fuel=fuel_step(state.fuel, event.kind, event.at_s, body))
        case "burn_off_started":
            return replace(state, burn_off_started_s=event.at_s)
        case "burnt_off":
            return replace(state, burn_offs=state.burn_offs + 1, burnt_off_s=event.at_s)
        case "sides_named":
            return replace(state, findings=_with_sides_named(state.findings, str(body["first"])))
        case "carry_on":
            return replace(state, carried=state.carried | {str(body["put_back"])})
        case "start_tap":
            for kind, said in told_by_tap(profile, state, event):
                state = _with_engine(state, kind, event.at_s, said)
            return state
        case kind if kind in engine_state.KINDS:
            return _with_engine(state, kind, event.at_s, body)
        case kind if kind in lists.KINDS or kind == "item_seen":
            return _list_step(profile, state, event)
    return state


def _power_step(state: FlightState, event: Event) -> FlightState:
    body = event.body
    if event.kind == "rating":
        name = body["name"]
        return replace(state, rating=None if name is None else (str(name), event.at_s))
    if event.kind == "power_wanted":
        return replace(state, power_wanted=body if body.get("title") else None)
    return replace(state, climb_egt_f=float(body["egt_f"]))


def _check_sides_named(state: FlightState, body: Mapping[str, Any]) -> None:
    latest = state.latest_finding("mag_check")
    if body["first"] not in ("left", "right"):
        raise EventError(f"`first` is {body['first']!r}; it says which side was checked first: left or right.")
    if latest is None or "drop_first_rpm" not in latest["measured"]:
        raise EventError("There is no magneto check whose sides are not known.")


def _with_sides_named(findings: tuple[Mapping[str, Any], ...], first: str) -> tuple[Mapping[str, Any], ...]:
    """Return the findings with the sides of the last magneto check named, where the needles did not tell them."""
    places = [k for k, f in enumerate(findings) if f["kind"] == "mag_check" and "drop_first_rpm" in f["measured"]]
    if not places:
        return findings
    last = places[-1]
    return (*findings[:last], name_sides(findings[last], first), *findings[last + 1 :])


def _with_engine(state: FlightState, kind: str, at_s: float, body: Mapping[str, Any]) -> FlightState:
    number = int(body.get("engine", 1))
    return replace(state, engines={**state.engines, number: engine_step(state.engine(number), kind, at_s, body)})


def told_by_tap(profile: Profile, state: FlightState, event: Event) -> list[tuple[str, dict[str, Any]]]:
    """Return what a tap of a pilot who has no needles says of the start of an engine, as (kind, body)."""
    number, oat_c = int(event.body.get("engine", 1)), state.known.get("oat_c")
    limit_s = oil_pressure_limit_s(profile, oat_c)
    made = events_of_tap(state.engine(number), str(event.body["what"]), event.at_s, limit_s, oat_c)
    return [(kind, {**body, "engine": number}) for kind, body in made]


def _set_away(state: FlightState, put_back: str, at_s: float) -> FlightState:
    return replace(state, away={put_back: at_s, **state.away})  # a repeat keeps the first time


def _set_back(state: FlightState, put_back: str) -> FlightState:
    away = {name: at_s for name, at_s in state.away.items() if name != put_back}
    return replace(state, away=away, carried=state.carried - {put_back})


def _list_step(profile: Profile, state: FlightState, event: Event) -> FlightState:
    """Move the lists; a confirmed item may also set something for a moment, or put it back. `list_done` says all open
    items of a list at once, as a list known by heart is done."""
    if event.kind == "list_done":
        waiting = [item.id for item in _items_of_list(profile, state, str(event.body["list"]))]
        for name in waiting:
            state = _list_step(profile, state, replace(event, kind="item_done", body={"item": name}))
        return state
    kind = "item_done" if event.kind == "item_seen" else event.kind
    body = {**event.body, "by_data": True} if event.kind == "item_seen" else event.body
    state = replace(state, progress=lists.step(state.progress, kind, body, event.at_s, event.id))
    item = profile.items.get(str(event.body.get("item"))) if kind == "item_done" else None
    if item and item.watch == "prime" and item.id in state.progress.timers:
        state = _primed_by_hand(profile, state, event.at_s - state.progress.timers[item.id], item.engine)
    if item and item.watch == "briefing":
        state = replace(state, progress=replace(state.progress, briefed_s=event.at_s))
    if item and item.back:
        state = _set_back(state, item.back)
    if item and item.away:
        state = _set_away(state, item.away, event.at_s)
    return state


def _primed_by_hand(profile: Profile, state: FlightState, seconds: float, number: int | None) -> FlightState:
    """Count the seconds of a tapped clock as prime, where no needle has counted any."""
    number = number or starting_engine(profile, state)
    if state.engine(number).primed or profile.start.unit != "seconds":
        return state
    return _with_engine(state, "primed", 0.0, {"engine": number, "amount": round(seconds, 1)})


def _items_of_list(profile: Profile, state: FlightState, list_id: str) -> list[Item]:
    """Return the open items of one list, in order, that may be confirmed together: killer items have a tap of their own."""
    every = [one for phase in profile.phases for one in lists.lists_of(phase, state.known) if one.id == list_id]
    return [item for one in every for item in one.items if not item.killer and lists.is_open(state.progress, item)]


def open_items(profile: Profile, state: FlightState, phase_id: str | None = None) -> list[str]:
    """Return the ids of the items of a phase (the current one by default) that are open, in order."""
    phase = profile.phase(phase_id or state.phase)
    return [item.id for item in lists.open_items(phase, state.progress, state.known)]


def is_complete(profile: Profile, state: FlightState, phase_id: str) -> bool:
    """Say whether a phase may be called complete: no open item, nothing away that should be back."""
    return not open_items(profile, state, phase_id) and not still_away(profile, phase_id, state.away, state.carried)


def starting_engine(profile: Profile, state: FlightState) -> int:
    """Return the engine that is started now: the one whose oil pressure is awaited, else the first that does not run in
    the profile's order, else the last."""
    order = [number for number, _ in profile.engines]
    awaited = [n for n in order if (clock := state.engine(n).oil_clock) and clock.verdict != "seen"]
    standing = [n for n in order if not state.engine(n).runs]
    turning = [n for n in order if state.engine(n).turning_since_s is not None]
    return next(iter([*turning, *awaited, *standing]), order[-1])


def proofs(state: FlightState) -> dict[str, bool]:
    """Return what the flight has proven, as `take_off.needs` of a profile asks for it: a half check proves nothing."""
    clocks = [engine.oil_clock for engine in state.engines.values() if engine.oil_clock]
    seen = bool(clocks) and all(clock.verdict == "seen" for clock in clocks)
    proven = {"oil_pressure": seen or any(item.split("@")[0] == "oil_pressure" for item in state.done)}
    for finding in state.findings:
        proven[f"check:{finding['kind']}"] = finding["verdict"] not in ("incomplete", "unknown")
    return proven


def latest_findings(state: FlightState) -> list[Mapping[str, Any]]:
    """Return the last finding of each kind and engine, in order: a later one supersedes, the earlier stay in the record."""
    last = {(finding["kind"], finding.get("engine", 1)): finding for finding in state.findings}
    return list(last.values())


def sentence(state: FlightState) -> str:
    """Return one sentence of what a flight showed: what is not within limits, or that all is."""
    findings = latest_findings(state)
    if not findings:
        return "Nothing was measured in this flight."
    against = [str(finding["because"]) for finding in findings if finding["verdict"] != "within"]
    return " ".join(against) or f"{len(findings)} check{'s' * (len(findings) > 1)}, all within limits."


def half_checks(profile: Profile, state: FlightState) -> list[str]:
    """Return the kinds of check that were begun and are only half done on an engine: never passed, shown as incomplete."""
    kinds = {item.check for phase in profile.phases for item in phase.items if item.check}
    half = {f["kind"] for f in latest_findings(state) if f["verdict"] == "incomplete"}
    return sorted(kinds & half)
