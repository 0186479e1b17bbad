"""How a type is started, as its profile says: what primes it and in which unit, where the levers stand, what turns it."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from .lists import Condition, conditions_from

DIRECT, INERTIA = "starter", "mesh"


@dataclass(frozen=True, slots=True, kw_only=True)
class StartMethod:
    """`unit` is strokes, seconds, shots or none; `primes` holds while a lever primes by itself (its seconds count);
    `throttle_is` is how much of the unit one full opening of the throttle adds; `turned_by` the lever that cranks.

    Words for the levers are the handbook's; `stops` is what stops this engine. `shows_cranking`: its tachometer shows the speed at
    which the starter turns it. `crank_s` is the cranking to expect, `energise_s` least and most of an inertia starter on the
    battery, `energise_ground_power_s` on ground power, `leans_above_ft` the density altitude above which a normally aspirated
    engine is not started full rich.
    """

    unit: str = "strokes"
    primer: str = "Primer"
    throttle: str = "Set for start"
    mixture: str = "Rich"
    pump: str = "As the type says"
    hot: str = "No prime; throttle a little open."
    flooded: str = "Mixture cut-off, throttle open, crank; as it fires mixture in, throttle to idle at once."
    primes: tuple[Condition, ...] = ()
    throttle_is: float = 0.0
    turned_by: str = DIRECT
    crank_s: tuple[float, float] = (1.0, 6.0)
    energise_s: tuple[float, float] | None = None
    energise_ground_power_s: tuple[float, float] | None = None
    leans_above_ft: float | None = None
    stops: str = "Mixture cut-off"
    shows_cranking: bool = False
    blades: int = 2
    gear_ratio: float = 1.0
    boils: bool = False

    @classmethod
    def from_json(cls, body: Mapping[str, Any] | None) -> "StartMethod":
        """Return the method that the profile's `start` section describes; the defaults of a hand primer without one."""
        if body is None:
            return cls()
        given = dict(body)
        for pair in ("crank_s", "energise_s", "energise_ground_power_s"):
            if pair in given:
                given[pair] = (float(given[pair][0]), float(given[pair][1]))
        if "primes" in given:
            given["primes"] = conditions_from(given["primes"], "`start`")
        return cls(**given)

    def is_priming(self, known: Mapping[str, Any]) -> bool:
        """Say whether a lever primes now, by readings and levers."""
        return bool(self.primes) and all(condition.holds(known) is True for condition in self.primes)
