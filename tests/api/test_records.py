"""The records: kinds that are never mixed, filters, notes, what is deleted and comes back, what goes out as a file."""

import contextlib
import io
import json
import sqlite3
import zipfile
from random import Random

import pytest

from jemmon.core.bench import Bench
from jemmon.feeds.practice_faults import draw_fault, faults_of
from jemmon.library.shipped import shipped_profiles

TRAINER = {"aircraft": "a-trainer", "registration": "ZZ-WRN", "pilot": "Ana"}


def fly(client, flight_id: str, source: str = "manual", **more) -> None:
    assert client.post("/api/flights", json={"id": flight_id, **TRAINER, "source": source, **more}).status_code == 201
    end(client, flight_id)


def end(client, flight_id: str) -> None:
    body = {"id": f"{flight_id}-end", "kind": "flight_ended", "body": {}}
    assert client.post(f"/api/flights/{flight_id}/events", json=body).status_code == 201


def listed(client, **query) -> list[str]:
    return [line["id"] for line in client.get("/api/flights", query_string=query).json["flights"]]


@pytest.fixture
def demo(app, demo_template):
    """The records of the demo are in the application's database."""
    into = app.extensions["hangar"].settings.database
    with contextlib.closing(sqlite3.connect(demo_template)) as made, contextlib.closing(sqlite3.connect(into)) as own:
        made.backup(own)


def test_a_flight_says_what_it_was(client, demo):
    fly(client, "hand")
    fly(client, "bench", "bench")
    kinds = {line["id"]: line["kind"] for line in client.get("/api/flights").json["flights"]}
    assert kinds["hand"] == "by_hand"
    assert kinds["bench"] == "practice"
    assert kinds["demo-a-trainer-1"] == "demo"
    assert listed(client, kind="by_hand") == ["hand"]


def test_practice_and_real_flights_are_never_in_one_trend(client, demo):
    fly(client, "bench", "bench")
    real = client.get("/api/aircraft/a-trainer/trends").json
    assert real["use"] == {"practice": False, "real_flights": 5, "practice_flights": 1}
    assert real["figures"]
    practised = client.get("/api/aircraft/a-trainer/trends?practice=true").json
    assert practised["use"]["practice"]
    assert not practised["figures"]
    assert client.get("/api/aircraft/a-trainer/starts?practice=true").json["rows"] == []
    assert client.get("/api/aircraft/a-trainer/starts").json["rows"]


def test_where_all_flights_are_practice_these_are_shown(client):
    fly(client, "bench", "bench")
    assert client.get("/api/aircraft/a-trainer/trends").json["use"]["practice"]


def test_flights_are_found_by_verdict_and_day(client, demo):
    every = client.get("/api/flights").json["flights"]
    verdict = every[0]["verdict"]
    assert listed(client, verdict=verdict) == [one["id"] for one in every if one["verdict"] == verdict]
    day = every[2]["started_utc"][:10]
    assert listed(client, since=day, until=day) == [one["id"] for one in every if one["started_utc"][:10] == day]
    assert client.get("/api/flights", query_string={"since": "yesterday"}).status_code == 422


def test_a_length_and_the_drops_of_each_engine_are_in_the_list(client, demo):
    line = client.get("/api/flights").json["flights"][0]
    assert 1_000 < line["length_s"] < 1_300
    (drops,) = line["drops"]
    assert drops["sides_known"]
    assert drops["first_rpm"] == line["drop_left_rpm"]


def test_a_note_is_kept(client):
    fly(client, "f1")
    assert client.post("/api/flights/f1/note", json={"note": " Rough at 2,300 "}).json["note"] == "Rough at 2,300"
    assert client.get("/api/flights/f1").json["flight"]["note"] == "Rough at 2,300"
    assert client.post("/api/flights/none/note", json={"note": "x"}).status_code == 404


def test_a_deleted_flight_is_out_of_lists_and_trends_and_comes_back(client, demo):
    assert client.post("/api/flights/demo-a-trainer-5/hidden", json={"hidden": True}).json["hidden"]
    assert "demo-a-trainer-5" not in listed(client)
    assert listed(client, hidden=True) == ["demo-a-trainer-5"]
    shown = client.get("/api/aircraft/a-trainer/trends").json
    assert shown["use"]["real_flights"] == 4
    assert "demo-a-trainer-5" not in {point["flight"] for row in shown["figures"] for point in row["points"]}
    assert client.get("/api/flights/demo-a-trainer-5").status_code == 200, "its record can still be looked at"
    client.post("/api/flights/demo-a-trainer-5/hidden", json={"hidden": False})
    assert "demo-a-trainer-5" in listed(client)


def test_a_flight_that_goes_on_is_ended_before_it_is_deleted_and_can_be_taken_back(client):
    client.post("/api/flights", json={"id": "f1", **TRAINER, "source": "manual"})
    assert client.post("/api/flights/f1/hidden", json={"hidden": True}).status_code == 409
    end(client, "f1")
    assert client.post("/api/flights/f1/hidden", json={"hidden": True}).status_code == 200
    client.post("/api/flights/f1/hidden", json={"hidden": False})
    client.post("/api/flights/f1/undo", json={"id": "u1", "event": "f1-end"})
    assert not client.get("/api/live").json["frame"]["ended"]
    assert listed(client) == ["f1"]


