"""A drill on the simulated engine: what it begins with, the air over time, and what happens when."""

from collections.abc import Collection, Mapping
from typing import Any

import numpy as np

from ..bench import Bench
from ..bench.layout import ACTIONS
from ..bench.script import apply_step
from .conditions import holds
from .drill import Drill
from .flown import Happened

_LEVERS_MOVE_S = 0.02  # one step of the engine: a lever that is set is there after it
_AIR = ("palt_ft", "oat_c", "dewpoint_c", "ias_kt")


def actions_of(bench: Bench) -> tuple[str, ...]:
    """Return what hands do at once on this aircraft: each is counted in a column of its own name."""
    return (*ACTIONS, *(f"e2_{name}" for name in ACTIONS)) if bench.per_aircraft > 1 else tuple(ACTIONS)


class Stage:
    """Brings a drill's air and faults to a bench as time goes on. `play` is called with the needles of this moment, before the
    bench goes on. `happened` are the places of what happened before, where a flight goes on after a restart."""

    def __init__(self, drill: Drill, bench: Bench, happened: Collection[int] = ()):
        self._drill, self._bench = drill, bench
        self._air: dict[str, Any] = {}
        self._path_from_s: float | None = None if drill.path_from else 0.0
        self._waiting: list[tuple[int, float | None]] = [
            (n, None) for n in range(len(drill.happens)) if n not in happened
        ]
        self.happened: list[Happened] = []
        if drill.path:
            self._take_air(drill.path[0])
        self.tells = 0
        for step in drill.begins:
            self._do(step)
        bench.advance(max(drill.settle_s, _LEVERS_MOVE_S))

    def _do(self, step: Mapping[str, Any]) -> None:
        apply_step(self._bench, step, self._air)
        if "fuel_gal" in step:
            self._bench.set_fuel(step["fuel_gal"])

    def play(self, now_s: float, values: Mapping[str, Any]) -> None:
        """Do what is due at `now_s` [s] with these needles and levers. Raises DrillError for a signal that there is not."""
        self._fly_path(now_s, values)
        left: list[tuple[int, float | None]] = []
        for place, begun_s in self._waiting:
            step = self._drill.happens[place]
            since_s = self._begins_s(step, now_s, values) if begun_s is None else begun_s
            if since_s is None or now_s + 1e-9 < since_s + float(step.get("after_s", 0.0)):
                left.append((place, since_s))
                continue
            self._do(step)
            self.tells += "tell" in step
            self.happened.append(Happened(now_s, place, step))
        self._waiting = left

    @staticmethod
    def _begins_s(step: Mapping[str, Any], now_s: float, values: Mapping[str, Any]) -> float | None:
        """Return since when a step is due, or None while it is not."""
        if "at" in step:
            return float(step["at"]) if float(step["at"]) <= now_s + 1e-9 else None
        return now_s if bool(holds(step["when"], values)) else None

    def _fly_path(self, now_s: float, values: Mapping[str, Any]) -> None:
        path, begins = self._drill.path, self._drill.path_from
        if self._path_from_s is None and begins is not None and bool(holds(begins, values)):
            self._path_from_s = now_s
        if self._path_from_s is None or len(path) < 2:
            return
        at = now_s - self._path_from_s
        times = [float(point["at"]) for point in path]
        named = [name for name in _AIR if name in path[0]]
        self._take_air({name: float(np.interp(at, times, [p[name] for p in path])) for name in named})

    def _take_air(self, air: Mapping[str, float]) -> None:
        self._air.update({name: value for name, value in air.items() if name in _AIR})
        self._bench.set_air(**self._air)
