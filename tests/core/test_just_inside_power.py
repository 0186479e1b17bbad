"""Figures of levers, schools, fuel and the start's words, each tried just inside and just outside of where it turns. Common
practice, but where a test says otherwise."""

import numpy as np
import pytest

from jemmon.core.aircraft import LeanTarget
from jemmon.core.base.errors import EventError
from jemmon.core.flight.fold import fold
from jemmon.core.flight.take_offs import own_lack_inhg
from jemmon.core.fuel.tanks import check_amount, reserve_minutes
from jemmon.core.live.workings import magneto_working
from jemmon.core.power.card_lines import power_lines
from jemmon.core.power.levers import lever_steps, pressure_ahead, rating_of
from jemmon.core.power.margin import band_to_avoid, detonation_margin
from jemmon.core.power.schools import lean_power_most_pct, mixture_advice, refusal
from jemmon.core.power.settings import static_least_rpm, static_share
from jemmon.core.start.advice import FIRED, TOO_LITTLE, TOO_MUCH, Attempt
from jemmon.core.start.story import stories
from jemmon.core.start.words import COLD, FLOODED, HOT, history_words, liked_words, not_set, which_start
from jemmon.core.trace import Trace
from tests.core.builders import PROFILES, changed, events, find_item

A, B = PROFILES["a-trainer"], PROFILES["b-tourer"]
PRESSURE_ROW = next(row for row in B.power_section["map_most"])


@pytest.mark.parametrize(("rpm_by", "moved"), [(25.0, False), (26.0, True), (-25.0, False), (-26.0, True)])
def test_nobody_moves_a_propeller_for_twenty_five_rpm(rpm_by, moved):
    steps = lever_steps(B, 2300.0, 22.0, 2300.0 + rpm_by, 22.0)
    assert bool(steps) == moved


@pytest.mark.parametrize(("above", "ahead"), [(0.2, False), (0.5, True)])
def test_manifold_pressure_is_ahead_by_more_than_a_needle_shows(above, ahead):
    rpm = float(PRESSURE_ROW["rpm"])
    assert (pressure_ahead(B, rpm, PRESSURE_ROW["map_inhg"] + above) is not None) == ahead


@pytest.mark.parametrize(("share", "ahead"), [(0.66, False), (0.67, True)])
def test_an_engine_below_two_thirds_of_its_tables_slowest_row_is_no_matter_of_levers(share, ahead):
    assert (pressure_ahead(B, share * PRESSURE_ROW["rpm"], 29.9) is not None) == ahead


def test_a_rating_begins_above_its_figures():
    profile = next(one for one in PROFILES.values() if one.power_section.get("ratings"))
    rating = profile.power_section["ratings"][-1]
    low = min(row["above_rpm"] for row in profile.power_section["ratings"])
    lowest = min(row["above_map_inhg"] for row in profile.power_section["ratings"])
    assert rating_of(profile, low + 14.0, lowest + 0.2) is None
    assert rating_of(profile, rating["above_rpm"] + 16.0, lowest) is not None
    assert rating_of(profile, low, lowest + 0.4) is not None


def target(side, offset_f):
    return LeanTarget(id="x", name="x", side=side, offset_f=offset_f, source="")


@pytest.mark.parametrize(
    ("side", "offset_f", "pct", "refused"),
    [
        ("peak", 0.0, 65.0, False), ("peak", 0.0, 66.0, True),
        ("rich", 4.0, 66.0, True), ("rich", 6.0, 66.0, False),
        ("rich", 50.0, 75.0, False), ("rich", 50.0, 76.0, True), ("rich", 74.0, 76.0, True), ("rich", 75.0, 76.0, False),
        ("lean", 30.0, 75.0, False), ("lean", 30.0, 76.0, True),
    ],
)  # fmt: skip
def test_a_way_to_lean_is_refused_above_its_power(side, offset_f, pct, refused):
    profile = changed("a-trainer", lambda body: body["limits"].pop("lean_power_max_pct", None))
    assert lean_power_most_pct(profile) == 75.0
    assert (refusal(profile, target(side, offset_f), pct, None) is not None) == refused


