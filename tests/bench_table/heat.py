"""Heads: how soon they are warm on the ground, and how warm in cruise."""

from functools import cache, partial

import numpy as np

from .rows import RADIAL, TOURER, TRAINER, TURBO, TWIN, Row, running, set_all, throttle_for

_FROM_MEMORY = "common practice, from memory"
_WARM_UP_RPM = {TRAINER: 1100, TOURER: 1050, TWIN: 1050, TURBO: 1050, RADIAL: 1000}


def _hottest_f(bench) -> float:
    return float(np.max(bench.state["head_k"][0][: bench.cylinders])) * 1.8 - 459.67


@cache
def warms_min(kind: str, to_f: float) -> float:
    """Return the minutes at warm-up speed until the hottest head of an engine that stood at 15 °C is so warm."""
    bench = running(kind, 1000)
    rpm = _WARM_UP_RPM[kind]
    throttle = throttle_for(kind, rpm)
    bench.state["head_k"], bench.state["oil_k"] = 288.15, 288.15
    set_all(bench, "throttle", throttle)
    for step in range(240):
        if _hottest_f(bench) > to_f:
            return step * 5 / 60
        bench.advance(5)
    return 99.0


@cache
def cruise_cht_f(kind: str, palt_ft: float, ias_kt: float, throttle: float, rpm_lever: float) -> float:
    """Return the hottest head [°F] in a cruise, cowl flaps closed, best power."""
    bench = running(kind, 2000, palt_ft=palt_ft, oat_c=15 - 2 * palt_ft / 1000, ias_kt=ias_kt)
    for name, value in (("throttle", throttle), ("prop", rpm_lever), ("cowl_flaps", 0.0)):
        set_all(bench, name, value)
    best = 0.0
    for mixture in np.linspace(1.0, 0.5, 11):
        set_all(bench, "mixture", float(mixture))
        bench.advance(60 if mixture < 1 else 900)
        phi = float(np.mean(bench.state["equivalence_ratio"][0][: bench.cylinders]))
        if phi < 1.15:
            bench.advance(900)
            return _hottest_f(bench)
        best = _hottest_f(bench)
    return best


ROWS = (
    *(Row(k, "heads at 200 °F after", "min", partial(warms_min, k, 200), 4, 7, _FROM_MEMORY) for k in _WARM_UP_RPM),
    Row(RADIAL, "heads at 250 °F after", "min", partial(warms_min, RADIAL, 250), 5, 14, _FROM_MEMORY),
    Row(
        TRAINER,
        "hottest head in cruise",
        "°F",
        partial(cruise_cht_f, TRAINER, 3000, 95, 0.55, 1.0),
        300,
        390,
        _FROM_MEMORY,
    ),
    Row(
        TOURER,
        "hottest head in cruise",
        "°F",
        partial(cruise_cht_f, TOURER, 5000, 135, 0.6, 0.6),
        310,
        400,
        _FROM_MEMORY,
    ),
    Row(
        TURBO,
        "hottest head in cruise",
        "°F",
        partial(cruise_cht_f, TURBO, 15000, 150, 0.6, 0.6),
        350,
        390,
        _FROM_MEMORY,
    ),
)
