"""What to set, in which order, for how long, and how lean: through the fold and on the screen's description."""

import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from jemmon.core.aircraft import profile_from_json
from jemmon.core.base.errors import EventError, ProfileError
from jemmon.core.base.figures import plain
from jemmon.core.flight.fold import fold
from jemmon.core.live.ratings import follow_ratings, power_warnings, pressures_ahead, rating_clock, speeding_up
from jemmon.core.power import full_throttle_inhg, lever_steps, map_allowed_inhg, read_power, settings_for
from jemmon.core.power.plan import plan
from jemmon.core.power.schools import refusal
from jemmon.core.power.wanted import power_choices
from jemmon.core.screen.power import describe_power
from jemmon.core.trace import Trace
from tests.core.builders import PROFILES, changed, events, needles, screen_of

A, B, D, F, G = (PROFILES[k] for k in ("a-trainer", "b-tourer", "d-twin", "f-radial", "g-vee"))
RUNS = ("engine_fired", {"limit_s": 30.0})
RIGHT_RUNS = ("engine_fired", {"limit_s": 30.0, "engine": 2})
TARGETS = {t.id: t for t in B.lean_targets}


def flying(profile, rpm: float, map_inhg: float, **more):
    state = fold(profile, events(("phase_entered", {"phase": "cruise"}), RUNS, RIGHT_RUNS))
    return state, needles(100.0, rpm=rpm, map_inhg=map_inhg, palt_ft=6000.0, oat_f=37.4, ff_gph=12.0, **more)


def test_manifold_pressure_ahead_of_rpm_is_said_by_the_types_table():
    state, now = flying(B, 2000, 28.0)
    assert "ahead of RPM" in pressures_ahead(B, state, now, 100.0)[0]
    state, now = flying(B, 2600, 28.0)
    assert pressures_ahead(B, state, now, 100.0) == ()
    state, now = flying(A, 2000, 29.0)  # a fixed-pitch trainer takes off so: there is no table, and no square habit
    assert pressures_ahead(A, state, now, 100.0) == ()


def test_an_engine_slower_than_the_table_begins_is_no_matter_of_levers():
    """It dies with its throttle open, and what it draws is the air outside; a propeller pulled far back is not so slow."""
    slowest = B.power_section["map_most"][0]["rpm"]
    assert pressures_ahead(B, *flying(B, 0.67 * slowest, 29.0), 100.0)
    assert pressures_ahead(B, *flying(B, 0.66 * slowest, 29.0), 100.0) == ()


@pytest.mark.parametrize(("rpm_a_second", "is_said"), [(0.0, True), (25.0, True), (35.0, False), (400.0, False)])
def test_a_speed_that_is_on_its_way_up_is_waited_for(rpm_a_second, is_said):
    """A brisk hand at take-off: pressure is there at once, the propeller takes its second or two."""
    state, now = flying(D, 2000, 28.0, e2_rpm=2580.0, e2_map_inhg=28.0)
    t = np.arange(0, 5, 0.25)
    recent = Trace(t, {"rpm": 2000 - rpm_a_second * (t[-1] - t), "e2_rpm": np.full(len(t), 2580.0)})
    assert bool(pressures_ahead(D, state, now, 100.0, speeding_up(D, recent))) is is_said


def test_of_twins_the_engine_is_named():
    state, now = flying(D, 2600, 24.0, e2_rpm=1950.0, e2_map_inhg=28.5)
    (said,) = pressures_ahead(D, state, now, 100.0)
    assert said.startswith("Right engine:")


def test_a_change_of_power_is_in_the_order_that_keeps_pressure_behind_rpm():
    up = lever_steps(B, 2300, 22, 2600, 27, mixture_is_lean=True)
    assert [step.split()[0] for step in up] == ["Mixture", "RPM", "Manifold"]
    down = lever_steps(B, 2700, 28, 2400, 23)
    assert [step.split()[0] for step in down] == ["Manifold", "RPM"]
    assert lever_steps(B, 2400, 23, 2400, 23) == []
    assert [step.split()[0] for step in lever_steps(A, 2300, 23, 2500, 26)] == ["Manifold"]


