"""What requests may say, strict and closed: unknown names are refused, types are not guessed.

A pilot's event is a union on its kind, made from the classes of the core; typed figures a union on their check, made from the
checks' fields.
"""

from collections.abc import Iterable
from dataclasses import MISSING, dataclass, field, fields, make_dataclass
from functools import lru_cache, reduce
from operator import or_
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Discriminator, Field, StringConstraints

from ..core.flight.events import EVENTS, Sender
from ..core.flight.fold import check_pilot_event  # noqa: F401  (the fold registers every kind)
from ..core.judgement.registry import checks
from ..core.screen.record import FlightKind

Id = Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9:._-]{1,120}$")]
Name = Annotated[str, StringConstraints(min_length=1, max_length=80)]
Day = Annotated[str, StringConstraints(pattern=r"^\d{4}-\d{2}-\d{2}$")]
_STRICT: dict[str, Any] = {"extra": "forbid", "strict": True, "allow_inf_nan": False}


@dataclass(frozen=True, slots=True, kw_only=True)
class Body:
    """A request's body."""

    __pydantic_config__: ClassVar[dict[str, Any]] = _STRICT


@dataclass(frozen=True, slots=True, kw_only=True)
class Query:
    """What is asked behind a path."""

    __pydantic_config__: ClassVar[dict[str, Any]] = {"extra": "forbid", "allow_inf_nan": False}


@dataclass(frozen=True, slots=True, kw_only=True)
class BeginFlight(Body):
    """Begin a flight; the id is made by the client. `fault` is one of the aircraft's faults to practise with, or `surprise`;
    `draft`: what is being written is tried, on the simulated engine."""

    id: Id
    aircraft: Name
    registration: Name
    pilot: Name
    source: Literal["bench", "manual", "device"] = "bench"
    speed: int = 1
    fault: Name | None = None
    draft: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class DrillFlight(Body):
    """Begin a drill; the ids are made by the client. Without a seed chance draws what varies, without an aircraft it is flown on
    its own."""

    id: Id
    pilot: Name
    seed: Annotated[int, Field(ge=0, le=10**9)] | None = None
    aircraft: Id | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class DrillAgain(Body):
    """Fly a kept drill again from a moment of it [s]."""

    id: Id
    pilot: Name
    from_s: Annotated[float, Field(ge=0, le=3600)]


@dataclass(frozen=True, slots=True, kw_only=True)
class FitEngine(Body):
    """Let the fitted engine count: who says so."""

    who: Name


@dataclass(frozen=True, slots=True, kw_only=True)
class Freeze(Body):
    """Whether flight time stands."""

    frozen: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeBack(Body):
    """Take back a pilot event: the one that the screen offered to take back, or the last."""

    id: Id
    event: Id | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Levers(Body):
    """Levers and switches of the simulated engine."""

    levers: dict[Name, float | bool | Name]


