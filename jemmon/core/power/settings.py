"""What to set: pairs of RPM and manifold pressure for a wanted power here, with fuel flow, endurance and range."""

from dataclasses import dataclass, replace

import numpy as np

from ..aircraft import Profile
from ..base.atmosphere import (
    ZERO_CELSIUS_K,
    standard_density_ratio,
    standard_pressure_pa,
    standard_temperature_c,
)
from ..base.units import PASCAL_PER_INHG
from .levers import map_allowed_inhg
from .percent import mixture_share, power_by_flow_pct, scaled_pct, temperature_share, wide_open_pct

_TAKES_OFF_FT = (-2_000.0, 20_000.0)  # pressure altitudes of a take-off (common practice)
# exponent of full power with density at one pressure altitude, where density goes with 1 / T (published: SAE J1349)
_POWER_WITH_DENSITY = 0.5
# what a standing aircraft gets of it, without and with a blower (common practice: ram is an inch or less, a blower multiplies it)
_STANDING_SHARE, _STANDING_BLOWN_SHARE = 0.965, 0.94
_INTAKE_LOSS = 0.035  # of the outside pressure, wide open (common practice: about an inch at sea level)
_LB_HP_H_BEST, _LB_HP_H_PEAK, _LB_PER_GAL = 0.47, 0.41, 6.0  # common practice; avgas about 6 lb a US gallon (ASTM D910)


@dataclass(frozen=True, slots=True, kw_only=True)
class Setting:
    """One way to set a power: RPM, manifold pressure [inHg] (None where the type has no gauge for it: a fixed pitch), fuel flow of
    one engine [US gal/h], hours and nautical miles of the fuel on board (None where not asked), hours until only the reserve is
    left, with what taxi and climb take, airspeed [kt], and a remark."""

    rpm: float
    map_inhg: float | None
    ff_gph: float
    tas_kt: float | None
    endurance_h: float | None
    range_nm: float | None
    remark: str
    to_reserve_h: float | None = None


def full_throttle_inhg(profile: Profile, rpm: float, palt_ft: float) -> float:
    """Return the manifold pressure [inHg] that full throttle still gives at a pressure altitude: by the profile's own table where
    it has one (a supercharged engine), else the outside less the intake's loss, which grows with RPM (common practice)."""
    table = profile.power_section.get("full_throttle")
    if table is not None:
        at_speeds = [float(np.interp(palt_ft, table["palt_ft"], row)) for row in table["map_inhg"]]
        return float(np.interp(rpm, table["rpm"], at_speeds))
    outside = standard_pressure_pa(palt_ft) / PASCAL_PER_INHG
    speed = rpm / float(profile.engine["rated_rpm"])
    return outside * (1 - _INTAKE_LOSS * speed**2)


def density_ratio(palt_ft: float, oat_c: float | None) -> float:
    """Return the density of the air at a pressure altitude [ft] and temperature [°C] as a share of that of the standard day at sea
    level; None is the standard temperature there. Ideal gas law (ICAO Doc 7488)."""
    share = standard_density_ratio(palt_ft)
    if oat_c is None:
        return share
    return share * (standard_temperature_c(palt_ft) + ZERO_CELSIUS_K) / (oat_c + ZERO_CELSIUS_K)


def static_share(profile: Profile, palt_ft: float | None, oat_c: float | None = None) -> float:
    """Return the static RPM at a pressure altitude [ft] and temperature [°C] as a share of that on the standard day at sea level;
    without a temperature the standard one there. Power falls with height by Gagg and Farrar (1934) and with warmth by SAE
    J1349; what a fixed pitch or a propeller on its stop takes goes with density, which falls faster with warmth, and with the
    cube of its speed: cold air slows it. 1 for a rotor, or where nothing is known."""
    if profile.engine["propeller"] == "rotor" or palt_ft is None or not np.isfinite(palt_ft):
        return 1.0
    height_ft = float(np.clip(palt_ft, *_TAKES_OFF_FT))
    known_c = oat_c if oat_c is not None and np.isfinite(oat_c) else None
    standard, here = standard_density_ratio(height_ft), density_ratio(height_ft, known_c)
    power = (1.132 * standard - 0.132) * (here / standard) ** _POWER_WITH_DENSITY
    return float((power / here) ** (1 / 3))


