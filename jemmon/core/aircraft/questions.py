"""What an aircraft of one's own is asked for: the figures of the nearest kind that are the type's own, a page a subject.

Each question says where a handbook gives the figure: the sections are those of a pilot's operating handbook by the
manufacturers' common specification (GAMA Specification No. 1; the numbers from memory).
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from ..base.errors import ProfileError
from ..base.units import DISPLAYS, Linear
from .limits import LIMITS
from .profile import Profile

TYPE = "type"
_SPEED_KT = (25.0, 250.0)  # common practice: between them lie the speeds of piston aircraft


@dataclass(frozen=True, slots=True, kw_only=True)
class Question:
    """One figure: `id` is where it goes in the profile (`limits.rpm_max`), `unit` a core unit, `place` where a handbook gives it,
    `kind_has` the kind's own figure in that unit, `needed` whether there is no aircraft without it."""

    id: str
    subject: str
    title: str
    unit: str
    lowest: float
    highest: float
    place: str
    kind_has: float
    needed: bool = False


_PLACES: Mapping[str, str] = {
    "Start": "Section 4, normal procedures: starting",
    "Warm-up and taxi": "Section 4, normal procedures: warm-up and taxi",
    "Run-up": "Section 4, normal procedures: before take-off",
    "Take-off and cruise": "Sections 4 and 5: take-off, cruise, engine settings",
    "At all times": "Section 2, limitations: power plant, instrument markings",
    "Shutdown": "Section 4, normal procedures: shutdown",
}
_LIMIT_SUBJECTS = tuple(_PLACES)
_ENGINE = (
    ("rated_power_hp", "Rated power of one engine", "hp", 20.0, 4_000.0),
    ("rated_rpm", "Rated engine speed", "rpm", 1_000.0, 7_000.0),
    ("displacement_l", "Displacement", "l", 0.5, 60.0),
    ("compression_ratio", "Compression ratio", "", 5.0, 14.0),
)
_SPEEDS = (
    ("briefing.rotate_kt", "Rotate at", "Section 4, normal procedures: take-off"),
    ("briefing.climb_kt", "Climb at, best rate", "Section 4, normal procedures: speeds"),
    ("briefing.glide_kt", "Best glide, or autorotation", "Section 3, emergency procedures: speeds"),
    ("briefing.blue_line_kt", "Best rate of climb on one engine", "Section 3, emergency procedures: speeds"),
    ("briefing.red_line_kt", "Least control speed on one engine", "Section 2, limitations: airspeed"),
    ("schedule.climb_kt", "Climb at, en route", "Section 4, normal procedures: speeds"),
    ("schedule.cruise_kt", "Cruise at 65 % and sea level", "Section 5, performance: cruise"),
    ("schedule.descent_kt", "Descend at", "Section 4, normal procedures: descent"),
)
_FLOWN = (
    ("schedule.mass_kg", "Mass as usually flown", "kg", (100.0, 12_000.0), "Section 6, weight and balance"),
    ("schedule.climb_fpm", "Rate of climb at sea level", "fpm", (100.0, 4_000.0), "Section 5, performance: climb"),
    ("schedule.descent_fpm", "Rate of descent", "fpm", (100.0, 3_000.0), "Your own habit"),
    ("schedule.palt_ground_ft", "Elevation of the home field", "ft", (-1_300.0, 14_500.0), "Your chart"),
    ("schedule.cruise_ft", "Altitude as usually flown", "ft", (0.0, 30_000.0), "Your own habit"),
)
_NEEDED_SPEEDS = ("briefing.climb_kt", "briefing.glide_kt", "briefing.blue_line_kt", "briefing.red_line_kt")


def questions_of(kind: Profile) -> tuple[Question, ...]:
    """Return what an aircraft of this kind is asked for, in the order of a handbook's use: engine, limits by phase, prime, leaning,
    speeds, habits."""
    return tuple(_questions(kind))


