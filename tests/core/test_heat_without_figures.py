"""Carburettor heat on an aircraft whose profile has no figures for it: no magneto, and never passed over."""

import numpy as np
import pytest

from jemmon.core.judgement.judge import judge
from jemmon.core.trace import Trace
from tests.core.builders import PROFILES, changed

A, B = PROFILES["a-trainer"], PROFILES["b-tourer"]
HEAT_LIMITS = (
    "carb_heat_drop_min_rpm",
    "carb_heat_drop_max_rpm",
    "carb_heat_restored_within_rpm",
    "carb_heat_ice_gain_rpm",
)


def without_figures(limits: dict) -> None:
    for name in HEAT_LIMITS:
        limits.pop(name, None)


NO_FIGURES = changed("a-trainer", lambda body: without_figures(body["limits"]))
NO_CHECK = PROFILES["f-radial"]  # its lists have none either


def came(since_s, lag_s):
    return 1 - np.exp(-np.maximum(since_s, 0) / lag_s)


def run_up(profile, heat_lever: bool = False) -> list:
    """Return what is judged of two sides of 7 s and heat of 12 s, which comes and goes more slowly."""
    t = np.arange(0, 100, 0.25)
    rpm = np.where(t < 8, 1000.0, profile.limit("runup_rpm"))
    for at_s, for_s, drop_rpm, lag_s in ((20, 7, 60, 0.4), (40, 7, 55, 0.4), (60, 12, 100, 1.8)):
        rpm = rpm - drop_rpm * (came(t - at_s, lag_s) - came(t - at_s - for_s, lag_s))
    rng = np.random.default_rng(4)
    sides = (
        came(t - 20, 3)
        - came(t - 27, 3)
        + came(t - 40, 3)
        - came(t - 47, 3)
        - 0.25 * (came(t - 60, 4) - came(t - 72, 4))
    )
    egts = {f"egt{n}_f": 1150 + 80 * sides + rng.normal(0, 2, len(t)) for n in (1, 2, 3, 4)}
    levers = {"carb_heat": ((t >= 60) & (t < 72)).astype(float)} if heat_lever else {}
    return judge(Trace(t, {"rpm": rpm + rng.normal(0, 2, len(t)), **egts, **levers}), profile, tell_gaps=False)


def told(findings) -> dict:
    return {finding.kind: finding for finding in findings}


def test_heat_is_told_as_what_it_looks_like_where_the_type_has_no_check_of_it():
    findings = run_up(NO_CHECK)
    assert told(findings)["mag_check"].verdict == "within", "two sides, and no third"
    (hot,) = [finding for finding in findings if finding.kind == "unexplained_drop"]
    assert hot.verdict == "unknown"
    assert "carburettor heat; the type has no figures" in hot.because
    assert hot.measured["drops_rpm"] == [pytest.approx(100, abs=8)]
    assert hot.measured["at_s"] == [pytest.approx(61, abs=2)]
    assert "carb_heat_check" not in told(findings)


def test_where_the_list_has_the_check_its_figures_are_asked_for_once():
    findings = told(run_up(NO_FIGURES))
    assert findings["mag_check"].verdict == "within"
    assert findings["carb_heat_check"].verdict == "unknown"
    assert findings["carb_heat_check"].measured["drop_rpm"] == pytest.approx(100, abs=8)
    assert "unexplained_drop" not in findings


def test_a_lever_that_shows_the_heat_needs_no_such_words():
    assert "unexplained_drop" not in told(run_up(NO_CHECK, heat_lever=True))


def test_with_figures_it_is_the_check_itself():
    findings = told(run_up(A))
    assert findings["carb_heat_check"].measured["drop_rpm"] == pytest.approx(100, abs=8)
    assert "unexplained_drop" not in findings


def test_an_engine_without_a_carburettor_is_never_told_of_its_heat():
    assert not any("as on carburettor heat" in finding.because for finding in run_up(B))
