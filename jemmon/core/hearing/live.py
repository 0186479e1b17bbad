"""RPM by ear while the engine runs: tenth by tenth of a second, by what was heard so far and nothing later. Holds three seconds of
sound at the most.

Source: as of `hear`, with the forward half of the path and two windows more; what is waited for and the margin were fitted to
tests/strange/sound.py, seeds 1 to 4.
"""

from collections import deque
from dataclasses import dataclass
from typing import Literal

import numpy as np

from .comb import Engine, comb_of, orders_of, rpm_grid, scores_by
from .hear import (
    GAP_S,
    LEAST_MARGIN,
    LEAST_SCORE,
    LEAST_STRENGTH,
    NEEDLE_OFF,
    RATIOS,
    RUN_UP_RPM,
    SHORTEST_S,
    fingerprint,
)
from .others import NEAR_TAP_S, OtherEngines
from .path import lead, move_cost, stepped
from .refine import refined
from .spectra import HOP_S, RATE_HZ, UNSLEWED, WINDOW_S, at_4_khz, spectra_of
from .wav import SoundError

Why = Literal["no_tap", "noise", "other_speed", "other_engine", "gap"]

_BEFORE_TAP_S = 1.5  # of sound that shows this engine's own orders; fitted to tests/strange/sound.py, seed 123
HELD_S = 3.0  # of sound in memory: no more is kept of what is said in a cockpit
_HEARD_S = 0.9  # what the newest figure is worked out of
_BEHIND = 5  # windows back in which the path is straightened
# windows that are waited for before one is told: with them the path is far surer; fitted to tests/strange/sound.py, seeds 1 to 4
_LATER = 2
_MOST_SEEN = round(2 * NEAR_TAP_S / HOP_S)  # windows in which another engine is looked for
_ROWS_OF_FIGURE = 3  # windows whose middle is told: a quarter of a second
_LEAST_HZ, _MOST_HZ = 8_000, 192_000  # of a microphone's own rate (common practice)
_LONGEST_CHUNK_S = 1.0
_BRIDGED_S = 0.3  # an unsure moment no longer than this does not end what is told
_CLIPS = 0.98


@dataclass(frozen=True, slots=True, kw_only=True)
class HeardNow:
    """What is heard at this moment: RPM and its plus-or-minus (None where it is unsure, and `why`), how long before the end of the
    sound the figure lies [s], how loud the sound is [dB below full], whether it is cut off."""

    rpm: float | None = None
    plus_minus_rpm: float | None = None
    why: Why | None = "no_tap"
    behind_s: float = 0.0
    level_db: float = -90.0
    clips: bool = False


@dataclass(frozen=True, slots=True)
class _Window:
    """One window along the path: its refined RPM and error, whether it is sure."""

    rpm: float
    error_rpm: float
    sure: bool


@dataclass(frozen=True, slots=True)
class _Step:
    """One window of the Viterbi path, each of shape (speeds,): the best score of any path to each place, where that comes from, the
    window's own score; and whether no sound of it was lost."""

    ways: np.ndarray
    came: np.ndarray
    score: np.ndarray
    is_whole: bool


