"""What a figure does over the flights of one aircraft: where it is going, and whether it has jumped."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..aircraft import Profile
from ..base.figures import difference, figure
from ..trace.finding import LOOK
from .check import Rule, TrendFigure
from .registry import checks

# common practice, but where it says otherwise
_LEAST_FLIGHTS, _LOOKED_AT = 5, 30
_SURE, _AHEAD = (
    2.4,
    12.0,
)  # fitted to tests/corpora/trends.py, seeds 29 to 31, 700,000 to 701,199 and 800,000 to 801,999
_JUMP_HOLDS, _JUMP_AFTER, _JUMP_DEVIATIONS, _LEAST_DEVIATION = 3, 8, 3.8, 1.0  # fitted to the same


@dataclass(frozen=True, slots=True, kw_only=True)
class Trend:
    """What a figure does over flights, oldest first: its level now, its robust slope a flight, how many flights are left
    to its limit at that slope (None where it is not on its way), whether it has jumped; `message` is one sentence for a
    mechanic where something is certain, `summary` what can be said in any case."""

    level: float | None
    slope_per_flight: float | None
    flights_left: int | None
    jumped: bool
    message: str | None
    summary: str


def figure_trend(values: Sequence[float], limit: float | None, title: str, unit: str, is_low: bool = False) -> Trend:
    """Return the trend of one figure of an aircraft; `limit` is the highest allowed, or the lowest with `is_low`, in a core unit.

    Slope by Theil and Sen with the level from its middle, significance by Mann and Kendall (both published), told when 2.4
    standard errors stand against chance in two flights running and the limit is at most twelve flights off; docs/benchmarks.md
    says how often that is right. A jump is three flights in a row beyond 3.8 robust deviations of at least eight before.
    Nothing is said of fewer than five.
    """
    known = np.asarray(values[-_LOOKED_AT:], dtype=float)
    if known.size < _LEAST_FLIGHTS:
        few = f"{_last(known, unit)}{known.size} flight{'s' * (known.size != 1)}; five are needed to say where it goes."
        return Trend(level=None, slope_per_flight=None, flights_left=None, jumped=False, message=None, summary=few)
    sign = -1.0 if is_low else 1.0
    slope, level = _slope_and_level(sign * known)
    left = None
    if limit is not None:
        newest, before = (_flights_left(sign * part, sign * limit) for part in (known, known[:-1]))
        left = newest if before is not None else None  # twice running: one figure alone makes no message
    jump = _jump(sign * known)
    message = None
    if left is not None and limit is not None:
        way = "falls" if is_low else "grows"
        most, now = figure(limit, unit), figure(sign * level, unit)
        flights = "one flight" if left == 1 else f"{left} flights"
        when = f"passes its limit of {most} within {flights}" if left else f"is at its limit of {most}"
        message = f"{title} {way} by {difference(slope, unit, finer=True)} a flight, now about {now}, and {when}."
    elif jump is not None and jump > 0:
        message = (
            f"{title} has jumped by {difference(sign * jump, unit, signed=True)} three flights ago and stays there."
        )
    return Trend(
        level=round(sign * level, 2),
        slope_per_flight=round(sign * slope, 3),
        flights_left=left,
        jumped=jump is not None,
        message=message,
        summary=_last(known, unit)
        + (message or f"About {figure(sign * level, unit)} as a rule, {_slope_words(sign * slope, unit)}."),
    )


def _last(values: np.ndarray, unit: str) -> str:
    return f"Last flight {figure(values[-1], unit)}. " if values.size else ""


def nearness(values: Sequence[float], limit: float | None) -> float:
    """Return how near the last figure is to its limit, as a share of the limit: 0 is at it; without a limit infinite."""
    if limit is None or not values or limit == 0:
        return float("inf")
    return abs(limit - values[-1]) / abs(limit)


def _flights_left(values: np.ndarray, limit: float) -> int | None:
    """Return the flights until a growing figure is at its limit, where that is near and more than chance, else None."""
    if values.size < _LEAST_FLIGHTS or _steadiness(values) <= _SURE:
        return None
    slope, level = _slope_and_level(values)
    flights = (limit - level) / slope if slope > 0 else np.inf
    return max(round(flights), 0) if flights <= _AHEAD else None


def _slope_words(slope: float, unit: str) -> str:
    if abs(slope) < 0.05:
        return "steady"
    return f"about {difference(slope, unit, signed=True, finer=True)} a flight, which may still be chance"


def _slope_and_level(values: np.ndarray) -> tuple[float, float]:
    from scipy.stats import theilslopes  # here, not above: the server starts without it

    flights = np.arange(values.size)
    slope, middle, _, _ = theilslopes(values, flights)
    return float(slope), float(middle + slope * flights[-1])


def _steadiness(values: np.ndarray) -> float:
    """Return how many standard errors the rank sum of Mann and Kendall is above no trend."""
    count = values.size
    later_higher = sum(float(np.sign(values[n + 1 :] - values[n]).sum()) for n in range(count - 1))
    spread = np.sqrt(count * (count - 1) * (2 * count + 5) / 18)
    return float((later_higher - np.sign(later_higher)) / spread)


def _jump(values: np.ndarray) -> float | None:
    """Return by how much the last three flights stand beyond those before, or None where they do not."""
    before, last = values[:-_JUMP_HOLDS], values[-_JUMP_HOLDS:]
    if before.size < _JUMP_AFTER:
        return None
    middle = float(np.median(before))
    deviation = max(1.4826 * float(np.median(np.abs(before - middle))), _LEAST_DEVIATION)
    away = last - middle
    if not (np.all(away > _JUMP_DEVIATIONS * deviation) or np.all(away < -_JUMP_DEVIATIONS * deviation)):
        return None
    return float(np.median(away))


@dataclass(frozen=True, slots=True, kw_only=True)
class TrendPoint:
    """One flight's figure."""

    flight: str
    day: str
    value: float