@dataclass(frozen=True, slots=True, kw_only=True)
class Prime(Body):
    """Strokes of the primer or of the hand pump, or blades turned through: what a hand does at once, each id once."""

    id: Id
    strokes: Annotated[float, Field(gt=0, le=15)] = 1.0
    action: Annotated[str, StringConstraints(pattern=r"^(e2_)?(prime_strokes|prime_s|wobble_strokes|turn_blades)$")] = (
        "prime_strokes"
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Speed(Body):
    """How many times real time."""

    speed: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Fault(Body):
    """A fault of the simulated engine; now, or from a time of flight [s] or a pressure altitude [ft] on."""

    name: Name
    size: Annotated[float, Field(ge=0, le=1)]
    from_s: Annotated[float, Field(ge=0, le=1e6)] | None = None
    from_ft: Annotated[float, Field(ge=-2_000, le=60_000)] | None = None


Source = Annotated[str, StringConstraints(pattern=r"^(type|common practice|published: .{1,120})$")]
Words = Annotated[str, StringConstraints(min_length=1, max_length=200, pattern=r"\S")]


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangedLimit(Body):
    """Another figure for a limit, in the unit of its row: where it stands, why, and who says so."""

    value: float
    source: Source
    reason: Words
    who: Name


@dataclass(frozen=True, slots=True, kw_only=True)
class BackToShipped(Body):
    """Which limit is brought back to what ships; without one the whole profile."""

    limit: Name | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class AnswerTold(Body):
    """A figure as a handbook prints it: in one of the choices of its unit."""

    value: float
    choice: Name = "us"


@dataclass(frozen=True, slots=True, kw_only=True)
class AnswersTold(Body):
    """Answers by the id of their question."""

    answers: dict[Name, AnswerTold]


@dataclass(frozen=True, slots=True, kw_only=True)
class NewAircraft(Body):
    """An aircraft of one's own, made from a kind: the answers by the id of their question."""

    name: Name
    registration: Name
    answers: dict[Name, AnswerTold]


@dataclass(frozen=True, slots=True, kw_only=True)
class SaveVersion(Body):
    """What is said of a version that is saved, and by whom."""

    note: Words
    who: Name


@dataclass(frozen=True, slots=True, kw_only=True)
class BackToVersion(Body):
    """Who brings an older version back."""

    who: Name


@dataclass(frozen=True, slots=True, kw_only=True)
class Compared(Query):
    """Which two versions are compared; 0 is the draft."""

    before: int
    after: int


@dataclass(frozen=True, slots=True, kw_only=True)
class SignLimits(Body):
    """Which limits somebody has held against the handbook, and who."""

    limits: Annotated[list[Name], Field(min_length=1, max_length=200)]
    who: Name


@dataclass(frozen=True, slots=True, kw_only=True)
class TextAsked(Body):
    """Lists as text: Markdown, or lines pasted from anywhere; `instead` of all lists of the phases that it names."""

    instead: bool = False
    text: Annotated[str, StringConstraints(min_length=1, max_length=500_000)]


@dataclass(frozen=True, slots=True, kw_only=True)
class CardAskedFor(Query):
    """How a card for paper is made."""

    size: Literal["A5", "A6", "knee", "A4-folded"] = "A5"
    large: bool = False
    night: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class LoadingTold(Body):
    """What is loaded, by station [kg], and how much fuel is burned until landing [kg]."""

    loads_kg: dict[Name, float]
    burned_kg: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnItem(Body):
    """An item of a pilot's own behind a list that others fly too."""

    challenge: Words
    response: Words
    why: Words = "An item of the pilot's own list."


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnItems(Body):
    """A pilot's own items at the end of one list; none takes them away."""

    pilot: Name
    in_list: Name
    items: Annotated[list[OwnItem], Field(max_length=20)]


@dataclass(frozen=True, slots=True, kw_only=True)
class PilotAsked(Query):
    """Whose own items are asked for."""

    pilot: Name


@dataclass(frozen=True, slots=True, kw_only=True)
class SpotTold(Body):
    """Where a control is on the photo: from its left and its top edge, 0 to 1."""

    control: Name
    x: Annotated[float, Field(ge=0, le=1)]
    y: Annotated[float, Field(ge=0, le=1)]


@dataclass(frozen=True, slots=True, kw_only=True)
class TouchAsked(Query):
    """A touch of the drill: for which control, and where, from the photo's left and top edge (0 to 1)."""

    control: Name
    x: Annotated[float, Field(ge=0, le=1)]
    y: Annotated[float, Field(ge=0, le=1)]


@dataclass(frozen=True, slots=True, kw_only=True)
class SpotsTold(Body):
    """Every spot of a photo, in the place of all before."""

    spots: Annotated[list[SpotTold], Field(max_length=200)]


@dataclass(frozen=True, slots=True, kw_only=True)
class Hidden(Body):
    """Whether a flight is out of the records."""

    hidden: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Removal(Body):
    """How many deleted flights the pilot saw and wants removed for good."""

    flights: Annotated[int, Field(ge=1)]


@dataclass(frozen=True, slots=True, kw_only=True)
class Note(Body):
    """The pilot's note of a flight."""

    note: Annotated[str, StringConstraints(max_length=2000)]


@dataclass(frozen=True, slots=True, kw_only=True)
class Device(Body):
    """Where the engine instrument is."""

    host: Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9.:-]{1,100}$")]
    port: Annotated[int, Field(ge=1, le=65535)]


@dataclass(frozen=True, slots=True, kw_only=True)
class FlightsAsked(Query):
    """Which flights: of a registration, kind, gravest verdict, between two days; those taken out of the records instead; how many,
    after how many."""

    limit: Annotated[int, Field(ge=1, le=5000)] = 5000
    offset: Annotated[int, Field(ge=0, le=1_000_000)] = 0
    registration: Name | None = None
    kind: FlightKind | None = None
    verdict: Literal["within", "look", "stop", "incomplete", "unknown"] | None = None
    since: Day | None = None
    until: Day | None = None
    hidden: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class TraceAsked(Query):
    """Which part of a flight, in its own time [s]; the whole where nothing is said."""

    from_s: Annotated[float, Field(ge=-1e9, le=1e9)] | None = None
    to_s: Annotated[float, Field(ge=-1e9, le=1e9)] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class DrillsAsked(Query):
    """Whose drills."""

    pilot: Name = "Pilot"