@pytest.mark.parametrize(("spread_gph", "refused"), [(0.5, False), (0.51, True)])
def test_lean_of_peak_asks_for_even_cylinders(spread_gph, refused):
    assert (refusal(B, target("lean", 20.0), 55.0, spread_gph) is not None) == refused


@pytest.mark.parametrize(("lever", "wrong"), [(0.09, False), (0.11, True)])
def test_a_mixture_at_cut_off_is_in_no_wrong_detent(lever, wrong):
    def detents(body):
        body["power"]["mixture"] = "detents"
        body["power"]["detents"] = [{"name": "Lean", "lever": 0.2, "below_rpm": 2000}, {"name": "Rich", "lever": 1.0}]

    assert mixture_advice(changed("b-tourer", detents), 2500.0, 25.0, lever).wrong == wrong


@pytest.mark.parametrize(
    ("pct", "band_f"), [(59.9, None), (60.0, (40.0, 0.0)), (65.0, (60.0, 15.0)), (75.0, (100.0, 45.0))]
)
def test_the_band_to_avoid_widens_with_power(pct, band_f):
    """About 20 to 60 °F rich at cruise power, and wider on both sides above it."""
    assert band_to_avoid(pct) == (None if band_f is None else pytest.approx(band_f))


@pytest.mark.parametrize(("side", "offset_f"), [("rich", 20.0), ("rich", 60.0), ("lean", 20.0), ("lean", 45.0)])
def test_knock_is_nearest_a_little_rich_of_peak_and_leaves_on_both_sides(side, offset_f):
    """A fact of the trade: the hottest, fastest charge is 20 to 60 °F rich of peak."""

    def margin(side, offset_f):
        return detonation_margin(B, 2500.0, 28.0, 59.0, 380.0, side, offset_f)

    worst = min(margin("rich", offset) for offset in range(0, 100, 5))
    assert margin(side, offset_f) < 1.35 * worst
    assert margin("rich", 250.0) > margin("rich", 150.0) > worst
    assert margin("lean", 80.0) > margin("lean", 40.0) > margin("lean", 10.0)


def test_twelve_degrees_of_intake_air_cost_margin_and_so_does_a_hot_head():
    usual = detonation_margin(B, 2500.0, 28.0, 59.0, None, "rich", 60.0)
    assert usual == pytest.approx(detonation_margin(B, 2500.0, 28.0, 59.0, 300.0, "rich", 60.0))
    assert usual == pytest.approx(detonation_margin(B, 2500.0, 28.0, None, 300.0, "rich", 60.0))
    assert detonation_margin(B, 2500.0, 28.0, 81.0, None, "rich", 60.0) < usual
    assert detonation_margin(B, 2500.0, 28.0, 59.0, 450.0, "rich", 60.0) < usual


def lacks(*figures):
    return own_lack_inhg([{"lacks_inhg": {"1": figure}} for figure in figures])


def test_a_habit_of_full_power_is_told_by_three_take_offs_of_the_newest_ten():
    assert lacks(0.4, 0.4) == {}
    assert lacks(0.4, 0.4, 0.4) == {1: 0.4}
    assert lacks(*[0.0] * 20, *[0.5] * 5) == {1: 0.25}


@pytest.mark.parametrize(("lack", "taken"), [(0.9, 0.9), (1.4, 1.0), (-1.4, -1.0)])
def test_no_more_than_an_inch_of_a_habit_is_taken_over(lack, taken):
    assert lacks(lack, lack, lack) == {1: taken}


@pytest.mark.parametrize(("gal", "taken"), [(0.0, True), (2000.0, True), (2001.0, False), (-0.1, False)])
def test_an_amount_of_fuel_is_one_that_a_tank_holds(gal, taken):
    if taken:
        check_amount(gal)
    else:
        with pytest.raises(EventError):
            check_amount(gal)


