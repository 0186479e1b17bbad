"""The simulated engine in real time, or several times faster: a thread that steps the bench and hands samples on.

The bench itself knows no clock; here is the clock. A held switch is let go 1 s after its last renewal.
"""

import threading
import time
from collections.abc import Callable, Mapping
from dataclasses import asdict
from random import Random
from typing import Any, ClassVar

from ..core.aircraft import Profile
from ..core.aircraft.airframe import airframe_of
from ..core.aircraft.phases import PhaseKind
from ..core.base.errors import ScriptError
from ..core.bench import Bench, Sensors
from ..core.bench.faults import FAULT_SIZES
from ..core.bench.flight_path import next_flight_path
from ..core.bench.layout import LEVERS, STATE, parameters_from
from ..core.screen.cockpit import Cockpit, FeedFacts
from ..core.trace.sample import Sample
from .clock import steady_s
from .cockpit import HELD, cockpit_of
from .feed import OnSample, OwnThread
from .practice_faults import WaitingFault

_STEP_S = 0.25
TICK_S = 0.1
HELD_RELEASE_S = 1.0
_ASLEEP_S = 5.0


def check_bench(profile: Profile) -> None:
    """Raise ProfileError where the simulated engine of a profile lacks a constant, or has one out of range."""
    if profile.bench is not None:
        parameters_from(profile.bench)