def test_what_was_deleted_is_removed_for_good_and_nothing_else(client, demo):
    client.post("/api/flights/demo-a-trainer-1/hidden", json={"hidden": True})
    assert client.post("/api/flights/remove-hidden", json={"flights": 2}).status_code == 409, "not what was seen"
    assert client.post("/api/flights/remove-hidden", json={"flights": 1}).json == {"flights": 1}
    assert client.get("/api/flights/demo-a-trainer-1").status_code == 404
    assert len(listed(client)) == 4
    assert client.get("/api/flights/demo-a-trainer-2/trace.csv").status_code == 200


def test_the_flight_that_ended_last_is_removed_like_any_other_and_cannot_be_taken_up(client):
    fly(client, "f1")
    client.post("/api/flights/f1/hidden", json={"hidden": True})
    assert client.post("/api/flights/remove-hidden", json={"flights": 1}).json == {"flights": 1}
    assert client.get("/api/live").json["frame"] is None
    assert client.post("/api/flights/f1/undo", json={"id": "u1", "event": "f1-end"}).status_code == 404
    fly(client, "f2")
    assert listed(client) == ["f2"]


def test_a_record_says_the_gravest_first_and_in_which_phase_what_happened(client):
    client.post("/api/flights", json={"id": "f1", **TRAINER, "source": "manual"})
    url = "/api/flights/f1/events"
    good = {"check": "mag_check", "base_rpm": 1_800, "left_rpm": 1_740, "right_rpm": 1_730, "restored_rpm": 1_800}
    client.post(url, json={"id": "d", "kind": "item_done", "body": {"item": "brakes"}})
    client.post(url, json={"id": "p", "kind": "phase_entered", "body": {"phase": "run_up"}})
    client.post(url, json={"id": "a", "kind": "typed_reading", "body": good})
    client.post(url, json={"id": "b", "kind": "typed_reading", "body": {**good, "left_rpm": 1_500}})
    record = client.get("/api/flights/f1").json
    assert [f["verdict"] for f in record["findings"]] == ["stop", "within"]
    lines = {row["id"]: row for row in record["timeline"]}
    assert lines["d"]["phase"] == "Before start"
    assert lines["d"]["is_quiet"]
    assert lines["a"]["phase"] == lines["p"]["phase"] == "Run-up"
    assert not lines["a"]["is_quiet"]


def test_one_flight_and_all_go_out_as_a_file(client, demo):
    whole = zipfile.ZipFile(io.BytesIO(client.get("/api/flights.zip").data))
    names = whole.namelist()
    assert {f"demo-a-trainer-{n}/flight.json" for n in range(1, 6)} <= set(names)
    assert len([name for name in names if name.startswith("profiles/")]) == 1
    one = zipfile.ZipFile(io.BytesIO(client.get("/api/flights/demo-a-trainer-3/flight.zip").data))
    said = json.loads(one.read("demo-a-trainer-3/flight.json"))
    assert said["events"][0]["kind"] == "flight_started"
    assert one.read("demo-a-trainer-3/trace.csv") == client.get("/api/flights/demo-a-trainer-3/trace.csv").data
    assert client.get("/api/flights/none/flight.zip").status_code == 404


def test_every_fault_that_is_offered_can_be_given_and_is_told_after_the_end_only(client):
    offered = {name: [f.name for f in faults_of(profile)] for name, profile in shipped_profiles().items()}
    assert "stuck_governor" in offered["b-tourer"]
    assert "stuck_governor" not in offered["a-trainer"], "a fixed pitch has no governor"
    assert "stuck_freewheel" in offered["e-rotor"]
    for name, profile in shipped_profiles().items():
        bench = Bench(profile.bench)
        for fault in offered[name]:
            given = draw_fault(profile, fault, Random(3))
            bench.set_fault(given.name, given.size)
            assert "numbered" not in given.says
    begun = client.post("/api/flights", json={"id": "f1", **TRAINER, "fault": "dead_alternator"})
    assert begun.status_code == 201
    assert "half its current" not in begun.text
    during = client.get("/api/flights/f1").json
    assert during["practised"] is None
    assert not [row for row in during["timeline"] if row["kind"] == "fault_practised"]
    end(client, "f1")
    after = client.get("/api/flights/f1").json
    assert after["practised"] == "The alternator gives half its current."
    assert [row["text"] for row in after["timeline"] if row["kind"] == "fault_practised"]


def test_a_fault_needs_a_simulated_engine_that_can_have_it(client):
    begin = {"id": "f1", **TRAINER}
    assert client.post("/api/flights", json={**begin, "source": "manual", "fault": "surprise"}).status_code == 409
    assert client.post("/api/flights", json={**begin, "fault": "stuck_governor"}).status_code == 400
    assert client.get("/api/live").json["frame"] is None


def test_in_one_of_four_surprises_nothing_is_wrong():
    trainer = shipped_profiles()["a-trainer"]
    given = [draw_fault(trainer, "surprise", Random(seed)) for seed in range(400)]
    assert 0.18 < sum(not one.name for one in given) / len(given) < 0.32
    assert len({one.name for one in given}) > 20
