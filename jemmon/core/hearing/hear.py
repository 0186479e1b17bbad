"""RPM by ear. Without a needle that was read once there is no figure: no measure tells a wrong ratio, for two unequal banks really
sound like half the speed. From the tap on, the path of the speed is followed by its own lines.

Source: comb of orders and a Viterbi path are common practice of order tracking; the thresholds were fitted to the synthesiser of
tests/strange/sound.py, seeds 1 to 12.
"""

from dataclasses import dataclass

import numpy as np

from ..trace.masks import runs
from .comb import Engine, orders_of, rpm_grid, scores, teeth
from .others import NEAR_TAP_S, OtherEngines
from .path import best_path
from .refine import refined
from .spectra import HOP_S, UNSLEWED, Spectra, at_4_khz, spectra_of
from .tap import Tap

ROW_S = 0.25
NEEDLE_OFF = 0.03  # a needle is read to so much, in the logarithm of RPM
# of the path in a window: how far its lines are over their floor, its lead over any other path, its score among all speeds;
# fitted to tests/strange/sound.py, seeds 1 to 12, the lead to seeds 801 to 806
LEAST_STRENGTH, LEAST_MARGIN, LEAST_SCORE = 4.0, 0.9, 1.8
RATIOS = (1 / 2, 2 / 3, 3 / 4, 4 / 3, 3 / 2, 2.0)  # what another speed sounds like most
GAP_S, SHORTEST_S = 1.0, 0.5
_MOST_TOLD = 0.6  # of the two or three windows around a row (our own choice): one unsure window says little where the path goes on
TAP_S = 1.0
RUN_UP_RPM = 1_800.0  # of a direct-drive engine (common practice): one that is read higher turns higher throughout


@dataclass(frozen=True, slots=True, kw_only=True)
class Heard:
    """What was heard at 4 Hz: time [s], RPM and its plus-or-minus (not-a-number where it is unsure); `why` where nothing is told at
    all."""

    time_s: np.ndarray
    rpm: np.ndarray
    plus_minus_rpm: np.ndarray
    why: str | None = None


def hear(samples: np.ndarray, rate_hz: int, engine: Engine, taps: tuple[Tap, ...]) -> Heard:
    """Return the RPM of a sound (shape (n,), -1 to 1) at a rate [Hz], after and before taps. The needle's RPM is the crank's."""
    if not taps:
        nothing = np.empty(0)
        why = "No tap: read the needle once, and say when."
        return Heard(time_s=nothing, rpm=nothing, plus_minus_rpm=nothing, why=why)
    rows = np.arange(0.0, len(samples) / rate_hz, ROW_S)
    sound = at_4_khz(samples, rate_hz)
    spectra = spectra_of(sound)
    if not len(spectra.time_s):
        nothing = np.full(len(rows), np.nan)
        return Heard(time_s=rows, rpm=nothing, plus_minus_rpm=nothing, why="The sound is shorter than half a second.")
    rpm = rpm_grid(max(1.0, min(tap.rpm for tap in taps) / RUN_UP_RPM))
    orders, weights = orders_of(engine, taps[0].rpm)
    here = np.abs(spectra.time_s - taps[0].at_s) <= TAP_S
    weights = fingerprint(spectra.levels[here], taps[0].rpm, orders, weights)
    score = scores(spectra, rpm, orders, weights)
    held = _held_to_taps(score, spectra.time_s, rpm, taps)
    path, margin = best_path(held, np.log(rpm))
    at = np.arange(len(path))
    fine = refined(sound, spectra.time_s, rpm[path], orders, weights)
    is_told = (fine.strength > LEAST_STRENGTH) & (margin > LEAST_MARGIN) & (score[at, path] > LEAST_SCORE)
    is_told &= ~_near_another(spectra, engine, rpm, path, taps)[path]
    is_told = _sure(_joined(is_told), score, rpm, path, spectra.time_s, taps)
    return _rows(rows, spectra.time_s, fine.rpm, 2 * fine.error_rpm, is_told)