class BenchFeed(OwnThread):
    """One bench, its sensors and its levers: a feed and an engine. Every public method may be called from any thread."""

    about: ClassVar[FeedFacts] = FeedFacts(kind="bench", is_drawn=True, is_sped=True)

    def __init__(
        self,
        profile: Profile,
        on_sample: OnSample,
        phase_kind: Callable[[], PhaseKind],
        seed: int = 1,
        oat_c: float = 15.0,
        speed: int = 1,
        on_given: Callable[[WaitingFault], None] = lambda fault: None,
    ):
        assert profile.bench is not None
        self._profile, self._on_sample, self._phase_kind = profile, on_sample, phase_kind
        self._lock = threading.RLock()
        self._bench = Bench(profile.bench)
        self._airframe = airframe_of(profile)
        self._oat_c, self._ias_kt, self._palt_ft = oat_c, 0.0, profile.flown_by["palt_ground_ft"]
        self._own: dict[str, float] = {"primer_unlocked": 0.0} if profile.bench["prime_stroke_g"] > 0 else {}
        self._set_air()
        self._bench.make_cold(luck=Random(seed).random())
        self._sensors = Sensors(self._bench, [seed])
        self._held_until: dict[str, float] = {}
        self._waiting: list[WaitingFault] = []
        self._on_given = on_given
        super().__init__("bench")
        self.speed = speed
        self.is_frozen = False
        self.at_s, self._due_s = 0.0, 0.0

    def start(self) -> None:
        """Begin to run."""
        self._due_s = steady_s()
        super().start()

    def cockpit(self) -> Cockpit:
        """Return the levers and switches as a screen lays them out."""
        return cockpit_of(self._profile)

    def set_levers(self, levers: Mapping[str, float | str | bool]) -> None:
        """Move levers. `primer_unlocked` and held switches (renewed) are handled here.

        Raises:
            ScriptError: no such lever or position; then none is moved.
        """
        with self._lock:
            before = self._bench.levers.copy()
            try:
                for name, value in levers.items():
                    if name in self._own:
                        self._own[name] = float(bool(value))
                    else:
                        self._bench.set_lever(name, value, ramp_s=0.25)
                    if name.removeprefix("e2_") in HELD:
                        self._held_until[name] = time.monotonic() + HELD_RELEASE_S if value else 0.0
            except ScriptError:
                self._bench.levers[:] = before
                raise

    def check_action(self, action: str, amount: float) -> None:
        """Raise ScriptError unless a hand can do this here (see `Bench.act`)."""
        with self._lock:
            self._bench.check_action(action)

    def act(self, action: str, amount: float) -> None:
        """Do what a hand does at once (see `Bench.act`); a hand primer stays unlocked until it is locked."""
        with self._lock:
            self._bench.act(action, amount)
            if action == "prime_strokes" and self._own:
                self._own["primer_unlocked"] = 1.0

    def set_fault(self, name: str, size: float) -> None:
        """Set a fault of the simulated engine. Raises ScriptError."""
        with self._lock:
            self._bench.set_fault(name, size)

    @property
    def waiting(self) -> tuple[WaitingFault, ...]:
        """The faults that wait for their time or height."""
        with self._lock:
            return tuple(self._waiting)

    def wait_with(self, fault: WaitingFault) -> None:
        """Set a fault when it is due. Raises ScriptError."""
        with self._lock:
            self._bench.check_fault(fault.name, fault.size)
            self._waiting.append(fault)

    def forget_waiting(self, place: int) -> None:
        """Let a fault that waits not come; none where there is no such place."""
        with self._lock:
            del self._waiting[place : place + 1]

    def _give_what_is_due(self, palt_ft: float) -> None:
        due = [one for one in self._waiting if one.is_due(self.at_s, palt_ft)]
        for one in due:
            self._waiting.remove(one)
            self._bench.set_fault(one.name, one.size)
            self._on_given(one)

    def state(self) -> dict[str, Any]:
        """Return all that `resume` needs, as plain data."""
        with self._lock:
            bench = self._bench
            return {
                "at_s": self.at_s,
                "speed": self.speed,
                "air": [self._oat_c, self._ias_kt, self._palt_ft],
                "own": dict(self._own),
                "levers": {name: bench.levers[name].tolist() for name in LEVERS},
                "engine": {name: bench.state[name].tolist() for name in STATE.names or ()},
                "faults": {name: bench.faults[name].tolist() for name in FAULT_SIZES.names or ()},
                "sensor_faults": dict(bench.sensor_faults[0]),
                "waiting": [asdict(one) for one in self._waiting],
            }

    def resume(self, body: Mapping[str, Any]) -> None:
        """Go on from a kept state: levers as left, starters released."""
        with self._lock:
            self.at_s, self.speed = float(body["at_s"]), int(body["speed"])
            self._oat_c, self._ias_kt, self._palt_ft = body["air"]
            self._own |= body.get("own", {})
            self._set_air()
            for part, kept in (
                ("levers", self._bench.levers),
                ("engine", self._bench.state),
                ("faults", self._bench.faults),
            ):
                for name, value in body[part].items():
                    if name in (kept.dtype.names or ()):
                        kept[name] = value
            self._bench.sensor_faults[0] |= body.get("sensor_faults", {})
            self._waiting = [WaitingFault(**one) for one in body.get("waiting", ())]
            self._bench.hold_levers()
            for name in HELD:
                self._bench.levers[name] = 0.0
            self._sensors = Sensors(self._bench, [int(self.at_s) + 7])

    def _set_air(self) -> None:
        above_ft = self._palt_ft - self._profile.flown_by["palt_ground_ft"]
        self._bench.set_air(palt_ft=self._palt_ft, oat_c=self._oat_c - 0.00198 * above_ft, ias_kt=self._ias_kt)

    def freeze(self, frozen: bool) -> None:
        """Let flight time stand, or go on: an instructor's wish."""
        self.is_frozen = frozen

    def _turn(self) -> None:
        self._due_s += TICK_S
        if not self.is_frozen:
            self._tick()
        behind_s = steady_s() - self._due_s
        if behind_s > _ASLEEP_S:  # the machine slept: that was flight time too, in which nothing was seen of the engine
            self.at_s = round(self.at_s + behind_s, 3)
        if behind_s > 1.0:
            self._due_s = steady_s()  # too slow for this speed: flight time simply runs slower
        self._stop.wait(max(-behind_s, 0.001))

    def _tick(self) -> None:
        flight_s = TICK_S * self.speed
        step_s = TICK_S if self.speed == 1 else min(_STEP_S, flight_s)
        for _ in range(max(round(flight_s / step_s), 1)):
            with self._lock:
                sample = self._next_sample(step_s)
            self._on_sample(sample)

    def _fly(self, dt_s: float) -> None:
        """Go on along the flight path, and set the air that is there."""
        power_w = float(self._bench.state["brake_w"].sum())
        self._ias_kt, self._palt_ft = next_flight_path(
            self._airframe, self._phase_kind(), power_w, self._ias_kt, self._palt_ft, dt_s, self._profile.flown_by
        )
        self._set_air()

    def _next_sample(self, dt_s: float) -> Sample:
        for name, until in self._held_until.items():
            if time.monotonic() > until:
                self._bench.set_lever(name, 0.0)
        self._fly(dt_s)
        self._bench.advance(dt_s)
        self.at_s = round(self.at_s + dt_s, 3)
        shown = self._sensors.read(dt_s)[0]
        readings = dict(zip(self._bench.channels, map(float, shown), strict=True))
        self._give_what_is_due(readings.get("palt_ft", self._palt_ft))
        readings["roughness"] = float(self._bench.roughness()[0])
        return Sample(at_s=self.at_s, readings=readings, levers={**self._bench.lever_positions(), **self._own})
