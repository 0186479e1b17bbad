"""Fuel into the air: a float carburettor, and the film that priming leaves in the intake.

Avgas: 0.72 kg/L, 43.9 MJ/kg, stoichiometric fuel/air 0.0667 (ASTM D910). Evaporation of the film follows the vapour
pressure of avgas, taken as exp(-3380 K / T), 38 to 49 kPa at 37.8 °C (ASTM D910).
"""

import math

from numba import njit

STOICHIOMETRIC_FUEL_AIR = 0.0667
FILM_TIME_AT_37_8_C_S = 10.0
VAPOUR_EXPONENT_K = 3380.0
_TEST_K = 310.95
SEA_LEVEL_DENSITY = 1.225
_CLOGGED = 0.33  # of its area, at size 1


@njit
def lever_fraction(lever, p):
    """Return the share of the full-rich fuel that the mixture lever lets through."""
    cutoff = p.mixture_cutoff_lever
    if lever <= cutoff:
        return 0.0
    opening = (lever - cutoff) / (1.0 - cutoff)
    gate = min(opening / 0.06, 1.0)
    return gate * (p.mixture_just_open_fraction + (1.0 - p.mixture_just_open_fraction) * opening)


@njit
def carburettor_fuel_air(density_kg_m3, throttle, mixture, air_kg_s, idle_trim, p):
    """Return the fuel/air ratio [kg/kg]: richer with altitude, enriched near full throttle and at idle."""
    full = min(max((throttle - p.enrichment_from_throttle) / 0.1, 0.0), 1.0)
    idle = min(max(2.0 - air_kg_s / p.enrichment_idle_air_kg_s, 0.0), 1.0)
    enrichment = 1.0 + p.enrichment_full_throttle * full + (p.enrichment_idle + idle_trim) * idle
    return p.fuel_air_base * math.sqrt(SEA_LEVEL_DENSITY / density_kg_m3) * lever_fraction(mixture, p) * enrichment


@njit
def injected_fuel_air(throttle, mixture, air_kg_s, idle_trim, p):
    """Return the fuel/air ratio of an injection that meters by the mass of air, enriched at high power and at idle."""
    full = min(max((throttle - p.enrichment_from_throttle) / 0.2, 0.0), 1.0)
    idle = min(max(2.0 - air_kg_s / p.enrichment_idle_air_kg_s, 0.0), 1.0)
    enrichment = 1.0 + p.enrichment_full_throttle * full + (p.enrichment_idle + idle_trim) * idle
    return p.fuel_air_base * lever_fraction(mixture, p) * enrichment


@njit
def nozzle_share(f, i, p):
    """Return what a clogged nozzle leaves its own cylinder of the fuel, and what the others get of it where one flow is divided."""
    own = 1.0 - _CLOGGED * f.clogged_nozzle[i]
    if p.fuel_injection == 0.0:
        return own
    return own * p.cylinders / nozzles_left(f, p)


@njit
def nozzles_left(f, p):
    """Return how many nozzles' worth of area is left."""
    area = 0.0
    for i in range(int(p.cylinders)):
        area += 1.0 - _CLOGGED * f.clogged_nozzle[i]
    return area


@njit
def metering_signal(rpm, p):
    """Return how much of its fuel the metering gives at this speed: little while cranking, all when running."""
    return min(rpm / p.metering_from_rpm, 1.0) ** 2


@njit
def drawn_while_cranking(rpm, metal_k):
    """Return the share of its fuel that a cranked carburettor gives as vapour: hardly any cold, most of it when warm."""
    return 0.75 * min(max((metal_k - 300.0) / 60.0, 0.0), 1.0) * min(rpm / 60.0, 1.0)


@njit
def nozzles_open(throttle, mixture, p):
    """Return the share (0 to 1) that mixture and throttle of a continuous injection let through without any air."""
    return lever_fraction(mixture, p) * min(throttle / 0.15, 1.0)


@njit
def cranking_film_kg(air_kg_s, metal_k):
    """Return the film from which a computer makes the vapour that this cranking air burns with at this metal."""
    wanted_kg_s = 1.1 * air_kg_s * STOICHIOMETRIC_FUEL_AIR
    return wanted_kg_s * FILM_TIME_AT_37_8_C_S / relative_vapour_pressure(metal_k)


@njit
def relative_vapour_pressure(temperature_k):
    """Return the vapour pressure of avgas over that at 37.8 °C."""
    return math.exp(-VAPOUR_EXPONENT_K * (1.0 / temperature_k - 1.0 / _TEST_K))


@njit
def film_evaporation_kg_s(film_kg, metal_k):
    """Return how fast a film [kg] of fuel on metal at this temperature turns to vapour."""
    return film_kg * relative_vapour_pressure(metal_k) / FILM_TIME_AT_37_8_C_S


@njit
def vaporised_share(head_k):
    """Return the share of the carburettor's fuel that reaches the cylinders as vapour: all of it once warm."""
    return min(0.86 + 0.14 * (head_k - 263.15) / 60.0, 1.0)
