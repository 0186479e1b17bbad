"""What a figure does over the flights of one aircraft: where it is going, and whether it has jumped."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.stats import theilslopes

from ..base.atmosphere import standard_density_ratio

_FLIGHTS = 5
_LEAST_FLIGHTS, _LOOKED_AT = 5, 30
_SURE, _AHEAD = 2.35, 12.0
_JUMP_HOLDS, _JUMP_AFTER, _JUMP_DEVIATIONS, _LEAST_DEVIATION = 3, 8, 3.6, 1.0


def drop_sentence(drops: Sequence[tuple[str, float | None]]) -> str:
    """Return one sentence on the left drop [RPM] of the newest aircraft's last five flights that have one.

    `drops` are (registration, drop), newest first.
    """
    known = [(registration, drop) for registration, drop in drops if drop is not None]
    same = [drop for registration, drop in known if registration == known[0][0]][:_FLIGHTS]
    if len(same) < 2:
        return "No two flights with a magneto check yet."
    change = same[0] - same[-1]
    way = "up" if change >= 0 else "down"
    return f"{known[0][0]}: left drop {same[0]:.0f} RPM, {way} {abs(change):.0f} in {len(same)} flights."


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
    """Return the trend of one figure of an aircraft; `limit` is the highest allowed, or the lowest with `is_low`.

    Slope by Theil and Sen with the level from its middle, significance by Mann and Kendall (both published), told when 2.35
    standard errors stand against chance in two flights running and the limit is at most twelve flights off; docs/benchmarks.md
    says how often that is right. A jump is three flights in a row beyond 3.6 robust deviations of at least eight before.
    Nothing is said of fewer than five.
    """
    known = np.asarray(values[-_LOOKED_AT:], dtype=float)
    if known.size < _LEAST_FLIGHTS:
        few = f"{known.size} flight{'s' * (known.size != 1)}; five are needed to say where it goes."
        return Trend(level=None, slope_per_flight=None, flights_left=None, jumped=False, message=None, summary=few)
    sign = -1.0 if is_low else 1.0
    slope, level = _slope_and_level(sign * known)
    left = None
    if limit is not None:
        newest, before = (_flights_left(sign * part, sign * limit) for part in (known, known[:-1]))
        left = newest if before is not None else None  # twice running: one figure alone makes no message
    jump = _jump(sign * known)
    message = None
    if left is not None:
        way = "falls" if is_low else "grows"
        when = f"passes its limit of {limit:g} within {left} flights" if left else f"is at its limit of {limit:g}"
        message = f"{title} {way} by {slope:.1f} {unit} a flight, now about {_said(sign * level)}, and {when}."
    elif jump is not None and jump > 0:
        message = f"{title} has jumped by {sign * jump:+.0f} {unit} three flights ago and stays there."
    return Trend(
        level=round(sign * level, 2),
        slope_per_flight=round(sign * slope, 3),
        flights_left=left,
        jumped=jump is not None,
        message=message,
        summary=message or f"About {_said(sign * level)} {unit} now, {_slope_words(sign * slope, unit)}.",
    )


def _said(value: float) -> str:
    return f"{value:.0f}" if abs(value) >= 10 else f"{value:.2g}"


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
    return f"about {slope:+.1f} {unit} a flight, which may still be chance"


def _slope_and_level(values: np.ndarray) -> tuple[float, float]:
    flights = np.arange(values.size)
    slope, middle, _, _ = theilslopes(values, flights)
    return float(slope), float(middle + slope * flights[-1])


def _steadiness(values: np.ndarray) -> float:
    """Return how many standard errors the rank sum of Mann and Kendall stands above no trend."""
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


# figure -> (title, unit, kind of finding, measured, limit in the profile, whether the limit is the lowest)
FIGURES: dict[str, tuple[str, str, str, str, str, bool]] = {
    "drop_left": ("Left magneto drop", "RPM", "mag_check", "drop_left_rpm", "mag_drop_max_rpm", False),
    "drop_right": ("Right magneto drop", "RPM", "mag_check", "drop_right_rpm", "mag_drop_max_rpm", False),
    "difference": ("Difference of the drops", "RPM", "mag_check", "difference_rpm", "mag_difference_max_rpm", False),
    "heat": ("Carburettor-heat drop", "RPM", "carb_heat_check", "drop_rpm", "carb_heat_drop_max_rpm", False),
    "idle": ("Idle", "RPM", "idle_check", "idle_rpm", "idle_min_rpm", True),
    "static": ("Full-throttle RPM", "RPM", "power_check", "static_rpm", "static_min_rpm", True),
    "oil_pressure": ("Oil pressure at run-up", "psi", "gauges", "oil_p_psi", "oil_pressure_min_psi", True),
    "oil_seconds": ("Seconds to oil pressure", "s", "start", "oil_pressure_s", "oil_pressure_time_s", False),
    "spread": ("Fuel flow between first and last peak", "gal/h", "lean", "spread_gph", "lean_spread_max_gph", False),
}


def _static_at_sea_level(density_altitude_ft: float | None) -> float:
    """Return what a fixed pitch's static RPM is multiplied with for the standard day at sea level: power falls with density
    by Gagg and Farrar, what the propeller takes falls with density too, and goes with the cube of its speed."""
    if density_altitude_ft is None:
        return 1.0
    sigma = standard_density_ratio(min(density_altitude_ft, 20_000.0))
    return float(((1.132 * sigma - 0.132) / sigma) ** (-1 / 3))


_AT_RUN_UP = ("drop_left", "drop_right", "difference", "heat")


def figures_of(findings: Sequence[Mapping[str, Any]], runup_rpm: float | None, engine: int = 1) -> dict[str, float]:
    """Return the figures of one flight, the last of each kind of one engine; drops are brought to the type's
    run-up RPM in proportion (common practice: a lost share of torque loses a share of RPM)."""
    found: dict[str, float] = {}
    for name, (_, _, kind, measured, _, _) in FIGURES.items():
        for finding in findings:
            value = finding["measured"].get(measured)
            if finding["kind"] != kind or finding.get("engine", 1) != engine or not isinstance(value, int | float):
                continue
            base = finding["measured"].get("base_rpm")
            scale = runup_rpm / base if name in _AT_RUN_UP and runup_rpm and base else 1.0
            if name == "static":
                scale = _static_at_sea_level(finding["measured"].get("density_altitude_ft"))
            found[name] = float(value) * scale
    return found
