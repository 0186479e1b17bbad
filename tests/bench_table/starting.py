"""Starting and stopping: strokes, cranking, hot and flooded starts by the book, cut-off, a hydraulic lock."""

from functools import cache

from jemmon.core.bench import Bench
from tests.core.builders import PROFILES
from tests.corpora.start_pilot import StartPilot

from .rows import (
    AMPHIB,
    FIELD,
    GEARED,
    GLASS,
    HOVER,
    MIXED,
    RADIAL,
    ROTOR,
    TOURER,
    TRAINER,
    TURBO,
    TWIN,
    VEE,
    Row,
    rows_for,
    rpm_of,
    running,
    set_all,
)

_PRACTICE = "common practice, from memory"
_BOOK = "the type's own list and figures"


def strokes_to_fire(kind: str, oat_c: float = 20.0) -> float:
    """Return the fewest strokes of the primer with which a cold engine fires in ten seconds."""
    for strokes in range(16):
        bench = Bench(PROFILES[kind].bench)
        bench.set_air(palt_ft=600, oat_c=oat_c)
        bench.make_cold()
        for name, value in {"master": 1, "mag": "BOTH", "mixture": 1.0, "throttle": 0.1}.items():
            bench.set_lever(name, value)
        bench.prime(strokes)
        bench.set_lever("starter", 1)
        bench.advance(10)
        if rpm_of(bench) > 450:
            return float(strokes)
    return 99.0


def cranks_rpm(kind: str, oat_c: float) -> float:
    """Return the speed [RPM] at which the starter turns a cold engine."""
    bench = Bench(PROFILES[kind].bench)
    bench.set_air(palt_ft=600, oat_c=oat_c)
    bench.make_cold(luck=0.0)
    for name in ("master", "ground_power"):
        set_all(bench, name, 1)
    bench.advance(1)
    bench.set_lever("starter", 1)
    bench.advance(4)
    return rpm_of(bench)


def _in_frost(kind: str) -> float:
    return cranks_rpm(kind, -20)


def _when_mild(kind: str) -> float:
    return cranks_rpm(kind, 20)


@cache
def hot_start_tries(kind: str) -> float:
    """Return the attempts of a start by the screen's advice half an hour after a stop, at 35 °C."""
    pilot = StartPilot(PROFILES[kind], oat_c=35, soak_h=0.5)
    pilot.prepare()
    for tries in range(3):
        if pilot.state.engine(pilot.engine).runs:  # it caught late, as the starter was let go
            return float(tries)
        if pilot.start():
            return float(tries + 1)
    return 99.0


@cache
def flooded_start_tries(kind: str) -> float:
    """Return the attempts of a start by the screen's advice after one with wet plugs that did not fire."""
    pilot = StartPilot(PROFILES[kind])
    pilot.prepare()
    pilot.bench.set_fault("wet_plugs", 1.0)
    pilot.bench.state["film_kg"] += 0.03
    if pilot.crank():
        return 0.0
    return float(pilot.start(3) or 99)


def cut_off_s(kind: str) -> float:
    """Return the seconds from idle cut-off until it stands, at idle."""
    bench = running(kind, 1000)
    set_all(bench, "throttle", 0.0)
    bench.advance(60)
    set_all(bench, "mixture", 0.0)
    for step in range(200):
        if rpm_of(bench) < 50:
            return step / 10
        bench.advance(0.1)
    return 99.0


def locked_share(kind: str) -> float:
    """Return the share of nights after which oil has locked an engine: the luck at which it just does, drawn evenly."""
    bench = Bench(PROFILES[kind].bench)
    for percent in range(101):
        bench.make_cold(12.0, luck=percent / 100)
        if float(bench.state["lock_oil"][0]) > 0.5:
            return 1 - percent / 100
    return 0.0


def forced_lock_bends(kind: str) -> float:
    """Return how bent a rod is after five seconds of starter against a lock, 0 to 1."""
    bench = Bench(PROFILES[kind].bench)
    bench.make_cold(24.0)
    for name, value in {"master": 1, "ground_power": 1, "starter": 1}.items():
        set_all(bench, name, value)
    bench.advance(5)
    return float(bench.state["bent"][0])


_BY_KEY = (TRAINER, TOURER, TWIN, ROTOR, TURBO, GLASS, HOVER, FIELD, MIXED, AMPHIB)
ROWS = (
    *rows_for(
        (TRAINER, ROTOR, FIELD, MIXED), "strokes with which it fires at 20 °C", "", strokes_to_fire, (0, 2), _PRACTICE
    ),
    Row(TOURER, "cranked at -20 °C", "RPM", lambda: _in_frost(TOURER), 40, 52, _PRACTICE),
    *rows_for(
        (TRAINER, TOURER, TWIN, ROTOR, TURBO, GLASS, HOVER, FIELD, MIXED, AMPHIB),
        "cranked at 20 °C",
        "RPM",
        _when_mild,
        (80, 160),
        _PRACTICE,
    ),
    *rows_for(
        tuple(PROFILES),
        "hot start by the list, half an hour after a stop at 35 °C",
        "tries",
        hot_start_tries,
        (0, 2),
        _BOOK,
    ),
    *rows_for(
        (TRAINER, TOURER, TWIN, ROTOR, RADIAL, GEARED, TURBO, GLASS, HOVER, FIELD, MIXED, AMPHIB),
        "flooded start by the list",
        "tries",
        flooded_start_tries,
        (0, 3),
        _BOOK,
    ),
    *rows_for(
        (TRAINER, TOURER, TWIN, RADIAL, VEE, TURBO, GLASS, FIELD, MIXED, AMPHIB),
        "idle cut-off, until it stands",
        "s",
        cut_off_s,
        (2, 5),
        _PRACTICE,
    ),
    *rows_for((RADIAL, VEE, AMPHIB), "nights after which it is locked", "share", locked_share, (0.15, 0.7), _PRACTICE),
    *rows_for(
        (VEE,), "rod bent by five seconds of starter against a lock", "of 1", forced_lock_bends, (0.9, 1), _PRACTICE
    ),
)
