"""Percent of rated power: by the table, corrected for temperature and mixture; and lean of peak by fuel flow.

Colder air gives more: about 1 % for 6 °C (common practice), or by the exponent that the type's book has. Away from best power the
mixture costs a share that follows its distance from peak EGT (Taylor, Heywood; common practice).
"""

from dataclasses import dataclass

import numpy as np

from ..aircraft import Profile
from ..base.atmosphere import ZERO_CELSIUS_K, standard_temperature_c

# distance from peak EGT [°F], negative lean of it, and power as a share of that at best power (arithmetic: a crank-angle
# calculation, held against another in tests/reference/test_combustion.py); the rest common practice, but where it says otherwise
_OFFSETS_F = np.array([-110.0, -90.0, -65.0, -45.0, -25.0, 0.0, 15.0, 30.0, 45.0, 75.0, 105.0, 200.0, 300.0])
_SHARES = np.array([0.815, 0.84, 0.868, 0.893, 0.925, 0.973, 0.988, 0.996, 1.0, 1.0, 0.997, 0.973, 0.945])
_DISAGREE_PCT = 5.0
_HP_PER_GPH_8_5, _USUAL_COMPRESSION = 14.9, 8.5  # lean of peak, throttle nearly open (common practice)
_EFFICIENCY_EXPONENT = 0.28
_FRICTION_EXPONENT, _FRICTION_WIDE_OPEN = 1.7, 0.15


@dataclass(frozen=True, slots=True, kw_only=True)
class PowerReading:
    """Percent of rated power by the table and (lean of peak) by fuel flow, None where not known; `disagree` says that the
    two stand far apart, `best` is the one to go by."""

    by_table_pct: float | None
    by_flow_pct: float | None
    best_pct: float | None
    disagree: bool
    say: str


def mixture_share(side: str | None, offset_f: float | None) -> float:
    """Return the power in the cylinders at a mixture as a share of that at best power; 1 where it is not known. The figures
    are those of brake power wide open, where friction takes about 15 %. Fitted to docs/bench.md's combustion model;
    tests/reference/test_combustion.py holds it against another."""
    if side not in ("rich", "lean", "peak"):
        return 1.0
    offset = 0.0 if side == "peak" or offset_f is None else (offset_f if side == "rich" else -offset_f)
    return float((np.interp(offset, _OFFSETS_F, _SHARES) + _FRICTION_WIDE_OPEN) / (1 + _FRICTION_WIDE_OPEN))


def power_by_table_pct(
    profile: Profile,
    rpm: float,
    map_inhg: float,
    palt_ft: float,
    oat_c: float | None = None,
    side: str | None = None,
    offset_f: float | None = None,
) -> float | None:
    """Return percent of rated power by the type's table, or None outside it or without one."""
    table = profile.power
    percent = None if table is None else table.percent(rpm, map_inhg, palt_ft)
    if percent is None:
        return None
    return scaled_pct(profile, rpm, percent, temperature_share(profile, palt_ft, oat_c) * mixture_share(side, offset_f))


def scaled_pct(profile: Profile, rpm: float, percent: float, share: float, friction_too: bool = False) -> float:
    """Return percent of rated power after the power in the cylinders changed by a share: friction stays what it was.
    `friction_too`: the percentage is that in the cylinders, from which friction is still to go."""
    friction = 0.0 if profile.power is None else profile.power.friction_pct
    friction *= (rpm / float(profile.engine["rated_rpm"])) ** _FRICTION_EXPONENT
    inside = percent if friction_too else percent + friction
    return float(inside * share - friction)


def wide_open_pct(profile: Profile, percent: float, rpm: float) -> float:
    """Return the percentage of rated power that takes the same fuel at rated RPM wide open, where friction takes about 15 %: the
    figures of consumption hold there, and friction falls with RPM. By the type's table."""
    if profile.power is None:
        return percent
    return (percent - scaled_pct(profile, rpm, 0.0, 0.0)) / (1 + _FRICTION_WIDE_OPEN)


def temperature_share(profile: Profile, palt_ft: float, oat_c: float | None) -> float:
    """Return power at a temperature as a share of that of the standard day."""
    if oat_c is None:
        return 1.0
    standard_k = standard_temperature_c(palt_ft) + ZERO_CELSIUS_K
    exponent = 0.5 if profile.power is None else profile.power.temperature_exponent
    return float((standard_k / (oat_c + ZERO_CELSIUS_K)) ** exponent)


def power_by_flow_pct(profile: Profile, ff_gph: float, rpm: float | None = None) -> float:
    """Return percent of rated power by fuel flow, lean of peak with the throttle nearly open: 14.9 hp for each US gal/h at a
    compression of 8.5 (common practice), scaled with the efficiency of other compressions. With an RPM, what the engine itself
    takes at it is counted, so that it holds when throttled too: power is affine in fuel flow."""
    compression = float(profile.engine["compression_ratio"])
    own, usual = (1 - c**-_EFFICIENCY_EXPONENT for c in (compression, _USUAL_COMPRESSION))
    percent = ff_gph * _HP_PER_GPH_8_5 * own / usual / float(profile.engine["rated_power_hp"]) * 100
    if rpm is None or profile.power is None:
        return float(percent)
    return scaled_pct(profile, rpm, percent * (1 + _FRICTION_WIDE_OPEN), 1.0, friction_too=True)


def read_power(
    profile: Profile,
    rpm: float,
    map_inhg: float,
    palt_ft: float,
    oat_c: float | None,
    ff_gph: float | None = None,
    side: str | None = None,
    offset_f: float | None = None,
) -> PowerReading:
    """Return the power as it can be known now. Lean of peak fuel flow counts too, and a large difference is said. RPM, inHg,
    ft, °C, gal/h in; percent of rated power out."""
    table = power_by_table_pct(profile, rpm, map_inhg, palt_ft, oat_c, side, offset_f)
    flow = power_by_flow_pct(profile, ff_gph, rpm) if side == "lean" and ff_gph is not None else None
    disagree = table is not None and flow is not None and abs(table - flow) > _DISAGREE_PCT
    best = table if table is not None else flow
    if best is None:
        say = "No power figure: outside the type's table."
    elif disagree:
        say = (
            f"{table:.0f} % by the table, {flow:.0f} % by fuel flow: they disagree. "
            "Lean again, or look after RPM, manifold pressure and flow."
        )
    elif table is not None and profile.power is not None and profile.power.is_beyond(rpm, map_inhg, palt_ft):
        say = "of rated power, past the edge of the table: carried on from there."
    else:
        say = f"of rated power, by {'the table' if table is not None else 'fuel flow'}."
    return PowerReading(by_table_pct=table, by_flow_pct=flow, best_pct=best, disagree=disagree, say=say)
