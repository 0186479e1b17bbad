"""The simulated engine in a drill: it begins as the drill says, and what the drill does comes when it is due."""

from collections.abc import Callable, Collection
from dataclasses import dataclass, field

import numpy as np

from ..core.aircraft import Profile
from ..core.bench import Sensors
from ..core.drills import Drill
from ..core.drills.flown import Happened
from ..core.drills.stage import Stage
from ..core.trace import Trace
from ..core.trace.sample import Sample
from ..core.trace.signals import MAG_POSITIONS
from .bench import BenchFeed
from .feed import OnSample
from .practice_faults import WaitingFault

_REPLAY_STEP_S = 0.25


@dataclass(frozen=True)
class Flown:
    """A drill to be flown: what of it happened before a restart, and the flight of which it flies a moment again, up to
    `from_s` [s]."""

    drill: Drill
    seed: int
    happened: Collection[int] = field(default=())
    before: Trace | None = None
    from_s: float = 0.0


class DrillFeed(BenchFeed):
    """A bench feed whose air and faults a drill sets; `on_happened` is told what it did."""

    def __init__(
        self,
        profile: Profile,
        on_sample: OnSample,
        flown: Flown,
        on_happened: Callable[[Happened], None],
        speed: int,
        on_given: Callable[[WaitingFault], None] = lambda fault: None,
    ):
        kind = profile.kind_of(flown.drill.phase)
        super().__init__(profile, on_sample, lambda: kind, seed=flown.seed, speed=speed, on_given=on_given)
        self._on_happened = on_happened
        self._stage = Stage(flown.drill, self._bench, flown.happened)
        self._sensors = Sensors(self._bench, [flown.seed])
        self._told = 0
        if flown.before is not None:
            self._fly_again(flown.before, flown.from_s)

    def _set_air(self) -> None:
        """The drill sets it."""

    def _fly(self, dt_s: float) -> None:
        """The drill says where the aircraft is."""

    def _next_sample(self, dt_s: float) -> Sample:
        sample = super()._next_sample(dt_s)
        self._stage.play(sample.at_s, {**sample.readings, **sample.levers})
        for happened in self._stage.happened[self._told :]:
            self._on_happened(happened)
        self._told = len(self._stage.happened)
        return sample

    def _fly_again(self, before: Trace, until_s: float) -> None:
        """Bring the engine to where another flight of this drill was at `until_s` [s], by that flight's levers."""
        names = [name for name in self._bench.lever_names if name in before.columns]
        at_s = 0.0
        while at_s < until_s:
            row = int(np.searchsorted(before.time_s, at_s))
            if row >= len(before.time_s):
                break
            for name in names:
                value = before.columns[name][row]
                self._bench.set_lever(name, _position(value) if name.endswith("mag") else float(value))
            self._bench.advance(_REPLAY_STEP_S)
            at_s += _REPLAY_STEP_S
            readings = dict(zip(self._bench.channels, map(float, self._sensors.read(_REPLAY_STEP_S)[0]), strict=True))
            self._stage.play(at_s, {**readings, **self._bench.lever_positions()})
        self.at_s = at_s


def _position(value: object) -> str:
    return value if isinstance(value, str) else MAG_POSITIONS[int(float(str(value)))]
