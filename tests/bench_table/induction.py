"""Hot air: what it costs at fixed pitch, and which way manifold pressure goes under a governor."""

from functools import partial

from jemmon.core.bench import Bench

from .rows import AMPHIB, FIELD, MIXED, RADIAL, TRAINER, TWIN, Row, rows_for, rpm_of, running, set_all, throttle_for

_PRACTICE = "common practice, from memory"


def heat_drop_rpm(kind: str) -> float:
    """Return what carburettor heat takes [RPM] at run-up speed."""
    bench = running(kind)
    set_all(bench, "throttle", throttle_for(kind, 1800))
    bench.advance(60)
    before = rpm_of(bench)
    set_all(bench, "carb_heat", 1.0)
    bench.advance(15)
    return before - rpm_of(bench)


def heat_moves_inhg(kind: str) -> float:
    """Return how far carburettor heat moves manifold pressure [inHg] in a governed cruise."""
    bench = running(kind, 2000, palt_ft=4000, oat_c=5, ias_kt=120)
    for name, value in (("throttle", 0.5), ("prop", 0.6)):
        set_all(bench, name, value)
    bench.advance(120)
    before = float(bench.state["manifold_pa"][0])
    set_all(bench, "carb_heat", 1.0)
    bench.advance(60)
    return (float(bench.state["manifold_pa"][0]) - before) / 3386.39


def _in_ice(kind: str, oat_c: float, dewpoint_c: float, throttle: float, ias_kt: float) -> Bench:
    bench = running(kind, 2300, palt_ft=3000, oat_c=oat_c, dewpoint_c=dewpoint_c, ias_kt=ias_kt)
    for name, value in (("throttle", throttle), ("prop", 0.6), ("cowl_flaps", 0.0)):
        set_all(bench, name, value)
    bench.advance(5)
    return bench


def halves_power_min(kind: str) -> float:
    """Return the minutes in which ice halves the power of a cruise at 10 °C with a dew point of 9 °C."""
    bench = _in_ice(kind, 10, 9, 0.5, 95)
    before = float(bench.state["brake_w"][0])
    for minute in range(1, 31):
        bench.advance(60)
        if float(bench.state["brake_w"][0]) < before / 2:
            return float(minute)
    return 99.0


def glide_ice(kind: str) -> float:
    """Return the share of the throat that ice closes in five minutes' glide at 30 °C, dew point 25 °C."""
    bench = _in_ice(kind, 30, 25, 0.0, 70)
    bench.advance(300)
    return float(bench.state["ice"][0])


def dry_ice(oat_c: float, dewpoint_c: float) -> float:
    """Return the share of the trainer's throat that ice closes in ten minutes of dry air."""
    bench = _in_ice(TRAINER, oat_c, dewpoint_c, 0.55, 90)
    bench.advance(600)
    return float(bench.state["ice"][0])


def at_the_valve_k(kind: str) -> float:
    """Return how much warmer [K] hot air makes the charge at the valve."""
    bench = running(kind, 2000, palt_ft=4000, oat_c=5, ias_kt=120)
    set_all(bench, "throttle", 0.5)
    bench.advance(120)
    before = float(bench.state["charge_k"][0])
    set_all(bench, "carb_heat", 1.0)
    bench.advance(60)
    return float(bench.state["charge_k"][0]) - before


_ICE = "FAA SAIB CE-09-35, from memory"
_CARBURETTED = (TRAINER, TWIN, RADIAL, FIELD, MIXED, AMPHIB)
_UNDER_A_GOVERNOR = "carburettor heat under a governor, manifold pressure"
ROWS = (
    Row(TRAINER, "carburettor heat at 1,800 RPM, drop", "RPM", partial(heat_drop_rpm, TRAINER), 50, 150, _PRACTICE),
    *rows_for((TWIN, RADIAL), _UNDER_A_GOVERNOR, "inHg", heat_moves_inhg, (-1.5, -0.3), _PRACTICE),
    *rows_for(_CARBURETTED, "carburettor heat, of it at the valve", "K", at_the_valve_k, (20, 30), _PRACTICE),
    *rows_for(
        _CARBURETTED, "ice in cruise at 10 °C, dew point 9, halves the power in", "min", halves_power_min, (9, 15), _ICE
    ),
    *rows_for((TRAINER,), "ice in a glide at 30 °C, dew point 25, closes", "of 1", glide_ice, (0.1, 0.9), _ICE),
    Row(TRAINER, "ice at -20 °C, dew point -22, closes", "of 1", partial(dry_ice, -20, -22), 0, 0.05, _ICE),
    Row(TRAINER, "ice at 35 °C, dew point 5, closes", "of 1", partial(dry_ice, 35, 5), 0, 0.05, _ICE),
)
