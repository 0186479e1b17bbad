"""A whole flight of any shipped aircraft on its simulated engine: start, warm-up, run-up, take-off, leaning, shutdown."""

from functools import cache

import numpy as np

from jemmon.core.aircraft import Profile
from jemmon.core.trace import Trace
from tests.core.builders import PROFILES
from tests.corpora.kept import kept_trace
from tests.corpora.start_pilot import StartPilot
from tests.corpora.whole_run_ups import run_up_throttle


@cache
def whole_flight(name: str) -> Trace:
    """Return the flight of an aircraft; of a twin both engines are on the trace and one is run up."""
    return kept_trace(PROFILES[name], make_flight)


def make_flight(profile: Profile) -> Trace:
    """Fly it."""
    pilot = StartPilot(profile, 15.0, keeps_levers=True)
    pilot.prepare()
    pilot.start(2)
    pilot.warm_up(60.0)
    _run_up(pilot, profile)
    _fly(pilot)
    _stop(pilot)
    return pilot.trace()


def _step(pilot: StartPilot, lever: str, value: float | str, seconds: float, ramp_s: float = 0.0) -> None:
    if pilot.has(lever):
        pilot.lever(lever, value, ramp_s)
        pilot.wait(seconds)


def _run_up(pilot: StartPilot, profile: Profile) -> None:
    _step(pilot, "throttle", run_up_throttle(profile.id, profile.limit("runup_rpm")), 25.0, 3.0)
    for side in ("L", "R"):
        _step(pilot, "mag", side, 7.0)
        _step(pilot, "mag", "BOTH", 8.0)
    for lane in ("lane_a", "lane_b"):
        _step(pilot, lane, 0, 7.0)
        _step(pilot, lane, 1, 8.0)
    _step(pilot, "carb_heat", 1.0, 10.0, 0.3)
    _step(pilot, "carb_heat", 0.0, 10.0, 0.3)
    if pilot.has("prop"):
        _step(pilot, "prop", 0.0, 3.0, 1.0)
        _step(pilot, "prop", 1.0, 8.0, 1.0)
    _step(pilot, "alternator", 0, 8.0)
    _step(pilot, "alternator", 1, 10.0)
    _step(pilot, "throttle", 0.0, 12.0, 3.0)
    _step(pilot, "throttle", 0.1, 6.0, 2.0)


def _fly(pilot: StartPilot) -> None:
    _step(pilot, "throttle", 1.0, 20.0, 3.0)
    pilot.bench.set_air(palt_ft=2500, oat_c=10, ias_kt=95)
    pilot.wait(20.0)
    pilot.bench.set_air(palt_ft=4500, oat_c=6, ias_kt=110)
    _step(pilot, "throttle", 0.62, 30.0, 4.0)
    if pilot.has("mixture"):
        _step(pilot, "mixture", 0.42, 66.0, 60.0)
        _step(pilot, "mixture", 0.55, 40.0, 8.0)
        _step(pilot, "mixture", 1.0, 10.0, 5.0)
    pilot.bench.set_air(palt_ft=600, oat_c=15, ias_kt=0)


def _stop(pilot: StartPilot) -> None:
    _step(pilot, "throttle", 0.1, 30.0, 4.0)
    _step(pilot, "mixture", 0.0, 20.0, 8.0)
    _step(pilot, "mag", "OFF", 10.0)
    for lane in ("lane_a", "lane_b"):
        _step(pilot, lane, 0, 3.0)


def moments(trace: Trace, count: int) -> list[int]:
    """Return rows spread evenly over a trace."""
    return np.linspace(0, len(trace) - 1, count).astype(int).tolist()
