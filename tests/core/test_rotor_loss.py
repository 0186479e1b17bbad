"""A helicopter's engine that fails in flight: the needles part, and no throttle was closed (FAA-H-8083-21, chapter 11)."""

import copy
from dataclasses import replace

import numpy as np
import pytest

from jemmon.core.judgement.judge import judge
from jemmon.core.trace import Trace
from tests.core.builders import PROFILES
from tests.core.test_bench_propellers import bench_of

HELICOPTER, INJECTED = PROFILES["e-rotor"], PROFILES["k-hover"]
FAILS_S = 60.0


def flown(row_s: float = 0.25, engine_to=0.0, rotor_to=88.0, begins_pct=102.0, within_s=1.5, **others) -> Trace:
    """A cruise in which engine and rotor go to so many percent within some seconds; `others` are constants, or the figures (before,
    after). A column of None is left out."""
    t = np.arange(0, FAILS_S + 30, row_s)
    gone = np.clip((t - FAILS_S) / within_s, 0, 1)
    columns = {
        "rpm_pct": begins_pct + (engine_to - begins_pct) * gone,
        "rotor_pct": begins_pct + (rotor_to - begins_pct) * gone,
        "ias_kt": 70.0,
    }
    for name, shown in others.items():
        before, after = shown if isinstance(shown, tuple) else (shown, shown)
        columns[name] = None if shown is None else np.where(t < FAILS_S, before, after)
    full = {name: np.broadcast_to(values, t.shape) for name, values in columns.items() if values is not None}
    return Trace(t, {name: np.array(values, dtype=float) for name, values in full.items()})


def told(trace: Trace, profile=HELICOPTER) -> list[str]:
    return [finding.verdict for finding in judge(trace, profile, ("power_loss",))]


@pytest.mark.parametrize(
    ("shown", "verdicts"),
    [
        ({"throttle": (0.3, 0.4)}, ["stop"]),
        ({"map_inhg": (21.0, 27.0)}, ["stop"]),
        ({}, ["look"]),
        ({"throttle": (0.3, 0.0)}, []),
        ({"map_inhg": (21.0, 8.0)}, []),
        # just inside and outside: three quarters of the throttle, nine tenths of its pressure
        ({"throttle": (0.4, 0.305)}, ["stop"]),
        ({"throttle": (0.4, 0.295)}, []),
        ({"map_inhg": (21.0, 19.0)}, ["stop"]),
        ({"map_inhg": (21.0, 18.8)}, []),
        # lowered with the collective by a governor, and then the engine stops; closed, and it idles
        ({"throttle": (0.4, 0.2), "map_inhg": (21.0, 27.0)}, ["stop"]),
        ({"throttle": (0.4, 0.0), "map_inhg": (21.0, 9.0)}, []),
    ],
)
def test_needles_that_part_are_a_failure_unless_the_throttle_was_closed(shown, verdicts):
    assert told(flown(**shown)) == verdicts


@pytest.mark.parametrize(
    ("needles", "verdicts"),
    [
        ({"engine_to": 94.0, "rotor_to": 97.5}, ["stop"]),
        ({"engine_to": 95.5, "rotor_to": 99.5}, []),  # nine tenths and more of its speed are left
        ({"engine_to": 90.0, "rotor_to": 93.2}, ["stop"]),
        ({"engine_to": 90.0, "rotor_to": 92.8}, []),  # too much collective: both sink together
        ({"begins_pct": 86.0}, ["stop"]),
        ({"begins_pct": 84.0}, []),  # no flight is flown so slowly
    ],
)
def test_how_far_the_needles_part_is_a_failure(needles, verdicts):
    assert told(flown(throttle=0.3, **needles)) == verdicts


@pytest.mark.parametrize(
    ("engine_to", "others", "verdicts"),
    [
        (85.0, {"egt1_f": (1300.0, 1240.0)}, ["stop"]),
        (88.0, {"egt1_f": (1300.0, 1240.0)}, []),
        (85.0, {"egt1_f": (1300.0, 1250.0)}, []),
        (60.0, {}, ["stop"]),
        (63.0, {}, []),
    ],
)
def test_without_a_rotor_needle_the_exhausts_must_cool_or_the_engine_nearly_stop(engine_to, others, verdicts):
    assert told(flown(engine_to=engine_to, throttle=0.3, rotor_pct=None, **others)) == verdicts


