"""Mass and balance against the worked examples of published handbooks. The figures are from memory of the pages named."""

import pytest

from jemmon.core.aircraft.balance import Balance, Station, is_within, loading_sheet

LB, INCH = 0.45359237, 0.0254  # exact definitions (NIST SP 811)


def aeroplane(stations, empty_lb, empty_in, envelope, **more) -> Balance:
    most = {"most_take_off_kg": 9_000.0, "most_landing_kg": 9_000.0, "most_zero_fuel_kg": None} | more
    return Balance(
        empty_kg=empty_lb * LB,
        empty_arm_m=empty_in * INCH,
        empty_across_m=0.0,
        stations=tuple(stations),
        envelope=tuple((arm * INCH, mass * LB) for arm, mass in envelope),
        across=(),
        **most,
    )


WIDE = ((-500, 0), (500, 0), (500, 20_000), (-500, 20_000))


def at(name: str, inches: float, **more) -> Station:
    return Station(id=name, title=name, arm_m=inches * INCH, **more)


def test_the_worked_example_of_an_aeroplane():
    """FAA-H-8083-25, Pilot's Handbook of Aeronautical Knowledge, chapter "Weight and Balance", computational method: 2,100 lb empty
    at 78.3 in, front seats 340 lb at 85.0, rear seats 350 lb at 121.0, fuel 450 lb at 75.0, baggage 80 lb at 150.0: 3,320 lb at
    84.8 in."""
    balance = aeroplane(
        [at("front", 85.0), at("rear", 121.0), at("fuel", 75.0, is_fuel=True), at("bags", 150.0)], 2_100, 78.3, WIDE
    )
    loads = {"front": 340 * LB, "rear": 350 * LB, "fuel": 450 * LB, "bags": 80 * LB}
    take_off = loading_sheet(balance, loads, 0.0).states[0]
    assert take_off.mass_kg / LB == pytest.approx(3_320)
    assert take_off.arm_m / INCH == pytest.approx(84.8, abs=0.05)


def test_the_shift_of_a_load_moves_the_centre_of_gravity_as_the_handbook_says():
    """The same chapter, weight shifting: 7,800 lb at 81.5 in, the aft limit 80.5 in; 65 lb from station 150 to station 30 bring it
    there."""
    balance = aeroplane([at("aft", 150.0), at("forward", 30.0)], 7_800 - 65, (7_800 * 81.5 - 65 * 150) / 7_735, WIDE)
    before = loading_sheet(balance, {"aft": 65 * LB}, 0.0).states[0]
    after = loading_sheet(balance, {"forward": 65 * LB}, 0.0).states[0]
    assert before.arm_m / INCH == pytest.approx(81.5)
    assert after.arm_m / INCH == pytest.approx(80.5)


def test_the_ballast_of_the_handbook_s_example():
    """FAA-H-8083-1, permanent ballast: 1,876 lb at 32.2 in, the forward limit 33.0 in, ballast at station 228: 7.7 lb."""
    envelope = ((33.0, 0), (46.0, 0), (46.0, 2_700), (33.0, 2_700))
    balance = aeroplane([at("ballast", 228.0, takes_ballast=True)], 1_876, 32.2, envelope)
    sheet = loading_sheet(balance, {}, 0.0)
    assert not sheet.is_inside
    assert sheet.ballast is not None
    assert sheet.ballast.mass_kg / LB == pytest.approx(7.7, abs=0.25)  # found in steps of a tenth of a kilogram


def test_a_helicopter_is_loaded_along_and_across():
    """FAA-H-8083-1, helicopters: the lateral centre of gravity is the sum of lateral moments over the mass (common practice: right
    positive). 1,000 kg empty on the centre line, 100 kg 0.5 m to the right: 0.045 m."""
    station = Station(id="right", title="Right seat", arm_m=2.0, across_m=0.5)
    box = ((1.9, -0.04), (2.1, -0.04), (2.1, 0.04), (1.9, 0.04))
    heli = Balance(
        empty_kg=1_000.0,
        empty_arm_m=2.0,
        empty_across_m=0.0,
        stations=(station,),
        envelope=((1.9, 0), (2.1, 0), (2.1, 2_000), (1.9, 2_000)),
        across=box,
        most_take_off_kg=1_500.0,
        most_landing_kg=1_500.0,
        most_zero_fuel_kg=None,
    )
    loaded = loading_sheet(heli, {"right": 100.0}, 0.0).states[0]
    assert loaded.across_m == pytest.approx(0.04545, abs=1e-4)
    assert loaded.against == ("outside the limits to the side",)
    assert loading_sheet(heli, {"right": 80.0}, 0.0).states[0].is_inside


@pytest.mark.parametrize(
    ("point", "inside"), [((1, 1), True), ((2, 0), True), ((2.001, 1), False), ((0, 0), True), ((-0.001, 0), False)]
)
def test_a_point_on_the_edge_is_inside(point, inside):
    assert is_within(point, ((0, 0), (2, 0), (2, 2), (0, 2))) is inside