@given(
    now=st.tuples(st.floats(1900, 2700), st.floats(16, 28)),
    wanted=st.tuples(st.floats(1900, 2700), st.floats(16, 28)),
)
def test_no_step_on_the_way_is_outside_the_table(now, wanted):
    """Where both ends are allowed and both levers go one way, so is every stop between."""
    rpm, pressure = now
    to_rpm, to_pressure = wanted
    same_way = (to_rpm - rpm) * (to_pressure - pressure) >= 0
    if not same_way or pressure > map_allowed_inhg(B, rpm) or to_pressure > map_allowed_inhg(B, to_rpm):
        return
    for step in lever_steps(B, rpm, pressure, to_rpm, to_pressure):
        if step.startswith("RPM"):
            rpm = to_rpm
        elif step.startswith("Manifold"):
            pressure = to_pressure
        assert pressure <= map_allowed_inhg(B, rpm) + 0.35


def test_a_time_limited_rating_runs_on_its_clock_and_is_over():
    state = fold(G, events(RUNS))
    hot = needles(10.0, rpm=3000.0, map_inhg=52.0)
    (began,) = follow_ratings("f", G, state, hot)
    state = fold(G, [*events(RUNS), began])
    assert rating_clock(G, state, 130.0).left_s == 180
    assert follow_ratings("f", G, state, needles(20.0, rpm=3000.0, map_inhg=52.0)) == []
    assert "Take-off power for longer" in power_warnings(G, state, hot, 400.0)[0]
    (ended,) = follow_ratings("f", G, state, needles(30.0, rpm=2600.0, map_inhg=42.0))
    assert fold(G, [*events(RUNS), began, ended]).rating is None


@pytest.mark.parametrize(
    ("target", "pct", "spread", "words"),
    [
        ("rich_50", 80, 0.2, "not 50 °F rich"),
        ("lean_30", 80, 0.2, "not lean of peak"),
        ("lean_30", 65, 0.9, "too uneven"),
        ("rich_100", 85, 0.9, None),
        ("rich_50", 65, None, None),
        ("lean_30", 65, 0.3, None),
        ("rich_50", None, None, None),
    ],
)
def test_each_way_to_lean_is_refused_at_too_much_power_with_its_reason(target, pct, spread, words):
    said = refusal(B, TARGETS[target], pct, spread)
    assert (said is None) == (words is None)
    assert words is None or words in plain(said)


def test_at_peak_is_for_low_power_only():
    peak = changed(
        "b-tourer", lambda b: b["lean_targets"].append({**b["lean_targets"][0], "id": "peak", "offset_f": 0})
    )
    target = next(t for t in peak.lean_targets if t.id == "peak")
    assert "not at peak" in refusal(peak, target, 70, None)
    assert refusal(peak, target, 60, None) is None


def test_power_on_the_screen_goes_by_table_and_by_flow_and_says_when_they_disagree():
    state, now = flying(B, 2300, 21.0)
    shown = describe_power(B, state, now, 100.0)
    assert 55 < shown.best_pct < 75
    lean = {"kind": "lean", "verdict": "within", "start_s": 1.0, "end_s": 2.0, "because": "", "next": ""}
    lean["measured"] = {"side": "lean", "offset_f": 30.0, "spread_gph": 0.2}
    rows = [RUNS, ("put_back_away", {"put_back": "cruise_lean"}), ("finding", lean)]
    state = fold(B, events(*rows))
    leaned = describe_power(B, state, now, 100.0)
    assert leaned.by_flow_pct is not None
    assert leaned.by_table_pct < shown.by_table_pct
    odd = read_power(B, 2300, 21.0, 6000, 3.0, 18.0, "lean", 30.0)
    assert odd.disagree
    assert "disagree" in odd.say
    json.dumps(screen_of(B, state, now, 100.0))


def test_each_engine_of_a_twin_has_its_own_power_and_the_stronger_refuses():
    state, now = flying(D, 2300, 20.0, e2_rpm=2500.0, e2_map_inhg=25.0, e2_ff_gph=14.0)
    shown = describe_power(D, state, now, 100.0)
    left, right = shown.engines
    assert (left.name, left.pct) == ("Left engine", shown.best_pct)
    assert right.pct > left.pct + 8
    even = describe_power(D, *flying(D, 2300, 20.0, e2_rpm=2300.0, e2_map_inhg=20.0), 100.0)
    assert even.engines[1].pct == pytest.approx(even.engines[0].pct)
    assert set(even.refused) < set(shown.refused)
    silent = describe_power(D, *flying(D, 2300, 20.0), 100.0)
    assert silent.engines[1].pct is None