def test_a_reserve_is_half_an_hour_where_the_type_says_nothing():
    """14 CFR 91.151, by day."""
    profile = changed("a-trainer", lambda body: body["fuel"].pop("reserve_min", None))
    assert reserve_minutes(profile) == 30.0


def attempt(strokes, outcome, metal_c=15.0, **more):
    return Attempt(strokes=strokes, outcome=outcome, metal_c=metal_c, **more)


@pytest.mark.parametrize(
    ("signs", "kind"),
    [
        ({"cht_f": 129.0}, COLD), ({"cht_f": 131.0}, HOT),
        ({"oil_t_f": 129.0}, COLD), ({"oil_t_f": 131.0}, HOT),
        ({"stood_h": 1.6}, COLD), ({"stood_h": 1.4}, HOT),
    ],
)  # fmt: skip
def test_a_start_is_hot_by_its_best_sign(signs, kind):
    found, _ = which_start(3.0, 15.0, signs.get("oil_t_f"), signs.get("cht_f"), signs.get("stood_h"), (), "strokes")
    assert found == kind


@pytest.mark.parametrize(("strokes", "kind"), [(4.8, COLD), (4.9, FLOODED)])
def test_much_more_than_was_advised_and_no_fire_is_flooded(strokes, kind):
    found, _ = which_start(3.0, 15.0, None, None, None, (attempt(strokes, TOO_LITTLE),), "strokes")
    assert found == kind


def test_what_caught_and_died_is_flooded_and_cleared_by_air():
    assert which_start(3.0, 15.0, None, None, None, (attempt(1.0, TOO_MUCH),), "strokes")[0] == FLOODED
    cleared = (attempt(1.0, TOO_MUCH), attempt(1.0, TOO_LITTLE))
    assert which_start(3.0, 15.0, None, None, None, cleared, "strokes")[0] == COLD


@pytest.mark.parametrize(("metal_c", "like"), [(21.0, True), (21.5, False), (8.5, False)])
def test_a_start_is_like_this_one_within_six_degrees(metal_c, like):
    words = history_words([attempt(4.0, FIRED, metal_c)], 15.0, 3.0, "strokes")
    assert words.startswith("The last start") == like


@pytest.mark.parametrize(("starts", "told"), [(2, False), (3, True)])
def test_where_a_lever_stood_is_told_after_three_starts(starts, told):
    assert ("its last" in liked_words("open a little", [0.1, None, *[0.2] * (starts - 1)])) == told


@pytest.mark.parametrize(
    ("known", "said"),
    [
        ({"volts_v": 0.9}, ("master off",)), ({"volts_v": 1.1}, ()),
        ({"master": 0.4}, ("master off",)), ({"master": 0.6}, ()),
        ({"mag": "OFF"}, ("magnetos OFF",)), ({"mag": "BOTH"}, ()),
        ({"mixture": 0.01}, ("mixture at cut-off",)), ({"mixture": 0.03}, ()),
    ],
)  # fmt: skip
def test_what_keeps_an_engine_from_firing_is_named(known, said):
    assert not_set(A, known) == said


@pytest.mark.parametrize(("set_at", "said"), [(0.25, ()), (0.35, ("mixture at cut-off",))])
def test_a_mixture_at_cut_off_is_named_where_the_lists_open_it_before_the_starter(set_at, said):
    """Others crank with it at cut-off, or hardly open, and it is right there (our own choice: from three tenths on)."""
    profile = changed("a-trainer", lambda body: find_item(body, "mixture_rich")["reading"].update(min=set_at))
    assert not_set(profile, {"mixture": 0.0}) == said


@pytest.mark.parametrize(("share", "said"), [(0.19, True), (0.21, False)])
def test_a_pump_that_gives_no_pressure_is_named(share, said):
    profile = next(one for one in PROFILES.values() if one.has_limit("fuel_pressure_min_psi"))
    psi = share * profile.limit("fuel_pressure_min_psi")
    words = not_set(profile, {"pump": 1.0, "fp_psi": psi, "mixture": 1.0})
    assert ("no fuel pressure with the pump on" in words) == said


