"""Ice in the throat of a carburettor: cold from evaporating fuel and from the throttle plate, fed by the air's moisture.

It grows where the throat is below freezing and the air brings more water than ice lets lie; so it needs moist air, not
cold air (FAA SAIB CE-09-35). It melts where the throat is warm, and is drunk as water first. K, Pa, kg/kg.
"""

import math

from numba import njit

FREEZING_K = 273.15
CLOSES = 0.95  # of the throat, at most
_EVAPORATION_K = 17.0  # 18 to 25 K if all fuel evaporates; most of it does at the throat's walls
_FLOWING_SHARE = 0.03  # of the rated air: slower, as while cranking, hardly any fuel evaporates in the throat
_PLATE_CLOSED_K, _PLATE_OPEN_K = 22.0, 1.0  # expansion past the plate
_DRY_FROM_K, _STICKS_FROM_K = 241.0, 257.0  # very cold ice is dry and is blown through
_BLOWN_THROUGH = 0.002  # so much water [kg/kg] passes without settling
_GROWS_PER_KG_S = 0.16  # share of the throat a second, for each kg/kg of water beyond what ice lets lie
_MELTS_S, _MELTS_ALL_AT_K = 6.0, 22.0


@njit
def throat_k(intake_k, throttle, air_kg_s, p):
    """Return the temperature in the throat of a carburettor; an injected engine has no cold throat."""
    if p.fuel_injection != 0.0:
        return intake_k
    flowing = min(air_kg_s / (_FLOWING_SHARE * p.reference_air_flow_kg_s), 1.0)
    plate = _PLATE_OPEN_K + (_PLATE_CLOSED_K - _PLATE_OPEN_K) * max(1.0 - 1.4 * throttle, 0.0)
    return intake_k - (_EVAPORATION_K + plate) * flowing


@njit
def moisture_over_ice(temperature_k, pressure_pa):
    """Return the humidity ratio [kg/kg] at which air lays no more ice (Magnus formula over ice, WMO No. 8)."""
    t = temperature_k - FREEZING_K
    vapour_pa = 611.2 * math.exp(22.46 * t / (272.62 + t))
    return 0.622 * vapour_pa / max(pressure_pa - vapour_pa, 1.0)


@njit
def follow_ice(s, p, a, dt):
    """Let ice grow or melt in one step; leaves `ice` and the water that the engine drinks, `melt_water`."""
    melting = s.ice * min(max((s.carburettor_k - FREEZING_K) / _MELTS_ALL_AT_K, 0.0), 1.0) / _MELTS_S
    growing = 0.0
    if p.fuel_injection == 0.0 and s.carburettor_k < FREEZING_K and s.air_kg_s > 1e-4:
        over = a.humidity_ratio - moisture_over_ice(s.carburettor_k, a.pressure_pa)
        sticks = min(max((s.carburettor_k - _DRY_FROM_K) / (_STICKS_FROM_K - _DRY_FROM_K), 0.0), 1.0)
        growing = _GROWS_PER_KG_S * max(over - _BLOWN_THROUGH, 0.0) * sticks
    s.ice = min(max(s.ice + (growing - melting) * dt, 0.0), 1.0)
    s.melt_water += (melting - s.melt_water) * dt / 1.5