def test_the_right_engine_too_lean_for_its_power_is_told_by_name():
    lean = {"kind": "lean", "engine": 2, "verdict": "within", "start_s": 1.0, "end_s": 2.0, "because": "", "next": ""}
    lean["measured"] = {"side": "lean", "offset_f": 30.0, "spread_gph": 0.2, "ff_gph": 14.0}
    rows = [("phase_entered", {"phase": "cruise"}), RUNS, RIGHT_RUNS, ("finding", lean)]
    state = fold(D, events(*rows))
    both = {"rpm": 2500.0, "map_inhg": 25.0, "ff_gph": 14.0, "e2_rpm": 2500.0, "e2_map_inhg": 25.0, "palt_ft": 3000.0}
    said = [w for w in power_warnings(D, state, needles(100.0, **both, e2_ff_gph=14.0), 100.0) if "rich before" in w]
    assert len(said) == 1
    assert said[0].startswith("Right engine: ")
    assert [
        w for w in power_warnings(D, state, needles(100.0, **both, e2_ff_gph=19.0), 100.0) if "rich before" in w
    ] == []


def test_settings_keep_to_the_types_limits_and_to_what_full_throttle_gives():
    rows = settings_for(D, 65, 5000, None, fuel_gal=80, wind_kt=-20)
    assert rows
    for row in rows:
        assert row.map_inhg <= min(map_allowed_inhg(D, row.rpm), full_throttle_inhg(D, row.rpm, 5000)) + 0.05
        assert not any(low <= row.rpm <= high for low, high in D.power_section["avoid_rpm"]), "a range to avoid"
        assert row.endurance_h == pytest.approx(80 / (2 * row.ff_gph), abs=0.05), "both engines burn"
        assert row.range_nm == pytest.approx(row.endurance_h * (row.tas_kt - 20), abs=5)
    assert settings_for(B, 75, 14_000) == []


@given(st.floats(45, 75), st.floats(0, 9000), st.floats(-25, 35))
def test_what_is_set_gives_what_was_wanted(pct, palt_ft, oat_c):
    for row in settings_for(B, pct, palt_ft, oat_c):
        assert read_power(B, row.rpm, row.map_inhg, palt_ft, oat_c).by_table_pct == pytest.approx(pct, abs=0.6)


def test_a_plan_climbs_ever_slower_and_refuses_what_cannot_be():
    made = plan(B, 65, 9000, None, "rich_50")
    rates = [row.rate_fpm for row in made.climb]
    assert rates == sorted(rates, reverse=True)
    assert made.climb[-1].palt_ft == 9000
    assert plan(B, 80, 4000, None, "rich_50").refused
    for pct, palt_ft, target in ((5, 3000, None), (65, 90_000, None), (65, 3000, "no")):
        with pytest.raises(EventError):
            plan(B, pct, palt_ft, None, target)


def test_a_table_that_cannot_be_is_refused():
    def fewer(body):
        body["power"]["pct"] = body["power"]["pct"][:1]

    with pytest.raises(ProfileError, match=r"power\.pct must have 2 x 4 x 3"):
        changed("b-tourer", fewer)
    body = json.loads(json.dumps(dict(B.body)))
    body["power"]["rpm"] = body["power"]["rpm"][::-1]
    with pytest.raises(ProfileError, match="rising"):
        profile_from_json(body)


def test_outside_its_table_no_power_is_made_up():
    assert read_power(B, 900, 12.0, 1000, 15.0).best_pct is None
    assert "outside the type's table" in read_power(B, 900, 12.0, 1000, 15.0).say


def _without_rising(body):
    body["power"]["map_limit"]["oat_c"] = [0, 0, 20, 40]


def _short_chart(body):
    body["power"]["map_limit"]["map_inhg"].pop()


def _no_detents(body):
    body["power"]["mixture"] = "detents"


def _nothing_to_fly_by(body):
    del body["schedule"]["cruise_kt"]


def _climbs_as_fast_as_it_cruises(body):
    body["schedule"]["climb_kt"] = body["schedule"]["cruise_kt"]


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (_without_rising, "oat_c must rise"),
        (_short_chart, "a row for each altitude"),
        (_no_detents, "which there are"),
        (_nothing_to_fly_by, "cruise_kt is missing"),
        (_climbs_as_fast_as_it_cruises, "below cruise_kt"),
    ],
)
def test_a_profile_whose_power_cannot_be_is_refused_when_it_is_read(change, words):
    with pytest.raises(ProfileError, match=words):
        changed("e-rotor", change)


def test_the_usual_cruise_powers_may_be_asked_for_on_every_type_that_has_a_table():
    """75, 65 and 55 % (common practice), beside what the handbook names."""
    for name in ("a-trainer", "b-tourer", "d-twin", "i-turbo"):
        offered = [choice.title for choice in power_choices(PROFILES[name], 4000.0, 7.0, None)]
        assert [title for title in offered if title.endswith("%")][-3:] == ["75 %", "65 %", "55 %"], name
