"""Aircraft as the screens show them: a line in a list, the whole profile in plain view, starts, trends, methods."""

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

from ..aircraft import Checklist, Item, Profile
from ..aircraft.limits import LIMITS
from ..aircraft.own import is_own_id
from ..aircraft.profile import AircraftUnits
from ..judgement.engine_health import NozzleDrift
from ..judgement.method import Method, methods
from ..judgement.registry import NotJudged, not_judged
from ..judgement.trend import TrendRow
from ..power.plan import Plan
from ..start.record import PrimeLine, StartRow
from .findings import Verdict
from .frame import EmergencyDrill, emergency_of
from .instruments import Tachometer, tachometer_of
from .lists import Named, Style


@dataclass(frozen=True, slots=True, kw_only=True)
class AircraftLine:
    """What a list of aircraft shows of one; `is_own`: made from a kind, by its owner; `units` and `tachometer`: how its gauges
    are marked, None for RPM."""

    id: str
    name: str
    registration: str
    about: str
    owner_signed: bool
    has_bench: bool
    is_own: bool
    units: AircraftUnits
    tachometer: Tachometer | None


def aircraft_line(profile: Profile) -> AircraftLine:
    """Return the line of a profile."""
    return AircraftLine(
        id=profile.id,
        name=profile.name,
        registration=profile.registration,
        about=profile.about,
        owner_signed=profile.owner_signed,
        has_bench=profile.bench is not None,
        is_own=is_own_id(profile.id),
        units=profile.units,
        tachometer=tachometer_of(profile),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class LastFlown:
    """When an aircraft was flown last, and the gravest verdict of that flight."""

    registration: str
    started_utc: str
    verdict: Verdict | None


@dataclass(frozen=True, slots=True, kw_only=True)
class AircraftList:
    """All known aircraft; `not_read` are those whose kept profile this version refuses, and why; `damage` what an integrity check
    says against the database."""

    aircraft: tuple[AircraftLine, ...]
    not_read: tuple[AircraftLine, ...]
    damage: str | None
    last: tuple[LastFlown, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class LimitLine:
    """A limit of a profile: its figure in a core unit, the part of a flight that it is read in, and where it comes from; the
    figure that ships under this id, and whether this one differs; who has held it against the handbook, and on which day."""

    name: str
    phase: str
    title: str
    unit: str
    value: float
    source: str
    note: str
    shipped: float | None
    is_changed: bool
    signed_by: str | None
    signed_on: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class PutBackLine:
    """A temporary setting, and after how long it is due back [s]."""

    title: str
    back: str
    due_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ItemLine:
    """An item of a list in plain view."""

    id: str
    challenge: str
    response: str
    why: str
    killer: bool
    where: str | None
    mistaken_for: str | None
    only_if: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class ListInFull:
    """A list in plain view."""

    title: str
    style: Style
    memory: bool
    only_if: tuple[str, ...]
    items: tuple[ItemLine, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class PhaseInFull:
    """A phase with its lists in plain view."""

    title: str
    lists: tuple[ListInFull, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class ProfilePage:
    """One aircraft in plain view: every limit with its source, every list, what is put back, what is not judged for want of a
    limit, which limits of an earlier format are read no more; `unsigned` limits nobody has held against the handbook."""

    aircraft: AircraftLine
    content_hash: str
    limits: tuple[LimitLine, ...]
    unsigned: int
    put_backs: tuple[PutBackLine, ...]
    phases: tuple[PhaseInFull, ...]
    emergency: tuple[EmergencyDrill, ...]
    not_judged: tuple[NotJudged, ...]
    set_aside: tuple[str, ...]
    is_changed: bool


def looks_back_words(shown: int, kept: int) -> str | None:
    """Return how far back a page of flights looks where it does not show all that are kept, else None."""
    return f"The newest {shown:,} of {kept:,} flights." if kept > shown else None


@dataclass(frozen=True, slots=True, kw_only=True)
class Use:
    """Whether a page shows flights for practice or the real ones, never both, and how many there are of either."""

    practice: bool
    real_flights: int
    practice_flights: int


@dataclass(frozen=True, slots=True, kw_only=True)
class StartsPage:
    """The starts of an aircraft, and what book and advice say over the temperature; `looks_back` where not all are shown."""

    aircraft: AircraftLine
    unit: str
    engines: tuple[str, ...]
    oil_limit_s: float | None
    rows: tuple[StartRow, ...]
    lines: tuple[PrimeLine, ...]
    looks_back: str | None
    use: Use


@dataclass(frozen=True, slots=True, kw_only=True)
class TrendsPage:
    """Each figure of an aircraft over its flights, and what a series of leanings says; `looks_back` where not all are shown."""

    aircraft: AircraftLine
    figures: tuple[TrendRow, ...]
    health: tuple[NozzleDrift, ...]
    looks_back: str | None
    use: Use


@dataclass(frozen=True, slots=True, kw_only=True)
class MethodsPage:
    """How each verdict is made, with the limits of an aircraft where one is asked for."""

    aircraft: AircraftLine | None
    methods: tuple[Method, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanPage:
    """A plan, with what may be asked for."""

    aircraft: AircraftLine
    targets: tuple[Named, ...]
    cruise_ft: float | None
    plan: Plan


_PLACE = {name: place for place, name in enumerate(LIMITS)}  # the order of a flight


def profile_page(
    profile: Profile, ships: Profile | None, signed: Mapping[str, tuple[str, str]] = MappingProxyType({})
) -> ProfilePage:
    """Return one aircraft in plain view, held against what ships under its id; `signed` says by limit who has held its figure
    against the handbook, and on which day."""
    shipped = {name: limit.value for name, limit in ships.limits.items()} if ships else {}
    return ProfilePage(
        aircraft=aircraft_line(profile),
        content_hash=profile.content_hash,
        limits=tuple(
            LimitLine(
                name=name,
                phase=LIMITS[name].phase,
                title=LIMITS[name].title,
                unit=LIMITS[name].unit,
                value=limit.value,
                source=limit.source,
                note=limit.note,
                shipped=shipped.get(name),
                is_changed=ships is not None and shipped.get(name) != limit.value,
                signed_by=signed.get(name, (None, None))[0],
                signed_on=signed.get(name, (None, None))[1],
            )
            for name, limit in sorted(profile.limits.items(), key=lambda row: _PLACE[row[0]])
        ),
        unsigned=sum(1 for name in profile.limits if name not in signed),
        put_backs=tuple(PutBackLine(title=p.title, back=p.back, due_s=p.due_s) for p in profile.put_backs),
        phases=tuple(PhaseInFull(title=phase.title, lists=_lists(phase.lists)) for phase in profile.phases),
        emergency=emergency_of(profile),
        not_judged=not_judged(profile),
        set_aside=profile.set_aside,
        is_changed=ships is not None and ships.content_hash != profile.content_hash,
    )


def _lists(lists: tuple[Checklist, ...]) -> tuple[ListInFull, ...]:
    return tuple(
        ListInFull(
            title=one.title,
            style=one.style,  # type: ignore[arg-type]
            memory=one.memory,
            only_if=tuple(c.words for c in one.only_if),
            items=tuple(_item(item) for item in one.items),
        )
        for one in lists
    )


def _item(item: Item) -> ItemLine:
    return ItemLine(
        id=item.id,
        challenge=item.challenge,
        response=item.response,
        why=item.why,
        killer=item.killer,
        where=item.where,
        mistaken_for=item.mistaken_for,
        only_if=tuple(c.words for c in item.only_if),
    )


def methods_page(profile: Profile | None = None) -> MethodsPage:
    """Return how each verdict is made."""
    return MethodsPage(aircraft=aircraft_line(profile) if profile else None, methods=methods(profile))
