"""A helicopter's manifold-pressure limit of the day, by pressure altitude and temperature, from the type's chart."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.interpolate import RegularGridInterpolator

from ..aircraft import Profile


def map_limit_inhg(profile: Profile, palt_ft: float, oat_c: float) -> float | None:
    """Return the limit [inHg], interpolated in the chart and held at its edges; None where the type has none."""
    chart = profile.power_section.get("map_limit")
    return _read_off(chart, "map_inhg", palt_ft, oat_c) if chart else None


def never_exceed_kt(profile: Profile, palt_ft: float, oat_c: float) -> float | None:
    """Return the never-exceed speed of the day [kt] from the type's chart by pressure altitude [ft] and temperature [°C], held at
    its edges; None where the type has none."""
    chart = profile.body.get("never_exceed")
    return _read_off(chart, "kt", palt_ft, oat_c) if chart else None


def _read_off(chart: Mapping[str, Any], name: str, palt_ft: float, oat_c: float) -> float:
    axes = [np.array(chart[axis], dtype=float) for axis in ("palt_ft", "oat_c")]
    table = RegularGridInterpolator(axes, np.array(chart[name], dtype=float))
    point = [float(np.clip(v, axis[0], axis[-1])) for v, axis in zip((palt_ft, oat_c), axes, strict=True)]
    return float(table(point)[0])


@dataclass(frozen=True, slots=True, kw_only=True)
class MapLimitLine:
    """The limit [inHg] at one outside temperature [°C], by the altitudes of the chart."""

    oat_c: float
    map_inhg: tuple[float, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class MapLimitChart:
    """A type's limit of the day as lines to draw over pressure altitude [ft]."""

    palt_ft: tuple[float, ...]
    lines: tuple[MapLimitLine, ...]


def map_limit_chart(profile: Profile) -> MapLimitChart | None:
    """Return the chart as lines to draw: manifold pressure by pressure altitude, one line for each temperature [°C]."""
    chart = profile.power_section.get("map_limit")
    if not chart:
        return None
    columns = np.array(chart["map_inhg"], dtype=float).T
    rows = zip(chart["oat_c"], columns, strict=True)
    lines = tuple(MapLimitLine(oat_c=t, map_inhg=tuple(row.tolist())) for t, row in rows)
    return MapLimitChart(palt_ft=tuple(chart["palt_ft"]), lines=lines)