@pytest.mark.parametrize(
    ("where", "verdicts"),
    [
        ({"ias_kt": 0.0}, []),
        ({"ias_kt": None, "collective": 0.26}, ["stop"]),
        ({"ias_kt": None, "collective": 0.24}, []),
        ({"ias_kt": 0.0, "collective": 0.5}, ["stop"]),  # a hover
    ],
)
def test_on_the_ground_it_is_no_failure_in_flight_but_in_a_hover_it_is(where, verdicts):
    assert told(flown(throttle=0.3, **where)) == verdicts


@pytest.mark.parametrize(
    ("shown", "cause"),
    [
        ({"ff_gph": (12.0, 1.0), "map_inhg": (21.0, 27.0)}, "fuel"),
        ({"fp_psi": (9.0, 2.0)}, "fuel"),
        ({"ff_gph": (12.0, 11.5), "fp_psi": 9.0, "map_inhg": (21.0, 21.5)}, "ignition"),
        ({"ff_gph": (12.0, 11.5), "map_inhg": (21.0, 21.5)}, "unknown"),  # a slow flow sensor would show the same
        ({"ff_gph": (12.0, 9.0), "fp_psi": 9.0, "map_inhg": (21.0, 21.5)}, "unknown"),
        ({}, "unknown"),
    ],
)
def test_the_cause_is_named_only_where_fuel_flow_and_pressure_show_it(shown, cause):
    (loss,) = judge(flown(engine_to=45.0, within_s=0.5, throttle=0.3, **shown), INJECTED, ("power_loss",))
    assert loss.measured["cause"] == cause


@pytest.mark.parametrize(("row_s", "within_s"), [(0.25, 1.0), (0.5, 1.5), (1.0, 3.0)])
def test_it_is_told_within_seconds_in_percent_and_says_what_comes_first(row_s, within_s):
    (loss,) = judge(flown(row_s, throttle=0.3), HELICOPTER, ("power_loss",))
    assert loss.end_s - FAILS_S <= within_s
    assert "RPM {102" in loss.because
    assert "|pct}" in loss.because
    assert loss.next.startswith("Collective down")


@pytest.mark.parametrize(("rpm_to", "verdicts"), [(300.0, ["stop"]), (2540.0, [])])
def test_a_helicopter_whose_tachometer_shows_rpm(rpm_to, verdicts):
    """A profile of one's own need not say what 100 % is."""
    body = copy.deepcopy(HELICOPTER.body)
    del body["engine"]["rpm_at_100_pct"]
    whole = flown(throttle=0.3)
    gone = np.clip((whole.time_s - FAILS_S) / 1.5, 0, 1)
    columns = {name: values for name, values in whole.columns.items() if name != "rpm_pct"}
    shown = Trace(whole.time_s, {**columns, "rpm": 2590 + (rpm_to - 2590) * gone})
    own = replace(HELICOPTER, engine=body["engine"], body=body)
    assert told(shown, own) == verdicts


@pytest.mark.parametrize("kind", ["e", "k"])
@pytest.mark.parametrize(
    ("levers", "is_told"),
    [
        ({"mixture": 0.0}, True),
        ({"mag": "OFF"}, True),
        ({"collective": 0.0}, False),
        ({"collective": 0.9}, False),
        ({"collective": 0.0, "governor": False, "throttle": 0.0}, False),  # a practice autorotation
    ],
)
def test_the_simulated_helicopter(kind, levers, is_told):
    bench = bench_of(kind, 0.3)
    for name, value in {"governor": True, "collective": 0.5}.items():
        bench.set_lever(name, value)
    bench.advance(20)
    rows, throttle = [], []
    for row in range(4 * 45):
        if row == 4 * 30:
            for name, value in levers.items():
                bench.set_lever(name, value, ramp_s=0.3)
        bench.advance(0.25)
        rows.append(bench.true_readings()[0])
        throttle.append(float(bench.lever_positions()["throttle"]))
    named = dict(zip(bench.channels, np.array(rows).T, strict=True)) | {"throttle": np.array(throttle)}
    shown = {n: v for n, v in named.items() if n in ("rpm_pct", "rotor_pct", "map_inhg", "ff_gph", "throttle")}
    trace = Trace(0.25 * np.arange(len(rows)), {**shown, "ias_kt": np.full(len(rows), 60.0)})
    assert told(trace, INJECTED if kind == "k" else HELICOPTER) == ["stop"] * is_told
