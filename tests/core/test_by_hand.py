"""A flight without data: needles that are read out and typed count as long as they are fresh, and say their age."""

import pytest

from jemmon.core.base.errors import EventError
from jemmon.core.bench import BenchScript, run_script
from jemmon.core.flight.fold import check_pilot_event, fold
from jemmon.core.judgement.judge import judge
from jemmon.core.judgement.registry import checks
from jemmon.core.judgement.typed import judge_typed
from jemmon.core.live.by_hand import gate_minutes_by_hand, sample_by_hand
from jemmon.core.live.following import follow_read
from jemmon.core.live.lean_by_hand import egt_table, lean_by_hand, side_of_peak
from jemmon.core.screen.frame import Identity, describe
from jemmon.core.trace import Trace
from jemmon.core.trace.signals import reading_row
from tests.bench_table.faults import run_up
from tests.core.builders import PROFILES, events

A = PROFILES["a-trainer"]
WARM_UP = "warm_up_taxi"
RUNS = ("engine_fired", {"limit_s": 30.0})


def read(needle: str, value: float) -> tuple:
    return ("needle_read", {"needle": needle, "value": value})


def test_a_needle_counts_while_it_is_fresh_and_keeps_its_figure_with_its_age():
    """Two minutes for what moves with a lever, ten for what warms and cools slowly (common practice)."""
    state = fold(A, events(RUNS, ("phase_entered", {"phase": WARM_UP}), read("oil_t_f", 80.0), read("rpm", 1000.0)))
    at_s = state.read["rpm"].at_s
    assert sample_by_hand(state, at_s + 120.0).readings["rpm"] == 1000.0
    assert set(sample_by_hand(state, at_s + 121.0).readings) == {"oil_t_f"}
    warmed_s = state.read["oil_t_f"].at_s
    assert sample_by_hand(state, warmed_s + 600.0).readings == {"oil_t_f": 80.0}
    assert sample_by_hand(state, warmed_s + 601.0) is None
    frame = describe(A, state, None, at_s + 3_000.0)
    shown = {one.id: one for one in frame.instruments}
    assert shown["oil_t_f"].value == 80.0
    assert shown["oil_t_f"].age_s >= 3_000
    assert all(one.age_s is None for one in frame.instruments if one.id not in state.read)


def test_the_minutes_to_a_gate_come_from_two_readings():
    """Straight through two points: 20 °F in five minutes is 4 °F a minute (arithmetic)."""
    lowest = A.limit("oil_t_runup_min_f")
    rows = [RUNS, ("phase_entered", {"phase": WARM_UP}), read("oil_t_f", lowest - 40), read("oil_t_f", lowest - 20)]
    state = fold(A, events(*rows, step_s=300.0))
    at_s = state.read["oil_t_f"].at_s
    now = sample_by_hand(state, at_s)
    assert gate_minutes_by_hand(A, state, now)["runup"] == 5
    later = sample_by_hand(state, at_s + 120)
    assert gate_minutes_by_hand(A, state, later)["runup"] == 3
    once = fold(A, events(*rows[:3], step_s=300.0))
    assert gate_minutes_by_hand(A, once, sample_by_hand(once, once.read["oil_t_f"].at_s)) == {}


@pytest.mark.parametrize(("rises_f", "tells"), [(1.4, False), (1.6, True)])
def test_oil_that_hardly_warms_tells_no_minutes(rises_f, tells):
    """In five minutes: a third of a degree a minute is a needle's tremble (common practice)."""
    lowest = A.limit("oil_t_runup_min_f")
    rows = [RUNS, ("phase_entered", {"phase": WARM_UP}), read("oil_t_f", 60.0), read("oil_t_f", 60.0 + rises_f)]
    state = fold(A, events(*rows, step_s=300.0))
    assert lowest > 62
    minutes = gate_minutes_by_hand(A, state, sample_by_hand(state, state.read["oil_t_f"].at_s))
    assert ("runup" in minutes) == tells


@pytest.mark.parametrize(("more_psi", "verdict"), [(-0.1, "running"), (0.0, "seen")])
def test_oil_pressure_that_is_read_stops_its_clock(more_psi, verdict):
    psi = A.limit("oil_pressure_min_psi") + more_psi
    state = fold(A, events(RUNS, read("oil_p_psi", psi), step_s=5.0))
    assert state.oil_clock.verdict == verdict


