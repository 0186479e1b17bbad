"""A helicopter's manifold-pressure limit of the day, by pressure altitude and temperature, from the type's chart."""

from typing import Any

import numpy as np
from scipy.interpolate import RegularGridInterpolator

from ..aircraft import Profile


def map_limit_inhg(profile: Profile, palt_ft: float, oat_c: float) -> float | None:
    """Return the limit [inHg], interpolated in the chart and held at its edges; None where the type has none."""
    chart = profile.power_section.get("map_limit")
    if not chart:
        return None
    axes = [np.array(chart[name], dtype=float) for name in ("palt_ft", "oat_c")]
    table = RegularGridInterpolator(axes, np.array(chart["map_inhg"], dtype=float))
    point = [float(np.clip(v, axis[0], axis[-1])) for v, axis in zip((palt_ft, oat_c), axes, strict=True)]
    return float(table(point)[0])


def map_limit_chart(profile: Profile) -> dict[str, Any] | None:
    """Return the chart as lines to draw: manifold pressure by pressure altitude, one line for each temperature [°C]."""
    chart = profile.power_section.get("map_limit")
    if not chart:
        return None
    columns = np.array(chart["map_inhg"], dtype=float).T
    lines = [{"oat_c": t, "map_inhg": row.tolist()} for t, row in zip(chart["oat_c"], columns, strict=True)]
    return {"palt_ft": list(chart["palt_ft"]), "lines": lines}
