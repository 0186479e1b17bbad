"""Verdicts that hold: what was told complete is never replaced by a part of itself, what proves proves, and STOP leads nowhere."""

from collections.abc import Iterable

import numpy as np
import pytest

from jemmon.core.base.figures import beyond
from jemmon.core.bench import BenchScript, run_script
from jemmon.core.flight.fold import fold
from jemmon.core.judgement.judge import evidence_of
from jemmon.core.judgement.typed import judge_typed
from jemmon.core.live.checks import follow_checks
from jemmon.core.trace import Trace
from tests.core.builders import PROFILES, changed, events, find_item, needles, screen_of

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


def told_through(trace: Trace, moments_s: Iterable[float]) -> list[dict]:
    """Return the findings that the live flight tells while its window of seven minutes slides over a trace, judged at these
    moments."""
    told: list = []
    for end_s in moments_s:
        last = int(np.searchsorted(trace.time_s, end_s))
        first = int(np.searchsorted(trace.time_s, end_s - WINDOW_S))
        state = fold(A, events(*[("finding", body) for body in told]))
        told += [event.body for event in follow_checks("f", A, state, evidence_of(trace.part(first, last), A, {}))]
    return told


def test_a_settled_check_is_not_replaced_by_what_the_sliding_window_has_left_of_it():
    sides = [(60, "L"), (67, "BOTH"), (75, "R"), (82, "BOTH")]
    trace = flown(*[{"at": at, "set": {"mag": position}} for at, position in sides], seconds=540)
    as_it_comes_stays_and_goes_s = [*range(60, 102, 3), *range(120, 460, 40), *range(470, 525, 3)]
    checks = [body for body in told_through(trace, as_it_comes_stays_and_goes_s) if body["kind"] == "mag_check"]
    assert [body["verdict"] for body in checks] == ["within"]
    assert checks[0]["measured"]["drop_left_rpm"] is not None


def test_nor_where_both_sides_were_checked_within_seconds():
    sides = [(60, "L"), (63.5, "BOTH"), (65.5, "R"), (69, "BOTH")]
    trace = flown(*[{"at": at, "set": {"mag": position}} for at, position in sides], seconds=520)
    as_it_comes_and_goes_s = [*range(60, 100), *range(470, 515)]
    checks = [body for body in told_through(trace, as_it_comes_and_goes_s) if body["kind"] == "mag_check"]
    assert [body["verdict"] for body in checks] == ["within"]


def test_a_second_check_is_told_though_the_first_is_leaving_the_window():
    sides = [(60, "L"), (67, "BOTH"), (75, "R"), (82, "BOTH")]
    steps = [{"at": at + later, "set": {"mag": position}} for later in (0, 380) for at, position in sides]
    as_they_come_and_go_s = [*range(60, 102, 3), *range(435, 525, 3), *range(540, 630, 20)]
    told = told_through(flown(*steps, seconds=640), as_they_come_and_go_s)
    checks = [body for body in told if body["kind"] == "mag_check"]
    assert [body["verdict"] for body in checks] == ["within", "within"]
    assert checks[1]["start_s"] == pytest.approx(440, abs=3)


# ---- what proves ------------------------------------------------------------------------------------------------------


def power(**readings: float):
    return needles(80.0, levers={"throttle": 1.0, "mixture": 1.0}, rpm=2_250.0, **readings)


def said(kind: str, verdict: str, engine: int = 1, because: str = "") -> tuple:
    body = {
        "kind": kind,
        "verdict": verdict,
        "measured": {},
        "because": because,
        "start_s": 0,
        "end_s": 1,
        "next": "",
        "limits": {},
        "source": "type",
        "engine": engine,
    }
    return ("finding", body)


def unproven(profile, now, *rows: tuple) -> list[str]:
    return screen_of(profile, fold(profile, events(*rows)), now, 80.0)["notices"]["unproven"]


def done(*items: str) -> list[tuple]:
    return [("item_done", {"item": item}) for item in items]


CHECKED = [
    said("mag_check", "within"),
    said("carb_heat_check", "within"),
    ("phase_entered", {"phase": "take_off_climb"}),
]


@pytest.mark.parametrize(
    ("oil_psi", "is_missing"), [(A.limit("oil_pressure_min_psi"), False), (A.limit("oil_pressure_min_psi") - 1, True)]
)
def test_oil_pressure_is_proven_by_what_the_needle_shows_and_not_by_a_tap_beside_it(oil_psi, is_missing):
    now = power(oil_p_psi=oil_psi, oil_t_f=150.0)
    assert ("oil pressure" in unproven(A, now, *CHECKED, *done("oil_pressure", "oil_warm"))) is is_missing
    assert ("oil pressure" in unproven(A, now, *CHECKED)) is is_missing, "85 psi are never followed by: never seen"


def test_where_no_needle_tells_a_tap_is_the_pilots_word():
    assert "oil pressure" in unproven(A, power(), *CHECKED)
    assert "oil pressure" not in unproven(A, power(), *CHECKED, *done("oil_pressure"))


@pytest.mark.parametrize(("oil_f", "is_missing"), [(150.0, False), (60.0, True)])
def test_an_item_with_a_reading_is_proven_by_the_reading(oil_f, is_missing):
    for tapped in ([], done("oil_warm")):
        assert ("oil temperature" in unproven(A, power(oil_t_f=oil_f), *CHECKED, *tapped)) is is_missing