def fingerprint(levels: np.ndarray, tap_rpm: float, orders: np.ndarray, weights: np.ndarray) -> np.ndarray:
    """Return the weights of this engine's own orders, from the levels (windows, slews, bins) while its needle was read [RPM]."""
    if not len(levels):
        return weights
    near = tap_rpm * np.exp(np.arange(-NEEDLE_OFF, NEEDLE_OFF, 0.001))
    lines = teeth(levels, near, orders)  # windows, slews, speeds, orders
    best = int((lines.max(axis=1).mean(axis=0) @ weights).argmax())
    own = np.clip(lines[:, :, best].max(axis=1).mean(axis=0), 0.0, None)
    return np.asarray(0.25 * weights / weights.mean() + own / (own.mean() + 1e-6))


def _near_another(
    spectra: Spectra, engine: Engine, rpm: np.ndarray, path: np.ndarray, taps: tuple[Tap, ...]
) -> np.ndarray:
    """Return which speeds are those of another engine that is heard while the needle was read, shape (speeds,): all, where the path
    left the needle at once, for a louder one."""
    others = OtherEngines(engine, taps[0].rpm, rpm, spectra.levels.shape[-1])
    for tap in taps:
        beside = np.abs(np.log(rpm[path[np.abs(spectra.time_s - tap.at_s) <= TAP_S]] / tap.rpm))
        if np.mean(beside > NEEDLE_OFF) > 0.5:
            return np.ones(len(rpm), dtype=bool)
        own = rpm[path[np.abs(spectra.time_s - tap.at_s).argmin()]]
        is_near = (np.abs(spectra.time_s - tap.at_s) <= NEAR_TAP_S) & (np.abs(np.log(rpm[path] / own)) < NEEDLE_OFF)
        for window in np.flatnonzero(is_near):
            others.add(spectra.levels[window, UNSLEWED], float(rpm[path[window]]))
    return others.near()


def _held_to_taps(score: np.ndarray, time_s: np.ndarray, rpm: np.ndarray, taps: tuple[Tap, ...]) -> np.ndarray:
    """Return scores in which no other speed than the needle's is possible while it was read."""
    held = score.copy()
    for tap in taps:
        window = int(np.abs(time_s - tap.at_s).argmin())
        held[window, np.abs(np.log(rpm / tap.rpm)) > NEEDLE_OFF] = -1e3
    return held


def _joined(is_told: np.ndarray) -> np.ndarray:
    """Return what is told: stretches shorter than half a second say nothing."""
    told = is_told.copy()
    for first, last in runs(is_told):
        if (last - first + 1) * HOP_S < SHORTEST_S:
            told[first : last + 1] = False
    return told


def _sure(
    told: np.ndarray, score: np.ndarray, rpm: np.ndarray, path: np.ndarray, time_s: np.ndarray, taps: tuple[Tap, ...]
) -> np.ndarray:
    """Return what is told without the stretches that are not joined to a tap and do not beat a speed of another ratio."""
    sure = told.copy()
    bridged = told.copy()  # short gaps closed: what is joined across one is the same stretch
    for first, last in runs(~told):
        if first > 0 and last < len(told) - 1 and time_s[last] - time_s[first] <= GAP_S:
            bridged[first : last + 1] = True
    for first, last in runs(bridged):
        if any(time_s[first] - GAP_S <= tap.at_s <= time_s[last] + GAP_S for tap in taps):
            continue
        rows = np.arange(first, last + 1)
        own = score[rows, path[rows]].mean()
        others = [score[rows, np.abs(rpm[:, None] - rpm[path[rows]] * r).argmin(axis=0)].mean() for r in RATIOS]
        if own < max(others) + LEAST_MARGIN:
            sure[rows] = False
    return sure


def _rows(rows: np.ndarray, time_s: np.ndarray, rpm: np.ndarray, off: np.ndarray, told: np.ndarray) -> Heard:
    """Return the figures at 4 Hz: the middle of those windows around each row that are told, where most of them are."""
    out, plus_minus = np.full(len(rows), np.nan), np.full(len(rows), np.nan)
    for number, at in enumerate(rows):
        near = np.abs(time_s - at) <= ROW_S / 2 + 1e-9
        if near.any() and told[near].mean() > _MOST_TOLD:
            out[number] = float(np.median(rpm[near & told]))
            plus_minus[number] = max(1.0, float(np.median(off[near & told])))
    why = None if np.isfinite(out).any() else "Too much noise: no figure is sure."
    return Heard(time_s=rows, rpm=out, plus_minus_rpm=plus_minus, why=why)
