"""The standard atmosphere, density altitude and humid air. What the air does to a carburettor is in bench/induction.

Altitudes are geopotential pressure altitudes in feet, temperatures °C, pressures Pa.
Source: ICAO Doc 7488 (the constants), U.S. Standard Atmosphere 1976, eq. 33a and 33b.
"""

import math

from .errors import check_range

SEA_LEVEL_PA = 101_325.0
SEA_LEVEL_K = 288.15
LAPSE_K_PER_FT = 0.0065 * 0.3048
TROPOPAUSE_FT = 11_000 / 0.3048
ZERO_CELSIUS_K = 273.15
GAS_CONSTANT_AIR = 287.05287  # J/(kg K)
G_M_S2 = 9.80665
PRESSURE_EXPONENT = G_M_S2 / (0.0065 * GAS_CONSTANT_AIR)
VAPOUR_TO_AIR_MASS = 0.62198  # molar mass of water over that of dry air


def standard_pressure_pa(pressure_altitude_ft: float) -> float:
    """Return the pressure [Pa] that defines this pressure altitude.

    Raises:
        OutOfRange: outside -2,000 to 36,089 ft.
    Source: ICAO Doc 7488.

    >>> round(standard_pressure_pa(5_000))
    84307
    """
    check_range("pressure altitude", pressure_altitude_ft, -2_000, TROPOPAUSE_FT, "ft")
    share = (standard_temperature_c(pressure_altitude_ft) + ZERO_CELSIUS_K) / SEA_LEVEL_K
    return float(SEA_LEVEL_PA * share**PRESSURE_EXPONENT)


def standard_temperature_c(pressure_altitude_ft: float) -> float:
    """Return the standard temperature [°C] at a pressure altitude (ISO 2533).

    Raises:
        OutOfRange: outside -2,000 to 36,089 ft.
    """
    check_range("pressure altitude", pressure_altitude_ft, -2_000, TROPOPAUSE_FT, "ft")
    return SEA_LEVEL_K - LAPSE_K_PER_FT * pressure_altitude_ft - ZERO_CELSIUS_K


def saturation_pressure_pa(temperature_c: float) -> float:
    """Return the vapour pressure [Pa] of water over a plane surface of water.

    Raises:
        OutOfRange: outside -60 to 60 °C.
    Source: Magnus form of WMO No. 8 (within 0.5 % from -40 to 50 °C).
    """
    check_range("temperature", temperature_c, -60, 60, "°C")
    return 611.2 * math.exp(17.62 * temperature_c / (243.12 + temperature_c))


def humidity_ratio(pressure_pa: float, dewpoint_c: float) -> float:
    """Return kg of water vapour per kg of dry air (by the molar masses of water and air; arithmetic)."""
    vapour_pa = saturation_pressure_pa(dewpoint_c)
    return VAPOUR_TO_AIR_MASS * vapour_pa / (pressure_pa - vapour_pa)


def air_density(pressure_pa: float, temperature_c: float, dewpoint_c: float | None = None) -> float:
    """Return the density [kg/m3] of air; dry where no dew point is given (the ideal-gas law; arithmetic)."""
    vapour_pa = 0.0 if dewpoint_c is None else saturation_pressure_pa(dewpoint_c)
    return (pressure_pa - (1 - VAPOUR_TO_AIR_MASS) * vapour_pa) / (GAS_CONSTANT_AIR * (temperature_c + ZERO_CELSIUS_K))


def standard_density_ratio(altitude_ft: float) -> float:
    """Return the density of the standard atmosphere at an altitude [ft] as a share of that at sea level (ICAO Doc 7488)."""
    here, sea = (air_density(standard_pressure_pa(h), standard_temperature_c(h)) for h in (altitude_ft, 0.0))
    return here / sea


def density_altitude_ft(pressure_altitude_ft: float, oat_c: float, dewpoint_c: float | None = None) -> float:
    """Return the altitude [ft] in the standard atmosphere at which the air is as dense as here.

    Raises:
        OutOfRange: the pressure altitude is not within -2,000 to 36,089 ft or the temperature not within -60 to 60 °C.
    Source: U.S. Standard Atmosphere 1976, eq. 33a, with the ideal gas law.

    >>> round(density_altitude_ft(5_000, 30))
    7801
    """
    check_range("outside air temperature", oat_c, -60, 60, "°C")
    density = air_density(standard_pressure_pa(pressure_altitude_ft), oat_c, dewpoint_c)
    ratio = density / (SEA_LEVEL_PA / (GAS_CONSTANT_AIR * SEA_LEVEL_K))
    return float(SEA_LEVEL_K / LAPSE_K_PER_FT * (1 - ratio ** (1 / (PRESSURE_EXPONENT - 1))))