def test_of_a_twin_each_engine_is_proven_by_itself():
    add = {"say": "magnetos", "proof": "check:mag_check"}
    twin = changed("d-twin", lambda body: body["take_off"]["needs"].append(add))
    enter = ("phase_entered", {"phase": twin.take_off.phase})
    need = twin.take_off.needs[-1]
    both, one, none = (
        unproven(twin, None, *[said("mag_check", "within", n) for n in engines], enter)
        for engines in ((1, 2), (1,), ())
    )
    assert need.say not in both
    assert f"{need.say} ({dict(twin.engines)[2].lower()})" in one
    assert need.say in none


def test_an_open_stop_is_said_again_at_take_off_power_until_a_later_check_takes_it_back():
    bad = said("mag_check", "stop", because="The left magneto does not go off.")
    notices = screen_of(A, fold(A, events(bad, *CHECKED[1:])), power(), 80.0)["notices"]
    assert notices["stops"] == ["Magnetos: The left magneto does not go off."]
    quiet = screen_of(A, fold(A, events(bad, *CHECKED[1:])), needles(80.0, levers={"throttle": 0.2}, rpm=1_000.0), 80.0)
    assert quiet["notices"]["stops"] == [] or quiet["phase"] == A.take_off.phase
    again = screen_of(A, fold(A, events(bad, *CHECKED)), power(), 80.0)["notices"]
    assert again["stops"] == [], "a later check that is within took it back"


def test_a_stop_of_one_limit_is_not_hidden_by_another_of_the_same_kind():
    over = {"kind": "exceedance", "start_s": 0, "engine": 1, "because": "x"}
    rows = [
        ("finding", {**over, "verdict": "stop", "measured": {"signal": "rpm"}}),
        ("finding", {**over, "verdict": "look", "measured": {"signal": "volts"}}),
        *CHECKED,
    ]
    assert len(screen_of(A, fold(A, events(*rows)), power(), 80.0)["notices"]["stops"]) == 1


# ---- after STOP nothing large leads on ----------------------------------------------------------------------------------


def at_the_magnetos(*rows: tuple):
    asking = changed("a-trainer", lambda body: find_item(body, "day").update(check="mag_check", manual="mag_check"))
    return asking, fold(asking, events(*rows))


@pytest.mark.parametrize(
    ("verdict", "does"), [("stop", "stopped"), ("look", "item"), ("within", "item"), ("incomplete", "item")]
)
def test_the_main_button_does_not_lead_on_after_a_stop(verdict, does):
    profile, state = at_the_magnetos(said("mag_check", verdict))
    assert screen_of(profile, state, None, 5.0)["step"]["does"] == does


def test_only_another_finding_takes_the_stop_back_and_going_on_is_on_record():
    stop = said("mag_check", "stop")
    again = ("check_again", {"item": "day"})
    profile, state = at_the_magnetos(stop, again)
    assert screen_of(profile, state, None, 5.0)["step"]["does"] == "stopped"
    profile, state = at_the_magnetos(stop, again, said("mag_check", "within"))
    assert screen_of(profile, state, None, 5.0)["step"]["does"] == "item"
    aside = ("item_set_aside", {"item": "day", "how": "skipped", "reason": "Went on in spite of STOP"})
    profile, state = at_the_magnetos(stop, aside)
    assert screen_of(profile, state, None, 5.0)["item"]["id"] != "day"
    assert "day" not in state.done


@pytest.mark.parametrize(("value", "limit", "said_as"), [(50.4, 50, "50.4"), (49.6, 50, "49.6"), (51, 50, "51")])
def test_a_figure_beyond_its_limit_never_reads_like_it(value, limit, said_as):
    assert beyond(value, limit) == said_as


def test_nor_in_the_words_of_a_check():
    least, most = A.limit("carb_heat_drop_min_rpm"), A.limit("carb_heat_drop_max_rpm")
    for drop in (least - 0.4, most + 0.4):
        typed = {"base_rpm": 1800.0, "low_rpm": 1800.0 - drop, "restored_rpm": 1800.0}
        because = judge_typed(A, {"check": "carb_heat_check", **typed}, 5.0).because
        assert f"{drop:.1f}" in because, because


@pytest.mark.parametrize(
    ("verdict", "does"), [("stop", "stop_stands"), ("look", "next_phase"), ("within", "next_phase")]
)
def test_nothing_large_leads_from_a_run_up_that_ended_at_stop(verdict, does):
    run_up = next(phase for phase in A.phases if A.kind_of(phase.id).name == "run_up")
    aside = [("item_set_aside", {"item": item.id, "how": "skipped", "reason": "x"}) for item in run_up.items]
    rows = [("phase_entered", {"phase": run_up.id}), said("mag_check", verdict), *aside]
    step = screen_of(A, fold(A, events(*rows)), None, 60.0)["step"]
    assert step["does"] == does
    if does == "stop_stands":
        assert step["say"] == "Taxi back"
        assert A.kind_of(step["to"]).name == "shutdown", "the trainer has no list of its own after landing"


def test_what_no_data_showed_is_done_by_the_pilots_word_and_marked_so():
    item = next(one for one in A.items.values() if one.reading is not None and one.engine in (0, 1))
    phase = next(phase for phase in A.phases if any(one.id == item.id for one in phase.items))
    rows = [("phase_entered", {"phase": phase.id}), ("item_done", {"item": item.id})]
    rows_with = [rows[0], ("item_done", {"item": item.id, "shown": 25.0})]
    for told, by_word in ((rows, True), (rows_with, False)):
        lists = screen_of(A, fold(A, events(*told)), None, 60.0)["lists"]
        line = next(line for one in lists for line in one["items"] if line["id"] == item.id)
        assert line["state"] == "done"
        assert line["by_word"] is by_word