class LiveEar:
    """Hears one engine. `take` each chunk of the microphone in turn, `tap` when the needle was read."""

    def __init__(self, engine: Engine):
        self._engine = engine
        self._raw, self._rate_hz = np.zeros(0, dtype=np.float32), 0
        self._next: int | None = None
        self._waiting, self._gap_left = 0, 0
        self._levels: deque[np.ndarray] = deque(maxlen=round(_BEFORE_TAP_S / HOP_S))
        self._followed: _Followed | None = None
        self.now = HeardNow()

    def take(self, samples: np.ndarray, rate_hz: int, number: int) -> HeardNow:
        """Take a chunk of samples (shape (n,), -1 to 1) at a rate [Hz], the `number`-th; one that is missing leaves a gap, one that
        comes late or twice is dropped. Raises SoundError for another rate or length than a microphone gives."""
        if not _LEAST_HZ <= rate_hz <= _MOST_HZ or not 0 < len(samples) <= _LONGEST_CHUNK_S * rate_hz:
            raise SoundError(f"A chunk is at most {_LONGEST_CHUNK_S:.0f} s of sound at {_LEAST_HZ:,} Hz or more.")
        if rate_hz != self._rate_hz:
            self._raw, self._rate_hz, self._next = np.zeros(0, dtype=np.float32), rate_hz, None
            self._waiting, self._gap_left = 0, 0
        if self._next is not None and number < self._next:
            return self.now
        missing = 0 if self._next is None else min(number - self._next, round(HELD_S / HOP_S))
        self._next = number + 1
        for _ in range(missing):
            self._append(np.zeros_like(samples), is_lost=True)
        self._append(samples, is_lost=False)
        return self.now

    def tap(self, rpm: float) -> None:
        """Say what the needle shows now [RPM]: from here on the speed is followed."""
        levels = np.stack(self._levels) if self._levels else np.empty((0, 1, 1))
        self._followed = _Followed(self._engine, rpm, levels) if self._levels else None
        self.now = HeardNow(why="noise" if self._followed else "no_tap", level_db=self.now.level_db)

    def _append(self, samples: np.ndarray, *, is_lost: bool) -> None:
        keep = round(HELD_S * self._rate_hz)
        self._raw = np.concatenate([self._raw, samples.astype(np.float32)])[-keep:]
        self._gap_left = round(WINDOW_S * self._rate_hz) if is_lost else max(self._gap_left - len(samples), 0)
        self._waiting += len(samples)
        hop = round(HOP_S * self._rate_hz)
        while self._waiting >= hop:
            self._waiting -= hop
            self._hop(samples)

    def _hop(self, newest: np.ndarray) -> None:
        loud = float(np.sqrt(np.mean(newest**2))) if newest.size else 0.0
        level_db = max(20 * float(np.log10(max(loud, 1e-5))), -90.0)
        clips = bool(newest.size and np.mean(np.abs(newest) > _CLIPS) > 0.01)
        end = len(self._raw) - self._waiting
        part = self._raw[max(end - round(_HEARD_S * self._rate_hz), 0) : end]
        sound = at_4_khz(part, self._rate_hz)
        size = int(WINDOW_S * RATE_HZ)
        if len(sound) < size:
            return
        is_whole = self._gap_left == 0
        levels = spectra_of(sound[-size:]).levels[:1]
        if is_whole:
            self._levels.append(levels[0])
        if self._followed is None:
            self.now = HeardNow(why="no_tap", level_db=level_db, clips=clips)
            return
        rpm, off, why = self._followed.follow(sound, levels, is_whole=is_whole)
        behind_s = WINDOW_S / 2 + HOP_S * (_LATER + _ROWS_OF_FIGURE // 2)
        self.now = HeardNow(rpm=rpm, plus_minus_rpm=off, why=why, behind_s=behind_s, level_db=level_db, clips=clips)


class _Followed:
    """The speed from a tap on."""

    def __init__(self, engine: Engine, tap_rpm: float, levels: np.ndarray):
        self._rpm = rpm_grid(max(1.0, tap_rpm / RUN_UP_RPM))
        self._logs = np.log(self._rpm)
        self._orders, weights = orders_of(engine, tap_rpm)
        self._weights = fingerprint(levels, tap_rpm, self._orders, weights)
        self._comb = comb_of(levels.shape[-1], self._rpm, self._orders, self._weights)
        self._cost = move_cost(self._logs)
        self._others = [np.abs(self._logs[:, None] - self._logs - np.log(r)).argmin(axis=0) for r in RATIOS]
        held = np.abs(self._logs - np.log(tap_rpm)) > NEEDLE_OFF
        before = scores_by(levels, self._comb)
        score = before[-1]
        self._others_heard = OtherEngines(engine, tap_rpm, self._rpm, levels.shape[-1])
        for window, own in zip(levels[:, UNSLEWED], np.where(held, -1e3, before).argmax(axis=1), strict=True):
            self._others_heard.add(window, float(self._rpm[own]))
        self._is_another, self._tap_log = self._others_heard.near(), float(np.log(tap_rpm))
        first = _Step(ways=np.where(held, -1e3, score), came=np.arange(len(score)), score=score, is_whole=True)
        self._steps: deque[_Step] = deque([first], maxlen=_BEHIND + _LATER)
        self._newest: deque[_Window] = deque(maxlen=round(SHORTEST_S / HOP_S))
        self._unsure_s, self._is_joined, self._has_told = 0.0, True, False
        self._lead_over_others: list[float] = []

    def follow(
        self, sound: np.ndarray, levels: np.ndarray, *, is_whole: bool
    ) -> tuple[float | None, float | None, Why | None]:
        """Return (RPM, plus-or-minus, why not) after one more window, the last half second of a sound at 4 kHz. What is told lies
        `_LATER` windows back, so that those after it speak too."""
        score = scores_by(levels, self._comb)[0] if is_whole else np.zeros(len(self._rpm))
        ways, came = stepped(self._steps[-1].ways, score, self._cost)
        self._steps.append(_Step(ways=ways - ways.max(), came=came, score=score, is_whole=is_whole))
        if len(self._steps) <= _LATER:
            return None, None, "noise"
        told = self._steps[-1 - _LATER]
        path = self._path()
        if not all(step.is_whole for step in list(self._steps)[-1 - _LATER :]):
            self._newest.append(_Window(float(self._rpm[path[-1 - _LATER]]), 0.0, sure=False))
            return self._told("gap")
        times = len(sound) / RATE_HZ - WINDOW_S / 2 - HOP_S * np.arange(len(path) - 1, -1, -1)
        fine = refined(sound, times[times >= 0], self._rpm[path[times >= 0]], self._orders, self._weights)
        place = int(path[-1 - _LATER])
        is_sure = (
            fine.strength[-1 - _LATER] > LEAST_STRENGTH
            and lead(self._through(), self._logs, place) > LEAST_MARGIN
            and told.score[place] > LEAST_SCORE
        )
        if is_sure and abs(self._logs[path[-1]] - self._tap_log) < NEEDLE_OFF and len(self._others_heard) < _MOST_SEEN:
            self._others_heard.add(levels[0, UNSLEWED], float(self._rpm[path[-1]]))
            self._is_another = self._others_heard.near()
        if self._is_another[place]:
            self._newest.append(_Window(float(self._rpm[place]), 0.0, sure=False))
            return self._told("other_engine")
        rpm, error_rpm = float(fine.rpm[-1 - _LATER]), float(fine.error_rpm[-1 - _LATER])
        self._newest.append(_Window(rpm, error_rpm, sure=bool(is_sure)))
        self._lead_over_others.append(float(told.score[place] - max(told.score[o[place]] for o in self._others)))
        return self._told("noise")

    def _through(self) -> np.ndarray:
        """Return the best score of any path through each place of the window that is told, to the newest."""
        *_, told = steps = list(self._steps)[-1 - _LATER :][::-1]
        after = steps[0].score
        for step in steps[1:]:
            after, _ = stepped(after, step.score, self._cost)
        return np.asarray(told.ways + after - told.score)

    def _path(self) -> np.ndarray:
        """Return the places of the last windows on the best path, the oldest first."""
        path = [int(self._steps[-1].ways.argmax())]
        for step in list(self._steps)[:0:-1]:
            path.append(int(step.came[path[-1]]))
        return np.array(path[::-1][-_BEHIND - _LATER :])

    def _told(self, why: Why) -> tuple[float | None, float | None, Why | None]:
        """Return what is told after the newest window: nothing before half a second is sure, and what is not joined to the tap only
        where it beats every speed of another ratio."""
        if not self._newest[-1].sure:
            self._unsure_s += HOP_S
            self._is_joined = self._is_joined and self._unsure_s <= GAP_S
            self._lead_over_others.clear()
            return None, None, why
        is_new = self._unsure_s > _BRIDGED_S or not self._has_told
        if is_new and (
            len(self._newest) < round(SHORTEST_S / HOP_S) or not all(window.sure for window in self._newest)
        ):
            return None, None, why
        if not self._is_joined:
            if float(np.mean(self._lead_over_others)) < LEAST_MARGIN:
                return None, None, "other_speed"
            self._is_joined = True
        self._unsure_s, self._has_told = 0.0, True
        few = [window for window in list(self._newest)[-_ROWS_OF_FIGURE:] if window.sure]
        off = max(1.0, 2 * float(np.median([window.error_rpm for window in few])))
        return float(np.median([window.rpm for window in few])), off, None
