"""Verdicts that hold: what was told complete is never replaced by a part of itself, what proves proves, and STOP leads nowhere."""

import numpy as np
import pytest

from jemmon.core.bench import BenchScript, run_script
from jemmon.core.flight.fold import fold
from jemmon.core.judgement.judge import evidence_of
from jemmon.core.live.checks import follow_checks
from jemmon.core.trace import Trace
from tests.core.builders import PROFILES, events

A = PROFILES["a-trainer"]
WINDOW_S = 420.0


def flown(*steps: dict, seconds: float) -> Trace:
    """Return what the needles and levers show of a running trainer that is led through these steps."""
    script = [
        {"at": 0, "engine": {"running": True}},
        {"at": 1, "set": {"throttle": 0.34}},
        *steps,
        {"at": seconds, "end": True},
    ]
    run = run_script(BenchScript.from_json(script), A.bench)
    return Trace(run.time_s, {**run.shown, **run.levers})


def told_through(trace: Trace, every_s: float = 3.0) -> list[dict]:
    """Return the findings that the live flight tells while its window of seven minutes slides over a trace."""
    told: list = []
    for end_s in np.arange(60.0, trace.time_s[-1], every_s):
        last = int(np.searchsorted(trace.time_s, end_s))
        first = int(np.searchsorted(trace.time_s, end_s - WINDOW_S))
        state = fold(A, events(*[("finding", body) for body in told]))
        told += [event.body for event in follow_checks("f", A, state, evidence_of(trace.part(first, last), A, {}))]
    return told


def test_a_settled_check_is_not_replaced_by_what_the_sliding_window_has_left_of_it():
    sides = [(60, "L"), (67, "BOTH"), (75, "R"), (82, "BOTH")]
    trace = flown(*[{"at": at, "set": {"mag": position}} for at, position in sides], seconds=620)
    checks = [body for body in told_through(trace) if body["kind"] == "mag_check"]
    assert [body["verdict"] for body in checks] == ["within"]
    assert checks[0]["measured"]["drop_left_rpm"] is not None


def test_nor_where_both_sides_were_checked_within_seconds():
    sides = [(60, "L"), (63.5, "BOTH"), (65.5, "R"), (69, "BOTH")]
    trace = flown(*[{"at": at, "set": {"mag": position}} for at, position in sides], seconds=620)
    checks = [body for body in told_through(trace, 1.0) if body["kind"] == "mag_check"]
    assert [body["verdict"] for body in checks] == ["within"]


def test_a_second_check_is_told_though_the_first_is_leaving_the_window():
    sides = [(60, "L"), (67, "BOTH"), (75, "R"), (82, "BOTH")]
    steps = [{"at": at + later, "set": {"mag": position}} for later in (0, 380) for at, position in sides]
    checks = [body for body in told_through(flown(*steps, seconds=640)) if body["kind"] == "mag_check"]
    assert [body["verdict"] for body in checks] == ["within", "within"]
    assert checks[1]["start_s"] == pytest.approx(440, abs=3)