def static_least_rpm(profile: Profile, palt_ft: float | None, oat_c: float | None) -> float | None:
    """Return a type's least static RPM on a day of this pressure altitude [ft] and temperature [°C]: thin and cold air take some
    of it. The type's own figure where they take nothing, else to ten RPM, as tachometers are read, and never above it; None where
    the type has none."""
    least, share = profile.find_limit("static_min_rpm"), static_share(profile, palt_ft, oat_c)
    return least if least is None or share >= 1.0 else min(least, float(round(least * share, -1)))


def static_full_throttle_inhg(profile: Profile, rpm: float, palt_ft: float) -> float:
    """Return the manifold pressure [inHg] that full throttle gives an aircraft that stands, at an RPM and pressure altitude [ft].
    The profile's figures are those of flight: standing there is no ram, and a blower's intake is warm (common practice). What a
    regulator holds it holds on the ground too."""
    table = profile.power_section.get("full_throttle")
    outside = standard_pressure_pa(palt_ft) / PASCAL_PER_INHG
    if table is None:
        return full_throttle_inhg(profile, rpm, palt_ft) * _STANDING_SHARE
    by_altitude = np.array([full_throttle_inhg(profile, rpm, float(height)) for height in table["palt_ft"]])
    around = np.array([standard_pressure_pa(float(height)) / PASCAL_PER_INHG for height in table["palt_ft"]])
    return float(min(by_altitude.max(), (by_altitude / around).max() * outside * _STANDING_BLOWN_SHARE))


def settings_for(
    profile: Profile,
    pct: float,
    palt_ft: float,
    oat_c: float | None = None,
    side: str | None = None,
    offset_f: float | None = None,
    fuel_gal: float | None = None,
    wind_kt: float = 0.0,
) -> list[Setting]:
    """Return the pairs that the type allows for a percentage of rated power here, slow to fast; empty where nothing does.
    `wind_kt` along the way, tailwind positive. Power in percent, altitude in ft, temperature in °C."""
    table = profile.power
    if table is None:
        return []
    share = temperature_share(profile, palt_ft, oat_c) * mixture_share(side, offset_f)
    tas = cruise_tas_kt(profile, pct, palt_ft, oat_c)
    found = []
    for rpm in _speeds(profile, pct, palt_ft, oat_c):
        pressure = table.map_for(scaled_pct(profile, float(rpm), pct, 1 / share), float(rpm), palt_ft)
        if pressure is None or pressure > full_throttle_inhg(profile, float(rpm), palt_ft):
            continue
        most = map_allowed_inhg(profile, float(rpm))
        if most is not None and pressure > most or _is_avoided(profile, float(rpm)):
            continue
        shown = None if profile.engine["propeller"] == "fixed_pitch" else round(pressure, 1)
        flow = fuel_flow_gph(profile, pct, side, offset_f, float(rpm))
        hours = None if fuel_gal is None else fuel_gal / (flow * int(profile.engine["count"]))
        distance = None if hours is None or tas is None else hours * max(tas + wind_kt, 0.0)
        found.append(
            Setting(
                rpm=float(rpm),
                map_inhg=shown,
                ff_gph=round(flow, 1),
                tas_kt=None if tas is None else round(tas),
                endurance_h=None if hours is None else round(hours, 2),
                range_nm=None if distance is None else round(distance),
                remark="past the edge of the table" if table.is_beyond(float(rpm), pressure, palt_ft) else "",
            )
        )
    return _with_remarks(found)


