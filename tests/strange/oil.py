"""Oil as ASTM D341 says it thickens: the double logarithm of its viscosity falls with the logarithm of its temperature."""

from dataclasses import dataclass

import numpy as np

# kinematic viscosity [cSt] at 40 and 100 °C of a single-grade and a multigrade aviation oil (published data sheets of SAE 50 and
# 15W-50 oils, from memory)
GRADES_CST = {"SAE 50": (225.0, 19.5), "15W-50": (140.0, 19.0)}
_AT_C = (40.0, 100.0)
_RELIEVED_FROM_CST = 30.0  # a pump's leak is worth a third of its flow at idle with oil as thin as a hot single grade


def viscosity_cst(grade: str, oil_c: float) -> float:
    """Return the kinematic viscosity [cSt] (ASTM D341: log log (v + 0.7) = A - B log T)."""
    points = [np.log10(np.log10(cst + 0.7)) for cst in GRADES_CST[grade]]
    kelvin = [np.log10(at + 273.15) for at in _AT_C]
    slope = (points[1] - points[0]) / (kelvin[1] - kelvin[0])
    return float(10 ** (10 ** (points[0] + slope * (np.log10(oil_c + 273.15) - kelvin[0]))) - 0.7)


@dataclass(frozen=True, slots=True)
class Oil:
    """The oil of one engine: its grade, how warm it is [°F], and what its relief valve is set to [psi]."""

    grade: str
    oil_f: float
    relief_psi: float

    def pressure_psi(self, rpm: float) -> float:
        """Return the pressure [psi]: the pump's flow goes with speed, its leak with thinness, the valve holds the rest."""
        pumped = rpm / 500.0 * np.sqrt(viscosity_cst(self.grade, (self.oil_f - 32) / 1.8) / _RELIEVED_FROM_CST)
        return float(self.relief_psi * (1.0 - np.exp(-pumped)))


def draw_oil(rng: np.random.Generator) -> Oil:
    """Return the oil of an engine that is warm enough to be run up."""
    return Oil(str(rng.choice(list(GRADES_CST))), float(rng.uniform(110, 200)), float(rng.uniform(60, 80)))
