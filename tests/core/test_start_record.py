"""Starts as a record, by needles and by taps; what the clocks and the very large words say by hand."""

from jemmon.core.base.figures import plain
from jemmon.core.flight.fold import fold
from jemmon.core.flight.starts import told_starts
from jemmon.core.start.record import prime_lines, start_rows
from tests.core.builders import PROFILES, events, needles, screen_of

A, H = PROFILES["a-trainer"], PROFILES["h-geared"]
BY_NEEDLES = [
    ("prime_stroke", {"strokes": 2}),
    ("start_failed", {"strokes": 2, "metal_c": 5.0, "cranking_s": 6.0, "volts_v": 20.0, "engine": 1}),
    ("engine_fired", {"limit_s": 30, "strokes": 4, "metal_c": 5.0, "cranking_s": 3.0, "volts_v": 20.5, "engine": 1}),
    ("oil_pressure_seen", {"seconds": 6.5, "engine": 1}),
    ("engine_stopped", {"ran_s": 900.0, "engine": 1}),
    ("engine_fired", {"limit_s": 30, "strokes": 0, "metal_c": 70.0, "cranking_s": 1.0, "engine": 1}),
]


def rows(*made):
    return start_rows([("f1", "2026-01-02", told_starts(A, events(*made)))])


def test_each_start_is_one_row_with_its_tries_and_what_came_of_it():
    cold, hot = rows(*BY_NEEDLES)
    assert (cold.attempts, cold.amount, cold.cranking_s, cold.volts_v, cold.oil_s, cold.ran) == (
        2,
        4,
        9.0,
        20.0,
        6.5,
        True,
    )
    assert (hot.attempts, hot.metal_c, hot.oil_s) == (1, 70.0, None)


def test_what_caught_and_died_is_a_try_of_the_same_start():
    died = [*BY_NEEDLES[2:3], ("engine_stopped", {"ran_s": 3.0, "engine": 1}), *BY_NEEDLES[2:4]]
    (row,) = rows(*died)
    assert (row.attempts, row.ran) == (2, True)


def by_hand(*taps: tuple[str, float]):
    made = [("weather", {"oat_c": 4.0}, 1.0), ("prime_stroke", {"strokes": 3}, 2.0)]
    return [*made, *[("start_tap", {"what": what}, at_s) for what, at_s in taps]]


def test_taps_by_hand_make_the_same_record():
    taps = by_hand(("crank", 10.0), ("let_go", 18.0), ("crank", 40.0), ("fired", 43.0), ("oil_seen", 52.0))
    (row,) = rows(*taps)
    assert (row.attempts, row.amount, row.metal_c, row.cranking_s, row.oil_s, row.ran) == (2, 3, 4.0, 11.0, 9.0, True)


def test_a_tap_taken_back_was_never_made():
    taps = by_hand(("crank", 10.0), ("fired", 13.0))
    assert len(rows(*taps)) == 1
    assert rows(*taps, ("undo", {"event": "e4"}, 14.0)) == []


def test_by_hand_the_words_are_as_large_and_the_clock_counts():
    say = []
    taps = by_hand(("crank", 10.0), ("fired", 13.0))
    for upto, at_s in ((3, 15.0), (3, 26.0), (4, 20.0), (4, 44.0)):
        start = screen_of(A, fold(A, events(*taps[:upto])), None, at_s)["start"]
        say.append((start["large"]["say"], start["large"]["figure"]))
    assert say[0] == ("CRANKING", "5 s")
    assert say[1][0] == "LET GO"
    assert say[2] == ("OIL PRESSURE", "23 s")
    assert say[3][0] == "STOP THE ENGINE", "31 s after it fired, and no tap"
    seen = screen_of(A, fold(A, events(*by_hand(("fired", 13.0), ("oil_seen", 20.0)))), None, 21.0)["start"]
    assert seen["large"]["say"] == "OIL PRESSURE ✓"


def test_the_plot_has_the_book_and_what_is_advised_today():
    hungry = [
        [("engine_fired", {"strokes": n, "metal_c": t, "limit_s": 30})] for n, t in ((6, 10), (6, 12), (7, 8)) * 3
    ]
    lines = prime_lines(A, hungry)
    near = next(line for line in lines if line.metal_c == 10.0)
    assert near.advised > near.book
    assert (lines[0].metal_c, lines[-1].metal_c) == (-20.0, 40.0), "the winters and summers that engines are started in"
    assert [line.book for line in lines] == sorted((line.book for line in lines), reverse=True)
    assert prime_lines(H, []) == (), "a computer gives the prime"


def gates_of(profile, phase: str, **readings: float) -> dict[str, dict]:
    state = fold(profile, events(("phase_entered", {"phase": phase}), ("engine_fired", {"limit_s": 30})))
    shown = screen_of(profile, state, needles(100.0, **readings), 100.0)["gates"]
    return {gate["gate"]: gate for gate in shown}


def test_each_gate_opens_by_its_own_temperatures():
    cold = gates_of(A, "warm_up_taxi", oil_t_f=40.0)
    assert not any(gate["open"] for gate in cold.values())
    assert [plain(words) for words in cold["taxi"]["not_met"]] == ["Oil 40 °F, at least 50 °F"]
    mild = gates_of(A, "warm_up_taxi", oil_t_f=60.0)
    assert (mild["taxi"]["open"], mild["runup"]["open"]) == (True, False)
    assert "taxi" not in gates_of(A, "run_up", oil_t_f=80.0)
    most = PROFILES["g-vee"].limit("coolant_t_take_off_max_f")
    hot = gates_of(PROFILES["g-vee"], "before_take_off", oil_t_f=150.0, coolant_t_f=most + 1)
    assert [plain(words) for words in hot["take_off"]["not_met"]] == [
        f"Coolant {most + 1:.0f} °F, at most {most:.0f} °F"
    ]


def test_take_off_power_on_cold_oil_is_said():
    state = fold(A, events(("phase_entered", {"phase": "before_take_off"}), ("engine_fired", {"limit_s": 30})))
    rising = needles(50.0, levers={"throttle": 1.0}, rpm=2300.0, oil_t_f=60.0)
    assert any("Oil 60 °F" in plain(words) for words in screen_of(A, state, rising, 50.0)["notices"]["unproven"])
    warm = needles(50.0, levers={"throttle": 1.0}, rpm=2300.0, oil_t_f=120.0)
    assert not any(
        "Oil" in words and "°F" in plain(words) for words in screen_of(A, state, warm, 50.0)["notices"]["unproven"]
    )
