"""A finding as the screens show it: its figures and limits under the names that pilots use, its words as they were kept."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal

from ..aircraft import Profile
from ..aircraft.limits import LIMITS
from ..base.units import DISPLAYS
from ..flight.state import KeptFinding
from ..judgement.registry import checks, title_of

Verdict = Literal["within", "look", "stop", "incomplete", "unknown"]


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownFigure:
    """A figure with its name, in a core unit; `plus_minus` is what it may be off by, `most` and `least` the limits
    that it was held against, in the same unit."""

    title: str
    value: float
    unit: str
    plus_minus: float | None = None
    most: float | None = None
    least: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownFinding:
    """One kept finding. Names in `measured` and `limits` end in their unit; `figures` and `judged_by` are what of them is shown.
    `event` is the event that told it; `typed` when the pilot typed its figures; `asks_sides` when a tap may
    say which magneto came first."""

    kind: str
    title: str
    engine: int
    verdict: Verdict
    start_s: float
    end_s: float
    measured: Mapping[str, Any]
    limits: Mapping[str, float | None]
    figures: tuple[ShownFigure, ...]
    judged_by: tuple[ShownFigure, ...]
    because: str
    next: str
    source: str
    event: str
    typed: bool
    asks_sides: bool


def shown_finding(profile: Profile, finding: KeptFinding) -> ShownFinding:
    """Return a kept finding as it is shown of an aircraft."""
    measured, limits = finding["measured"], finding.get("limits", {})
    return ShownFinding(
        kind=finding["kind"],
        title=title_of(finding["kind"]),
        engine=int(finding.get("engine", 1)),
        verdict=finding["verdict"],
        start_s=finding["start_s"],
        end_s=finding["end_s"],
        measured=measured,
        limits=limits,
        figures=_figures(profile, finding),
        judged_by=tuple(_limit(name, value) for name, value in limits.items() if value is not None),
        because=finding["because"],
        next=finding.get("next", ""),
        source=finding.get("source", ""),
        event=str(finding.get("event", "")),
        typed=bool(finding.get("typed", False)),
        asks_sides="drop_first_rpm" in measured and bool(measured.get("egt_rise_f")),
    )


def _figures(profile: Profile, finding: KeptFinding) -> tuple[ShownFigure, ...]:
    check, measured = checks().get(finding["kind"]), finding["measured"]
    rows = []
    for row in check.shows if check else ():
        value, off_by = measured.get(row.measured), measured.get(row.plus_minus or "")
        known = [float(drop) for name in row.between if (drop := measured.get(name)) is not None]
        if value is not None and len(known) == 2:
            value = profile.apart_as_read_rpm(*known)
        if isinstance(value, int | float):
            most, least = (_first(finding.get("limits", {}), names) for names in (row.most, row.least))
            rows.append(
                ShownFigure(title=row.title, value=value, unit=row.unit, plus_minus=off_by, most=most, least=least)
            )
    return tuple(rows)


def _first(limits: Mapping[str, Any], names: tuple[str, ...]) -> float | None:
    return next((float(limits[name]) for name in names if limits.get(name) is not None), None)


def _limit(name: str, value: float) -> ShownFigure:
    """Return a limit under its title; one that only the check knows (the lesser of two, a share of another) under its own name."""
    known = LIMITS.get(name)
    if known is not None:
        return ShownFigure(title=known.title, value=value, unit=known.unit)
    words, _, unit = name.rpartition("_")
    has_unit = unit in DISPLAYS
    return ShownFigure(
        title=(words if has_unit else name).replace("_", " "), value=value, unit=unit if has_unit else ""
    )
