"""Detonation: how near, by mixture, and what it does."""

from functools import cache

import numpy as np

from jemmon.core.bench import Bench
from tests.core.builders import PROFILES

from .rows import (
    AMPHIB,
    FIELD,
    GLASS,
    MIXED,
    RADIAL,
    TOURER,
    TRAINER,
    TURBO,
    TWIN,
    flying,
    heads_f,
    probes_f,
    rows_for,
    set_all,
)

_SOURCE = "14 CFR 33.47 and its advisory circular; Douaud and Eyzat; from memory"
_HOT_K = (475 + 459.67) / 1.8


@cache
def _margins(kind: str) -> tuple[float, float]:
    """Return the margins at full rich and at peak exhaust: full throttle, 39 °C, heads held at 475 °F."""
    bench = flying(kind, oat_c=39, ias_kt=100, throttle=1.0, prop=1.0, cowl_flaps=1.0)
    bench.advance(20)
    rows = []
    for mixture in np.linspace(1.0, 0.45, 45):
        set_all(bench, "mixture", float(mixture))
        for _ in range(3):
            bench.state["head_k"] = _HOT_K
            bench.advance(2)
        bench.state["head_k"] = _HOT_K
        bench.advance(0.02)
        rows.append((float(probes_f(bench).mean()), float(bench.state["detonation_margin"][0])))
    return rows[0][1], max(rows)[1]


def rich_margin(kind: str) -> float:
    """Return the margin at full rich."""
    return _margins(kind)[0]


def peak_margin(kind: str) -> float:
    """Return the margin at peak exhaust."""
    return _margins(kind)[1]


@cache
def _runs_away(kind: str) -> tuple[float, float, float]:
    """Return (°F/s of CHT, °F of exhaust, share of power) that heavy detonation, on a fuel of octane 80, moves in ten seconds."""
    figures = []
    for octane in (130.0, 80.0):
        bench = Bench({**PROFILES[kind].bench, "fuel_octane": octane})
        bench.set_air(oat_c=39, ias_kt=90)
        bench.make_running(2300)
        set_all(bench, "throttle", 1.0)
        set_all(bench, "mixture", 0.78)
        bench.state["head_k"] = _HOT_K
        bench.advance(4)
        bench.state["head_k"] = _HOT_K
        bench.advance(10)
        figures.append((float(heads_f(bench).max()), float(probes_f(bench).mean()), float(bench.state["brake_w"][0])))
    calm, knocks = figures
    return (knocks[0] - calm[0]) / 10, knocks[1] - calm[1], knocks[2] / calm[2]


def runs_away_f_s(kind: str) -> float:
    """Return how fast CHT climbs more than without [°F/s]."""
    return _runs_away(kind)[0]


def exhaust_falls_f(kind: str) -> float:
    """Return how far the exhaust moves [°F]."""
    return _runs_away(kind)[1]


def power_left(kind: str) -> float:
    """Return the share of power that is left."""
    return _runs_away(kind)[2]


_KINDS = (TRAINER, TOURER, TWIN, RADIAL, TURBO, GLASS, FIELD, MIXED, AMPHIB)
ROWS = (
    *rows_for(_KINDS, "detonation margin, full rich, 475 °F, 39 °C", "", rich_margin, (1.6, 2.6), _SOURCE),
    *rows_for((TOURER, TWIN, TURBO), "detonation margin, peak, 475 °F, 39 °C", "", peak_margin, (0.85, 1.25), _SOURCE),
    *rows_for(
        (TRAINER, TOURER),
        "heavy detonation, CHT climbs by",
        "°F/s",
        runs_away_f_s,
        (1, 2),
        "common practice, from memory",
    ),
    *rows_for(
        (TRAINER, TOURER),
        "heavy detonation, exhaust moves by",
        "°F",
        exhaust_falls_f,
        (-350, -15),
        "common practice, from memory",
    ),
    *rows_for(
        (TRAINER, TOURER), "heavy detonation, power left", "", power_left, (0.85, 0.99), "common practice, from memory"
    ),
)
