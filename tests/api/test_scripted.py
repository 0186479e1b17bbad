"""An aircraft without a simulated engine: scripted needles that follow the phase, said to be so, and never obeyed."""

import time

import pytest

from jemmon.api import create_app
from jemmon.app.settings import Settings
from jemmon.core.aircraft import Profile, profile_from_json
from jemmon.feeds.scripted_needles import first_needles, move, targets
from jemmon.library.shipped import shipped_profiles


def without_bench(profile: Profile) -> Profile:
    """The profile as somebody might write it who has no figures for a simulated engine."""
    body = {name: part for name, part in profile.body.items() if name != "bench"}
    return profile_from_json(body)


PROFILES = {i: without_bench(p) for i, p in shipped_profiles().items() if i != "a-trainer"}
BEGIN = {"id": "f1", "aircraft": "d-twin", "registration": "ZZ-PTR", "pilot": "Ana", "source": "bench", "speed": 60}


def frame_when(client, condition, seconds: float = 8.0) -> dict:
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        frame = client.get("/api/live").json["frame"]
        if condition(frame):
            return frame
        time.sleep(0.05)
    raise AssertionError("not met")


def put_in(client) -> None:
    """Put the twin without its simulated engine in the place of the shipped one."""
    assert client.post("/api/aircraft?replace=true", json=PROFILES["d-twin"].body).status_code in (200, 201)


def test_needles_follow_the_phase_and_no_lever_moves_them(client):
    put_in(client)
    frame = client.post("/api/flights", json=BEGIN).json
    assert frame["feed"]["kind"] == "scripted"
    refused = client.post("/api/live/levers", json={"levers": {"throttle": 1.0}})
    assert refused.status_code == 409
    assert "no simulated engine" in refused.json["message"]
    client.post("/api/flights/f1/events", json={"id": "p", "kind": "phase_entered", "body": {"phase": "warm_up"}})
    running = frame_when(client, lambda f: (f["rpm"] or 0) > 900 and f["engine_runs"])
    assert {row["id"] for row in running["instruments"]} >= {"rpm", "e2_rpm"}


def test_scripted_needles_go_on_after_a_restart(app, client, tmp_path):
    put_in(client)
    client.post("/api/flights", json=BEGIN)
    client.post("/api/flights/f1/events", json={"id": "p", "kind": "phase_entered", "body": {"phase": "warm_up"}})
    before = frame_when(client, lambda f: (f["rpm"] or 0) > 900)
    app.extensions["hangar"].close()
    again = create_app(Settings(database=tmp_path / "jemmon.db", speeds=(1, 4, 10, 60)))
    try:
        after = frame_when(again.test_client(), lambda f: f["rpm"] is not None)
        assert after["at_s"] >= before["at_s"]
        assert after["rpm"] > 900
    finally:
        again.extensions["hangar"].close()


@pytest.mark.parametrize("profile", PROFILES.values(), ids=PROFILES)
def test_needles_of_every_phase_stay_inside_the_profiles_limits(profile):
    names = set(first_needles(profile, 15.0))
    for phase in profile.phases:
        shown = targets(profile, phase.kind, 100.0)
        assert set(shown) == names, phase.id
        for signal, high in (("oil_p_psi", "oil_pressure_max_psi"), ("rpm", "rpm_max"), ("map_inhg", "map_max_inhg")):
            if (
                signal in shown and high in profile.limits and shown["oil_p_psi"] > 0
            ):  # at rest it reads the field's pressure
                assert shown[signal] <= profile.limits[high].value, (phase.id, signal)


@pytest.mark.parametrize("profile", PROFILES.values(), ids=PROFILES)
def test_every_phase_that_data_can_show_is_shown_by_its_own_needles(profile):
    for phase in profile.phases:
        shown = targets(profile, phase.kind, 100.0)
        assert all(condition.holds(shown) is not False for condition in phase.begins), phase.id


def test_a_needle_runs_towards_its_target_and_no_further():
    moved = move({"oil_t_f": 59.0, "rpm": 0.0}, {"oil_t_f": 180.0, "rpm": 1_000.0}, 1.0)
    assert 59 < moved["oil_t_f"] < 65
    assert 500 < moved["rpm"] <= 1_000
    assert move({"rpm": 0.0}, {"rpm": 1_000.0}, 99.0) == {"rpm": 1_000.0}