def test_an_item_is_judged_by_what_was_read():
    item = next(i for p in A.phases for one in p.lists for i in one.items if i.id == "oil_warm")
    phase = next(p.id for p in A.phases for one in p.lists for i in one.items if i.id == "oil_warm")
    asks = item.reading
    rows = [RUNS, ("phase_entered", {"phase": phase})]
    for value, expected in ((asks.lowest - 1, False), (asks.lowest + 1, True)):
        state = fold(A, events(*rows, read(asks.signal, value)))
        assert asks.holds(sample_by_hand(state, state.read[asks.signal].at_s).known[asks.signal]) is expected


def test_a_figure_beyond_its_limit_is_said_as_by_a_wire():
    state = fold(A, events(RUNS, read("oil_t_f", A.limit("oil_t_max_f") + 5)))
    frame = describe(A, state, sample_by_hand(state, 3.0), 3.0)
    assert next(one.state for one in frame.instruments if one.id == "oil_t_f") == "high"


@pytest.mark.parametrize("wrong", [read("mag", 1.0), read("nothing", 1.0), read("e2_rpm", 900.0), read("rpm", -1.0)])
def test_a_needle_that_there_is_not_or_that_no_sensor_shows_is_refused(wrong):
    with pytest.raises(EventError):
        check_pilot_event(A, fold(A, []), *wrong)


def test_lists_see_what_was_read_and_the_second_engine_has_its_own():
    twin = PROFILES["d-twin"]
    state = fold(twin, events(read("e2_oil_t_f", 150.0)))
    now = sample_by_hand(state, 1.0)
    assert now.of_engine(2).readings["oil_t_f"] == 150.0
    assert "oil_t_f" not in now.of_engine(1).readings
    assert isinstance(follow_read("f", twin, state, now), list)


@pytest.mark.parametrize(
    ("egt_f", "side"),
    [
        ((1_400, 1_430), None),
        ((1_400, 1_450, 1_446), None),
        ((1_400, 1_450, 1_444), "lean"),
        ((1_400, 1_450, 1_430, 1_449, 1_430), "rich"),
        ((1_400, 1_450, 1_430, 1_449, 1_430, 1_448, 1_420), "lean"),
    ],
)
def test_the_side_of_the_peak_is_kept(egt_f, side):
    """Leaned from rich, EGT rises to its peak and falls beyond it (Heywood; any handbook's chapter on leaning)."""
    assert side_of_peak(tuple(map(float, egt_f))) == side


@pytest.mark.parametrize(
    ("egt_f", "says"),
    [
        ((1_400,), "type it again"),
        ((1_400, 1_440), "not past its peak yet"),
        ((1_400, 1_450, 1_430), "go back over the peak, richer"),
        ((1_400, 1_450, 1_430, 1_450, 1_405), "there"),
        ((1_400, 1_450, 1_430, 1_450, 1_410), "there"),
        ((1_400, 1_450, 1_430, 1_450, 1_390), "there"),
        ((1_400, 1_450, 1_430, 1_450, 1_389), "a little leaner"),
        ((1_400, 1_450, 1_430, 1_450, 1_411), "a little richer"),
    ],
)
def test_leaning_by_one_needle_says_how_far_and_which_way(egt_f, says):
    chosen = ("lean_target", {"target": "rich_50"})
    state = fold(A, events(chosen, *(read("egt_f", float(value)) for value in egt_f), step_s=20.0))
    assert says in lean_by_hand(A, state).say


def test_figures_of_another_leaning_are_not_subtracted():
    state = fold(A, events(read("egt_f", 1_500.0), read("egt_f", 1_400.0), step_s=301.0))
    assert state.read_egts_f["egt_f"] == (1_400.0,)
    state = fold(A, events(read("egt_f", 1_500.0), read("egt_f", 1_400.0), step_s=299.0))
    assert state.read_egts_f["egt_f"] == (1_500.0, 1_400.0)


def typed_by_cylinder(*rows: tuple[int, ...]):
    """Rows of a table as they are typed: a figure of each cylinder at each step of the mixture."""
    said = [read(f"egt{c}_f", float(egt)) for row in rows for c, egt in enumerate(row, 1)]
    return said


LEANED = (
    (1_400, 1_390, 1_380, 1_400),
    (1_430, 1_420, 1_440, 1_425),
    (1_450, 1_450, 1_430, 1_445),
    (1_430, 1_460, 1_400, 1_460),
)


