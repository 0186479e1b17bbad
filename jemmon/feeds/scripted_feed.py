"""Scripted needles in real time, or faster, for an aircraft without a simulated engine."""

from collections.abc import Callable, Mapping
from typing import Any

import numpy as np

from ..core.aircraft import Profile
from ..core.base.errors import ScriptError
from ..core.live.following import Now
from .bench_feed import TICK_S, Sample
from .feed import OwnThread

_NO_LEVERS = "This aircraft has no simulated engine yet: its needles are scripted, and no lever moves them."
Needles = Callable[[str, float, Mapping[str, float], float], dict[str, float]]


class ScriptedFeed(OwnThread):
    """Plays needles that follow the phase. `move` gives them: (phase, seconds in it, needles, dt) -> needles."""

    def __init__(
        self,
        profile: Profile,
        on_sample: Callable[[Sample], None],
        phase: Callable[[], str],
        needles: Mapping[str, float],
        move: Needles,
        speed: int = 1,
    ):
        self._on_sample, self._phase, self._move = on_sample, phase, move
        self._needles = dict(needles)
        self._in_phase, self._phase_s = profile.phases[0].id, 0.0
        super().__init__("scripted needles")
        self.speed, self.at_s = speed, 0.0

    @property
    def columns(self) -> tuple[str, ...]:
        """The trace columns of a row, without time_s."""
        return tuple(self._needles)

    def set_levers(self, levers: Mapping[str, float | str | bool]) -> None:
        """Refuse: there is no engine behind these needles."""
        raise ScriptError(_NO_LEVERS)

    def act(self, action: str, amount: float) -> None:
        """A stroke is kept as an event; no needle moves."""

    def set_fault(self, name: str, size: float) -> None:
        """Refuse: there is no engine behind these needles."""
        raise ScriptError(_NO_LEVERS)

    def state(self) -> dict[str, Any]:
        """Return all that `resume` needs."""
        return {
            "at_s": self.at_s,
            "speed": self.speed,
            "needles": self._needles,
            "phase": self._in_phase,
            "phase_s": self._phase_s,
        }

    def resume(self, body: Mapping[str, Any]) -> None:
        """Go on from a kept state."""
        self.at_s, self.speed = float(body["at_s"]), int(body["speed"])
        self._needles |= body["needles"]
        self._in_phase, self._phase_s = body["phase"], body["phase_s"]

    def _run(self) -> None:
        while not self._stop.wait(TICK_S):
            dt_s = TICK_S * self.speed
            phase = self._phase()
            self._phase_s = 0.0 if phase != self._in_phase else self._phase_s + dt_s
            self._in_phase = phase
            self._needles = self._move(phase, self._phase_s, self._needles, dt_s)
            self.at_s = round(self.at_s + dt_s, 3)
            row = np.array([self.at_s, *self._needles.values()])
            self._on_sample(Sample(Now(at_s=self.at_s, readings=dict(self._needles), levers={}), row))
