"""A flight as events: the fold, undo, put-backs, half checks, and what typed figures become."""

import json
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jemmon.app.doors import profile_from
from jemmon.core.base.errors import EventError, ProfileError
from jemmon.core.flight.events import Event
from jemmon.core.flight.fold import check_pilot_event, first_state, fold, last_undoable, step
from jemmon.core.flight.state import half_checks, open_item_ids, sentence
from jemmon.core.judgement.typed import judge_typed
from jemmon.core.live.needles import follow_needles
from jemmon.core.live.starts import follow_starts
from jemmon.core.screen.record import record
from jemmon.core.trace.sample import Sample
from jemmon.library.shipped import shipped_profiles

PROFILE = shipped_profiles()["a-trainer"]
ITEMS = [item.id for phase in PROFILE.phases for item in phase.items]


def events(*rows) -> list[Event]:
    return [Event(id=f"e{n}", kind=kind, at_s=float(n), body=body, seq=n) for n, (kind, body) in enumerate(rows, 1)]


def test_confirmed_items_leave_the_list_and_undo_brings_them_back():
    kept = events(("item_done", {"item": "day"}), ("item_done", {"item": "weather"}))
    assert open_item_ids(PROFILE, fold(PROFILE, kept))[0] == "walk_round"
    undo = Event(id="u", kind="undo", at_s=9.0, body={"event": "e2"}, seq=9)
    assert open_item_ids(PROFILE, fold(PROFILE, [*kept, undo]))[0] == "weather"


def test_undoing_twice_or_an_unknown_id_changes_nothing():
    kept = events(("item_done", {"item": "brakes"}), ("undo", {"event": "e1"}))
    again = [*kept, Event(id="x", kind="undo", at_s=9.0, body={"event": "e1"}, seq=9)]
    unknown = [*again, Event(id="y", kind="undo", at_s=9.0, body={"event": "nobody"}, seq=10)]
    for more in (again, unknown):
        assert fold(PROFILE, more).done == fold(PROFILE, kept).done


def test_the_last_undoable_is_the_last_not_yet_taken_back():
    kept = events(("item_done", {"item": "brakes"}), ("item_done", {"item": "seats"}), ("undo", {"event": "e2"}))
    assert last_undoable(kept).id == "e1"


def test_unknown_kinds_are_kept_and_change_nothing():
    state = fold(PROFILE, events(("from_a_later_version", {"what": 1}), ("item_done", {"item": "brakes"})))
    assert list(state.done) == ["brakes"]


@given(st.lists(st.tuples(st.sampled_from(["item_done", "undo", "phase_entered"]), st.integers(0, 60)), max_size=40))
@settings(max_examples=60, deadline=None)
def test_any_order_of_events_folds_without_error_and_a_repeat_changes_nothing(rows):
    phases = [phase.id for phase in PROFILE.phases]
    bodies = {
        "item_done": lambda n: {"item": ITEMS[n % len(ITEMS)]},
        "undo": lambda n: {"event": f"e{n}"},
        "phase_entered": lambda n: {"phase": phases[n % len(phases)]},
    }
    kept = events(*[(kind, bodies[kind](n)) for kind, n in rows])
    state = fold(PROFILE, kept)
    assert fold(PROFILE, [*kept[::-1]]) == state  # seq alone orders
    assert set(state.done) <= set(ITEMS)


@pytest.mark.parametrize(
    ("kind", "body", "match"),
    [
        ("item_done", {"item": "nothing"}, "no 'nothing'"),
        ("item_done", {}, "needs `item`"),
        ("phase_entered", {"phase": "x"}, "no 'x'"),
        ("finding", {}, "event: there is no 'finding'"),
        ("lean_target", {"target": "x"}, "`target`: there is no"),
        ("remark", {"text": "x" * 3000}, "2,000"),
        ("typed_reading", {"check": "mag_check", "base_rpm": 170, "left_rpm": 165}, "`base_rpm` is 170"),
        (
            "typed_reading",
            {"check": "mag_check", "base_rpm": 1700, "left_rpm": 1800},
            "Left, lowest 1,800 is above Both",
        ),
        ("typed_reading", {"check": "mag_check", "left_rpm": 1800}, "Both: type it first"),
        ("typed_reading", {"check": "mag_check", "base_rpm": "x"}, "must be a number"),
    ],
)
def test_events_that_cannot_be_are_refused_with_the_reason(kind, body, match):
    with pytest.raises(EventError, match=match):
        check_pilot_event(PROFILE, fold(PROFILE, []), kind, body)


