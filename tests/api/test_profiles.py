"""Profiles and weather through the interface and the command line: in and out without loss, refused by their place."""

import copy
import json
import re
from functools import partial

import pytest

from jemmon.core.aircraft.profile import canonical_json
from jemmon.library.shipped import FOLDER, shipped_profiles, whole_profile
from tests.conftest import run_jemmon

PROFILES = shipped_profiles()
HEADERS = {"Content-Type": "application/json"}


def mine(**changes) -> dict:
    return {**copy.deepcopy(dict(PROFILES["h-geared"].body)), "id": "mine", "registration": "ZZ-MIN", **changes}


@pytest.mark.parametrize("profile_id", PROFILES)
def test_export_import_export_is_the_same_byte_for_byte(client, profile_id):
    first = client.get(f"/api/aircraft/{profile_id}/profile.json").data
    assert client.post("/api/aircraft", data=first, headers=HEADERS).status_code == 201
    assert client.get(f"/api/aircraft/{profile_id}/profile.json").data == first


def test_an_imported_aircraft_is_there_after_a_restart_and_flights_keep_their_own(app, client, tmp_path):
    from jemmon.api import create_app
    from jemmon.app.settings import Settings

    assert client.post("/api/aircraft", json=mine()).status_code == 201
    begin = {"id": "f1", "aircraft": "mine", "registration": "ZZ-MIN", "pilot": "Ana", "source": "manual"}
    assert client.post("/api/flights", json=begin).status_code == 201
    assert client.post("/api/aircraft", json=mine(name="Changed")).status_code == 201
    app.extensions["hangar"].close()
    again = create_app(Settings(database=tmp_path / "jemmon.db"))
    with again.test_client() as second:
        names = {a["id"]: a["name"] for a in second.get("/api/aircraft").json["aircraft"]}
        assert names["mine"] == "Changed"
        assert second.get("/api/flights/f1").json["aircraft"]["name"] == PROFILES["h-geared"].name
    again.extensions["hangar"].close()


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"not json", "not a profile"),
        (b"\xff\xfe", "not a profile"),
        (b"[" * 100_000, "not a profile"),
        (b"{}", r"wrong at \$"),
        (json.dumps(mine(registration="ZZ MIN <b>")).encode(), "registration"),
    ],
)
def test_a_wrong_profile_is_refused_and_nothing_is_kept(client, data, says):
    answer = client.post("/api/aircraft", data=data, headers=HEADERS)
    assert answer.status_code == 400
    assert re.search(says, answer.json["message"])
    assert "mine" not in [a["id"] for a in client.get("/api/aircraft").json["aircraft"]]


def test_five_megabytes_are_refused_before_they_are_read(client):
    answer = client.post("/api/aircraft", data=b"x" * 5_000_000, headers=HEADERS)
    assert answer.status_code == 413


def test_the_plain_view_names_every_limit_with_its_source(client):
    view = client.get("/api/aircraft/d-twin").json
    assert {row["name"] for row in view["limits"]} == set(PROFILES["d-twin"].limits)
    assert all(row["source"] and row["note"] for row in view["limits"])
    titles = [one["title"] for phase in view["phases"] for one in phase["lists"]]
    assert "Run-up, Left engine" in titles
    assert "Run-up, Right engine" in titles


def test_weather_that_is_down_is_an_answer_in_words(client):
    answer = client.get("/api/weather/ZZLK")
    assert answer.status_code == 503
    assert "Type the figures" in answer.json["message"]
    assert client.get("/api/weather/nonsense").status_code == 404


def test_impossible_weather_is_not_kept(client):
    begin = {"id": "f1", "aircraft": "a-trainer", "registration": "ZZ-WRN", "pilot": "Ana", "source": "manual"}
    client.post("/api/flights", json=begin)
    hot = {"id": "w1", "kind": "weather", "body": {"oat_c": 120}}
    assert client.post("/api/flights/f1/events", json=hot).status_code == 422
    good = {"id": "w2", "kind": "weather", "body": {"oat_c": 12, "dewpoint_c": 9}}
    assert client.post("/api/flights/f1/events", json=good).json["frame"]["air"]["icing"] == "serious at any power"


def test_profiles_on_the_command_line(tmp_path):
    jemmon = partial(run_jemmon, tmp_path)
    out = jemmon("profile", "export", "b-tourer")
    assert out.stdout == canonical_json(whole_profile(json.loads((FOLDER / "b-tourer.json").read_text())))
    own = tmp_path / "own.json"
    own.write_text(json.dumps(mine()))
    assert "is read in" in jemmon("profile", "import", str(own), "--database", str(tmp_path / "x.db")).stdout
    own.write_text(
        json.dumps(mine(limits={"oil_presure_min_psi": {"value": 25, "source": "common practice", "note": "mine"}}))
    )
    refused = jemmon("profile", "check", str(own))
    assert refused.returncode == 2
    assert "did you mean 'oil_pressure_min_psi'" in refused.stderr
    assert json.loads(jemmon("profile", "schema").stdout)["$schema"].endswith("2020-12/schema")


def test_lists_on_the_command_line_go_out_as_text_and_in_again(tmp_path):
    jemmon = partial(run_jemmon, tmp_path)
    text, kept = tmp_path / "lists.md", str(tmp_path / "x.db")
    text.write_text(jemmon("profile", "lists", "a-trainer").stdout)
    into = ("--into", "a-trainer", "--database", kept)
    whole = jemmon("profile", "import", str(text), *into)
    assert "145 as they were, 0 from the library, 0 of your own" in whole.stdout
    text.write_text("RUN-UP\nMAGS .... L, BOTH, R, BOTH\nGPS position - agrees\n")
    own = jemmon("profile", "import", str(text), *into)
    assert "1 as they were, 0 from the library, 1 of your own" in own.stdout
    text.write_text("nothing at all")
    refused = jemmon("profile", "import", str(text), *into)
    assert refused.returncode == 2
    assert "Nothing in this text is an item" in refused.stderr