@pytest.mark.parametrize(
    ("rows", "target", "says"),
    [
        (LEANED[:2], "rich_50", "No cylinder is past its peak"),
        (LEANED[:3], "rich_50", "Cylinder 3 peaked first: {~10.00|f} below its peak of {1440.00|f}, lean side"),
        (LEANED[:3], "lean_30", "Lean on until the others have peaked too: 1, 2, 4."),
        (LEANED, "lean_30", "Lean on until the others have peaked too: 2, 4."),
        (
            (*LEANED, (1_400, 1_440, 1_370, 1_430)),
            "lean_30",
            "Cylinder 4 peaked last: {~30.00|f} below its peak of {1460.00|f}, lean side",
        ),
    ],
)
def test_leaning_cylinder_by_cylinder_counts_from_the_first_or_the_last_to_peak(rows, target, says):
    """Rich of peak counts from the leanest cylinder, which peaks first, lean of peak from the richest (common practice)."""
    profile = PROFILES["j-glass"]
    state = fold(profile, events(("lean_target", {"target": target}), *typed_by_cylinder(*rows), step_s=5.0))
    assert says in lean_by_hand(profile, state).say


def test_the_table_asks_for_one_cylinder_after_the_other():
    asked = []
    for count in range(6):
        said = typed_by_cylinder(*LEANED)[:count]
        asked.append(egt_table(A, fold(A, events(*said, step_s=5.0))).next)
    assert asked == [1, 2, 3, 4, 1, 2]
    table = egt_table(A, fold(A, events(*typed_by_cylinder(*LEANED), step_s=5.0)))
    assert table.rows == tuple(tuple(map(float, row)) for row in LEANED)
    assert (table.first, table.last, table.passed) == (3, None, (1, 3))


def test_the_egt_is_asked_for_while_the_mixture_is_leaned_by_hand_only():
    phase = next(p for p in A.phases for one in p.lists for i in one.items if i.watch == "lean")
    items = [i.id for one in phase.lists for i in one.items]
    rows = [("phase_entered", {"phase": phase.id})]
    rows += [("item_done", {"item": i}) for i in items[: items.index("lean")]]
    state = fold(A, events(RUNS, *rows))
    for source, asked in (("manual", True), ("bench", False)):
        frame = describe(A, state, None, 60.0, identity=Identity(source=source))
        assert frame.item.id == "lean"
        assert any(one.id == "egt_f" for one in frame.instruments) is asked


def test_from_the_first_item_to_the_take_off_of_the_trainer_at_most_25_figures_are_typed():
    profile = PROFILES["a-trainer"]
    asked = []
    for phase in profile.phases[: profile.place(profile.take_off.phase) + 1]:
        for item in (item for one in phase.lists for item in one.items):
            if item.only_if and any(c.of == "start" and c.equals != "cold" for c in item.only_if):
                continue
            if item.manual:
                asked += [field.name for field in checks()[item.manual].fields if field.kind == "figure"]
            elif item.measure or (item.reading and not reading_row(item.reading.signal).is_lever):
                asked.append(item.id)
    assert 15 <= len(asked) <= 25, asked


READ_TO_RPM = 5  # a needle is read to half of its smallest mark
OF_PAD = {
    "mag_check": ("drop_left_rpm", "drop_right_rpm"),
    "carb_heat_check": ("drop_rpm",),
    "idle_check": ("idle_rpm",),
}


def read_off(finding: dict) -> dict:
    """Return what a pilot reads of a needle and types: whole figures, each read to a mark."""
    told, kind = finding["measured"], finding["kind"]
    mark = lambda value: round(value / READ_TO_RPM) * READ_TO_RPM  # noqa: E731
    if kind == "idle_check":
        return {"check": kind, "idle_rpm": mark(told["idle_rpm"])}
    base = {"base_rpm": mark(told["base_rpm"]), "restored_rpm": mark(told["restored_rpm"])}
    if kind == "carb_heat_check":
        return {"check": kind, **base, "low_rpm": mark(told["base_rpm"] - told["drop_rpm"])}
    lows = {f"{side}_rpm": mark(told["base_rpm"] - told[f"drop_{side}_rpm"]) for side in ("left", "right")}
    return {"check": kind, **base, **lows}


@pytest.mark.parametrize("fault", [None, "late_timing_left", "late_timing_right", "stuck_carb_heat", "low_idle_stop"])
def test_what_is_read_off_and_typed_is_judged_as_with_data(fault):
    profile = PROFILES["a-trainer"]
    run = run_script(BenchScript.from_json(run_up("a-trainer", fault)), profile.bench, 4.0, 5)
    found = [one.published() for one in judge(Trace(run.time_s, {**run.shown, **run.levers}), profile)]
    by_data = {one["kind"]: one for one in found if one["kind"] in OF_PAD}
    assert by_data.keys() == OF_PAD.keys()
    for kind, one in by_data.items():
        typed = judge_typed(profile, read_off(one), 0.0).published()
        assert typed["verdict"] == one["verdict"], (kind, typed["because"], one["because"])
        for name in OF_PAD[kind]:
            assert typed["measured"][name] == pytest.approx(one["measured"][name], abs=READ_TO_RPM)
