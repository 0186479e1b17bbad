"""An engine instrument on TCP: connects, reads JSON Lines, comes back by itself when the cable was pulled.

Flight time follows the instrument's seconds; one that starts again at 0 is joined on. While nothing comes, flight time
goes on by the wall clock, so that no clock on the screen stops.
"""

import socket
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any, ClassVar

from ..core.screen.cockpit import FeedFacts
from .clock import steady_s
from .device_lines import MOST_LINE_BYTES, sample_from
from .feed import OnSample, OwnThread

_AGAIN_AFTER_S = 1.0
_QUIET_S = 1.0
_GONE_AFTER_S = 5.0
_STEP_SLACK_S = 5.0
_MOST_AT_ONCE_BYTES, _MOST_LINES_AT_ONCE = 1_000_000, 20


@dataclass(frozen=True, slots=True, kw_only=True)
class Heard:
    """What a short trial heard of an instrument: whether anything answers at the address, and the readings of its first usable line
    by their names in the core."""

    is_there: bool
    readings: tuple[str, ...] = ()


def listen_once(host: str, port: int, patience_s: float = 3.0) -> Heard:
    """Return what an instrument says within a few seconds; raises nothing."""
    until_s, waiting, is_there = steady_s() + patience_s, b"", False
    try:
        with socket.create_connection((host, port), timeout=patience_s) as line:
            is_there = True
            while (left_s := until_s - steady_s()) > 0 and len(waiting) < _MOST_AT_ONCE_BYTES:
                line.settimeout(left_s)
                data = line.recv(MOST_LINE_BYTES)
                if not data:
                    break
                *whole, waiting = (waiting + data).split(b"\n")
                for told in filter(None, map(sample_from, whole)):
                    if told.readings:
                        return Heard(is_there=True, readings=tuple(sorted(told.readings)))
    except OSError:
        pass  # nobody there, or silent: that is the answer
    return Heard(is_there=is_there)


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
        self._at_s, self._offset_s = 0.0, 0.0
        self._device_s: float | None = None
        self._heard = self._moved = self._advanced = steady_s()
        self._stands = False

    @property
    def at_s(self) -> float:
        """Flight time [s]: the instrument's while it speaks, the wall clock's when it has been quiet for a second."""
        quiet_s = steady_s() - self._heard
        return round(self._at_s + (quiet_s if quiet_s > _QUIET_S else 0.0), 3)

    @at_s.setter
    def at_s(self, value: float) -> None:
        self._at_s, self._heard = value, steady_s()

    def state(self) -> dict[str, Any]:
        """Return all that `resume` needs."""
        return {"at_s": self.at_s, "speed": 1}

    def resume(self, body: Mapping[str, Any]) -> None:
        """Go on from a kept time."""
        self.at_s = float(body["at_s"])

    def _turn(self) -> None:
        try:
            with socket.create_connection(self._address, timeout=_QUIET_S) as line:
                self.is_connected = True
                self._listen(line)
        except OSError:
            pass  # not there, or gone: the screen says that the readings are stale, and we try again
        self.is_connected = False
        self._stop.wait(_AGAIN_AFTER_S)

    def _listen(self, line: socket.socket) -> None:
        """Read lines until the instrument closes, or says nothing for so long that it is gone."""
        waiting, heard_s = b"", steady_s()
        while not self._stop.is_set():
            try:
                data = line.recv(_MOST_AT_ONCE_BYTES)
            except TimeoutError:
                if steady_s() - heard_s > _GONE_AFTER_S:
                    return  # a cable that was pulled says nothing: ask again
                continue
            if not data:
                return
            heard_s = steady_s()
            *whole, waiting = (waiting + data).split(b"\n")
            if len(whole) > _MOST_LINES_AT_ONCE:
                whole = whole[-1:]  # too fast to follow: the newest wins
            for one in whole:
                self._take(one)
            if len(waiting) > MOST_LINE_BYTES:
                waiting = b""  # no instrument's line is so long

    def _take(self, line: bytes) -> None:
        told = sample_from(line)
        if told is None:
            return
        at_s = round(self._joined_s(told.at_s), 3)
        if at_s > self._at_s:
            self._advanced = steady_s()
        self.at_s = at_s
        self._on_sample(replace(told, at_s=self._at_s))

    def _joined_s(self, device_s: float) -> float:
        """Return the flight time [s] of a line that the instrument calls `device_s`. A step that no clock makes (back, or further
        than the wall clock and a little) and one after a pause is joined on where flight time is; where the instrument's seconds do
        not move while it speaks, the wall clock counts."""
        now_s = steady_s()
        passed_s = now_s - self._heard
        step_s = None if self._device_s is None else device_s - self._device_s
        if step_s == 0 and now_s - self._moved > _QUIET_S:
            self._stands = True
            return self._at_s + now_s - self._advanced
        here_s = self._at_s + now_s - self._advanced
        if step_s is None or not 0 <= step_s <= passed_s * self.speed + _STEP_SLACK_S or (self._stands and step_s > 0):
            self._offset_s = here_s - device_s
        elif passed_s > _QUIET_S:
            self._offset_s = max(self._offset_s, here_s - device_s)
        if step_s != 0:
            self._moved, self._stands = now_s, False
        self._device_s = device_s
        return max(self._at_s, device_s + self._offset_s)