@pytest.mark.parametrize(
    ("figures", "verdict"),
    [
        ({"base_rpm": 1800, "left_rpm": 1730, "right_rpm": 1720, "restored_rpm": 1800}, "within"),
        ({"base_rpm": 1800, "left_rpm": 1730, "right_rpm": 1620, "restored_rpm": 1800}, "stop"),
        ({"base_rpm": 1800, "left_rpm": 1760, "right_rpm": 1690, "restored_rpm": 1800}, "look"),
        ({"base_rpm": 1800, "left_rpm": 1730, "restored_rpm": 1800}, "incomplete"),
        ({"base_rpm": 1800, "left_rpm": 1730, "right_rpm": 1720}, "incomplete"),
        ({"base_rpm": 1800, "left_rpm": 1798, "right_rpm": 1720, "restored_rpm": 1800}, "stop"),
        ({"base_rpm": 1400, "left_rpm": 1350, "right_rpm": 1340, "restored_rpm": 1400}, "look"),
    ],
)
def test_typed_magneto_figures_are_judged_like_measured_ones(figures, verdict):
    """Common practice: at most 150 by this type and 50 apart; no drop on one side is an alarm, half a check is none."""
    finding = judge_typed(PROFILE, {"check": "mag_check", **figures}, 10.0)
    assert finding.verdict == verdict
    assert finding.because
    assert finding.next


def test_no_drop_on_the_left_names_the_right_magneto_and_the_propeller():
    body = {"check": "mag_check", "base_rpm": 1800, "left_rpm": 1800, "right_rpm": 1720, "restored_rpm": 1800}
    finding = judge_typed(PROFILE, body, 0.0)
    assert "the right magneto is not going off" in finding.because
    assert "propeller" in finding.next


def test_a_half_check_is_incomplete_and_said_so():
    body = {"check": "mag_check", "base_rpm": 1800, "left_rpm": 1730, "restored_rpm": 1800}
    state = fold(PROFILE, events(("typed_reading", body)))
    assert half_checks(PROFILE, state) == ["Magnetos"]


def now(at_s: float, rpm: float = 0.0, oil: float = 0.0, **levers) -> Sample:
    readings = {"rpm": rpm, "oil_p_psi": oil, "oat_f": 59.0}
    return Sample(at_s=at_s, readings=readings, levers={"mag": "BOTH", "carb_heat": 0.0, "mixture": 1.0, **levers})


def play(samples: list[Sample], *before) -> list[Event]:
    kept, watches = events(*before), {}
    for sample in samples:
        state = fold(PROFILE, kept)
        watches, started = follow_starts("f", PROFILE, state, watches, sample)
        for event in [*started, *follow_needles("f", PROFILE, state, sample)]:
            kept.append(Event(id=event.id, kind=event.kind, at_s=event.at_s, body=event.body, seq=len(kept) + 1))
    return kept


def test_oil_pressure_clock_runs_by_itself_and_becomes_seen():
    kept = play([now(0), now(1, 600), now(5, 800, 10), now(7, 900, 30)])
    clock = fold(PROFILE, kept).oil_clock
    assert (clock.verdict, clock.seconds) == ("seen", 6.0)


def test_missing_oil_pressure_is_called_at_the_limit_and_not_before():
    early = play([now(0), now(1, 800), now(31, 800, 5)])
    assert fold(PROFILE, early).oil_clock.verdict == "running"
    late = play([now(0), now(1, 800), now(31.25, 800, 5)])
    assert fold(PROFILE, late).oil_clock.verdict == "missing"


@pytest.mark.parametrize(
    ("put_back", "away", "phase"),
    [
        ("carb_heat", {"carb_heat": 1.0}, "run_up"),
        ("one_magneto", {"mag": "L"}, "run_up"),
        ("primer", {"primer_unlocked": 1.0}, "before_start"),
        ("starter", {"starter": 1.0}, "start"),
        ("taxi_lean", {"mixture": 0.5}, "warm_up_taxi"),
    ],
)
def test_each_put_back_opens_when_away_and_closes_when_back(put_back, away, phase):
    home = {"primer_unlocked": 0.0, "starter": 0.0}
    before = (("phase_entered", {"phase": phase}),)
    before += (("engine_fired", {"limit_s": 30.0}),)
    out = play([now(1, 1000, 50, **home), now(2, 1000, 50, **{**home, **away})], *before)
    assert put_back in fold(PROFILE, out).away
    back = play([now(1, 1000, 50, **home), now(2, 1000, 50, **{**home, **away}), now(9, 1000, 50, **home)], *before)
    assert put_back not in fold(PROFILE, back).away


@pytest.mark.parametrize(
    ("change", "match"),
    [
        (lambda b: b["limits"].update(mag_drop_rpm=b["limits"]["mag_drop_max_rpm"]), "did you mean 'mag_drop_m"),
        (lambda b: b["engine"].update(cylinders=99), "cylinders"),
        (lambda b: b["phases"].append(b["phases"][0]), "Two phases"),
        (lambda b: b["bench"].pop("battery_ah"), "bench.battery_ah"),
        (lambda b: b["limits"]["rpm_max"].update(source="hearsay"), "source"),
        (lambda b: b.update(surprise=1), "surprise"),
    ],
)
def test_a_profile_with_an_error_is_refused_by_its_place(change, match):
    body = json.loads(json.dumps(PROFILE.body))
    change(body)
    with pytest.raises(ProfileError, match=match):
        profile_from(body)


