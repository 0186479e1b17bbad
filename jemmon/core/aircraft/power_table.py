"""The power table of a type: percent of rated power by RPM, manifold pressure and pressure altitude, at best power and
standard temperature, as a handbook prints it.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise
from typing import Any

import numpy as np
from scipy.interpolate import RegularGridInterpolator

from ..base.errors import ProfileError

USUAL_TEMPERATURE_EXPONENT = 0.5
_USUAL_FRICTION_PCT = 15.0  # of rated power at rated speed (common practice)
_BEYOND = 0.12  # of an axis' length: a table is carried on so far past its edges, and no further


@dataclass(frozen=True, slots=True)
class PowerTable:
    """`pct` (shape (altitudes, speeds, pressures)) over its axes [ft], [RPM], [inHg], each rising."""

    palt_ft: np.ndarray
    rpm: np.ndarray
    map_inhg: np.ndarray
    pct: np.ndarray
    friction_pct: float  # what the engine itself takes at its rated speed
    temperature_exponent: float  # of standard over outside temperature: 0.5 is common practice, about 1 % for 6 °C

    def percent(self, rpm: float, map_inhg: float, palt_ft: float) -> float | None:
        """Return percent of rated power at standard temperature, or None where the table says nothing."""
        point = (palt_ft, rpm, map_inhg)
        for value, axis in zip(point, (self.palt_ft, self.rpm, self.map_inhg), strict=True):
            slack = _BEYOND * float(axis[-1] - axis[0])
            if not axis[0] - slack <= value <= axis[-1] + slack:
                return None
        return float(_interpolator(self)(point))

    def is_beyond(self, rpm: float, map_inhg: float, palt_ft: float) -> bool:
        """Say whether a point [RPM, inHg, ft] lies past the edges of the table, where its figure is carried on."""
        axes = ((palt_ft, self.palt_ft), (rpm, self.rpm), (map_inhg, self.map_inhg))
        return any(not axis[0] <= value <= axis[-1] for value, axis in axes)

    def map_for(self, pct: float, rpm: float, palt_ft: float) -> float | None:
        """Return the manifold pressure [inHg] that gives a percentage at an RPM, or None outside the table."""
        if self.percent(rpm, float(self.map_inhg[0]), palt_ft) is None:
            return None
        pressures = np.linspace(self.map_inhg[0], self.map_inhg[-1], 60)
        percents = _interpolator(self)([(palt_ft, rpm, float(pressure)) for pressure in pressures])
        if not percents[0] <= pct <= percents[-1]:
            return None
        return float(np.interp(pct, percents, pressures))


@lru_cache(maxsize=64)
def _interpolator_of(key: tuple[bytes, ...], shape: tuple[int, ...]) -> RegularGridInterpolator:
    palt, rpm, pressure, pct = (np.frombuffer(part) for part in key)
    return RegularGridInterpolator((palt, rpm, pressure), pct.reshape(shape), bounds_error=False, fill_value=None)


def _interpolator(table: PowerTable) -> RegularGridInterpolator:
    arrays = (table.palt_ft, table.rpm, table.map_inhg, table.pct)
    return _interpolator_of(tuple(np.ascontiguousarray(a, dtype=float).tobytes() for a in arrays), table.pct.shape)


def power_table_from(section: Mapping[str, Any]) -> PowerTable | None:
    """Return the table of a profile's `power` section, or the one that its points make; None where it has neither. Raises
    ProfileError."""
    if "pct" not in section:
        return _table_of_points(section) if "points" in section else None
    axes = [np.array(section[name], dtype=float) for name in ("palt_ft", "rpm", "map_inhg")]
    pct = np.array(section["pct"], dtype=float)
    for name, axis in zip(("palt_ft", "rpm", "map_inhg"), axes, strict=True):
        if axis.size < 2 or np.any(np.diff(axis) <= 0):
            raise ProfileError(f"power.{name} must have two figures or more, rising.")
    if pct.shape != tuple(axis.size for axis in axes):
        sizes = " x ".join(str(axis.size) for axis in axes)
        raise ProfileError(f"power.pct must have {sizes} figures: one for each altitude, RPM and manifold pressure.")
    check_chart(section.get("map_limit"), "power.map_limit", "map_inhg")
    _check_full_throttle(section.get("full_throttle"))
    if section.get("mixture") == "detents" and not section.get("detents"):
        raise ProfileError("power.mixture is detents; power.detents must say which there are.")
    palt_ft, rpm, map_inhg = axes
    exponent = float(section.get("temperature_exponent", USUAL_TEMPERATURE_EXPONENT))
    return PowerTable(palt_ft, rpm, map_inhg, pct, float(section["friction_pct"]), exponent)


_LEAST_POINTS, _MOST_OFF_PCT = 5, 3.0  # four coefficients and one point to hold them against; a handbook's own scatter


def _table_of_points(section: Mapping[str, Any]) -> PowerTable:
    """Return the table that a handful of a handbook's points make: what the cylinders give goes with RPM times manifold pressure
    and grows with altitude, as the exhaust is less held back; what the engine itself takes goes with RPM (Heywood, Internal
    Combustion Engine Fundamentals, chapter 13). It reaches as far as the points do.

    Raises:
        ProfileError: there are too few points, they do not differ, or one is off what the others make.
    """
    rows = np.array(
        [[row[name] for name in ("palt_ft", "rpm", "map_inhg", "pct")] for row in section["points"]], dtype=float
    )
    palt, rpm, pressure, pct = rows.T
    features = np.column_stack([rpm * pressure, rpm, rpm * palt, np.ones_like(rpm)]) / (1e5, 1e3, 1e7, 1.0)
    if len(rows) < _LEAST_POINTS or np.ptp(rpm) == 0 or np.ptp(pressure) == 0 or np.ptp(palt) == 0:
        raise ProfileError(
            f"power.points: at least {_LEAST_POINTS} are needed, at two altitudes, two RPM and two manifold pressures."
        )
    made = np.linalg.lstsq(features, pct, rcond=None)[0]
    off = np.abs(features @ made - pct)
    if off.max() > _MOST_OFF_PCT:
        worst = int(off.argmax())
        raise ProfileError(
            f"power.points: point {worst + 1} is {off[worst]:.1f} % off what the others make. Is a figure mistyped?"
        )
    palt_ft, speeds, pressures = (np.linspace(values.min(), values.max(), 3) for values in (palt, rpm, pressure))
    grid = np.meshgrid(palt_ft, speeds, pressures, indexing="ij")
    on = np.stack([grid[1] * grid[2] / 1e5, grid[1] / 1e3, grid[1] * grid[0] / 1e7, np.ones_like(grid[0])], axis=-1)
    exponent = float(section.get("temperature_exponent", USUAL_TEMPERATURE_EXPONENT))
    friction_pct = float(section.get("friction_pct", _USUAL_FRICTION_PCT))
    return PowerTable(palt_ft, speeds, pressures, on @ made, friction_pct, exponent)


def check_chart(chart: Mapping[str, Any] | None, place: str, figures: str) -> None:
    """Raise ProfileError for a chart by altitude and temperature whose axes do not rise or do not fit its figures; `place` is where
    the profile has it, `figures` what they are called there."""
    if chart is None:
        return
    heights, temperatures = chart["palt_ft"], chart["oat_c"]
    for name, axis in (("palt_ft", heights), ("oat_c", temperatures)):
        if any(later <= before for before, later in pairwise(axis)):
            raise ProfileError(f"{place}.{name} must rise.")
    if len(chart[figures]) != len(heights) or any(len(row) != len(temperatures) for row in chart[figures]):
        raise ProfileError(f"{place}.{figures} must have a row for each altitude and a figure for each temperature.")


def _check_full_throttle(table: Mapping[str, Any] | None) -> None:
    """Raise ProfileError for a table of full-throttle manifold pressure whose axes do not rise or do not fit its figures."""
    if table is None:
        return
    for name in ("rpm", "palt_ft"):
        if any(later <= before for before, later in pairwise(table[name])):
            raise ProfileError(f"power.full_throttle.{name} must rise.")
    rows = table["map_inhg"]
    if len(rows) != len(table["rpm"]) or any(len(row) != len(table["palt_ft"]) for row in rows):
        raise ProfileError("power.full_throttle.map_inhg must have a row for each RPM and a figure for each altitude.")
