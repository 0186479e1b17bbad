"""Every limit that a profile may have: one row each, with its unit, its title and the range in which any piston aircraft's
figure lies. A name that has no row is refused at the door with the nearest that has one.

The ranges are wide (common practice across piston types); they catch 170 for 1,700, bar for psi, °C for °F.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from ..base.errors import ProfileError
from ..base.names import check_known


@dataclass(frozen=True, slots=True, kw_only=True)
class LimitRow:
    """What a limit is called, in which unit (of `base.units`), and between which figures it can lie (in that unit); `phase` is the
    part of a flight that it is read in, under which a page shows it."""

    name: str
    unit: str
    title: str
    lowest: float
    highest: float
    phase: str = ""


def _row(name: str, unit: str, title: str, lowest: float, highest: float) -> LimitRow:
    return LimitRow(name=name, unit=unit, title=title, lowest=lowest, highest=highest)


_GATED = {"oil_t": ("Oil temperature", 30, 300), "cht": ("CHT", 150, 560), "coolant_t": ("Coolant", 100, 300)}
_GATES = {"taxi": "taxi", "runup": "the run-up", "take_off": "take-off"}


def _gate_rows() -> list[LimitRow]:
    rows = []
    for signal, (title, lowest, highest) in _GATED.items():
        for gate, words in _GATES.items():
            rows.append(_row(f"{signal}_{gate}_min_f", "f", f"{title} for {words}, at least", lowest, highest))
            rows.append(_row(f"{signal}_{gate}_max_f", "f", f"{title} for {words}, at most", lowest, highest))
    return rows


def _of_sides(stem: str, unit: str, title: str, lowest: float, highest: float) -> list[LimitRow]:
    """The limit of both sides and, for a type whose sides differ, that of each."""
    sides = [
        _row(f"{stem}_{side}_{unit}", unit, f"{title}, {side} side", lowest, highest) for side in ("left", "right")
    ]
    return [_row(f"{stem}_{unit}", unit, title, lowest, highest), *sides]


_BY_PHASE: Mapping[str, tuple[LimitRow, ...]] = {
    "Start": (
        _row("rpm_firing_min", "rpm", "It has fired above", 15, 1_500),
        _row("starter_on_max_s", "s", "Starter on, at most", 3, 120),
        _row("starter_rest_s", "s", "Starter's rest", 5, 1_800),
        _row("volts_crank_min_v", "v", "Volts while cranking, at least", 5, 28),
        _row("prime_min_strokes", "", "Prime, at least (in the unit of its method)", 0, 60),
        _row("prime_max_strokes", "", "Prime, at most (in the unit of its method)", 0, 120),
        _row("oil_pressure_time_s", "s", "Oil pressure within", 5, 120),
        _row("oil_pressure_time_cold_s", "s", "Oil pressure within, in the cold", 5, 180),
        _row("oil_pressure_cold_below_c", "c", "Cold is below", -40, 20),
        _row("alt2_within_s", "s", "Second alternator in within", 5, 300),
        _row("alt2_cut_in_rpm", "rpm", "Second alternator cuts in at", 500, 6_000),
        _row("clutch_s", "s", "Rotor turns after the clutch within", 1, 120),
    ),
    "Warm-up and taxi": (
        _row("warm_up_min_rpm", "rpm", "Warm-up RPM, at least", 400, 2_800),
        _row("warm_up_max_rpm", "rpm", "Warm-up RPM, at most", 400, 3_500),
        *_gate_rows(),
        _row("idle_min_rpm", "rpm", "Idle, at least", 300, 2_200),
        _row("idle_max_rpm", "rpm", "Idle, at most", 300, 2_500),
    ),
    "Run-up": (
        _row("runup_rpm", "rpm", "Run-up RPM", 1_000, 5_000),
        _row("runup_band_rpm", "rpm", "Run-up RPM, within", 10, 400),
        *_of_sides("mag_drop_max", "rpm", "Magneto drop, at most", 25, 500),
        *_of_sides("mag_drop_min", "rpm", "Magneto drop, at least", 0, 150),
        _row("mag_difference_max_rpm", "rpm", "Difference of the drops, at most", 10, 300),
        _row("mag_restored_within_rpm", "rpm", "Back on both, RPM within", 5, 300),
        _row("burn_off_rpm", "rpm", "Burn-off RPM", 1_000, 5_000),
        _row("carb_heat_drop_min_rpm", "rpm", "Carburettor-heat drop, at least", 0, 300),
        _row("carb_heat_drop_max_rpm", "rpm", "Carburettor-heat drop, at most", 25, 600),
        _row("carb_heat_restored_within_rpm", "rpm", "Cold again, RPM within", 5, 300),
        _row("carb_heat_ice_gain_rpm", "rpm", "Ice: RPM ends above the first figure by", 5, 200),
        _row("prop_drop_rpm", "rpm", "Propeller cycle, RPM falls by about", 50, 1_500),
        _row("feather_check_rpm", "rpm", "Feathering check at", 700, 3_000),
        _row("feather_fall_min_rpm_s", "rpm", "Feathering, RPM falls a second by at least", 50, 1_500),
    ),
    "Take-off and cruise": (
        _row("static_min_rpm", "rpm", "Static RPM, at least", 1_500, 6_000),
        _row("static_max_rpm", "rpm", "Static RPM, at most", 1_500, 6_500),
        _row("cruise_min_rpm", "rpm", "RPM in cruise, at least", 1_000, 5_500),
        _row("lean_power_max_pct", "pct", "Leaned near peak at a power of at most", 20, 100),
        _row("lean_spread_max_gph", "gph", "Fuel flow between first and last peak, at most", 0.05, 10),
        _row("cht_act_f", "f", "CHT, act at", 150, 560),
        _row("carb_heat_below_rpm", "rpm", "Carburettor heat on below", 800, 5_000),
        _row("carb_air_min_f", "f", "Carburettor air, at least", 20, 120),
    ),
    "At all times": (
        _row("rpm_max", "rpm", "RPM, at most", 1_500, 7_000),
        _row("rpm_pct_max_pct", "pct", "Engine, at most", 20, 130),
        _row("map_max_inhg", "inhg", "Manifold pressure, at most", 10, 75),
        _row("rotor_min_pct", "pct", "Rotor, at least", 20, 130),
        _row("rotor_max_pct", "pct", "Rotor, at most", 20, 130),
        _row("rotor_horn_pct", "pct", "Low-rotor horn below", 20, 130),
        _row("oil_pressure_min_psi", "psi", "Oil pressure, at least", 3, 200),
        _row("oil_pressure_idle_min_psi", "psi", "Oil pressure at idle, at least", 3, 200),
        _row("oil_pressure_max_psi", "psi", "Oil pressure, at most", 3, 200),
        _row("oil_t_max_f", "f", "Oil temperature, at most", 100, 300),
        _row("cht_max_f", "f", "CHT, at most", 150, 560),
        _row("coolant_t_max_f", "f", "Coolant, at most", 100, 300),
        _row("tit_max_f", "f", "Turbine inlet, at most", 1_200, 1_900),
        _row("fuel_pressure_min_psi", "psi", "Fuel pressure, at least", 0.2, 90),
        _row("fuel_pressure_max_psi", "psi", "Fuel pressure, at most", 0.2, 120),
        _row("suction_min_inhg", "inhg", "Suction, at least", 2, 8),
        _row("suction_max_inhg", "inhg", "Suction, at most", 2, 8),
        _row("volts_min_v", "v", "Bus at rest, at least", 8, 33),
        _row("volts_charging_min_v", "v", "Bus while charging, at least", 8, 33),
        _row("volts_max_v", "v", "Bus, at most", 8, 33),
    ),
    "Shutdown": (
        _row("cht_shutdown_max_f", "f", "CHT before the cut-off, at most", 150, 560),
        _row("tit_shutdown_max_f", "f", "Turbine inlet before the cut-off, at most", 800, 1_600),
        _row("idle_before_shutdown_s", "s", "Idle before the cut-off for", 5, 1_200),
    ),
}
_ROWS = [replace(row, phase=phase) for phase, rows in _BY_PHASE.items() for row in rows]
LIMITS: Mapping[str, LimitRow] = {row.name: row for row in _ROWS}

# names of earlier formats that nothing reads: set aside when an old profile is read, with what became of them
GONE: Mapping[str, str] = {
    "egt_fall_dead_plug_f": "a plug that does not fire is judged by how the exhausts move against each other",
    "mag_drop_max_pct": "the drop is judged by mag_drop_max_rpm, shown in percent where the tachometer is",
    "lane_drop_max_rpm": "the drop of a lane is judged by mag_drop_max_rpm",
    "lane_rpm": "lanes are checked at runup_rpm",
    "inertia_energise_s": "the start method has energise_s",
}


def check_limits(figures: Mapping[str, float]) -> None:
    """Raise ProfileError where a limit has no row, or a figure that no piston aircraft's is."""
    for name, value in figures.items():
        check_known("limits", name, LIMITS, ProfileError)
        check_figure(name, value)


def check_figure(name: str, value: float) -> None:
    """Raise ProfileError where a limit's figure lies outside what any piston aircraft's is."""
    row = LIMITS[name]
    if not row.lowest <= value <= row.highest:
        raise ProfileError(
            f"Limit {name!r} is {value:g}; such figures lie within {row.lowest:g} to {row.highest:g}. Is the unit right?"
        )