def test_every_limit_of_the_profile_says_where_it_comes_from():
    assert all(limit.source and limit.note for limit in PROFILE.limits.values())


def test_an_event_of_a_later_version_is_kept_and_shown_and_says_nothing():
    """What a later version of Jemmon kept is not read as if it were this one's."""
    done = events(("item_done", {"item": "brakes"}))[0]
    assert "brakes" in fold(PROFILE, [done]).done
    later = replace(done, version=2)
    assert "brakes" not in fold(PROFILE, [later]).done
    assert later.said.IS_TOLD


def test_an_unknown_kind_is_refused_at_the_door_and_survived_in_what_is_kept():
    with pytest.raises(EventError, match="did you mean 'item_done'"):
        check_pilot_event(PROFILE, fold(PROFILE, []), "item_don", {"item": "brakes"})
    kept = events(("from_a_later_version", {"x": 1}), ("item_done", {"item": "brakes"}))
    assert "brakes" in fold(PROFILE, kept).done


def test_stepping_one_by_one_is_folding_all():
    kept = events(
        *[("item_done", {"item": item.id}) for item in PROFILE.phases[0].items], ("interrupted", {}), ("resumed", {})
    )
    state = first_state(PROFILE)
    for event in kept:
        state = step(PROFILE, state, event)
    assert state == fold(PROFILE, kept)


@pytest.mark.parametrize(("left_rpm", "is_taken"), [(1_724, True), (1_726, False)])
def test_a_drop_that_is_a_rise_is_asked_back_at_its_field_but_a_gust_is_taken(left_rpm, is_taken):
    body = {"check": "mag_check", "base_rpm": 1_700, "left_rpm": left_rpm}
    if is_taken:
        check_pilot_event(PROFILE, fold(PROFILE, []), "typed_reading", body)
        return
    with pytest.raises(EventError) as refused:
        check_pilot_event(PROFILE, fold(PROFILE, []), "typed_reading", body)
    assert refused.value.where == "left_rpm"


def finding(kind: str, verdict: str, because: str = "") -> tuple:
    return ("finding", {"kind": kind, "verdict": verdict, "because": because or kind, "measured": {}, "limits": {}})


@pytest.mark.parametrize(
    ("findings", "says"),
    [
        (
            [finding("mag_check", "within"), finding("shutdown_check", "unknown", "Cut off too quickly.")],
            "not judged: ",
        ),
        ([finding("shutdown_check", "look", "Rise 90."), finding("mag_check", "stop", "Drop 240.")], "Drop 240. Also"),
        ([finding("shutdown_check", "look", "Rise 90."), finding("lean", "look", "Only 5 rich.")], "Only 5 rich. Also"),
        (
            [finding("mag_check", "look"), finding("mag_check", "within")],
            "1 check, all within limits when last made; before that not: Magnetos.",
        ),
        ([finding("mag_check", "within")], "1 check, all within limits."),
    ],
)
def test_a_record_opens_on_what_matters_most(findings, says):
    kept = [
        Event(id=str(n), kind=kind, at_s=float(n), body={**body, "start_s": n, "end_s": n}, seq=n)
        for n, (kind, body) in enumerate(findings, 1)
    ]
    told = sentence(fold(PROFILE, kept))
    assert says in told
    assert "too quickly" not in told


def test_of_a_check_that_was_judged_as_it_went_the_last_word_is_its_flag():
    """A leaning is told anew as the mixture moves; its place on the trace is one."""

    def told(kind: str, start_s: float, end_s: float, verdict: str = "within", engine: int = 1) -> tuple[str, dict]:
        body = {"kind": kind, "engine": engine, "verdict": verdict, "start_s": start_s, "end_s": end_s}
        return "finding", {**body, "because": f"until {end_s}", "next": "", "measured": {}, "limits": {}}

    rows = [told("lean", 700, 760, "look"), told("lean", 700, 800), told("lean", 900, 950), told("mag_check", 100, 120)]
    kept = record(shipped_profiles()["d-twin"], None, None, events(*rows, told("lean", 700, 790, engine=2)))
    assert [(f.kind, f.engine, f.start_s, f.end_s, f.verdict) for f in kept.flags] == [
        ("mag_check", 1, 100, 120, "within"),
        ("lean", 1, 700, 800, "within"),
        ("lean", 2, 700, 790, "within"),
        ("lean", 1, 900, 950, "within"),
    ]
    assert len(kept.findings) == 5, "what was said before is still there to be read"
