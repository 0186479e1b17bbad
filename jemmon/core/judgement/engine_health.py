"""What may be behind a cylinder that differs from the others, likeliest first, with the test that distinguishes them.

EGT alone up: one plug fires. EGT and CHT up: a lean nozzle. CHT alone up: baffle or detonation (common practice). And what a
series of leanings says: a spread that grows, a cylinder that peaks ever earlier.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

_EGT_UP_F, _CHT_UP_F = 30.0, 20.0  # common practice
_LEAST_LEANINGS, _DRIFTS_BY = 3, 0.015  # of the fuel flow at peak (common practice)


@dataclass(frozen=True, slots=True)
class Cause:
    """What it may be, and the test for it."""

    what: str
    test: str


_PLUG = Cause(
    "a plug that does not fire", "Try each magneto: the one on which this cylinder's EGT falls names the plug."
)
_LEAN_NOZZLE = Cause(
    "a nozzle that gives too little", "Lean once more: this cylinder peaks first, at more fuel than before."
)
_LEAK = Cause("an intake leak", "Look whether it goes away at high manifold pressure; a leak shows most at idle.")
_BAFFLE = Cause("a baffle or its seal", "Richer changes little; have the baffles looked at on the ground.")
_DETONATION = Cause("detonation", "Richer and less power at once: its CHT falls within a minute.")
_PROBE = Cause("a probe", "Swap it with a neighbour's: the oddity goes with it.")


def causes(egt_up_f: float, cht_up_f: float) -> list[Cause]:
    """Return the causes in order of likelihood for a cylinder whose EGT and CHT stand so much above their usual place [°F]."""
    hot_gas, hot_head = egt_up_f > _EGT_UP_F, cht_up_f > _CHT_UP_F
    if hot_gas and hot_head:
        return [_LEAN_NOZZLE, _LEAK, _PROBE]
    if hot_gas:
        return [_PLUG, _LEAN_NOZZLE, _PROBE]
    if hot_head:
        return [_DETONATION, _BAFFLE, _PROBE] if egt_up_f < -_EGT_UP_F / 2 else [_BAFFLE, _DETONATION, _PROBE]
    return [_PROBE]


@dataclass(frozen=True, slots=True, kw_only=True)
class NozzleDrift:
    """A cylinder whose place among the others moved over a series of leanings, by so many percent, leaner above 0."""

    engine: int
    cylinder: int
    moved_pct: float
    say: str


def nozzle_drift(leanings: Sequence[Mapping[str, Any]], engine: int = 1, whose: str = "") -> tuple[NozzleDrift, ...]:
    """Return the cylinders whose place among the others moved over a series of `lean` findings (`measured`, in order of time):
    fuel flow at peak against the mean of all, first third against last third; leaner when it peaks at more fuel."""
    rows = []
    for measured in leanings:
        peaks = [
            peak for peak in measured.get("peaks") or [] if peak["ff_gph"] is not None
        ]  # by the exhausts alone: none
        flows = {int(p["cylinder"]): float(p["ff_gph"]) for p in peaks}
        if len(flows) >= 3:
            mean = float(np.mean(list(flows.values())))
            rows.append({cylinder: flow / mean - 1 for cylinder, flow in flows.items()})
    if len(rows) < _LEAST_LEANINGS:
        return ()
    third = max(len(rows) // 3, 1)
    found = []
    for cylinder in sorted(set.intersection(*(set(row) for row in rows))):
        moved = float(np.median([r[cylinder] for r in rows[-third:]]) - np.median([r[cylinder] for r in rows[:third]]))
        if abs(moved) > _DRIFTS_BY:
            way, then = ("leaner", "cleaned, and the intake looked at") if moved > 0 else ("richer", "looked at")
            say = f"Cylinder {cylinder} has become {abs(moved) * 100:.1f} % {way} against the others"
            say += f" over {len(rows)} leanings: have its nozzle {then}."
            drift = NozzleDrift(engine=engine, cylinder=cylinder, moved_pct=round(moved * 100, 1), say=whose + say)
            found.append(drift)
    return tuple(found)
