"""Heads: how soon they are warm on the ground, and how warm in cruise."""

from functools import cache, partial

import numpy as np

from .rows import (
    RADIAL,
    TOURER,
    TRAINER,
    TURBO,
    TWIN,
    VEE,
    Row,
    flying,
    heads_f,
    rows_for,
    running,
    set_all,
    throttle_for,
)

_CRUISE = "hottest head in cruise"
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


def cowl_flaps_f(kind: str) -> float:
    """Return by how much closed cowl flaps make CHT hotter in cruise [°F]."""
    figures = []
    for flaps in (1.0, 0.0):
        bench = flying(kind, palt_ft=5000, ias_kt=140, throttle=0.55, prop=0.5, cowl_flaps=flaps, mixture=0.9)
        bench.advance(1500)
        figures.append(_hottest_f(bench))
    return figures[1] - figures[0]


def lost_baffle_f(kind: str) -> float:
    """Return by how much a lost baffle heats its own cylinder in cruise [°F]."""
    bench = flying(kind, palt_ft=4000, ias_kt=110, throttle=0.6, prop=0.6, cowl_flaps=0.0, mixture=0.9)
    bench.advance(1500)
    before = float(heads_f(bench)[0])
    bench.set_fault("lost_baffle_1", 1.0)
    bench.advance(1500)
    return float(heads_f(bench)[0]) - before


def boils_min() -> float:
    """Return the minutes at warm-up speed on the ground, at 25 °C, until the vee's coolant is at 250 °F."""
    throttle = throttle_for(VEE, 1000)
    bench = running(VEE, 1000, oat_c=25)
    for part in ("coolant_k", "head_k", "oil_k"):
        bench.state[part] = 298.15
    set_all(bench, "throttle", throttle)
    for step in range(360):
        if float(bench.state["coolant_k"][0]) * 1.8 - 459.67 > 250:
            return step * 5 / 60
        bench.advance(5)
    return 99.0


def soaked_line_k(kind: str) -> float:
    """Return how much warmer than the air [K] the fuel lines are half an hour after a stop."""
    bench = running(kind, 1200, oat_c=20)
    set_all(bench, "throttle", 0.2)
    bench.advance(900)
    for name, value in (("mixture", 0.0), ("mag", "OFF"), ("pump", 0), ("master", 0)):
        set_all(bench, name, value)
    bench.advance(1800)
    return float(bench.state["line_k"][0]) - 293.15


_GROUND = tuple(_WARM_UP_RPM)
ROWS = (
    *rows_for(_GROUND, "heads at 200 °F after", "min", lambda kind: warms_min(kind, 200), (4, 7), _FROM_MEMORY),
    *rows_for((RADIAL,), "heads at 250 °F after", "min", lambda kind: warms_min(kind, 250), (5, 14), _FROM_MEMORY),
    Row(TRAINER, _CRUISE, "°F", partial(cruise_cht_f, TRAINER, 3000, 95, 0.55, 1.0), 300, 390, _FROM_MEMORY),
    Row(TOURER, _CRUISE, "°F", partial(cruise_cht_f, TOURER, 5000, 135, 0.6, 0.6), 310, 400, _FROM_MEMORY),
    Row(TURBO, _CRUISE, "°F", partial(cruise_cht_f, TURBO, 15000, 150, 0.6, 0.6), 350, 390, _FROM_MEMORY),
    *rows_for((RADIAL,), "cowl flaps from open to shut, CHT", "°F", cowl_flaps_f, (35, 65), _FROM_MEMORY),
    *rows_for((TRAINER, TOURER, TURBO, RADIAL), "a lost baffle, its CHT", "°F", lost_baffle_f, (25, 90), _FROM_MEMORY),
    Row(VEE, "coolant boils at warm-up speed on the ground after", "min", boils_min, 8, 12, _FROM_MEMORY),
    *rows_for(
        (TRAINER, TOURER),
        "fuel lines half an hour after a stop, above the air",
        "K",
        soaked_line_k,
        (34, 44),
        _FROM_MEMORY,
    ),
)
