"""The ear of a flight by hand: takes the microphone's chunks, keeps the heard speed and nothing of the sound."""

import threading
from collections.abc import Mapping

import numpy as np

from ..core.aircraft import Profile
from ..core.flight.events import Event
from ..core.flight.state import FlightState
from ..core.hearing.ear import engine_of_type
from ..core.hearing.live import LiveEar
from ..core.hearing.wav import SoundError
from ..core.judgement.judge import evidence_of
from ..core.judgement.registry import heard_kinds
from ..core.live.checks import follow_checks
from ..core.screen.ear import EarNow, ear_now, heard_readings
from ..core.trace.sample import Sample
from ..feeds.clock import steady_s
from .recorder import Recorder

_SILENT_S = 2.0  # a microphone that sent nothing for so long was closed
_FRESH_S = 1.5
_BEHIND_S = 1.0  # more than a network delays: the sound stood meanwhile
_JUDGE_EVERY_S = 1.0
_FULL, _TENTHS = 32_768, 10


class Listening:
    """Listens to one engine at a time. `recorder` keeps the speed; a rotor is refused with SoundError."""

    def __init__(self, profile: Profile, recorder: Recorder):
        self._profile, self._recorder = profile, recorder
        self._type = engine_of_type(profile)
        self._ear, self._engine = LiveEar(self._type), 1
        self._lock = threading.Lock()
        self._taken_s = self._judged_s = float("-inf")
        self._rpm: float | None = None
        self._told_s = self._begun_s = self._end_s = float("-inf")

    def take(self, data: bytes, rate_hz: int, number: int, now_s: float) -> EarNow:
        """Take tenths of a second of 16-bit samples, the first of them the `number`-th, at flight time `now_s` [s], and return what
        is heard. Raises SoundError."""
        if len(data) % 2:
            raise SoundError("A chunk is 16-bit samples; this one has half a sample.")
        samples = np.frombuffer(data, dtype="<i2").astype(np.float32) / _FULL
        size = int(rate_hz / _TENTHS + 0.5)  # as the browser rounds it: half a sample up
        tenths = [samples[start : start + size] for start in range(0, max(len(samples), 1), size)]
        if len(tenths) > _TENTHS:
            raise SoundError("A second of sound is taken at once at most.")
        for place, tenth in enumerate(tenths):
            said = self._take(tenth, rate_hz, number + place, now_s - (len(tenths) - 1 - place) / _TENTHS)
        return said

    def _take(self, samples: np.ndarray, rate_hz: int, number: int, now_s: float) -> EarNow:
        with self._lock:
            heard = self._ear.take(samples, rate_hz, number)
            self._taken_s = steady_s()
            self._end_s = self._sound_s(len(samples) / rate_hz, number, now_s)
            if heard.rpm is not None:
                self._rpm, self._told_s = heard.rpm, self._taken_s
                readings = heard_readings(self._profile, heard.rpm, self._engine)
                self._recorder.take(Sample(at_s=round(self._end_s - heard.behind_s, 2), readings=readings))
            return ear_now(self._profile, heard, self._engine)

    def _sound_s(self, length_s: float, number: int, now_s: float) -> float:
        """Return the flight time [s] at the end of a chunk: by its number, which no network delays; a sound that fell behind the
        clock began anew."""
        end_s = self._begun_s + (number + 1) * length_s
        if not now_s - end_s < _BEHIND_S:
            self._begun_s = now_s - (number + 1) * length_s
            return now_s
        return end_s

    def tap(self, rpm: float, engine: int) -> None:
        """Say what the needle of an engine shows now [RPM]."""
        with self._lock:
            self._engine = engine
            self._ear.tap(rpm)

    @property
    def is_on(self) -> bool:
        """Whether the microphone is open."""
        return steady_s() - self._taken_s < _SILENT_S

    def now(self) -> EarNow | None:
        """Return what is heard, or None where nobody listens."""
        with self._lock:
            return ear_now(self._profile, self._ear.now, self._engine) if self.is_on else None

    def readings(self) -> Mapping[str, float]:
        """Return the speed that was heard just now, as a reading."""
        with self._lock:
            is_fresh = steady_s() - self._told_s < _FRESH_S
            return heard_readings(self._profile, self._rpm, self._engine) if is_fresh else {}

    def forget(self) -> None:
        """Forget all sound, and the tap."""
        with self._lock:
            self._ear, self._rpm = LiveEar(self._type), None
            self._taken_s = float("-inf")

    def found(self, flight_id: str, state: FlightState) -> list[Event]:
        """Return the checks that were heard and not told yet; looks once a second."""
        if steady_s() - self._judged_s < _JUDGE_EVERY_S or (recent := self._recorder.recent()) is None:
            return []
        self._judged_s = steady_s()
        evidence = evidence_of(recent, self._profile, {})
        return follow_checks(flight_id, self._profile, state, evidence, heard_kinds())
