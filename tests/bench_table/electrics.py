"""Battery: what it takes after a start, and what is left of it without an alternator."""

from functools import cache, partial

from .rows import AMPHIB, FIELD, GLASS, RADIAL, TOURER, TRAINER, TURBO, TWIN, VEE, Row, running, set_all

_FROM_MEMORY = "lead-acid batteries, common practice, from memory"


@cache
def takes_a(kind: str, minutes: float) -> float:
    """Return the current [A] into the battery so long after a start that took half an ampere-hour."""
    bench = running(kind)
    bench.state["charge_ah"] -= 0.5
    set_all(bench, "throttle", 0.3)
    set_all(bench, "alternator", 1)
    bench.advance(max(minutes * 60, 2.0))
    return float(bench.state["battery_a"][0])


def lasts_min(kind: str) -> float:
    """Return the minutes at 20 A from a full battery until the bus is below 20 V, or 10 V of a 12 V system."""
    bench = running(kind)
    set_all(bench, "throttle", 0.2)
    set_all(bench, "alternator", 0)
    bench.parameters["load_a"] = 20.0
    least_v = 20.0 if float(bench.parameters["alternator_v"][0]) > 20 else 10.0
    for minute in range(120):
        bench.advance(60)
        if float(bench.state["bus_v"][0]) < least_v:
            return minute + 1.0
    return 120.0


_KINDS = (TRAINER, TOURER, TWIN, RADIAL, VEE, TURBO, GLASS, FIELD, AMPHIB)
ROWS = (
    *(Row(k, "charging just after a start", "A", partial(takes_a, k, 0), 22, 42, _FROM_MEMORY) for k in _KINDS),
    *(Row(k, "charging 25 min later", "A", partial(takes_a, k, 25), 0, 3, _FROM_MEMORY) for k in _KINDS),
    Row(TRAINER, "battery alone, 20 A, below 20 V after", "min", partial(lasts_min, TRAINER), 35, 60, _FROM_MEMORY),
)
