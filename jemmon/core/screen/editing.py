"""A profile as it is written: which sections there are, which fields each has and of what kind, from what a field is chosen.

The front end draws a form from these rows and knows no field by itself.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from ..aircraft import Profile
from ..aircraft.composition import of_this_type
from ..aircraft.limits import LIMITS
from ..aircraft.lists import FACTS
from ..aircraft.problems import Wrong
from ..aircraft.schema import WATCHES
from ..judgement.registry import checks
from ..trace.signals import SECOND, SIGNALS
from .aircraft import AircraftLine, aircraft_line

FieldKind = Literal["text", "lines", "figure", "choice", "flag", "names", "figures", "conditions"]
Shape = Literal["fields", "rows", "limits", "power", "lists", "instruments"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Option:
    """Something a field may be: the word that the profile keeps, how it is read, and the core unit of a signal."""

    id: str
    title: str
    unit: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class FormField:
    """One field of a section: its name in the JSON, its title, of which kind, in which core unit, from what it is chosen (a menu's
    name, or options of its own), and whether it may be left empty."""

    name: str
    title: str
    kind: FieldKind
    unit: str = ""
    menu: str = ""
    options: tuple[Option, ...] = ()
    may_be_empty: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class FormSection:
    """One page of the editor: where in the JSON it is (`power.ratings`), of which shape, its fields, what it is for."""

    id: str
    title: str
    path: str
    shape: Shape
    about: str
    fields: tuple[FormField, ...] = ()


def _field(name: str, title: str, kind: FieldKind = "text", **more: Any) -> FormField:
    return FormField(name=name, title=title, kind=kind, **more)


def _options(*words: str) -> tuple[Option, ...]:
    return tuple(Option(id=word, title=word.replace("_", " ")) for word in words)


_SOURCE = _field("source", "Source", menu="sources", kind="choice")
SECTIONS: tuple[FormSection, ...] = (
    FormSection(
        id="lists", title="Lists", path="phases", shape="lists", about="What is read out and done, phase by phase."
    ),
    FormSection(
        id="limits",
        title="Limits",
        path="limits",
        shape="limits",
        about="Each figure, where it comes from, who has checked it.",
    ),
    FormSection(
        id="names",
        title="Names",
        path="",
        shape="fields",
        about="What it is called.",
        fields=(
            _field("name", "Name"),
            _field("registration", "Registration"),
            _field("about", "About"),
        ),
    ),
    FormSection(
        id="engine",
        title="Engine",
        path="engine",
        shape="fields",
        about="What the engine is; a handbook's first section.",
        fields=(
            _field("rated_power_hp", "Rated power of one engine", "figure", unit="hp"),
            _field("rated_rpm", "Rated speed", "figure", unit="rpm"),
            _field("displacement_l", "Displacement", "figure", unit="l"),
            _field("compression_ratio", "Compression ratio", "figure"),
            _field("cylinders", "Cylinders", "figure"),
            _field(
                "fuel_system",
                "Fuel system",
                "choice",
                options=_options("carburettor", "injection", "electronic_injection"),
            ),
            _field(
                "propeller",
                "Propeller",
                "choice",
                options=_options("fixed_pitch", "constant_speed", "automatic", "rotor"),
            ),
            _field(
                "ignition",
                "Ignition",
                "choice",
                options=_options("magnetos", "magneto_and_electronic", "lanes"),
                may_be_empty=True,
            ),
            _field("mag_first", "Checked first", "choice", options=_options("left", "right"), may_be_empty=True),
            _field("fuel_octane", "Octane of the fuel", "figure", may_be_empty=True),
            _field("rpm_lag_s", "RPM follows within", "figure", unit="s", may_be_empty=True),
        ),
    ),
    FormSection(
        id="power",
        title="Power table",
        path="power",
        shape="power",
        about="Percent of rated power by RPM and manifold pressure, a table for each altitude, as the handbook prints it.",
        fields=(
            _field("sources", "Source"),
            _field("friction_pct", "Friction at rated speed", "figure", unit="pct"),
            _field("temperature_exponent", "Exponent of temperature", "figure", may_be_empty=True),
            _field("climb_lean", "Leaned in the climb", "choice", options=_options("steps", "target_egt", "none")),
            _field("lean_from_ft", "Leaned above", "figure", unit="ft", may_be_empty=True),
            _field(
                "mixture",
                "Mixture is set by",
                "choice",
                options=_options("lever", "detents", "automatic"),
                may_be_empty=True,
            ),
        ),
    ),
    FormSection(
        id="points",
        title="Power by points",
        path="power.points",
        shape="rows",
        about="Where there is no table: five points or more, at two altitudes, speeds and pressures; a formula is made of them.",
        fields=(
            _field("palt_ft", "Pressure altitude", "figure", unit="ft"),
            _field("rpm", "RPM", "figure", unit="rpm"),
            _field("map_inhg", "Manifold pressure", "figure", unit="inhg"),
            _field("pct", "Power", "figure", unit="pct"),
        ),
    ),
    FormSection(
        id="ratings",
        title="Ratings",
        path="power.ratings",
        shape="rows",
        about="Powers that are allowed for a time only.",
        fields=(
            _field("name", "Name"),
            _field("above_rpm", "Above", "figure", unit="rpm"),
            _field("above_map_inhg", "and above", "figure", unit="inhg"),
            _field("seconds", "For", "figure", unit="s"),
        ),
    ),
    FormSection(
        id="settings",
        title="Power settings",
        path="power.settings",
        shape="rows",
        about="Settings that the handbook names: climb, go around.",
        fields=(
            _field("id", "Id"),
            _field("title", "Title"),
            _field("rpm", "RPM", "figure", unit="rpm", may_be_empty=True),
            _field("map_inhg", "Manifold pressure", "figure", unit="inhg", may_be_empty=True),
        ),
    ),
    FormSection(
        id="map_most",
        title="Pressure by RPM",
        path="power.map_most",
        shape="rows",
        about="The highest manifold pressure that is allowed at an RPM.",
        fields=(
            _field("rpm", "RPM", "figure", unit="rpm"),
            _field("map_inhg", "At most", "figure", unit="inhg"),
        ),
    ),
    FormSection(
        id="fuel",
        title="Tanks",
        path="fuel",
        shape="fields",
        about="The tanks in their order, and how they are used.",
        fields=(
            _field("tanks", "Tanks, one a line", "lines"),
            _field("change_every_s", "Change every", "figure", unit="s", may_be_empty=True),
            _field("reserve_min", "Reserve [minutes]", "figure", may_be_empty=True),
            _field("each_engine_its_own", "Each engine has its own", "flag", may_be_empty=True),
            _field("change_by", "Changed by", "choice", options=_options("balance", "order"), may_be_empty=True),
        ),
    ),
    FormSection(
        id="start",
        title="Start method",
        path="start",
        shape="fields",
        about="How it is primed and started, in the handbook's words.",
        fields=(
            _field("unit", "Prime is counted in", "choice", options=_options("strokes", "seconds", "shots", "none")),
            _field("primer", "Primer", may_be_empty=True),
            _field("throttle", "Throttle", may_be_empty=True),
            _field("mixture", "Mixture", may_be_empty=True),
            _field("pump", "Pump", may_be_empty=True),
            _field("hot", "Hot start", may_be_empty=True),
            _field("flooded", "Flooded", may_be_empty=True),
            _field("stops", "What stops it", may_be_empty=True),
            _field("crank_s", "Cranks for, least and most [s]", "figures", may_be_empty=True),
            _field("energise_s", "Energise for, least and most [s]", "figures", may_be_empty=True),
            _field("leans_above_ft", "Leaned for start above", "figure", unit="ft", may_be_empty=True),
            _field("blades", "Blades of the propeller", "figure", may_be_empty=True),
            _field("gear_ratio", "Reduction gear", "figure", may_be_empty=True),
            _field("shows_cranking", "The tachometer shows cranking", "flag", may_be_empty=True),
        ),
    ),
    FormSection(
        id="prime",
        title="Prime",
        path="prime",
        shape="rows",
        about="How much prime below which outside temperature.",
        fields=(_field("below_c", "Below", "figure", unit="c"), _field("amount", "Amount", "figure"), _SOURCE),
    ),
    FormSection(
        id="lean_targets",
        title="Lean targets",
        path="lean_targets",
        shape="rows",
        about="Where the mixture may be set.",
        fields=(
            _field("id", "Id"),
            _field("name", "Name"),
            _field("side", "Side of peak", "choice", options=_options("rich", "lean")),
            _field("offset_f", "By [°F]", "figure"),
            _SOURCE,
        ),
    ),
    FormSection(
        id="put_backs",
        title="Put back",
        path="put_backs",
        shape="rows",
        about="Temporary settings, and after how long each is due back.",
        fields=(
            _field("id", "Id"),
            _field("title", "It is on"),
            _field("back", "Back"),
            _field("due_s", "Due after", "figure", unit="s"),
            _field("lever", "Lever that shows it", "choice", menu="levers", may_be_empty=True),
            _field("away_above", "On above", "figure", may_be_empty=True),
            _field("away_below", "On below", "figure", may_be_empty=True),
            _field("back_by", "Back before", "choice", menu="phases", may_be_empty=True),
            _field("needs_engine", "Only while it runs", "flag", may_be_empty=True),
            _field("phases", "Only in", "names", menu="phases", may_be_empty=True),
        ),
    ),
    FormSection(
        id="instruments",
        title="Instruments",
        path="phases",
        shape="instruments",
        about="Which instruments are shown in which phase, at most five.",
    ),
    FormSection(
        id="emergency",
        title="Emergency cards",
        path="emergency",
        shape="rows",
        about="The first actions, a card a case, in the handbook's words.",
        fields=(
            _field("title", "Case"),
            _field("steps", "Steps, one a line", "lines"),
            _field("when", "Comes up when", "choice", options=_options("power_loss"), may_be_empty=True),
        ),
    ),
    FormSection(
        id="briefing",
        title="Briefing",
        path="briefing",
        shape="fields",
        about="The speeds of the take-off briefing.",
        fields=(
            _field("rotate_kt", "Rotate", "figure", unit="kt", may_be_empty=True),
            _field("climb_kt", "Climb", "figure", unit="kt"),
            _field("glide_kt", "Glide", "figure", unit="kt"),
            _field("turn_back_ft", "No turning back below", "figure", unit="ft", may_be_empty=True),
            _field("blue_line_kt", "Best climb on one engine", "figure", unit="kt", may_be_empty=True),
            _field("red_line_kt", "Least control on one engine", "figure", unit="kt", may_be_empty=True),
        ),
    ),
    FormSection(
        id="take_off",
        title="Before take-off power",
        path="take_off.needs",
        shape="rows",
        about="What must be proven before take-off power; what is not is said.",
        fields=(_field("say", "What is said"), _field("proof", "Proof (item:oil_pressure, check:mag_check)")),
    ),
    FormSection(
        id="schedule",
        title="Speeds and habits",
        path="schedule",
        shape="fields",
        about="How it is usually flown: for the plan and the simulated engine.",
        fields=(
            _field("palt_ground_ft", "Home field", "figure", unit="ft", may_be_empty=True),
            _field("cruise_ft", "Cruise altitude", "figure", unit="ft", may_be_empty=True),
            _field("climb_kt", "Climb", "figure", unit="kt", may_be_empty=True),
            _field("cruise_kt", "Cruise at 65 %", "figure", unit="kt", may_be_empty=True),
            _field("descent_kt", "Descent", "figure", unit="kt", may_be_empty=True),
            _field("climb_fpm", "Rate of climb", "figure", unit="fpm", may_be_empty=True),
            _field("descent_fpm", "Rate of descent", "figure", unit="fpm", may_be_empty=True),
            _field("mass_kg", "Mass", "figure", unit="kg", may_be_empty=True),
        ),
    ),
    FormSection(
        id="balance",
        title="Mass and balance",
        path="balance",
        shape="fields",
        about="The weighing report: arms from the handbook's own datum, aft and right positive.",
        fields=(
            _field("empty_kg", "Empty mass", "figure", unit="kg"),
            _field("empty_arm_m", "Empty arm", "figure", unit="m"),
            _field("empty_across_m", "Empty arm to the right", "figure", unit="m", may_be_empty=True),
            _field("most_take_off_kg", "Take-off, at most", "figure", unit="kg"),
            _field("most_landing_kg", "Landing, at most", "figure", unit="kg", may_be_empty=True),
            _field("most_zero_fuel_kg", "Without fuel, at most", "figure", unit="kg", may_be_empty=True),
        ),
    ),
    FormSection(
        id="stations",
        title="Stations",
        path="balance.stations",
        shape="rows",
        about="What is loaded where.",
        fields=(
            _field("id", "Id"),
            _field("title", "Title"),
            _field("arm_m", "Arm", "figure", unit="m"),
            _field("across_m", "To the right", "figure", unit="m", may_be_empty=True),
            _field("most_kg", "At most", "figure", unit="kg", may_be_empty=True),
            _field("is_fuel", "Fuel", "flag", may_be_empty=True),
            _field("takes_ballast", "Ballast may lie here", "flag", may_be_empty=True),
        ),
    ),
    FormSection(
        id="envelope",
        title="Envelope",
        path="balance.envelope",
        shape="rows",
        about="The corners of the envelope in their order.",
        fields=(
            _field("arm_m", "Arm", "figure", unit="m"),
            _field("mass_kg", "Mass", "figure", unit="kg"),
        ),
    ),
    FormSection(
        id="across",
        title="Envelope to the side",
        path="balance.across",
        shape="rows",
        about="A helicopter's corners along and across.",
        fields=(
            _field("arm_m", "Arm", "figure", unit="m"),
            _field("across_m", "To the right", "figure", unit="m"),
        ),
    ),
    FormSection(
        id="delays",
        title="Read again",
        path="delays",
        shape="fields",
        about="After how long what kills is read again.",
        fields=(
            _field("killer_s", "Killer items after", "figure", unit="s"),
            _field("briefing_s", "Briefing after", "figure", unit="s"),
        ),
    ),
)
ITEM_FIELDS: tuple[FormField, ...] = (
    _field("challenge", "Challenge"),
    _field("response", "Response"),
    _field("why", "Why"),
    _field("caution", "Caution", may_be_empty=True),
    _field("where", "Where it is", may_be_empty=True),
    _field("mistaken_for", "Mistaken for", may_be_empty=True),
    _field("only_if", "Only if", "conditions", menu="facts", may_be_empty=True),
    _field("killer", "Killer item: read again after a delay", "flag", may_be_empty=True),
    _field("hold_s", "Hold for", "figure", unit="s", may_be_empty=True),
    _field("count_to", "Count to", "figure", may_be_empty=True),
    _field(
        "count_of", "Count of", "choice", options=_options("blades", "strokes", "cycles", "shots"), may_be_empty=True
    ),
    _field("lever", "Lever that it moves", "choice", menu="levers", may_be_empty=True),
    _field("check", "Check that proves it", "choice", menu="checks", may_be_empty=True),
    _field("manual", "Check that is typed", "choice", menu="checks", may_be_empty=True),
    _field("watch", "Watches", "choice", options=_options(*WATCHES), may_be_empty=True),
    _field("gate", "Comes back at", "choice", menu="phases", may_be_empty=True),
    _field("away", "Makes a temporary setting", "choice", menu="put_backs", may_be_empty=True),
    _field("back", "Puts back", "choice", menu="put_backs", may_be_empty=True),
    _field("seen_is_enough", "Data alone confirm it", "flag", may_be_empty=True),
    _field("holds", "Data that contradict it open it again", "flag", may_be_empty=True),
)
READING_FIELDS: tuple[FormField, ...] = (
    _field("signal", "Data show it by", "choice", menu="signals", may_be_empty=True),
    _field("min", "at least", "figure", may_be_empty=True),
    _field("max", "at most", "figure", may_be_empty=True),
    _field("min_limit", "at least the limit", "choice", menu="limits", may_be_empty=True),
    _field("max_limit", "at most the limit", "choice", menu="limits", may_be_empty=True),
    _field("is", "is the word", may_be_empty=True),
)
MEASURE_FIELDS: tuple[FormField, ...] = (
    _field("title", "Figure that is typed", may_be_empty=True),
    _field(
        "unit",
        "Unit",
        "choice",
        options=_options("rpm", "psi", "f", "v", "a", "inhg", "gal", "s", "pct", "qt"),
        may_be_empty=True,
    ),
    _field("min", "at least", "figure", may_be_empty=True),
    _field("max", "at most", "figure", may_be_empty=True),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class LibraryLine:
    """An item of the library, to be chosen from; `item` is what a profile holds of it."""

    id: str
    challenge: str
    response: str
    item: Mapping[str, Any]


@dataclass(frozen=True, slots=True, kw_only=True)
class LimitRowShown:
    """A limit that a profile may have: name, title, core unit, plausible range, the part of a flight."""

    name: str
    title: str
    unit: str
    lowest: float
    highest: float
    phase: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SignedLine:
    """A limit whose figure was held against the handbook: who, and on which day."""

    limit: str
    who: str
    signed_on: str


@dataclass(frozen=True, slots=True, kw_only=True)
class EditPage:
    """What is being written: the JSON (a draft, or what counts), the sections and fields, the menus, the library, what is wrong,
    which limits are signed; `version` is the newest that was saved."""

    aircraft: AircraftLine
    body: Mapping[str, Any]
    is_draft: bool
    version: int
    sections: tuple[FormSection, ...]
    item_fields: tuple[FormField, ...]
    reading_fields: tuple[FormField, ...]
    measure_fields: tuple[FormField, ...]
    menus: Mapping[str, tuple[Option, ...]]
    limits: tuple[LimitRowShown, ...]
    library: tuple[LibraryLine, ...]
    wrong: tuple[Wrong, ...]
    signed: tuple[SignedLine, ...]


def menus_of(body: Mapping[str, Any]) -> dict[str, tuple[Option, ...]]:
    """Return what the fields of a profile may be chosen from: signals, levers, checks, limits, facts, phases, put-back pairs."""
    every = list(SIGNALS.values())
    own = [row for row in every if not row.is_shared] if body.get("engine", {}).get("count") == 2 else []
    signals = [(row, Option(id=row.column, title=row.title, unit=row.unit)) for row in every]
    signals += [
        (row, Option(id=f"{SECOND}{row.column}", title=f"{row.title}, second engine", unit=row.unit)) for row in own
    ]
    return {
        "signals": tuple(option for _, option in signals),
        "readings": tuple(option for row, option in signals if not row.is_lever),
        "levers": tuple(option for row, option in signals if row.is_lever),
        "checks": tuple(Option(id=check.kind, title=check.title) for check in checks().values()),
        "limits": tuple(Option(id=row.name, title=row.title) for row in LIMITS.values()),
        "facts": tuple(
            [Option(id=name, title=words) for name, words in FACTS.items()]
            + [Option(id=row.column, title=row.title) for row in SIGNALS.values()]
        ),
        "sources": (
            Option(id="type", title="The handbook of the type"),
            Option(id="common practice", title="Common practice"),
        ),
        "phases": _named(body.get("phases", ())),
        "put_backs": _named(body.get("put_backs", ())),
    }


def _named(rows: Sequence[Mapping[str, Any]]) -> tuple[Option, ...]:
    return tuple(Option(id=str(row.get("id", "")), title=str(row.get("title", ""))) for row in rows)


def library_lines(library: Mapping[str, Mapping[str, Any]]) -> tuple[LibraryLine, ...]:
    """Return the items of a library, each as a profile holds it."""
    return tuple(
        LibraryLine(
            id=name,
            challenge=row["challenge"],
            response=row["response"],
            item={**{key: value for key, value in row.items() if key != "slot"}, "of": name},
        )
        for name, row in library.items()
    )


def limit_rows() -> tuple[LimitRowShown, ...]:
    """Return every limit that there is, in the order of a flight."""
    return tuple(
        LimitRowShown(
            name=row.name, title=row.title, unit=row.unit, lowest=row.lowest, highest=row.highest, phase=row.phase
        )
        for row in LIMITS.values()
    )


def edit_page(
    profile: Profile,
    body: Mapping[str, Any],
    is_draft: bool,
    version: int,
    library: Mapping[str, Mapping[str, Any]],
    wrong: tuple[Wrong, ...],
    signed: tuple[SignedLine, ...],
) -> EditPage:
    """Return the editor's page of an aircraft."""
    return EditPage(
        aircraft=aircraft_line(profile),
        body=body,
        is_draft=is_draft,
        version=version,
        sections=SECTIONS,
        item_fields=ITEM_FIELDS,
        reading_fields=READING_FIELDS,
        measure_fields=MEASURE_FIELDS,
        menus=menus_of(body),
        limits=limit_rows(),
        library=library_lines(of_this_type(library, body)),
        wrong=wrong,
        signed=signed,
    )
