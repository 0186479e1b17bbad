"""The speed to a fraction of a turn: the sound is followed along the path that was found, order by order, and the small correction
is sought under which the lines of all orders are strongest together.

Source: nonlinear least squares over harmonics, which reaches the Cramér-Rao bound (Christensen and Jakobsson, Multi-Pitch
Estimation, 2009; from memory), in the angle domain of order tracking.
"""

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import uniform_filter1d

from .spectra import RATE_HZ

_LINES = 20  # the strongest orders of this engine
_BLOCK = 160  # samples [at 4 kHz] that are summed before the search: 40 ms
# blocks of a window, odd: a long one where the speed is steady, a short one where it changes. Fitted to tests/strange/sound.py
_SHORT, _LONG = 9, 17
_LOUD_ENOUGH = 100.0  # a strength at which the short one is sharp enough
_STEADY_RPM_S = 6.0  # at 1,800 RPM
_REACH_RPM, _STEP_RPM = 9.0, 0.5  # at 1,800 RPM: more than the steps of the path


@dataclass(frozen=True, slots=True)
class Fine:
    """Along a path, each of shape (windows,): RPM, its standard error [RPM], and how far the lines of the engine's orders are over
    what lies between them, as a ratio of powers."""

    rpm: np.ndarray
    error_rpm: np.ndarray
    strength: np.ndarray


def refined(sound: np.ndarray, time_s: np.ndarray, rpm: np.ndarray, orders: np.ndarray, weights: np.ndarray) -> Fine:
    """Return the speed along a path (`time_s` [s], `rpm`) of a sound at 4 kHz, by an engine's orders."""
    scale = float(np.median(rpm)) / 1_800.0
    smooth = uniform_filter1d(rpm, 5, mode="nearest")
    along = np.interp(np.arange(len(sound)) / RATE_HZ, time_s, smooth)
    turns = np.cumsum(along) / 120.0 / RATE_HZ  # of half orders
    own = orders[np.argsort(weights)[-_LINES:]]
    tried = np.arange(-_REACH_RPM, _REACH_RPM + _STEP_RPM / 2, _STEP_RPM) * scale
    lines, floors = _blocks(sound, turns, own), _blocks(sound, turns, own + 0.5)
    centres = np.clip(np.round(time_s * RATE_HZ / _BLOCK - 0.5).astype(int), 0, lines.shape[1] - 1)
    short, long = (_searched(lines, floors, centres, own, tried, size) for size in (_SHORT, _LONG))
    slope = (
        np.abs(np.gradient(uniform_filter1d(smooth + long[0], 3, mode="nearest"), time_s))
        if len(time_s) > 1
        else np.zeros(1)
    )
    is_steady = uniform_filter1d(slope, 5, mode="nearest") < _STEADY_RPM_S * scale
    best = np.where(is_steady & (long[2] < _LOUD_ENOUGH), long, short)
    return Fine(rpm=smooth + best[0], error_rpm=best[1], strength=long[2])


def _searched(
    lines: np.ndarray, floors: np.ndarray, centres: np.ndarray, orders: np.ndarray, tried: np.ndarray, size: int
) -> np.ndarray:
    """Return (correction [RPM], its standard error [RPM], strength) of each window of so many blocks, shape (3, windows)."""
    power = _line_power(lines, centres, orders, tried, size)
    floor = _line_power(floors, centres, orders + 0.5, tried[::6], size).mean(axis=2, keepdims=True)
    ratio = power / (uniform_filter1d(floor, 11, axis=1, mode="nearest") + 1e-20)
    joint = ratio.sum(axis=0)
    best = np.clip(joint.argmax(axis=1), 1, len(tried) - 2)
    rows = np.arange(len(best))
    low, mid, high = joint[rows, best - 1], joint[rows, best], joint[rows, best + 1]
    bend = low - 2 * mid + high
    shift = np.where(bend < 0, 0.5 * (low - high) / np.where(bend == 0, -1, bend), 0.0)
    strength = ratio[:, rows, best]
    # of a tone's frequency over T seconds: sqrt(6 / SNR) / (2 pi T), SNR the line's power over the floor (Rife and Boorstyn 1974)
    known = np.sqrt(np.sum((orders[:, None] / 120.0) ** 2 * np.clip(strength - 1, 0, None), axis=0))
    error = np.sqrt(6.0) / (2 * np.pi * size * _BLOCK / RATE_HZ) / np.maximum(known, 1e-6)
    return np.stack([tried[best] + np.clip(shift, -1, 1) * (tried[1] - tried[0]), error, strength.mean(axis=0)])


def _blocks(sound: np.ndarray, turns: np.ndarray, orders: np.ndarray) -> np.ndarray:
    """Return the sound turned back by each order's phase and summed by blocks, shape (orders, blocks)."""
    count = len(sound) // _BLOCK
    part, phase = sound[: count * _BLOCK].astype(np.float32), turns[: count * _BLOCK]
    found = np.empty((len(orders), count), dtype=np.complex64)
    for number, order in enumerate(orders):
        angle = (2 * np.pi * np.mod(order * phase, 1.0)).astype(
            np.float32
        )  # real and imaginary apart: several times faster
        found[number].real = (part * np.cos(angle)).reshape(count, _BLOCK).sum(axis=1)
        found[number].imag = -(part * np.sin(angle)).reshape(count, _BLOCK).sum(axis=1)
    return found


def _line_power(
    blocks: np.ndarray, centres: np.ndarray, orders: np.ndarray, tried: np.ndarray, size: int
) -> np.ndarray:
    """Return the power of each order in each window under each correction [RPM], shape (orders, windows, tried)."""
    half = size // 2
    padded = np.pad(blocks, ((0, 0), (half, half)))
    windows = np.lib.stride_tricks.sliding_window_view(padded, size, axis=1)[:, centres]  # orders, windows, blocks
    from_middle = (np.arange(size) - half) * _BLOCK / RATE_HZ
    taper = np.sqrt(np.hanning(size + 2)[1:-1])
    turn = np.exp(-2j * np.pi * orders[:, None, None] * tried[None, None, :] / 120.0 * from_middle[None, :, None])
    return np.asarray(np.abs(np.matmul(windows * taper, turn.astype(np.complex64))) ** 2)