@pytest.mark.parametrize(("ran_s", "counts"), [(1.9, False), (2.0, True)])
def test_a_blip_of_the_needle_is_no_start(ran_s, counts):
    told = [(10.0, "engine_fired", {"limit_s": 30.0}), (10.0 + ran_s, "engine_stopped", {})]
    assert bool(stories(told, 100.0)) == counts


@pytest.mark.parametrize(("after_s", "told"), [(120.0, True), (121.0, False)])
def test_what_the_bus_shows_belongs_to_the_start_for_two_minutes(after_s, told):
    rows = [(10.0, "engine_fired", {}), (10.0 + after_s, "charging", {"volts_v": 28.0})]
    assert stories(rows, 500.0)[0].charging is (True if told else None)


@pytest.mark.parametrize(("away_s", "settled"), [(1.25, False), (1.75, True), (3.0, True)])
def test_a_drop_has_settled_after_a_second_and_a_half(away_s, settled):
    time_s = np.arange(0.0, 30.0, 0.25)
    since_s = time_s[-1] - away_s
    rpm = np.where(time_s > since_s, 1700.0, 1800.0)
    rows = [("phase_entered", {"phase": "run_up"}), ("put_back_away", {"put_back": "one_magneto"}, since_s)]
    working = magneto_working(Trace(time_s, {"rpm": rpm}), A, fold(A, events(*rows)))
    assert working.settled == settled
    assert working.drop_rpm == 100


def test_a_drop_is_counted_from_the_four_seconds_before():
    time_s = np.arange(0.0, 30.0, 0.25)
    rpm = np.select([time_s < 21.0, time_s > 25.0], [1600.0, 1700.0], 1800.0)
    rpm[(time_s > 24.7) & (time_s <= 25.0)] = 1500.0  # the hand is on the switch already
    rows = [("phase_entered", {"phase": "run_up"}), ("put_back_away", {"put_back": "one_magneto"}, 25.0)]
    assert magneto_working(Trace(time_s, {"rpm": rpm}), A, fold(A, events(*rows))).base_rpm == 1800


@pytest.mark.parametrize(("beyond_ft", "edge_ft"), [(26_000.0, 20_000.0), (-4_000.0, -2_000.0)])
def test_static_speed_is_known_for_the_heights_of_airfields(beyond_ft, edge_ft):
    """No aircraft takes off beyond them: what an altimeter shows there is its error."""
    assert static_share(A, beyond_ft) == static_share(A, edge_ft)
    nearer_ft = 0.9 * edge_ft
    assert static_share(A, nearer_ft) != static_share(A, edge_ft)


def test_a_card_has_the_powers_and_heights_of_a_handbook():
    lines = power_lines(B)
    heights = [float(line.split("|")[0].strip("{")) for line in lines]
    assert sorted(set(heights)) == [2_000.0, 6_000.0, 10_000.0]
    assert {line.split(", ")[1].split(" %")[0] for line in lines} == {"75", "65", "55"}


@pytest.mark.parametrize(
    ("palt_ft", "oat_c", "least_rpm"),
    [(0.0, 15.0, 2264.0), (0.0, 35.0, 2264.0), (0.0, 12.0, 2260.0), (0.0, -20.0, 2220.0)],
)
def test_a_handbooks_static_speed_is_asked_as_it_stands_there_and_never_more(palt_ft, oat_c, least_rpm):
    """Cold air takes n ~ T ** (1/6) of it (SAE J1349 and the propeller law): 2,216 at -20 °C, to ten."""
    own = changed("a-trainer", lambda body: body["limits"]["static_min_rpm"].update(value=2264))
    assert static_least_rpm(own, palt_ft, oat_c) == least_rpm
    odd = changed("a-trainer", lambda body: body["limits"]["static_min_rpm"].update(value=2268))
    assert static_least_rpm(odd, palt_ft, oat_c) <= 2268
