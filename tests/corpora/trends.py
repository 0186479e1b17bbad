"""Figures of made-up engines over many flights: some wear towards their limit, some stay."""

import numpy as np

from jemmon.core.judgement.trend import figure_trend

LIMIT, NOISE, GROWS_BY, FLIGHTS = 150.0, 8.0, 2.0, 60


def told_before_limit(seed: int) -> bool:
    """Say whether a drop that grows from 15 to 40 flights below its limit is told before it is there."""
    rng = np.random.default_rng(seed)
    left = int(rng.integers(15, 41))
    values: list[float] = []
    for flight in range(left):
        values.append(LIMIT - GROWS_BY * (left - flight) + rng.normal(0, NOISE))
        if figure_trend(values, LIMIT, "Drop", "rpm").flights_left is not None:
            return True
    return False


def false_alarm(seed: int) -> bool:
    """Say whether anything is told of a steady engine (at least 10 RPM inside its limit) in 60 flights."""
    rng = np.random.default_rng(seed)
    level = rng.uniform(40, LIMIT - 10)
    values: list[float] = []
    for _ in range(FLIGHTS):
        values.append(level + rng.normal(0, NOISE))
        if figure_trend(values, LIMIT, "Drop", "rpm").message is not None:
            return True
    return False