@dataclass(frozen=True, slots=True, kw_only=True)
class TrendRow:
    """A figure of one engine over the flights of an aircraft, with its limit and what it does; `unit` is a core unit."""

    id: str
    title: str
    unit: str
    limit: float | None
    points: tuple[TrendPoint, ...]
    trend: Trend


@dataclass(frozen=True, slots=True, kw_only=True)
class FlownFindings:
    """What one flight found: its id, its day, and its findings as they are kept."""

    flight: str
    day: str
    findings: Sequence[Mapping[str, Any]]


def trend_rows(profile: Profile, flown: Sequence[FlownFindings], engine: int = 1) -> tuple[TrendRow, ...]:
    """Return every figure that the checks follow over an aircraft's flights, oldest first, where any flight has it."""
    rows = []
    whose = profile.whose(dict(profile.engines)[engine])
    for check in checks().values():
        for row in check.trends:
            if row.limit in check.not_needed_by(profile):
                continue  # a figure that means nothing for this type
            points = tuple(
                TrendPoint(flight=one.flight, day=one.day, value=value)
                for one in flown
                if (value := latest_figure(check.kind, row, one.findings, profile, engine)) is not None
            )
            if not points:
                continue
            limit, title = row.limit_of(profile), whose + row.title
            trend = figure_trend([point.value for point in points], limit, title, row.unit, row.is_low)
            row_id = row.id if engine == 1 else f"e{engine}_{row.id}"
            rows.append(TrendRow(id=row_id, title=title, unit=row.unit, limit=limit, points=points, trend=trend))
    return tuple(rows)


def latest_figure(
    kind: str, figure: TrendFigure, findings: Sequence[Mapping[str, Any]], profile: Profile, engine: int = 1
) -> float | None:
    """Return the last figure of one engine in a flight's findings [the figure's unit], brought to its common base, or None."""
    value = None
    for finding in findings:
        measured = finding["measured"].get(figure.measured)
        own = finding["kind"] == kind and finding.get("engine", 1) == engine
        if own and isinstance(measured, int | float) and not isinstance(measured, bool):
            value = float(measured) * figure.scale(finding["measured"], profile)
    return value


TREND_MEASURES = (
    "The last figure of each kind and flight; drops brought to the type's run-up RPM in proportion, full throttle to the "
    "standard day (Gagg and Farrar 1934). Slope and level by the medians of all pairs (Theil and Sen), chance by Mann and "
    f"Kendall. Never on fewer than {_LEAST_FLIGHTS} flights."
)
TREND_RULES = (
    Rule(
        LOOK,
        f"a slope that chance does not make, in two flights running, passes the limit in {_AHEAD:.0f} flights or fewer",
        "published: Theil 1950, Sen 1968, Mann 1945, Kendall 1948",
    ),
    Rule(LOOK, f"three flights in a row far from at least {_JUMP_AFTER} before, for the worse", "common practice"),
)
