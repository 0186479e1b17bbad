"""What the simulated engine sounds like, by textbook frequencies: four strokes fire each cylinder every second turn; each blade
passes once a turn of the propeller."""

import pytest

from jemmon.core.screen.sound import sounds
from jemmon.core.trace.sample import Sample
from tests.core.builders import PROFILES


def heard(aircraft: str, readings: dict, levers: dict | None = None):
    return sounds(PROFILES[aircraft], Sample(at_s=1.0, readings=readings, levers=levers or {}))


def test_a_four_cylinder_engine_at_2400_rpm_fires_80_times_a_second():
    (one,) = heard("a-trainer", {"rpm": 2400.0, "map_inhg": 24.0})
    assert one.firing_hz == pytest.approx(4 * 2400 / 120)
    assert one.blade_hz == pytest.approx(PROFILES["a-trainer"].start.blades * 2400 / 60)
    assert one.half_hz == pytest.approx(2400 / 120)
    assert 0 < one.load < 1


def test_behind_a_gear_the_blades_pass_slower():
    (one,) = heard("h-geared", {"rpm": 5000.0, "map_inhg": 30.0})
    gear = PROFILES["h-geared"].start.gear_ratio
    assert gear > 1
    assert one.blade_hz == pytest.approx(PROFILES["h-geared"].start.blades * 5000 / gear / 60, abs=0.01)


def test_a_tachometer_in_percent_turns_by_its_own_scale():
    (one,) = heard("e-rotor", {"rpm_pct": 100.0, "map_inhg": 20.0})
    full = float(PROFILES["e-rotor"].engine["rpm_at_100_pct"])
    assert one.half_hz == pytest.approx(full / 120, abs=0.01)


def test_two_engines_are_heard_each_for_itself_and_one_that_stands_is_silent():
    left, right = heard("d-twin", {"rpm": 2400.0, "e2_rpm": 2380.0, "map_inhg": 24.0, "e2_map_inhg": 24.0})
    assert left.firing_hz - right.firing_hz == pytest.approx(4 * 20 / 120, abs=0.01), "they beat"
    assert len(heard("d-twin", {"rpm": 2400.0, "e2_rpm": 0.0})) == 1
    assert heard("a-trainer", {"rpm": 29.0}) == ()
    assert len(heard("a-trainer", {"rpm": 31.0})) == 1


@pytest.mark.parametrize(("mag", "alone"), [("L", True), ("R", True), ("BOTH", False), ("OFF", False)])
def test_one_side_alone_is_heard(mag, alone):
    (one,) = heard("a-trainer", {"rpm": 1800.0}, {"mag": mag})
    assert one.on_one_side is alone


@pytest.mark.parametrize(("rough", "shown"), [(0.0, 0.0), (0.4, 0.4), (1.7, 1.0)])
def test_roughness_is_heard_up_to_its_most(rough, shown):
    (one,) = heard("a-trainer", {"rpm": 1800.0, "roughness": rough})
    assert one.rough == shown
