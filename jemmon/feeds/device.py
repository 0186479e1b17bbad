"""An engine instrument on TCP: connects, reads JSON Lines, comes back by itself when the cable was pulled.

Flight time follows the instrument's seconds; one that starts again at 0 is joined on. While nothing comes, flight time
goes on by the wall clock, so that no clock on the screen stops.
"""

import logging
import socket
import time
from collections.abc import Mapping
from dataclasses import replace
from typing import Any, ClassVar

from ..core.screen.cockpit import FeedFacts
from .device_lines import MOST_LINE_BYTES, sample_from
from .feed import OnSample, OwnThread

_AGAIN_AFTER_S = 1.0
_QUIET_S = 1.0
_log = logging.getLogger(__name__)


class DeviceFeed(OwnThread):
    """Samples from an instrument at an address."""

    about: ClassVar[FeedFacts] = FeedFacts(
        kind="device",
        is_drawn=True,
        is_sped=False,
        says="Live from the instrument.",
        says_old="No reading from the instrument. The needles are old; clocks run on. Jemmon looks for it again each second.",
        no_levers="These needles come from an instrument: the levers are in your aircraft.",
    )

    def __init__(self, on_sample: OnSample, host: str, port: int):
        super().__init__("device")
        self._on_sample, self._address = on_sample, (host, port)
        self.speed = 1
        self.is_connected = False
        self._at_s, self._offset_s, self._device_s = 0.0, 0.0, -1.0
        self._heard = time.monotonic()

    @property
    def at_s(self) -> float:
        """Flight time [s]: the instrument's while it speaks, the wall clock's when it has been quiet for a second."""
        quiet_s = time.monotonic() - self._heard
        return round(self._at_s + (quiet_s if quiet_s > _QUIET_S else 0.0), 3)

    @at_s.setter
    def at_s(self, value: float) -> None:
        self._at_s, self._heard = value, time.monotonic()

    def state(self) -> dict[str, Any]:
        """Return all that `resume` needs."""
        return {"at_s": self.at_s, "speed": 1}

    def resume(self, body: Mapping[str, Any]) -> None:
        """Go on from a kept time."""
        self.at_s = float(body["at_s"])

    def _run(self) -> None:
        while not self._stop.is_set():
            try:
                with socket.create_connection(self._address, timeout=_QUIET_S) as line:
                    self.is_connected = True
                    self._listen(line)
            except OSError:
                pass  # not there, or gone: the screen says that the readings are stale, and we try again
            self.is_connected = False
            self._stop.wait(_AGAIN_AFTER_S)

    def _listen(self, line: socket.socket) -> None:
        waiting = b""
        while not self._stop.is_set():
            try:
                data = line.recv(65_536)
            except TimeoutError:
                continue
            if not data:
                return
            *whole, waiting = (waiting + data).split(b"\n")
            for one in whole:
                self._take(one)
            if len(waiting) > MOST_LINE_BYTES:
                waiting = b""  # no instrument's line is so long

    def _take(self, line: bytes) -> None:
        told = sample_from(line)
        if told is None:
            return
        device_s = told.at_s
        if device_s < self._device_s or self._device_s < 0:
            self._offset_s = self.at_s - device_s  # it began, or began again: joined on where flight time is
        elif time.monotonic() - self._heard > _QUIET_S:
            self._offset_s = max(self._offset_s, self.at_s - device_s)
        self._device_s = device_s
        self.at_s = max(self._at_s, round(device_s + self._offset_s, 3))
        try:
            self._on_sample(replace(told, at_s=self._at_s))
        except Exception:  # a thread that dies silently would freeze the needles: say so and go on
            _log.exception("a sample of the instrument could not be taken")
