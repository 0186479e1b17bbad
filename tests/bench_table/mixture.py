"""Full rich, roughness when leaned, and power off the standard day."""

from functools import cache

import numpy as np

from .rows import (
    AMPHIB,
    FIELD,
    GEARED,
    GLASS,
    MIXED,
    RADIAL,
    TOURER,
    TRAINER,
    TURBO,
    TWIN,
    VEE,
    equivalence_ratio,
    flying,
    horsepower,
    pounds_per_hour,
    probes_f,
    rows_for,
    rpm_of,
    set_all,
)

_PRACTICE = "common practice, from memory"
_UNBLOWN, _BLOWN = (TRAINER, TOURER, TWIN, GLASS, FIELD, MIXED), (RADIAL, VEE, GEARED, TURBO, AMPHIB)
_ROUGH_FROM = 0.15  # what a pilot feels


@cache
def _full_rich(kind: str) -> tuple[float, float]:
    bench = flying(kind, ias_kt=90, throttle=1.0, prop=1.0)
    bench.advance(120)
    return equivalence_ratio(bench), pounds_per_hour(bench) / horsepower(bench)


def full_rich_ratio(kind: str) -> float:
    """Return the equivalence ratio at full throttle, full rich, sea level."""
    return _full_rich(kind)[0]


def full_rich_bsfc(kind: str) -> float:
    """Return the specific fuel consumption there [lb/hp/h]."""
    return _full_rich(kind)[1]


@cache
def _leaned_until_rough(kind: str) -> tuple[float, float]:
    """Lean in cruise until it is rough; return (°F lean of peak of the mean exhaust, RPM below the best)."""
    bench = flying(kind, palt_ft=4000, ias_kt=90 if kind == TRAINER else 130, throttle=0.45, prop=0.6)
    bench.advance(60)
    exhaust, rpm = [], []
    for mixture in np.linspace(1.0, 0.35, 131):
        set_all(bench, "mixture", float(mixture))
        bench.advance(8)
        exhaust.append(float(probes_f(bench).mean()))
        rpm.append(rpm_of(bench))
        past_peak = max(exhaust) - exhaust[-1] > 1 and int(np.argmax(exhaust)) < len(exhaust) - 1
        if past_peak and float(bench.state["roughness"][0]) > _ROUGH_FROM:
            break
    return max(exhaust) - exhaust[-1], max(rpm) - rpm[-1]


def rough_at_f(kind: str) -> float:
    """Return how far lean of peak [°F] it grows rough."""
    return _leaned_until_rough(kind)[0]


def rough_at_rpm(kind: str) -> float:
    """Return how far below its best speed [RPM] it is then."""
    return _leaned_until_rough(kind)[1]


def swings_rpm(kind: str) -> float:
    """Return by how much the speed swings at 12,000 ft, full throttle, full rich [RPM]."""
    bench = flying(kind, palt_ft=12_000, ias_kt=80, throttle=1.0, prop=1.0)
    bench.advance(60)
    speeds = []
    for _ in range(200):
        bench.advance(0.1)
        speeds.append(rpm_of(bench))
    return float(np.ptp(speeds))


def rough_when_rich(kind: str) -> float:
    """Return the roughness at 12,000 ft, full throttle, full rich."""
    bench = flying(kind, palt_ft=12_000, ias_kt=80, throttle=1.0, prop=1.0)
    bench.advance(60)
    return float(bench.state["roughness"][0])


def temperature_exponent(kind: str, palt_ft: float = 3000) -> float:
    """Return the exponent of absolute temperature with which full-throttle power goes, best mixture, governed speed."""
    best = []
    for oat_c in (-15.0, 35.0):
        bench = flying(kind, palt_ft=palt_ft, oat_c=oat_c, throttle=1.0, prop=0.8)
        bench.parameters["shaft_inertia_kg_m2"] = 1e12
        bench.state["speed_rad_s"] = 2400 * 2 * np.pi / 60
        powers = []
        for mixture in np.linspace(1.0, 0.45, 30):
            set_all(bench, "mixture", float(mixture))
            bench.advance(6)
            powers.append(horsepower(bench))
        best.append(max(powers))
    return float(np.log(best[1] / best[0]) / np.log(308.15 / 258.15))


ROWS = (
    *rows_for(
        (*_UNBLOWN, *_BLOWN),
        "equivalence ratio, full throttle, full rich",
        "",
        full_rich_ratio,
        (1.28, 1.35),
        _PRACTICE,
    ),
    *rows_for(_UNBLOWN, "specific consumption there", "lb/hp/h", full_rich_bsfc, (0.52, 0.575), _PRACTICE),
    *rows_for(_BLOWN, "specific consumption there", "lb/hp/h", full_rich_bsfc, (0.52, 0.645), _PRACTICE),
    *rows_for(
        (TRAINER, TWIN, RADIAL, FIELD, MIXED, AMPHIB),
        "rough when leaned, lean of peak",
        "°F",
        rough_at_f,
        (20, 50),
        "Heywood 1988, from memory",
    ),
    *rows_for((TRAINER,), "rough when leaned, below best speed", "RPM", rough_at_rpm, (25, 55), _PRACTICE),
    *rows_for(
        (TOURER, TURBO, GLASS),
        "rough when leaned, lean of peak",
        "°F",
        rough_at_f,
        (80, 250),
        "Heywood 1988, from memory",
    ),
    *rows_for(
        (TRAINER, TWIN, RADIAL), "full rich at 12,000 ft, roughness", "of 1", rough_when_rich, (0.15, 0.6), _PRACTICE
    ),
    *rows_for((TRAINER, TWIN, RADIAL), "full rich at 12,000 ft, speed swings", "RPM", swings_rpm, (0, 30), _PRACTICE),
    *rows_for(
        (TRAINER, TOURER, TWIN),
        "power by temperature at one pressure altitude",
        "exponent",
        temperature_exponent,
        (-0.6, -0.4),
        "SAE J1349, from memory",
    ),
)
