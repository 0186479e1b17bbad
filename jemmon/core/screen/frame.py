"""The frame: everything that a flight screen shows at one moment, as one value. Words and figures are made here; the front end
shows them and asks."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from ..aircraft import Item, Profile
from ..aircraft.profile import AircraftUnits
from ..base.weather import Air
from ..flight.state import FlightState, half_checks, starting_engine
from ..live.burn_off import BurnOff
from ..live.lean_by_hand import EGT, EgtTable, egt_table
from ..live.leaning import LeanWorking
from ..live.lines import AirLine
from ..live.magneto_slots import SideSlot
from ..live.power_loss import PowerLossNow, power_loss_now
from ..live.ratings import power_warnings
from ..live.starts import start_advice
from ..live.take_off import TakeOffWatch
from ..live.workings import MagnetoWorking, SpeedWorking
from ..power.wanted import PowerChoice
from ..start.advice import StartAdvice
from ..start.attempts import Attempt
from ..start.following import StartWatch
from ..trace.sample import Sample, speed_of
from .air import air_of
from .cards import RunUpCard, summarise
from .cockpit import FeedFacts
from .cylinders import EngineCylinders, describe_cylinders
from .drill import DrillNow, drill_now
from .ear import EarNow
from .fuel import FuelNow, describe_fuel
from .instruments import Instrument, Tachometer, instruments, tachometer_of
from .lists import (
    MainStep,
    Named,
    Notices,
    ShortItem,
    ShownBriefing,
    ShownGate,
    ShownItem,
    ShownList,
    ShownPutBack,
    describe_briefing,
    describe_gates,
    describe_item,
    describe_lists,
    describe_notices,
    describe_put_backs,
    describe_step,
    open_count,
    short_item,
    waiting,
)
from .panels import Panels, lines_to_show, panels
from .power import PowerNow, describe_power
from .sound import EngineSound, sounds
from .start import ShownOilClock, StartNow, describe_start, shown_oil_clock

_ROUGH_FROM = 0.15  # of the simulated engine's roughness, which a pilot feels


_NOT_WRITTEN = {
    "busy": "another program holds the database. It goes on by itself when that lets go.",
    "disk_full": "the disk is full. Make room: it goes on by itself.",
    "read_only": "the database may not be written. Its file or folder is read-only.",
    "corrupt": "the database is damaged. End the flight, stop Jemmon and bring back a copy.",
    "disk_error": "the disk does not take it. Look at the log beside the database.",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Trouble:
    """Nothing is being written: why, as a code and in words, and since when [UTC, ISO 8601]."""

    code: str
    since_utc: str
    say: str

    @classmethod
    def of(cls, code: str, since_utc: str) -> "Trouble":
        """Return the trouble of a code, with its words."""
        return cls(code=code, since_utc=since_utc, say=f"Nothing is being written: {_NOT_WRITTEN[code]}")


@dataclass(frozen=True, slots=True, kw_only=True)
class Identity:
    """Which flight this is, and where its needles come from. `number` counts the frames, `stale` when no sample came for a
    while, `handed_over_ms` when the newest came [ms of the wall clock]; `undoable` are the newest events that can be taken back,
    newest first."""

    flight: str = ""
    number: int = 0
    registration: str = ""
    source: str = "manual"
    feed: FeedFacts | None = None
    speed: int = 1
    stale: bool = False
    handed_over_ms: int = 0
    trouble: Trouble | None = None
    undoable: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Working:
    """What is worked out of the last minutes, once a second."""

    magneto: MagnetoWorking | None = None
    slots: tuple[SideSlot, ...] = ()
    lean: LeanWorking | None = None
    choices: tuple[PowerChoice, ...] = ()
    take_off: TakeOffWatch | None = None
    lines: tuple[AirLine, ...] = ()
    minutes: float | None = None
    speed: SpeedWorking | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Worked:
    """The working with what else the last minutes told: the burn-off, minutes to each gate by its name, and where manifold
    pressure is ahead of RPM."""

    working: Working = Working()
    burn_off: BurnOff | None = None
    gates: Mapping[str, int] = field(default_factory=dict)
    ahead: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class PhaseMark:
    """A phase with its open items and all that apply."""

    id: str
    title: str
    open: int
    of: int


@dataclass(frozen=True, slots=True, kw_only=True)
class EmergencyDrill:
    """A drill of the emergency card."""

    title: str
    steps: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Frame:
    """Everything that the flight screen shows."""

    flight: str
    number: int
    last_seq: int
    at_s: float
    aircraft: str
    registration: str
    source: str
    feed: FeedFacts | None
    speed: int
    stale: bool
    handed_over_ms: int
    trouble: Trouble | None
    undoable: tuple[str, ...]
    ended: bool
    phase: str
    phase_title: str
    next_phase: Named | None
    phases: tuple[PhaseMark, ...]
    item: ShownItem | None
    next_item: ShortItem | None
    lists: tuple[ShownList, ...]
    step: MainStep
    paused: bool
    facts: Mapping[str, str | bool | float | None]
    asked_facts: tuple[str, ...]
    air: Air | None
    briefing: ShownBriefing
    notices: Notices
    instruments: tuple[Instrument, ...]
    put_backs: tuple[ShownPutBack, ...]
    pairs: tuple[Named, ...]
    oil_clock: ShownOilClock | None
    start: StartNow
    advice: StartAdvice | None
    run_up: RunUpCard | None
    burn_off: BurnOff | None
    tachometer: Tachometer | None
    units: AircraftUnits
    power: PowerNow | None
    power_warnings: tuple[str, ...]
    power_loss: PowerLossNow | None
    fuel: FuelNow | None
    gates: tuple[ShownGate, ...]
    engine_runs: bool
    strokes: float
    half_checks: tuple[str, ...]
    emergency: tuple[EmergencyDrill, ...]
    lean_targets: tuple[Named, ...]
    lean_target: str | None
    levers: Mapping[str, float | str]
    rpm: float | None
    palt_ft: float | None
    egt_f: Mapping[str, float]
    mean_egt_f: float | None
    rough: bool
    cylinders: tuple[EngineCylinders, ...]
    working: Working
    panels: Panels
    drill: DrillNow | None
    sound: tuple[EngineSound, ...]
    egt_table: EgtTable | None = None
    ear: EarNow | None = None


def describe(
    profile: Profile,
    state: FlightState,
    now: Sample | None,
    now_s: float,
    watches: Mapping[int, StartWatch] | None = None,
    worked: Worked = Worked(),
    identity: Identity = Identity(),
    history: Sequence[Attempt] = (),
) -> Frame:
    """Return the frame of flight time `now_s` [s]; `history` are the earlier starts that the advice learns from."""
    todo = waiting(profile, state, now_s)
    first = todo[0] if todo else None
    place = profile.place(state.phase)
    after = profile.phases[place + 1] if place + 1 < len(profile.phases) else None
    lists = describe_lists(profile, state, now_s)
    power, card = describe_power(profile, state, now, now_s), summarise(profile, state)
    working, loss = worked.working, power_loss_now(profile, state, now, now_s)
    step = describe_step(profile, state, lists, now, now_s)
    egts = {k[3:-2]: v for k, v in now.readings.items() if k.startswith("egt")} if now else {}
    return Frame(
        flight=identity.flight,
        number=identity.number,
        last_seq=state.last_seq,
        at_s=round(now_s, 1),
        aircraft=profile.id,
        registration=identity.registration,
        source=identity.source,
        feed=identity.feed,
        speed=identity.speed,
        stale=identity.stale,
        handed_over_ms=identity.handed_over_ms,
        trouble=identity.trouble,
        undoable=identity.undoable,
        ended=state.ended,
        phase=state.phase,
        phase_title=profile.phases[place].title,
        next_phase=Named(id=after.id, title=after.title) if after else None,
        phases=tuple(_phase_mark(profile, state, p.id, p.title) for p in profile.phases),
        item=describe_item(profile, first, state, now, now_s) if first else None,
        next_item=short_item(todo[1]) if len(todo) > 1 else None,
        lists=lists,
        step=replace(step, small=loss is not None and not loss.is_question),
        paused=state.progress.is_paused,
        asked_facts=profile.asks,
        facts={name: _as_fact(value) for name, value in state.known.items()},
        air=air_of(profile, state.air) if state.air else None,
        briefing=describe_briefing(profile, state),
        notices=describe_notices(profile, state, now, now_s),
        instruments=instruments(profile, state, now, now_s, also=_also(profile, state, first, identity)),
        put_backs=describe_put_backs(profile, state, now_s),
        pairs=tuple(Named(id=pair.id, title=pair.title) for pair in profile.put_backs),
        oil_clock=shown_oil_clock(state.oil_clock, now_s) if state.oil_clock else None,
        start=describe_start(profile, state, watches or {}, now, now_s),
        advice=start_advice(profile, state, now, history),
        run_up=card,
        burn_off=worked.burn_off,
        units=profile.units,
        tachometer=tachometer_of(profile),
        power=power,
        power_warnings=(*worked.ahead, *power_warnings(profile, state, now, now_s)),
        power_loss=loss,
        fuel=describe_fuel(profile, state, now, now_s),
        gates=describe_gates(profile, state, now, dict(worked.gates)),
        engine_runs=state.engine_runs,
        strokes=state.engine(starting_engine(profile, state)).primed,
        half_checks=tuple(half_checks(profile, state)),
        emergency=emergency_of(profile),
        lean_targets=tuple(Named(id=t.id, title=t.name) for t in profile.lean_targets),
        lean_target=state.lean_target or (profile.lean_targets[0].id if profile.lean_targets else None),
        levers=dict(now.levers) if now else {},
        rpm=speed_of(now.readings) if now else None,
        palt_ft=now.readings.get("palt_ft") if now else None,
        egt_f=egts,
        mean_egt_f=round(sum(egts.values()) / len(egts), 1) if egts else None,
        rough=bool(now and now.readings.get("roughness", 0.0) > _ROUGH_FROM),
        cylinders=describe_cylinders(profile, now),
        working=replace(working, lines=lines_to_show(first, working.lines)),
        panels=panels(
            *(profile, state, first, identity.feed),
            card=card is not None,
            clock=power is not None and power.clock is not None,
            watch=working.take_off is not None,
            by_hand=identity.source == "manual",
        ),
        drill=drill_now(state, now_s),
        egt_table=egt_table(profile, state) if _leans_by_hand(first, identity) else None,
        sound=sounds(profile, now) if identity.feed and identity.feed.kind == "bench" else (),
    )


def _also(profile: Profile, state: FlightState, item: Item | None, identity: Identity) -> tuple[str, ...]:
    """Return the needles that are shown beside those of the phase: what a drill asks to be watched, and what a pilot by hand reads
    out for an item."""
    if state.drill is not None:
        return state.drill.needles
    return (EGT,) if _leans_by_hand(item, identity) and profile.lean_targets else ()


def _leans_by_hand(item: Item | None, identity: Identity) -> bool:
    return identity.source == "manual" and item is not None and item.watch == "lean"


def _as_fact(value: Any) -> str | bool | float | None:
    return float(value) if isinstance(value, int) and not isinstance(value, bool) else value


def _phase_mark(profile: Profile, state: FlightState, phase_id: str, title: str) -> PhaseMark:
    left, of = open_count(profile, state, phase_id)
    return PhaseMark(id=phase_id, title=title, open=left, of=of)


def emergency_of(profile: Profile) -> tuple[EmergencyDrill, ...]:
    """Return the drills of the type's emergency card."""
    return tuple(EmergencyDrill(title=row["title"], steps=tuple(row["steps"])) for row in profile.body["emergency"])
