"""A row of the table, and the hands that measure the simulated engines."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache, partial

import numpy as np

from jemmon.core.bench import Bench
from tests.core.builders import PROFILES

RPM_PER_RAD_S = 60 / (2 * np.pi)
TRAINER, TOURER, TWIN, ROTOR, RADIAL, VEE, GEARED, TURBO = (
    *("a-trainer", "b-tourer", "d-twin", "e-rotor", "f-radial", "g-vee", "h-geared", "i-turbo"),
)
GLASS, HOVER, FIELD, MIXED, AMPHIB = "j-glass", "k-hover", "l-field", "m-mixed", "n-amphib"


@dataclass(frozen=True)
class Row:
    """One quantity of one type: how it is measured, between which figures it is expected, and by which source."""

    kind: str
    quantity: str
    unit: str
    measure: Callable[[], float]
    lowest: float
    highest: float
    source: str

    @property
    def name(self) -> str:
        """What a test and the table call it."""
        return f"{self.kind}: {self.quantity}"


def rows_for(
    kinds: tuple[str, ...],
    quantity: str,
    unit: str,
    measure: Callable[..., float],
    expected: tuple[float, float],
    source: str,
) -> tuple[Row, ...]:
    """Return one row a type: `measure` is called with the type's id."""
    return tuple(Row(kind, quantity, unit, partial(measure, kind), *expected, source) for kind in kinds)


def running(kind: str, rpm: float = 1500.0, **air: float) -> Bench:
    """Return a warm engine that runs in this air."""
    bench = Bench(PROFILES[kind].bench)
    bench.set_air(**{"palt_ft": 600, "oat_c": 15, **air})
    bench.make_running(rpm)
    return bench


def rpm_of(bench: Bench, engine: int = 0) -> float:
    """Return the true speed [RPM] of an engine."""
    return float(bench.state["speed_rad_s"][engine]) * RPM_PER_RAD_S


def set_all(bench: Bench, name: str, value: float | str, ramp_s: float = 0.0) -> None:
    """Move a lever of every engine that has it."""
    for own in bench.lever_names:
        if own.removeprefix("e2_") == name:
            bench.set_lever(own, value, ramp_s)


def flying(kind: str, palt_ft: float = 0.0, oat_c: float | None = None, ias_kt: float = 0.0, **levers: float) -> Bench:
    """Return a warm engine in the standard air of an altitude, or at a temperature, with levers as given."""
    standard_c = 15 - 1.9812 * palt_ft / 1000
    bench = running(kind, 2000, palt_ft=palt_ft, oat_c=standard_c if oat_c is None else oat_c, ias_kt=ias_kt)
    for name, value in levers.items():
        set_all(bench, name, value)
    return bench


def horsepower(bench: Bench) -> float:
    """Return the brake power of the first engine."""
    return float(bench.state["brake_w"][0]) / 745.7


def equivalence_ratio(bench: Bench) -> float:
    """Return the mean over the first engine's cylinders."""
    return float(np.mean(bench.state["equivalence_ratio"][0][: bench.cylinders]))


def pounds_per_hour(bench: Bench) -> float:
    """Return the fuel that the first engine burns."""
    return float(bench.state["fuel_metered_kg_s"][0]) * 3600 * 2.20462


def probes_f(bench: Bench) -> np.ndarray:
    """Return the first engine's true exhaust temperatures [°F]."""
    return np.asarray(bench.state["probe_k"][0][: bench.cylinders]) * 1.8 - 459.67


def heads_f(bench: Bench) -> np.ndarray:
    """Return the first engine's true cylinder head temperatures [°F]."""
    return np.asarray(bench.state["head_k"][0][: bench.cylinders]) * 1.8 - 459.67


@cache
def windmilling_rpm(kind: str, ias_kt: float, throttle: float) -> float:
    """Return the speed [RPM] of an engine without fuel at an airspeed."""
    bench = running(kind, 2000, ias_kt=ias_kt)
    set_all(bench, "throttle", throttle)
    bench.advance(20)
    set_all(bench, "mixture", 0.0)
    bench.advance(60)
    return rpm_of(bench)


def stops_at_kt(kind: str) -> float:
    """Return the airspeed [kt] at which an engine without fuel stops, slowed a knot at a time."""
    bench = running(kind, 2000, ias_kt=90)
    bench.advance(10)
    set_all(bench, "mixture", 0.0)
    for knots in range(90, 20, -1):
        bench.set_air(palt_ft=600, oat_c=15, ias_kt=knots)
        bench.advance(6)
        if rpm_of(bench) < 30:
            return float(knots)
    return 0.0


def feathers_in_s(kind: str, ias_kt: float) -> float:
    """Return the seconds until a feathered engine without fuel turns less than 50 RPM."""
    bench = running(kind, 2000, ias_kt=ias_kt)
    bench.advance(10)
    set_all(bench, "mixture", 0.0)
    bench.advance(10)
    set_all(bench, "prop", 0.0)
    for step in range(600):
        bench.advance(0.05)
        if rpm_of(bench) < 50:
            return step * 0.05
    return 99.0


def lag_s(kind: str) -> float:
    """Return the seconds to 63 % of the fall on one magneto, at run-up speed."""
    bench = running(kind)
    throttle = throttle_for(kind, PROFILES[kind].limit("runup_rpm"))
    set_all(bench, "throttle", throttle)
    bench.advance(60)
    before = rpm_of(bench)
    switch = "mag" if "mag" in bench.lever_names else "lane_b"
    bench.set_lever(switch, "L" if switch == "mag" else 0)
    figures = []
    for _ in range(400):
        bench.advance(0.02)
        figures.append(rpm_of(bench))
    settled = min(figures)  # a turbocharger gives some of it back later
    reached = next(n for n, rpm in enumerate(figures) if rpm < before - 0.632 * (before - settled))
    return (reached + 1) * 0.02


@cache
def throttle_for(kind: str, rpm: float) -> float:
    """Return the throttle at which a warm engine stands at this speed [RPM] on the ground."""
    low, high = 0.02, 0.9
    for _ in range(14):
        middle = (low + high) / 2
        bench = running(kind, rpm)
        set_all(bench, "throttle", middle)
        bench.advance(30)
        low, high = (middle, high) if rpm_of(bench) < rpm else (low, middle)
    return (low + high) / 2
