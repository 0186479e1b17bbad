"""Scripted needles in real time, or faster, for an aircraft without a simulated engine."""

from collections.abc import Callable, Mapping
from typing import Any, ClassVar

from ..core.aircraft.phases import PhaseKind
from ..core.screen.cockpit import FeedFacts
from ..core.trace.sample import Sample
from .clock import steady_s
from .feed import OnSample, OwnThread

TICK_S = 0.1
_ASLEEP_S = 5.0
Needles = Callable[[PhaseKind, float, Mapping[str, float], float], dict[str, float]]


class ScriptedFeed(OwnThread):
    """Plays needles that follow the phase. `move` gives them: (kind of phase, seconds in it, needles, dt) -> needles."""

    about: ClassVar[FeedFacts] = FeedFacts(
        kind="scripted",
        is_drawn=False,
        is_sped=True,
        says="No simulated engine yet for this aircraft: its needles are scripted and no lever moves them.",
        no_levers="This aircraft has no simulated engine yet: its needles are scripted, and no lever moves them.",
    )

    def __init__(
        self,
        on_sample: OnSample,
        phase_kind: Callable[[], PhaseKind],
        needles: Mapping[str, float],
        move: Needles,
        speed: int = 1,
    ):
        self._on_sample, self._phase_kind, self._move = on_sample, phase_kind, move
        self._needles = dict(needles)
        self._in_phase, self._phase_s = phase_kind().name, 0.0
        super().__init__("scripted needles")
        self.speed, self.at_s = speed, 0.0

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

    def _turn(self) -> None:
        before_s = steady_s()
        if not self._stop.wait(TICK_S):
            slept_s = steady_s() - before_s - TICK_S
            self.at_s = round(self.at_s + (slept_s if slept_s > _ASLEEP_S else 0.0), 3)
            self._tick()

    def _tick(self) -> None:
        dt_s = TICK_S * self.speed
        kind = self._phase_kind()
        self._phase_s = 0.0 if kind.name != self._in_phase else self._phase_s + dt_s
        self._in_phase = kind.name
        self._needles = self._move(kind, self._phase_s, self._needles, dt_s)
        self.at_s = round(self.at_s + dt_s, 3)
        self._on_sample(Sample(at_s=self.at_s, readings=dict(self._needles)))
