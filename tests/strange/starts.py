"""Starts of engines that want their prime by the fuel's distillation, not by one exponential; nothing of the bench, nothing of the
advice."""

from dataclasses import dataclass

import numpy as np

# ASTM D910 lets a tenth of avgas boil by 75 °C, half by 105, nine tenths by 135 (from memory); evaporating into the air that it
# burns with, it does so some 70 K colder (Bridgeman's equilibrium air distillation, from memory)
_BOILS_C = ((0.02, 0.10, 0.50, 0.90, 1.0), (45.0, 75.0, 105.0, 135.0, 165.0))
_INTO_AIR_K = 70.0
_LIGHT_ENDS = 0.03  # what evaporates whatever the cold: RVP of 38 to 49 kPa (ASTM D910)
_BURNS = (
    0.65,
    2.0,
)  # vapour of so many times stoichiometric takes fire (Heywood, chapter 4: 0.6 lean; rich from common practice)


def evaporates(metal_c: float) -> float:
    """Return the share of a prime that is vapour in an intake of this temperature [°C]."""
    shares, boils_c = _BOILS_C
    return float(max(np.interp(metal_c, np.array(boils_c) - _INTO_AIR_K, shares, left=0.0), _LIGHT_ENDS))


@dataclass
class Starter:
    """One engine: its prime for a good start at 15 °C in the type's unit, what one start differs from the next, how fast prime is
    carried away while it is cranked [s]."""

    rng: np.random.Generator
    needs_at_15_c: float
    differs: float
    leaves_s: float
    lies: float = 0.0

    def begin(self) -> None:
        """Stand until nothing is left in the intake."""
        self.lies = 0.0

    def try_once(self, added: float, metal_c: float, seconds: float) -> str:
        """Give prime and crank; return `fired`, `nothing` or `died` (it caught and was too rich to go on)."""
        self.lies += added
        share = self.lies / self.needs_at_15_c * evaporates(metal_c) / evaporates(15.0)
        richness = 1.15 * share * float(np.exp(self.rng.normal(0, self.differs)))
        self.lies *= float(np.exp(-seconds / self.leaves_s))
        if _BURNS[0] <= richness <= _BURNS[1]:
            return "fired"
        return "died" if richness > _BURNS[1] and self.rng.random() < 0.6 else "nothing"
