"""Rotor, ram air, overboost, critical altitude, a blower's work, a tank that runs dry, a radial's exhaust."""

from functools import cache

import numpy as np

from jemmon.core.bench import charging
from tests.core.builders import PROFILES

from .rows import (
    GEARED,
    RADIAL,
    ROTOR,
    RPM_PER_RAD_S,
    TOURER,
    TURBO,
    VEE,
    Row,
    flying,
    probes_f,
    rows_for,
    running,
    set_all,
)

_PRACTICE = "common practice, from memory"
_INHG_PA = 3386.39


def _rotor_pct(bench) -> float:
    full = float(bench.parameters["rpm_100"][0])
    return float(bench.state["rotor_rad_s"][0]) * RPM_PER_RAD_S / full * 100


def _hovering(ias_kt: float = 0.0):
    bench = running(ROTOR, 1500, ias_kt=ias_kt)
    for name, value in (("throttle", 0.3), ("clutch", 1), ("governor", 1)):
        bench.set_lever(name, value)
    bench.advance(120)
    bench.set_lever("collective", 0.6, ramp_s=3)
    bench.advance(30)
    return bench


def lowered_collective_pct() -> float:
    """Return the fastest the rotor turns after the collective went from 0.6 to 0.1 in a second [%]."""
    bench = _hovering()
    bench.set_lever("collective", 0.1, ramp_s=1.0)
    fastest = 0.0
    for _ in range(200):
        bench.advance(0.05)
        fastest = max(fastest, _rotor_pct(bench))
    return fastest


def autorotation_pct(collective: float) -> float:
    """Return the rotor's speed [%] in a glide without an engine."""
    bench = _hovering(60)
    bench.set_lever("governor", 0)
    bench.set_lever("throttle", 0.0)
    bench.set_lever("collective", 0.1, ramp_s=1.0)
    bench.advance(20)
    bench.set_lever("collective", collective, ramp_s=2.0)
    bench.advance(15)
    return _rotor_pct(bench)


def map_inhg(bench) -> float:
    """Return the first engine's manifold pressure [inHg]."""
    return float(bench.state["manifold_pa"][0]) / _INHG_PA


def ram_inhg(kind: str) -> float:
    """Return what 120 kt add to manifold pressure at full throttle, governed [inHg]."""
    figures = []
    for ias_kt in (0, 120):
        bench = flying(kind, palt_ft=5000, ias_kt=ias_kt, throttle=1.0, prop=0.7)
        bench.advance(30)
        figures.append(map_inhg(bench))
    return figures[1] - figures[0]


def overboost_inhg(kind: str) -> float:
    """Return by how much a slammed throttle overshoots with cold oil [inHg]."""
    bench = running(kind, 1500)
    set_all(bench, "throttle", 0.3)
    bench.advance(20)
    set_all(bench, "throttle", 1.0, ramp_s=0.5)
    shown = []
    for _ in range(300):
        bench.state["oil_k"] = 300.0
        bench.advance(0.05)
        shown.append(map_inhg(bench))
    return max(shown) - shown[-1]


@cache
def holds_to_ft(kind: str) -> float:
    """Return the altitude to which full boost is held, an inch short [ft]."""
    at_sea = None
    for palt_ft in range(0, 25_000, 1000):
        bench = flying(kind, palt_ft=palt_ft, ias_kt=100, throttle=1.0, prop=1.0)
        bench.advance(60)
        at_sea = map_inhg(bench) if at_sea is None else at_sea
        if map_inhg(bench) < at_sea - 1:
            return palt_ft - 1000.0
    return 25_000.0


def blower_takes_pct(kind: str) -> float:
    """Return what the blower in its low gear takes of full power [%]."""
    bench = flying(kind, throttle=1.0, prop=1.0)
    bench.advance(40)
    s, p = bench.state[0], bench.parameters[0]
    rpm = s["speed_rad_s"] * RPM_PER_RAD_S
    drag_w = charging.blower_drag_w(rpm, False, s["air_kg_s"], bench.air[0]["temperature_k"], p)
    return float(drag_w / s["brake_w"] * 100)


def flutters_s() -> float:
    """Return how long fuel pressure flutters before it is gone, in cruise [s]."""
    bench = flying(TOURER, palt_ft=3000, ias_kt=120, throttle=0.6, prop=0.7)
    bench.advance(60)
    full = float(bench.state["fuel_pressure_psi"][0])
    bench.state["tank_kg"][0][0] = float(bench.state["fuel_metered_kg_s"][0]) * 15
    first = gone = None
    for step in range(600):
        bench.advance(0.1)
        if first is None and float(bench.state["fuel_pressure_psi"][0]) < 0.93 * full:
            first = step / 10
        if gone is None and float(bench.state["tank_kg"][0][0]) <= 0:
            gone = step / 10
    return (gone or 0.0) - (first or 0.0)


def full_throttle_exhaust_f(kind: str) -> float:
    """Return the mean exhaust at full throttle, full rich, in the climb [°F]."""
    bench = flying(kind, palt_ft=1000, ias_kt=110, throttle=1.0, prop=1.0, cowl_flaps=1.0)
    bench.advance(300)
    return float(np.mean(probes_f(bench)))


ROWS = (
    Row(ROTOR, "collective from 0.6 to 0.1 in 1 s, rotor at most", "%", lowered_collective_pct, 100, 106, _PRACTICE),
    Row(ROTOR, "autorotation, collective nearly down", "%", lambda: autorotation_pct(0.1), 95, 106, _PRACTICE),
    Row(ROTOR, "autorotation, collective half up", "%", lambda: autorotation_pct(0.5), 60, 88, _PRACTICE),
    *rows_for((TOURER, TURBO), "ram at 120 kt", "inHg", ram_inhg, (0.2, 0.8), _PRACTICE),
    *rows_for((TURBO,), "overboost on a slam with cold oil", "inHg", overboost_inhg, (1, 3), _PRACTICE),
    *rows_for((GEARED,), "full boost held to", "ft", holds_to_ft, (12_000, 16_000), _PRACTICE),
    *rows_for(
        (RADIAL, VEE),
        "low gear of the blower takes",
        "%",
        blower_takes_pct,
        (1, 12),
        "work of compression; common practice",
    ),
    Row(TOURER, "a tank that runs dry flutters for", "s", flutters_s, 2, 10, _PRACTICE),
    *rows_for((RADIAL,), "exhaust at full throttle, full rich", "°F", full_throttle_exhaust_f, (1280, 1420), _PRACTICE),
    *rows_for(
        (GEARED, RADIAL, VEE),
        "power against its rating",
        "of 1",
        lambda kind: _of_rating(kind),
        (0.93, 1.07),
        "the type's own rating",
    ),
)


def _of_rating(kind: str) -> float:
    bench = running(kind, 1500, palt_ft=0)
    set_all(bench, "throttle", 1.0)
    set_all(bench, "prop", 1.0)
    bench.advance(40)
    return float(bench.state["brake_w"][0]) / 745.7 / float(PROFILES[kind].engine["rated_power_hp"])
