"""The sound as windows: at 4 kHz, half a second each, a tenth of a second apart, straightened by a few slews of its speed, each
as a log spectrum in which hum and hiss are levelled and no single tone rules.

Sources: fan-chirp transform (Weruaga and Képesi 2007) for a speed that changes within a window; spectral whitening by a running
median (common practice in order tracking).
"""

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import median_filter
from scipy.signal import get_window, resample_poly

RATE_HZ = 4_000
HOP_S, WINDOW_S = 0.1, 0.5
MOST_HZ = 640.0
_PADDED_TO = 8_192  # samples of a window's transform: bins finer than its lines
BIN_HZ = RATE_HZ / _PADDED_TO
SLEWS_PER_S = (-0.24, -0.08, 0.0, 0.08, 0.24)  # of the speed, relative: a throttle pushed slowly, and a magneto's drop
UNSLEWED = SLEWS_PER_S.index(0.0)
_EVERY = 6  # bins, for the level of what is broad
_MOST_EXCESS = 2.2  # in natural logarithm: a tone that is louder says no more


@dataclass(frozen=True, slots=True)
class Spectra:
    """`levels`: levelled log spectra, shape (windows, slews, bins of `BIN_HZ`), strong tones compressed; `time_s`: the
    middle of each window [s]."""

    levels: np.ndarray
    time_s: np.ndarray


def at_4_khz(samples: np.ndarray, rate_hz: int) -> np.ndarray:
    """Return a sound (shape (n,), any scale) at 4 kHz."""
    common = int(np.gcd(RATE_HZ, rate_hz))
    return np.asarray(resample_poly(samples, RATE_HZ // common, rate_hz // common))


def spectra_of(sound: np.ndarray) -> Spectra:
    """Return the spectra of a sound at 4 kHz, shape (n,)."""
    size, hop = int(WINDOW_S * RATE_HZ), int(HOP_S * RATE_HZ)
    starts = np.arange(0, max(len(sound) - size + 1, 0), hop)
    bins = int(MOST_HZ / BIN_HZ)
    window = get_window("hann", size)
    middle = (np.arange(size) - (size - 1) / 2) / RATE_HZ
    levels = np.empty((len(starts), len(SLEWS_PER_S), bins), dtype=np.float32)
    places = [
        np.clip(middle * (1 - 0.5 * slew * middle) * RATE_HZ + (size - 1) / 2, 0, size - 1) for slew in SLEWS_PER_S
    ]
    for number, start in enumerate(starts):
        part = sound[start : start + size]
        warped = np.stack([np.interp(place, np.arange(size), part) for place in places])
        power = np.abs(np.fft.rfft(warped * window, _PADDED_TO, axis=1))[:, :bins] ** 2
        levels[number] = np.clip(_levelled(np.log(power + 1e-12)), -1.0, _MOST_EXCESS)
    return Spectra(levels=levels, time_s=starts / RATE_HZ + WINDOW_S / 2)


def _levelled(logs: np.ndarray) -> np.ndarray:
    """Return log spectra without what is broad in them: the median over ±45 Hz, taken of every sixth bin."""
    few = median_filter(logs[:, ::_EVERY], size=(1, int(90.0 / BIN_HZ / _EVERY)), mode="nearest")
    bins = np.arange(logs.shape[1]) / _EVERY
    low = np.minimum(bins.astype(int), few.shape[1] - 2)
    share = np.minimum(bins - low, 1.0)
    return np.asarray(logs - few[:, low] * (1 - share) - few[:, low + 1] * share)
