"""Sounds of engines that we did not record: exhaust pulses uneven by cylinder and bank, blades, a cabin's resonances, wind, a
phone's gain. By published relations only, apart from what listens: firing frequency is cylinders x RPM / 120, blade passage
blades x propeller RPM / 60.
"""

from dataclasses import dataclass

import numpy as np
from scipy.signal import butter, iirpeak, lfilter, sosfilt

RATE_HZ = 16_000


@dataclass(frozen=True)
class RunUp:
    """A run-up by ear: its sound, and the truth at 4 Hz; `drops` are (begins [s], ends [s], RPM)."""

    samples: np.ndarray
    time_s: np.ndarray
    rpm: np.ndarray
    drops: tuple[tuple[float, float, float], ...]


def run_up(
    seed: int, snr_db: float, cylinders: int = 4, blades: int = 2, gear: float = 1.0, at_rpm: float = 1_800.0
) -> RunUp:
    """Return half a minute at run-up speed with two drops."""
    draw = np.random.default_rng(seed)
    drops = tuple((begin, begin + 6.0, float(draw.uniform(25, 150))) for begin in (8.0, 19.0))
    time = np.arange(0, 32.0, 1 / RATE_HZ)
    target = np.full_like(time, at_rpm)
    for begin, end, fall in drops:
        target[(time >= begin) & (time < end)] -= fall
    rpm = lagged(target, draw.uniform(0.3, 0.7)) + wander(draw, len(time))
    samples = engine_sound(draw, rpm, cylinders, blades, gear, snr_db)
    rows = np.arange(0, 32.0, 0.25)
    return RunUp(samples, rows, np.interp(rows, time, rpm), drops)


def lagged(target: np.ndarray, lag_s: float) -> np.ndarray:
    """Return a speed that follows another with a lag."""
    share = 1 - np.exp(-1 / (lag_s * RATE_HZ))
    start = target[0]
    return np.asarray(lfilter([share], [1, share - 1], target - start)) + start


def wander(draw: np.random.Generator, size: int) -> np.ndarray:
    """Return a slow wander of a few RPM, as wind on the propeller makes it."""
    rough = np.repeat(draw.normal(0, 1, size // RATE_HZ * 4 + 8), RATE_HZ // 4)[:size]
    return 2.0 * np.asarray(lfilter([0.00002], [1, -0.99998], rough)) * 20


def engine_sound(
    draw: np.random.Generator, rpm: np.ndarray, cylinders: int, blades: int, gear: float, snr_db: float
) -> np.ndarray:
    """Return the sound of an engine at these speeds (one a sample), with so much noise in the band that is heard."""
    crank = np.cumsum(rpm) / 60.0 / RATE_HZ
    clean = _pulses(draw, crank / 2, cylinders) + draw.uniform(0.3, 1.0) * _blades(draw, crank / gear, blades)
    for _ in range(3):
        b, a = iirpeak(draw.uniform(60, 500), draw.uniform(3, 10), RATE_HZ)
        clean = clean + draw.uniform(0.5, 2.0) * np.asarray(lfilter(b, a, clean))
    noise = _noise(draw, len(rpm))
    band = butter(2, (30, 640), "bandpass", fs=RATE_HZ, output="sos")
    loud = np.std(sosfilt(band, clean)) / np.std(sosfilt(band, noise))
    mixed = clean + noise * loud * 10 ** (-snr_db / 20)
    mixed = mixed / np.abs(mixed).max() * draw.uniform(0.3, 1.4)
    return np.clip(mixed, -1, 1)  # a phone held too near


def _pulses(draw: np.random.Generator, cycle: np.ndarray, cylinders: int) -> np.ndarray:
    table = np.zeros(2_048)
    places = np.arange(2_048) / 2_048
    banks = draw.uniform(0.8, 1.2, 2)
    width = draw.uniform(0.012, 0.03)
    for number in range(cylinders):
        at = number / cylinders + draw.normal(0, 0.002)
        distance = np.abs((places - at + 0.5) % 1 - 0.5)
        table += banks[number % 2] * draw.uniform(0.85, 1.15) * np.exp(-0.5 * (distance / width) ** 2)
    return np.interp(cycle % 1, places, table - table.mean(), period=1)


def _blades(draw: np.random.Generator, turns: np.ndarray, blades: int) -> np.ndarray:
    return sum(
        draw.uniform(0.2, 1.0) / number * np.sin(2 * np.pi * number * blades * turns + draw.uniform(0, 6.28))
        for number in range(1, 6)
    )


def _noise(draw: np.random.Generator, size: int) -> np.ndarray:
    white = draw.normal(0, 1, size)
    wind = np.asarray(lfilter([0.02], [1, -0.98], draw.normal(0, 1, size)))
    return white * 0.5 + wind * draw.uniform(1, 4)
