"""Exhaust gas temperature against mixture from chemical equilibrium, and the probes that show it late.

The curve is `cantera`'s: adiabatic flame temperature of a fuel with the hydrogen of aviation gasoline, smeared by the uneven
charge of an engine (each has its own), scaled to what an exhaust keeps of it. Probes have two poles.
"""

from functools import cache

import cantera as ct
import numpy as np
from scipy.signal import lfilter

from .engine import STEP_S

PHI = np.linspace(0.45, 1.95, 76)


@cache
def _flame_k() -> np.ndarray:
    """Return the adiabatic flame temperature [K] at each of PHI. cantera, GRI-3.0 thermodynamics, constant pressure."""
    gas = ct.Solution("gri30.yaml")
    found = []
    for phi in PHI:
        gas.set_equivalence_ratio(float(phi), "C3H8:0.6, C2H4:0.4", "O2:1.0, N2:3.76")
        gas.TP = 600.0, 20 * ct.one_atm
        gas.equilibrate("HP")
        found.append(gas.T)
    return np.array(found)


class Exhaust:
    """The exhausts of one engine: each cylinder's share of fuel, its level, how it rises on one magneto."""

    def __init__(self, rng: np.random.Generator, cylinders: int, scale: float = 1.0, spread: float = 0.035):
        self.richer = 1 + rng.uniform(-spread, spread, cylinders)
        width = float(rng.uniform(0.02, 0.09))
        nodes, weights = np.polynomial.hermite_e.hermegauss(9)
        smeared = sum(
            w * np.interp(PHI * (1 + width * x), PHI, _flame_k()) for x, w in zip(nodes, weights, strict=True)
        )
        self.curve_f = (smeared / weights.sum()) * 1.8 * float(rng.uniform(0.5, 0.68)) * scale
        self.curve_f -= self.curve_f.max()
        if rng.random() < 0.2:  # another shape: two straight lines and a corner, hardly rounded
            self.curve_f = _cornered(*rng.uniform(650, 1500, 2) * scale, float(rng.uniform(0.005, 0.03)))
        self.top_f = rng.uniform(1330, 1520) + rng.uniform(-45, 45, cylinders)
        common = rng.lognormal(np.log(85), 0.35)
        self.rises_f = {side: common * rng.lognormal(0, 0.25, cylinders) for side in ("L", "R")}
        self.dead: dict[str, int] = {}
        self.per_inhg_f = float(rng.uniform(3, 12))
        self.per_rpm_f = float(rng.uniform(0.05, 0.15))

    def settled_f(self, truth: dict[str, np.ndarray]) -> np.ndarray:
        """Return what each exhaust (cylinders, rows) settles at [°F]; a charge that does not burn leaves it to cool."""
        phi, side, rpm = truth["phi"], truth["side"], truth["rpm"]
        moved_f = (
            self.per_inhg_f * (truth["map_inhg"] - 22) + self.per_rpm_f * (rpm - 2200) + 0.6 * 1.8 * truth["warm_k"]
        )
        rows = []
        for k, richer in enumerate(self.richer):
            own = np.interp(np.clip(phi * richer, PHI[0], PHI[-1]), PHI, self.curve_f) + self.top_f[k]
            own = own + moved_f
            for name in ("L", "R"):
                rise = -220.0 if self.dead.get(name) == k else self.rises_f[name][k]
                own = own + np.where(side == name, rise, 0.0)
            rows.append(np.where(rpm > 300, 300 + (own - 300) * truth["burns"], 300.0))
        return np.array(rows)

    def peak(self, cylinder: int) -> tuple[float, float]:
        """Return (phi of the engine, °F below `top_f`) where this cylinder peaks."""
        fine = np.linspace(0.7, 1.4, 1401)
        at = int(np.argmax(np.interp(fine, PHI, self.curve_f)))
        return float(fine[at] / self.richer[cylinder]), float(self.curve_f.max())


def _cornered(rich_f: float, lean_f: float, round_phi: float) -> np.ndarray:
    """Return a curve [°F] at PHI of two slopes (°F a unit of relative fuel) about the stoichiometric peak."""
    off = PHI / 1.03 - 1
    return np.asarray(-np.where(off > 0, rich_f, lean_f) * (np.sqrt(off**2 + round_phi**2) - round_phi))


def shown_by_probe(settled_f: np.ndarray, first_s: float, second_s: float) -> np.ndarray:
    """Return what a probe with two poles shows of one exhaust's settled temperature (rows)."""
    out = settled_f
    for lag_s in (first_s, second_s):
        keep = np.exp(-STEP_S / lag_s)
        out, _ = lfilter([1 - keep], [1, -keep], out, zi=[keep * out[0]])
    return np.asarray(out)
