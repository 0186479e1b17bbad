"""Hot air: what it costs at fixed pitch, and which way manifold pressure goes under a governor."""

from functools import partial

from .rows import RADIAL, TRAINER, TWIN, Row, rpm_of, running, set_all, throttle_for

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


ROWS = (
    Row(TRAINER, "carburettor heat at 1,800 RPM, drop", "RPM", partial(heat_drop_rpm, TRAINER), 50, 150, _PRACTICE),
    *(
        Row(
            kind,
            "carburettor heat under a governor, manifold pressure",
            "inHg",
            partial(heat_moves_inhg, kind),
            -1.5,
            -0.3,
            _PRACTICE,
        )
        for kind in (TWIN, RADIAL)
    ),
)
