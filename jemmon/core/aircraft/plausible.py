"""Limits that cannot be: a unit mistaken by a factor is refused at the door, with the range that such figures lie in.

The ranges are wide (common practice across piston types); they catch 170 for 1,700, bar for psi, °C for °F.
"""

from collections.abc import Mapping

from ..base.errors import ProfileError

# how a limit's name begins, how it ends, and the range that any piston aircraft's figure lies in
_RANGES: tuple[tuple[str, str, float, float], ...] = (
    ("oil_pressure_time", "_s", 5, 120),
    ("oil_pressure_cold_below", "_c", -40, 20),
    ("oil_pressure", "_psi", 3, 200),
    ("fuel_pressure", "_psi", 0.2, 90),
    ("oil_t", "_f", 30, 300),
    ("cht", "_f", 150, 560),
    ("coolant_t", "_f", 100, 300),
    ("tit", "_f", 1_200, 1_900),
    ("egt_fall", "_f", 5, 400),
    ("runup_rpm", "", 1_000, 5_000),
    ("static", "_rpm", 1_500, 6_000),
    ("rpm_max", "", 1_500, 7_000),
    ("idle", "_rpm", 300, 2_200),
    ("warm_up", "_rpm", 400, 2_800),
    ("mag_drop_max", "_rpm", 25, 500),
    ("mag_difference", "_rpm", 10, 300),
    ("map", "_inhg", 10, 75),
    ("suction", "_inhg", 2, 8),
    ("volts", "_v", 8, 33),
    ("starter_on", "_s", 3, 120),
    ("starter_rest", "_s", 5, 1_800),
    ("rpm_pct", "_pct", 20, 130),
    ("rotor", "_pct", 20, 130),
)


def check_plausible(limits: Mapping[str, float]) -> None:
    """Raise ProfileError where a limit lies outside what any piston aircraft's figure is."""
    for name, value in limits.items():
        for begin, end, low, high in _RANGES:
            if name.startswith(begin) and name.endswith(end):
                if not low <= value <= high:
                    raise ProfileError(
                        f"Limit {name!r} is {value:g}; such figures lie within {low:g} to {high:g}. Is the unit right?"
                    )
                break
