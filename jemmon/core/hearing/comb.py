"""How well each engine speed explains a spectrum: a comb of half orders, with a valley between every two of its teeth."""

from dataclasses import dataclass

import numpy as np

from .spectra import BIN_HZ, MOST_HZ, Spectra

_STEP = 0.002  # of the logarithm of RPM
# how much the orders weigh before this engine's own are known (common practice)
_FIRING, _BLADE, _OTHER = 1.0, 0.8, 0.3
LOWEST_RPM, HIGHEST_RPM = 900.0, 3_300.0  # of a direct-drive engine: below lie start and idle, which are not told


@dataclass(frozen=True, slots=True, kw_only=True)
class Engine:
    """What makes the sound: cylinders, blades, and how many turns of the crank one of the propeller takes. The needle's RPM is the
    crank's."""

    cylinders: int
    blades: int
    gear: float = 1.0

    @property
    def blade_order(self) -> float:
        """The order of the blades' passage, in halves of a crank turn's."""
        return 2.0 * self.blades / self.gear


def rpm_grid(scale: float = 1.0) -> np.ndarray:
    """Return the speeds that are tried [RPM], evenly in their logarithm; `scale` is how fast this kind of engine turns against a
    direct-drive one."""
    low, high = np.log(LOWEST_RPM * scale), np.log(HIGHEST_RPM * scale)
    return np.asarray(np.exp(np.arange(low, high, _STEP)))


def orders_of(engine: Engine, rpm: float) -> tuple[np.ndarray, np.ndarray]:
    """Return (half orders, weights) of an engine whose own are not known yet, as far as the spectrum reaches at a speed [RPM]."""
    highest = int(MOST_HZ / (rpm / 120.0)) - 1
    halves = np.arange(1, highest + 1, dtype=float)
    weights = np.where(halves % engine.cylinders == 0, _FIRING, _OTHER)
    blade = engine.blade_order
    passages = blade * np.arange(1, int(highest / blade) + 1)
    near = np.abs(halves[:, None] - passages[None, :]) < 1e-6 if len(passages) else np.zeros((len(halves), 1), bool)
    weights = np.where(near.any(axis=1), np.maximum(weights, _BLADE), weights)
    apart = passages[~np.isclose(passages % 1.0, 0.0)]  # a geared propeller's blades pass between the half orders
    return np.concatenate([halves, apart]), np.concatenate([weights, np.full(len(apart), _BLADE)])


def teeth(levels: np.ndarray, rpm: np.ndarray, orders: np.ndarray) -> np.ndarray:
    """Return how far each order's line rises above the valleys beside it: levels of shape (..., bins), result of shape
    (..., speeds, orders)."""
    places = rpm[:, None] / 120.0 * orders[None, :] / BIN_HZ
    valley = 0.5 * rpm[:, None] / 120.0 / BIN_HZ * np.ones_like(orders)[None, :]
    return np.asarray(_at(levels, places) - 0.5 * (_at(levels, places - valley) + _at(levels, places + valley)))


def _at(levels: np.ndarray, places: np.ndarray) -> np.ndarray:
    last = levels.shape[-1] - 2
    low = np.clip(places.astype(int), 0, last)
    share = np.clip(places - low, 0.0, 1.0)
    return np.asarray(levels[..., low] * (1 - share) + levels[..., low + 1] * share)


def scores(spectra: Spectra, rpm: np.ndarray, orders: np.ndarray, weights: np.ndarray) -> np.ndarray:
    """Return how well each speed explains each window, the best of the slews: shape (windows, speeds), of zero mean and unit
    spread in each window, so that half and double, which explain every second line, both lose."""
    return scores_by(spectra.levels, comb_of(spectra.levels.shape[-1], rpm, orders, weights))


def scores_by(levels: np.ndarray, comb: np.ndarray) -> np.ndarray:
    """Return `scores` of levels of shape (windows, slews, bins) by a comb that is kept."""
    windows, slews, bins = levels.shape
    found = (levels.reshape(windows * slews, bins) @ comb).reshape(windows, slews, -1).max(axis=1)
    found -= found.mean(axis=1, keepdims=True)
    return np.asarray(found / (found.std(axis=1, keepdims=True) + 1e-6))


def comb_of(bins: int, rpm: np.ndarray, orders: np.ndarray, weights: np.ndarray) -> np.ndarray:
    """Return what each bin gives to each speed [RPM], shape (bins, speeds): `teeth` weighed and summed, as one product."""
    weights = weights / np.sqrt(np.sum(weights**2))
    comb = np.zeros((bins, len(rpm)), dtype=np.float32)
    places = rpm[:, None] / 120.0 * orders[None, :] / BIN_HZ
    valley = np.repeat(0.5 * rpm[:, None] / 120.0 / BIN_HZ, len(orders), axis=1)
    speeds = np.repeat(np.arange(len(rpm))[:, None], len(orders), axis=1)
    for sign, where in ((1.0, places), (-0.5, places - valley), (-0.5, places + valley)):
        low = np.clip(where.astype(int), 0, bins - 2)
        share = np.clip(where - low, 0.0, 1.0)
        np.add.at(comb, (low, speeds), sign * weights * (1 - share))
        np.add.at(comb, (low + 1, speeds), sign * weights * share)
    return comb
