"""Oil: how soon it is warm, how soon its pressure comes, and what its loss does."""

from functools import cache

from jemmon.core.bench import Bench
from jemmon.core.bench.heat import kinematic_viscosity_cst
from tests.core.builders import PROFILES

from .rows import (
    AMPHIB,
    FIELD,
    GEARED,
    GLASS,
    MIXED,
    RADIAL,
    ROTOR,
    TOURER,
    TRAINER,
    TURBO,
    TWIN,
    Row,
    flying,
    rows_for,
    rpm_of,
    set_all,
    throttle_for,
)

_PRACTICE = "common practice, from memory"
_WARM_UP_RPM = {TRAINER: 1100, TOURER: 1050, TWIN: 1050, TURBO: 1050, RADIAL: 1000, ROTOR: 1400, GEARED: 2200} | {
    GLASS: 1100,
    FIELD: 1100,
    MIXED: 1200,
    AMPHIB: 950,
}
_FROM_COLD = (TRAINER, TOURER, TWIN, TURBO, RADIAL, GLASS, FIELD, MIXED, AMPHIB)


def _cold(kind: str, oat_c: float, is_summer_oil: bool = False) -> Bench:
    rpm = _WARM_UP_RPM[kind]
    throttle = throttle_for(kind, rpm)
    bench = Bench(PROFILES[kind].bench)
    bench.set_air(palt_ft=600, oat_c=oat_c)
    bench.make_cold()
    grade = bench.state["oil_grade"].copy()
    bench.make_running(rpm)
    bench.state["oil_grade"] = grade
    for part in ("head_k", "oil_k", "coolant_k"):
        bench.state[part] = 273.15 + oat_c
    bench.state["oil_fill"], bench.state["oil_pressure_psi"] = 0.0, 0.0
    if is_summer_oil:
        bench.set_fault("summer_oil", 1.0)
    set_all(bench, "throttle", throttle)
    return bench


@cache
def warms_min(kind: str, oat_c: float) -> float:
    """Return the minutes at warm-up speed until the oil is at 75 °F."""
    bench = _cold(kind, oat_c)
    for second in range(0, 3000, 5):
        if float(bench.state["oil_k"][0]) * 1.8 - 459.67 >= 75:
            return second / 60
        bench.advance(5)
    return 99.0


@cache
def pressed_share_of_clock(kind: str, is_summer_oil: bool = False) -> float:
    """Return when the least pressure comes at -20 °C, as a share of the type's own clock for cold."""
    bench = _cold(kind, -20, is_summer_oil)
    profile = PROFILES[kind]
    for second in range(1, 400):
        bench.advance(1)
        if float(bench.state["oil_pressure_psi"][0]) >= profile.limit("oil_pressure_min_psi"):
            return second / profile.limit("oil_pressure_time_cold_s")
    return 99.0


def _on_the_wrong_grade(kind: str) -> float:
    return pressed_share_of_clock(kind, True)


def _warm_15(kind: str) -> float:
    return warms_min(kind, 15)


def _warm_frost(kind: str) -> float:
    return warms_min(kind, -20)


def thicker_cold() -> float:
    """Return how many times a straight 50 is thicker at -20 °C than at 40 °C."""
    return float(kinematic_viscosity_cst(253.15, 50.0) / kinematic_viscosity_cst(313.15, 50.0))


def _without_oil(kind: str) -> Bench:
    bench = flying(kind, palt_ft=3000, ias_kt=120, throttle=0.6, prop=0.7)
    bench.advance(60)
    bench.set_fault("no_oil_pressure", 1.0)
    return bench


def seizes_min(kind: str) -> float:
    """Return the minutes in cruise without oil pressure until the engine stands."""
    bench = _without_oil(kind)
    for second in range(1, 600):
        bench.advance(1)
        if float(bench.state["bearing_wear"][0]) >= 1:
            return second / 60
    return 99.0


def speed_moves_rpm(kind: str) -> float:
    """Return how the speed has moved [RPM] twenty seconds after the pressure is lost in cruise."""
    bench = _without_oil(kind)
    before = rpm_of(bench)
    bench.advance(20)
    return rpm_of(bench) - before


ROWS = (
    *rows_for((*_FROM_COLD, ROTOR), "oil at 75 °F after, at 15 °C", "min", _warm_15, (2.6, 4.2), _PRACTICE),
    *rows_for((*_FROM_COLD, ROTOR), "oil at 75 °F after, at -20 °C", "min", _warm_frost, (10, 25), _PRACTICE),
    *rows_for(
        (*_FROM_COLD, ROTOR, GEARED),
        "oil pressure at -20 °C, oil for the season",
        "of the clock",
        pressed_share_of_clock,
        (0.33, 0.9),
        "the type's own clock",
    ),
    *rows_for(
        _FROM_COLD,
        "oil pressure at -20 °C, summer oil",
        "of the clock",
        _on_the_wrong_grade,
        (1.0, 6.0),
        "the type's own clock",
    ),
    Row("all", "grade 50 thicker at -20 than at 40 °C", "times", thicker_cold, 120, 400, "ASTM D341"),
    *rows_for((TRAINER, TOURER, TWIN), "seizes without oil pressure after", "min", seizes_min, (1, 5), _PRACTICE),
    *rows_for(
        (TWIN, RADIAL, TURBO),
        "speed without oil pressure: a feathering hub goes coarse",
        "RPM",
        speed_moves_rpm,
        (-2500, -150),
        _PRACTICE,
    ),
    *rows_for(
        (TOURER,),
        "speed without oil pressure: oil to coarse, it goes fine",
        "RPM",
        speed_moves_rpm,
        (60, 900),
        _PRACTICE,
    ),
)
