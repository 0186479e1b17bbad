"""Where the heat of the fuel goes, per kg of dry air, against the equivalence ratio.

Fitted to a crank-angle calculation with equilibrium chemistry; valid from 0.75 to 1.5, continued linearly outside.
The curves are smooth about stoichiometric because the mixture inside a cylinder is uneven (scatter about 0.08).
J per kg of air, K, Pa. Checked in tests/reference against an equilibrium calculation and handbook figures.
"""

import math

from numba import njit

HEAT_PER_KG_AIR_J = 2.93e6  # at stoichiometric: 0.0667 x 43.9 MJ/kg
_LEANEST, _RICHEST = -0.25, 0.50
_STEADY_TO, _STEADY_FROM = 0.95, 1.25  # between these mixtures cycles are alike
_REFERENCE_COMPRESSION = 8.5
_EFFICIENCY_EXPONENT = 0.28
_REFERENCE_EFFICIENCY = 1.0 - _REFERENCE_COMPRESSION**-_EFFICIENCY_EXPONENT


@njit
def _inside(u):
    return min(max(u, _LEANEST), _RICHEST)


@njit
def _work(u):
    u2 = u * u
    return 1.128e6 * (1.0731 + 0.451 * u - 0.7414 * math.sqrt(u2 + 0.0175) + 0.078 * u2)


@njit
def _wall(u):
    u2 = u * u
    return 0.4186e6 * (1.0625 + 0.5332 * u - 0.7324 * math.sqrt(u2 + 0.01334) - 0.2981 * u2)


@njit
def _unburnt(u):
    u2 = u * u
    heat = -0.1067 + 0.6683 * u + 1.0929 * math.sqrt(u2 + 0.0186) - 0.5982 * u2 + 0.022 * (1.0 + u)
    return HEAT_PER_KG_AIR_J * max(heat, 0.0)


@njit
def _continued(curve, u):
    edge = _inside(u)
    if edge == u:
        return curve(u)
    step = 0.01 if edge < 0 else -0.01
    return curve(edge) + (u - edge) * (curve(edge + step) - curve(edge)) / step


@njit
def work_curve(equivalence_ratio):
    """Return the work on the piston [J per kg air] at the reference compression: both plugs, no dilution."""
    return max(_continued(_work, equivalence_ratio - 1.0), 0.0)


@njit
def compression_gain(compression_ratio):
    """Return the work at a compression over that at the reference compression of 8.5."""
    return (1.0 - compression_ratio**-_EFFICIENCY_EXPONENT) / _REFERENCE_EFFICIENCY


@njit
def wall_curve(equivalence_ratio):
    """Return the heat into the cylinder's walls [J per kg air] at the reference speed and pressure."""
    return max(_continued(_wall, equivalence_ratio - 1.0), 0.0)


@njit
def wall_scale(rpm, manifold_pa):
    """Return what speed and manifold pressure make of the wall heat: less time at high speed, less surface for the mass."""
    return (max(rpm, 500.0) / 2700.0) ** -0.35 * (max(manifold_pa, 2e4) / 96e3) ** -0.2


@njit
def unburnt_heat(equivalence_ratio):
    """Return the heat that leaves as unburnt fuel [J per kg air]."""
    return max(_continued(_unburnt, equivalence_ratio - 1.0), 0.0)


@njit
def burn_share(equivalence_ratio):
    """Return how much of the charge burns: all of it within the limits, none well outside, rough between."""
    lean = min(max((equivalence_ratio - 0.58) / 0.14, 0.0), 1.0)
    rich = min(max((2.05 - equivalence_ratio) / 0.35, 0.0), 1.0)
    return lean * rich


@njit
def cyclic_scatter(equivalence_ratio):
    """Return how much the torque of one cylinder differs from cycle to cycle (standard deviation over mean): a hundredth near
    stoichiometric, a tenth towards either limit (Heywood 1988, chapter 9, from memory)."""
    lean = max(_STEADY_TO - equivalence_ratio, 0.0) / 0.25
    rich = max(equivalence_ratio - _STEADY_FROM, 0.0) / 0.45
    return 0.012 + 0.10 * (lean * lean + rich * rich)


@njit
def dilution(exhaust_pa, manifold_pa):
    """Return the factor that residual gas leaves of the work."""
    return 1.0 - 0.9 * max(0.01 + 0.05 * exhaust_pa / max(manifold_pa, 2e4) - 0.10, 0.0)


@njit
def exhaust_gas_enthalpy(temperature_k, equivalence_ratio):
    """Return the enthalpy of exhaust gas above 298 K [J per kg gas]."""
    above = temperature_k - 298.0
    return (1110.0 + 118.0 * (equivalence_ratio - 1.0)) * above + 0.116 * above * above


@njit
def exhaust_gas_temperature(enthalpy_j_kg, equivalence_ratio):
    """Return the temperature [K] of exhaust gas that carries this enthalpy: the inverse of `exhaust_gas_enthalpy`."""
    a = 1110.0 + 118.0 * (equivalence_ratio - 1.0)
    return 298.0 + (math.sqrt(a * a + 4.0 * 0.116 * max(enthalpy_j_kg, 0.0)) - a) / (2.0 * 0.116)