@dataclass(frozen=True, slots=True, kw_only=True)
class UseAsked(Query):
    """Whether flights for practice are looked at, or real ones; without a word the real ones where there are any."""

    practice: bool | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanAsked(Query):
    """What is planned: a power [% of rated], pressure altitude [ft], temperature [°C], lean target, fuel [US gal], wind [kt]."""

    pct: Annotated[float, Field(ge=20, le=100)] = 65.0
    palt_ft: Annotated[float, Field(ge=-1000, le=25_000)] | None = None
    oat_c: Annotated[float, Field(ge=-60, le=60)] | None = None
    target: Annotated[str, StringConstraints(max_length=40)] | None = None
    fuel_gal: Annotated[float, Field(gt=0, le=2000)] | None = None
    wind_kt: Annotated[float, Field(ge=-200, le=200)] = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class TodayAsked(Query):
    """The day: outside temperature and dew point [°C], altimeter setting [inHg], elevation [ft], runway's heading [° magnetic],
    wind [° true, kt], variation [°, east positive], cruise altitude [ft], fuel in all tanks [US gal], people."""

    oat_c: Annotated[float, Field(ge=-60, le=60)] | None = None
    dewpoint_c: Annotated[float, Field(ge=-60, le=60)] | None = None
    altimeter_inhg: Annotated[float, Field(ge=26, le=32)] | None = None
    elevation_ft: Annotated[float, Field(ge=-1500, le=15_000)] | None = None
    runway_deg: Annotated[float, Field(ge=0, le=360)] | None = None
    wind_from_deg: Annotated[float, Field(ge=0, le=360)] | None = None
    wind_kt: Annotated[float, Field(ge=0, le=99)] | None = None
    gust_kt: Annotated[float, Field(ge=0, le=120)] | None = None
    variation_deg: Annotated[float, Field(ge=-60, le=60)] = 0.0
    cruise_ft: Annotated[float, Field(ge=0, le=45_000)] | None = None
    fuel_gal: Annotated[float, Field(ge=0, le=2_000)] | None = None
    people: Annotated[int, Field(ge=1, le=100)] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class HearingAsked(Query):
    """The needle, read once: at which second of the recording, and what it showed [RPM]."""

    at_s: Annotated[float, Field(ge=0, le=86_400)]
    rpm: Annotated[float, Field(ge=300, le=7_000)]


@dataclass(frozen=True, slots=True, kw_only=True)
class ChunkAsked(Query):
    """Tenths of a second of a microphone's sound: its rate [Hz], and the number of the first, counted from 0; one that is missing
    leaves a gap."""

    rate_hz: Annotated[int, Field(ge=8_000, le=192_000)]
    number: Annotated[int, Field(ge=0, le=2**31)]


@dataclass(frozen=True, slots=True, kw_only=True)
class ProfileAsked(Query):
    """Whether a profile may take the place of one that ships."""

    replace: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class FileAsked(Query):
    """By which aircraft a file is judged, and what it is called."""

    aircraft: Annotated[str, StringConstraints(min_length=1, max_length=40)]
    name: Annotated[str, StringConstraints(max_length=200)] = "trace.csv"


def _closed(name: str, rows: Iterable[Any], doc: str) -> type:
    made = make_dataclass(
        name,
        [*rows, ("__pydantic_config__", ClassVar[dict[str, Any]], _STRICT)],
        frozen=True,
        kw_only=True,
        namespace={"__doc__": doc},
    )
    made.__module__ = __name__
    return made


def _typed_shapes() -> list[type]:
    """Return the shape of each typed check: its figures as its fields say."""
    made = []
    for check in checks().values():
        if check.judge_typed is None:
            continue
        rows: list[Any] = [("check", Literal[check.kind]), ("engine", int, 1)]
        for one in check.fields:
            shape: Any = float if one.kind == "figure" else tuple[Literal["left", "right"], ...]
            rows.append((one.name, shape | None, None) if one.is_optional else (one.name, shape))
        made.append(_closed(f"Typed_{check.kind}", rows, f"Typed figures: {check.title.lower()}."))
    return made


def _typed_figures() -> Any:
    return Annotated[reduce(or_, _typed_shapes()), Discriminator("check")]


@lru_cache(maxsize=1)
def typed_asked() -> Any:
    """Return the shape of `{figures}`: the figures of a typed check, as its fields say."""
    return _closed("TypedAsked", [("figures", _typed_figures())], "Figures of a typed check.")


def _body_shape(kind: str) -> Any:
    if kind == "typed_reading":
        return _typed_figures()
    return EVENTS[kind]


def _is_empty_possible(kind: str) -> bool:
    cls = EVENTS[kind]
    return kind != "typed_reading" and all(
        f.default is not MISSING or f.default_factory is not MISSING for f in fields(cls)
    )


@lru_cache(maxsize=1)
def post_event() -> Any:
    """Return the shape of a pilot's event: `{id, kind, body}`, the body as its kind says."""
    shapes = []
    for kind, cls in EVENTS.items():
        if cls.SENDER is not Sender.PILOT:
            continue
        shape = _body_shape(kind)
        row = ("body", shape, field(default_factory=cls)) if _is_empty_possible(kind) else ("body", shape)
        rows = [("id", Id), ("kind", Literal[kind]), row]
        shapes.append(_closed(f"Post_{kind}", rows, (cls.__doc__ or "").strip()))
    return Annotated[reduce(or_, shapes), Discriminator("kind")]
