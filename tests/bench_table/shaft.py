"""Propeller and shaft: windmilling, feathering, lag."""

from functools import partial

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
    Row,
    feathers_in_s,
    lag_s,
    stops_at_kt,
    windmilling_rpm,
)

_FROM_MEMORY = "common practice, from memory"
_INERTIA = "inertia of a metal propeller by its mass and length; common practice"


def _windmills(kind: str, ias_kt: float, throttle: float, lowest: float, highest: float) -> Row:
    how = "closed" if throttle < 0.1 else "open"
    quantity = f"windmilling at {ias_kt:.0f} kt, throttle {how}"
    return Row(kind, quantity, "RPM", partial(windmilling_rpm, kind, ias_kt, throttle), lowest, highest, _FROM_MEMORY)


def _feathers(kind: str) -> Row:
    return Row(
        kind, "feathered at 110 kt, below 50 RPM after", "s", partial(feathers_in_s, kind, 110), 4, 10, _FROM_MEMORY
    )


def _lags(kind: str, lowest: float, highest: float) -> Row:
    return Row(kind, "lag of RPM to 63 %", "s", partial(lag_s, kind), lowest, highest, _INERTIA)


ROWS = (
    _windmills(TRAINER, 67, 1.0, 700, 1100),
    _windmills(TRAINER, 67, 0.0, 600, 1000),
    _windmills(TRAINER, 100, 1.0, 1300, 1600),
    Row(TRAINER, "windmilling stops below", "kt", partial(stops_at_kt, TRAINER), 40, 50, _FROM_MEMORY),
    *(_windmills(kind, 110, 1.0, 1300, 2000) for kind in (TWIN, TURBO, RADIAL, AMPHIB)),
    *(_feathers(kind) for kind in (TWIN, TURBO, RADIAL, AMPHIB)),
    *(_lags(kind, 0.42, 0.6) for kind in (TRAINER, GLASS, FIELD, MIXED)),
    *(_lags(kind, 0.5, 0.72) for kind in (TOURER, TWIN, TURBO)),
    *(_lags(kind, 0.8, 1.15) for kind in (RADIAL, AMPHIB)),
    _lags(VEE, 0.68, 0.95),
    _lags(GEARED, 0.25, 0.36),
)
