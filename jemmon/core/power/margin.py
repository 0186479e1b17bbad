"""How near an engine is to detonation, and which mixtures to avoid at its power, for the eye beside the leaning. An estimate
from readings, for comparison only: no instrument shows it.
"""

from dataclasses import dataclass

import numpy as np

from ..aircraft import Profile
from ..base.detonation import delay_over_flame, end_gas, knock_delay_ms, octane_at
from ..base.units import PASCAL_PER_INHG
from .percent import mixture_share

# distance from peak EGT [°F], negative lean, and equivalence ratio (a crank-angle calculation; arithmetic, not published)
_OFFSETS_F = [-88.0, -45.0, 0.0, 15.0, 45.0, 105.0, 285.0]
_RATIOS = [0.85, 0.90, 1.00, 1.05, 1.10, 1.17, 1.45]
# common practice, but where it says otherwise
_CHARGE_WARMS_K, _USUAL_HEAD_F = 8.0, 300.0
_OCTANE, _HEAT_AT_BEST_POWER = 100.0, 1.09  # grade 100 (ASTM D910); the heat by the same arithmetic
_BAND_FROM_PCT, _RICH_EDGE_F, _RICH_PER_PCT, _LEAN_PER_PCT = 60.0, 40.0, 4.0, 3.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Band:
    """A stretch that is not left set, in the unit of its name: from the leaner end to the richer."""

    lean_end: float
    rich_end: float


def detonation_margin(
    profile: Profile, rpm: float, map_inhg: float, oat_f: float | None, head_f: float | None, side: str, offset_f: float
) -> float:
    """Return the knock delay over the flame's time at these readings: above 1 the charge burns in order (Douaud and Eyzat, in
    Heywood; from memory), on the fuel that the profile names, else avgas of grade 100."""
    charge_k = ((59.0 if oat_f is None else oat_f) + 459.67) / 1.8 + _CHARGE_WARMS_K
    head_k = ((_USUAL_HEAD_F if head_f is None else head_f) + 459.67) / 1.8
    ratio = float(np.interp(offset_f if side == "rich" else -offset_f, _OFFSETS_F, _RATIOS))
    heat = _HEAT_AT_BEST_POWER * mixture_share(side, offset_f)
    compression = float(profile.engine["compression_ratio"])
    peak_pa, end_k = end_gas(map_inhg * PASCAL_PER_INHG, charge_k, head_k, heat, compression)
    octane = octane_at(float(profile.engine.get("fuel_octane", _OCTANE)), ratio)
    return delay_over_flame(knock_delay_ms(octane, peak_pa, end_k), rpm)


def band_to_avoid(power_pct: float | None) -> tuple[float, float] | None:
    """Return how far [°F] rich of the first peak and lean of the last the mixture should not be left at a power: about 20 to 60 °F
    rich is hottest, and the band widens with power on both sides (common practice); None at low power."""
    if power_pct is None or power_pct < _BAND_FROM_PCT:
        return None
    over = power_pct - _BAND_FROM_PCT
    return _RICH_EDGE_F + _RICH_PER_PCT * over, _LEAN_PER_PCT * over