def _questions(kind: Profile) -> Iterator[Question]:
    for name, title, unit, lowest, highest in _ENGINE:
        yield Question(
            id=f"engine.{name}",
            subject="Engine",
            title=title,
            unit=unit,
            lowest=lowest,
            highest=highest,
            place="Section 1, general: engine",
            kind_has=float(kind.engine[name]),
            needed=True,
        )
    for subject in _LIMIT_SUBJECTS:
        for name, row in LIMITS.items():
            if row.phase == subject and name in kind.limits and is_of_the_type(kind.limits[name].source):
                yield Question(
                    id=f"limits.{name}",
                    subject=subject,
                    title=row.title,
                    unit=row.unit,
                    lowest=row.lowest,
                    highest=row.highest,
                    place=_PLACES[subject],
                    kind_has=kind.limits[name].value,
                )
        if subject == "Start":
            yield from _prime(kind)
        if subject == "Take-off and cruise":
            yield from _leaning(kind)
    yield from _speeds(kind)


def is_of_the_type(source: str) -> bool:
    """Say whether a figure is the type's own: from its handbook, or published for it; what is common practice holds for any."""
    return source == TYPE or source.startswith("published")


def _prime(kind: Profile) -> Iterator[Question]:
    unit = "" if kind.start.unit == "none" else kind.start.unit
    for number, (below_c, amount) in enumerate(kind.prime):
        yield Question(
            id=f"prime.{number}",
            subject="Start",
            title=f"Prime below {{{below_c:g}|c}} [{unit}]",
            unit="",
            lowest=0.0,
            highest=60.0,
            place=_PLACES["Start"],
            kind_has=amount,
        )


def _leaning(kind: Profile) -> Iterator[Question]:
    for target in kind.lean_targets:
        if is_of_the_type(target.source):
            yield Question(
                id=f"lean_targets.{target.id}",
                subject="Take-off and cruise",
                title=f"Leaned {target.side} of peak by [°F]",
                unit="",
                lowest=0.0,
                highest=200.0,
                place=_PLACES["Take-off and cruise"],
                kind_has=target.offset_f,
            )


def _speeds(kind: Profile) -> Iterator[Question]:
    has = {f"briefing.{name}": value for name, value in kind.briefing.items() if name != "kind"}
    has |= {f"schedule.{name}": value for name, value in kind.schedule.items()}
    for name, title, place in _SPEEDS:
        if name in has:
            yield Question(
                id=name,
                subject="Speeds",
                title=title,
                unit="kt",
                lowest=_SPEED_KT[0],
                highest=_SPEED_KT[1],
                place=place,
                kind_has=float(has[name]),
                needed=name in _NEEDED_SPEEDS,
            )
    if "briefing.turn_back_ft" in has:
        yield Question(
            id="briefing.turn_back_ft",
            subject="Speeds",
            title="No turning back below, above the ground",
            unit="ft",
            lowest=0.0,
            highest=3_000.0,
            place="Your instructor, and what you have tried at altitude",
            kind_has=float(has["briefing.turn_back_ft"]),
            needed=True,
        )
    for name, title, unit, (lowest, highest), place in _FLOWN:
        if name in has:
            yield Question(
                id=name,
                subject="Habits",
                title=title,
                unit=unit,
                lowest=lowest,
                highest=highest,
                place=place,
                kind_has=float(has[name]),
            )


def answered(question: Question, value: float, choice: str) -> float:
    """Return a figure that was read off a handbook in one of its unit's choices (`DISPLAYS`), as a core figure.

    Raises:
        ProfileError: the unit has no such choice, or the figure lies outside what any piston aircraft's is.
    """
    core = to_core(question.unit, choice).to_core(value)
    if not question.lowest <= core <= question.highest:
        shown = to_core(question.unit, choice)
        low, high = shown.from_core(question.lowest), shown.from_core(question.highest)
        raise ProfileError(
            f"{question.title} is {value:g}; such figures lie within {low:,.4g} to {high:,.4g}. Is the unit right?",
            question.id,
        )
    return core


def to_core(unit: str, choice: str) -> Linear:
    """Return how a figure in a choice of a core unit becomes a core figure. Raises ProfileError for a choice that there is not."""
    shown = DISPLAYS.get(unit)
    if shown is None:
        return Linear(1.0)
    if choice not in shown:
        raise ProfileError(
            f"{choice!r} is none of the units that a figure in {unit!r} is printed in: {', '.join(shown)}."
        )
    return Linear(1 / shown[choice].scale, -shown[choice].shift / shown[choice].scale)


def by_id(kind: Profile) -> dict[str, Question]:
    """Return the questions of a kind by their id."""
    return {question.id: question for question in questions_of(kind)}
