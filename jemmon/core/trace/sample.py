"""One moment: what the needles show and where the levers stand."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from ..base.units import celsius
from .signals import SECOND, of_engine


@dataclass(frozen=True, slots=True, kw_only=True)
class Sample:
    """A moment of flight time [s]: readings by their names in core units (`oil_p_psi`, `e2_egt3_f`), levers from 0 to 1 by
    theirs, switches with positions as words (`mag`). What has no reading is left out."""

    at_s: float
    readings: Mapping[str, float] = field(default_factory=dict)
    levers: Mapping[str, float | str] = field(default_factory=dict)

    def of_engine(self, number: int) -> "Sample":
        """Return what belongs to one engine under its own names, with what both engines share."""
        return Sample(at_s=self.at_s, readings=of_engine(self.readings, number), levers=of_engine(self.levers, number))

    @property
    def known(self) -> dict[str, Any]:
        """Readings, what follows from them, and levers: everything that a list or a condition may ask for."""
        return {**with_hottest(self.readings), **self.levers}


def with_hottest(readings: Mapping[str, float]) -> dict[str, float]:
    """Return the readings [core units] with `cht_max_f` (and `e2_cht_max_f`), the hottest CHT [°F], where there is any."""
    made = dict(readings)
    for prefix in ("", SECOND):
        chts = [value for name, value in readings.items() if name.startswith(f"{prefix}cht")]
        if chts:
            made[f"{prefix}cht_max_f"] = max(chts)
    return made


def outside_c(readings: Mapping[str, float]) -> float | None:
    """Return the outside air temperature [°C] that the readings show, or None."""
    outside_f = readings.get("oat_f")
    return None if outside_f is None else celsius(outside_f)


def speed_of(readings: Mapping[str, float]) -> float | None:
    """Return one engine's speed [RPM, or percent of a type that shows percent], or None without a reading."""
    speed = readings.get("rpm", readings.get("rpm_pct"))
    return None if speed is None or not math.isfinite(speed) else speed