def fixed_pitch_rpm(profile: Profile, pct: float, palt_ft: float, oat_c: float | None) -> float:
    """Return the RPM at which a fixed pitch takes a power [% of rated] at a pressure altitude [ft] and temperature [°C], to ten: it
    takes power with the cube of its speed and the density of the air (propeller law; McCormick, chapter 6)."""
    rated = float(profile.engine["rated_rpm"])
    return float(round(rated * (pct / 100 / density_ratio(palt_ft, oat_c)) ** (1 / 3), -1))


def _speeds(profile: Profile, pct: float, palt_ft: float, oat_c: float | None) -> list[float]:
    """Return the RPM that may be set for a power [% of rated] at a pressure altitude [ft] and temperature [°C]: a fixed pitch has
    one; a rotor turns at its governed speed alone; a governed propeller has all of the table, none below the type's least."""
    table, kind = profile.power, profile.engine["propeller"]
    assert table is not None
    rated = float(profile.engine["rated_rpm"])
    if kind == "fixed_pitch":
        rpm = fixed_pitch_rpm(profile, pct, palt_ft, oat_c)
        return [rpm] if table.rpm[0] <= rpm <= table.rpm[-1] else []
    if kind == "rotor":
        return [float(profile.engine.get("rpm_at_100_pct", rated))]
    least = max(table.rpm[0], profile.find_limit("cruise_min_rpm") or 0.0)
    return [float(rpm) for rpm in np.arange(np.ceil(least / 100) * 100, table.rpm[-1] + 1, 100)]


def _with_remarks(found: list[Setting]) -> list[Setting]:
    if len(found) < 2:
        return found
    saves = found[0].ff_gph < found[-1].ff_gph
    quiet = _remarked(found[0], "quietest, least fuel" if saves else "quietest")
    fast = _remarked(found[-1], "loudest, most fuel" if saves else "loudest")
    return [quiet, *found[1:-1], fast]


def _remarked(setting: Setting, remark: str) -> Setting:
    return replace(setting, remark=f"{remark}; {setting.remark}" if setting.remark else remark)


def _is_avoided(profile: Profile, rpm: float) -> bool:
    return any(low <= rpm <= high for low, high in profile.power_section.get("avoid_rpm", []))


def fuel_flow_gph(
    profile: Profile, pct: float, side: str | None = None, offset_f: float | None = None, rpm: float | None = None
) -> float:
    """Return the fuel flow [US gal/h] of a power at a mixture: lean of peak by the power of fuel flow, rich by a consumption
    between that at peak (0.41 lb/hp/h) and at best power (0.47 at 100 °F rich; Heywood, common practice). With an RPM, what
    the engine itself takes at it is counted: the same power costs less at a lower one."""
    if rpm is not None:
        pct = wide_open_pct(profile, pct, rpm)
    if side == "lean":
        return pct / power_by_flow_pct(profile, 1.0)
    compression = float(profile.engine["compression_ratio"])
    own, usual = (1 - c**-0.28 for c in (compression, 8.5))
    offset = 100.0 if offset_f is None or side is None else (0.0 if side == "peak" else offset_f)
    rate = float(np.interp(offset, [0, 100, 250], [_LB_HP_H_PEAK, _LB_HP_H_BEST, 0.60])) * usual / own
    return float(pct / 100 * float(profile.engine["rated_power_hp"]) * rate / _LB_PER_GAL)


def cruise_tas_kt(profile: Profile, pct: float, palt_ft: float, oat_c: float | None = None) -> float | None:
    """Return the true airspeed [kt] in cruise: that of the profile at 65 % and sea level, with the cube root of power, and of
    thinner air (power against drag of a cube of speed; common practice). Pressure altitude [ft], temperature [°C]."""
    base = profile.schedule.get("cruise_kt")
    if base is None or pct <= 0:
        return None
    sigma = density_ratio(palt_ft, oat_c)
    return float(base * (pct / 65.0) ** (1 / 3) * sigma ** (-1 / 3))
