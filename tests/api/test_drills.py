"""Drills through the interface: the list, one flown by its levers, its debrief, its moment again, what comes back."""

import shutil
import time

import pytest

from jemmon.api import create_app
from jemmon.app import own_engines
from jemmon.app.settings import Settings
from jemmon.core.aircraft.questions import questions_of
from jemmon.core.drills.own_engine import fit_engine
from tests.api.test_starts import Seat
from tests.core.builders import PROFILES

PILOT = "Ana"


@pytest.fixture
def demo_client(tmp_path, demo_template, unheard_url):
    """A client of an application that knows the demo's flights."""
    path = shutil.copy(demo_template, tmp_path / "demo.db")
    made = create_app(Settings(database=path, weather_url=unheard_url))
    yield made.test_client()
    made.extensions["hangar"].close()


class DrillSeat(Seat):
    """A pilot's seat in a drill."""

    def __init__(self, client, drill: str, seed: int = 1, flight: str = "d1"):
        self.client, self.count, self.engine, self.flight = client, 0, 1, flight
        body = {"id": flight, "pilot": PILOT, "seed": seed}
        answer = client.post(f"/api/drills/{drill}/flights", json=body)
        assert answer.status_code == 201, answer.json

    def tell(self, what: str, word: str) -> None:
        self.post("drill_told", {"what": what, "word": word})

    def post(self, kind: str, body: dict) -> None:
        self.count += 1
        event = {"id": f"{self.flight}-{self.count}", "kind": kind, "body": body}
        answer = self.client.post(f"/api/flights/{self.flight}/events", json=event)
        assert answer.status_code in (200, 201), answer.json

    def debrief(self) -> dict:
        """End the drill and return what is said of it."""
        self.post("flight_ended", {})
        answer = self.client.get(f"/api/flights/{self.flight}/debrief")
        assert answer.status_code == 200, answer.json
        return answer.json


def needle(frame: dict, name: str) -> float:
    """Return what a needle shows, far above all where it shows nothing yet."""
    value = next(one["value"] for one in frame["instruments"] if one["id"] == name)
    return 1e9 if value is None else value


def fly_no_charge(client, *, flight: str = "d1", cause: str = "alternator", decision: str = "taxi_back") -> dict:
    seat = DrillSeat(client, "no-charge", flight=flight)
    client.post("/api/live/speed", json={"speed": 10})
    seat.until(lambda f: needle(f, "volts_v") < 26)
    seat.tell("say", cause)
    seat.tell("decide", decision)
    seat.set(throttle=0.1)
    client.post("/api/live/speed", json={"speed": 1})
    time.sleep(0.8)  # the lever's way, and the rows that show it
    return seat.debrief()


def test_a_drill_well_flown_says_so_and_is_kept_as_flown(client):
    before = client.get(f"/api/drills?pilot={PILOT}").json
    assert len(before["drills"]) >= 30
    assert all(line["repeat"] is None for line in before["drills"])
    found = fly_no_charge(client)
    assert (found["fact"], found["is_well_flown"]) == ("well_flown", True), found
    assert found["total"] == 100
    kinds = {line["kind"] for line in found["lines"]}
    assert {"true", "done"} <= kinds
    assert any("Throttle" in line["says"] for line in found["lines"] if line["kind"] == "done")
    assert any("alternator" in line["says"].lower() for line in found["lines"] if line["kind"] == "true")
    after = client.get(f"/api/drills?pilot={PILOT}").json
    flown = next(line for line in after["drills"] if line["id"] == "no-charge")
    assert (flown["repeat"]["last"], flown["repeat"]["times"], flown["repeat"]["is_due"]) == (100, 1, False)
    assert {one["skill"]: one["mean"] for one in after["progress"]}["cause"] == 100
    assert client.get("/api/drills?pilot=Ben").json["progress"] == [], "another pilot's are another's"


def test_what_was_missed_comes_back_and_the_first_sentence_says_what_was(client):
    found = fly_no_charge(client, cause="battery")
    assert found["fact"] == "wrong_cause"
    assert found["first"].startswith("Volts fall below")
    assert found["first"] in [line["says"] for line in found["lines"] if line["kind"] == "method"]
    flown = next(one for one in client.get(f"/api/drills?pilot={PILOT}").json["drills"] if one["id"] == "no-charge")
    assert flown["repeat"]["is_due"] is (flown["repeat"]["last"] < 60)


def test_nobody_is_told_what_is_wrong_before_the_end(client):
    seat = DrillSeat(client, "dead-magneto")
    frame = seat.until(lambda f: f["at_s"] > 1)
    assert frame["drill"]["title"] == "A magneto that misses"
    assert frame["phase"] == "run_up"
    assert (frame["notices"]["late"], frame["notices"]["unproven"]) == ([], []), (
        "what comes before it was not asked for"
    )
    assert {one["id"] for one in frame["drill"]["causes"]} >= {"magneto", "plug", "healthy"}
    assert frame["start"]["large"] is None, "it ran before the drill began"
    assert client.get("/api/flights/d1/debrief").status_code == 409
    told = [line["text"] for line in client.get("/api/flights/d1").json["timeline"]]
    assert not any("misses every second spark" in says for says in told)
    seat.post("flight_ended", {})
    told = [line["text"] for line in client.get("/api/flights/d1").json["timeline"]]
    assert any("misses every second spark" in says for says in told)


def test_a_moment_is_flown_again_as_a_flight_of_its_own(client):
    found = fly_no_charge(client, cause="battery", decision="go_on")
    assert found["again_s"] >= 0
    answer = client.post("/api/flights/d1/again", json={"id": "d2", "pilot": PILOT, "from_s": 8.0})
    assert answer.status_code == 201, answer.json
    assert answer.json["at_s"] >= 8.0
    seat = DrillSeat.__new__(DrillSeat)
    seat.client, seat.count, seat.engine, seat.flight = client, 0, 1, "d2"
    frame = seat.until(lambda f: f["at_s"] > 8.5 and needle(f, "rpm") < 1e9)
    assert 1500 < needle(frame, "rpm") < 2500, "as it was at that moment"
    seat.until(lambda f: needle(f, "volts_v") < 26)
    seat.tell("say", "alternator")
    seat.tell("decide", "taxi_back")
    again = seat.debrief()
    assert next(one["score"] for one in again["skills"] if one["id"] == "cause") == 100
    assert client.get("/api/flights/d1/debrief").json["fact"] == found["fact"], "the first flight is as it was"
    flown = next(one for one in client.get(f"/api/drills?pilot={PILOT}").json["drills"] if one["id"] == "no-charge")
    assert flown["repeat"]["times"] == 1


def test_a_drill_is_flown_on_an_aircraft_of_ones_own(client):
    assert client.get("/api/drills").json["others"] == []
    answers = {
        q.id: {"value": q.kind_has, "choice": "metric" if q.unit == "l" else "us"}
        for q in questions_of(PROFILES["a-trainer"])
    }
    body = {"name": "Mine", "registration": "ZZ-MIN", "answers": answers}
    assert client.post("/api/aircraft/a-trainer/own", json=body).status_code == 201
    others = client.get("/api/drills").json["others"]
    assert others == [{"id": "own-zz-min", "registration": "ZZ-MIN", "like": "a-trainer"}]
    asked = {"id": "d1", "pilot": PILOT, "seed": 1, "aircraft": "own-zz-min"}
    refused = client.post("/api/drills/overboost/flights", json=asked)
    assert (refused.status_code, "other controls or needles" in refused.json["message"]) == (400, True)
    nowhere = client.post("/api/drills/no-charge/flights", json={**asked, "aircraft": "own-zz-not"})
    assert nowhere.status_code == 404
    begun = client.post("/api/drills/no-charge/flights", json=asked)
    assert (begun.status_code, begun.json["registration"]) == (201, "ZZ-MIN")
    client.post("/api/flights/d1/events", json={"id": "e", "kind": "flight_ended", "body": {}})
    assert client.get("/api/flights/d1/debrief").json["aircraft"] == "own-zz-min"


def test_an_instructor_lets_time_stand(client):
    seat = DrillSeat(client, "no-charge")
    seat.until(lambda f: f["at_s"] > 1)
    assert client.post("/api/live/freeze", json={"frozen": True}).json == {"frozen": True}
    time.sleep(0.3)
    stands_s = seat.frame()["at_s"]
    time.sleep(0.5)
    assert seat.frame()["at_s"] == stands_s
    client.post("/api/live/freeze", json={"frozen": False})
    seat.until(lambda f: f["at_s"] > stands_s)


def test_what_is_no_drill_is_refused_in_words(client):
    assert client.post("/api/drills/nope/flights", json={"id": "d1", "pilot": PILOT}).status_code == 404
    seat = Seat(client, "a-trainer")
    refused = client.post(
        "/api/flights/s1/events", json={"id": "x", "kind": "drill_told", "body": {"what": "say", "word": "oil"}}
    )
    assert (refused.status_code, refused.json["message"]) == (422, "No drill is flown.")
    client.post("/api/flights/s1/events", json={"id": "e", "kind": "flight_ended", "body": {}})
    assert client.get("/api/flights/s1/debrief").status_code == 409
    assert seat.frame()["drill"] is None


def test_the_simulated_engine_is_fitted_to_the_flights_of_the_demo_and_kept_as_a_version(demo_client, monkeypatch):
    path = "/api/aircraft/a-trainer/own-engine"
    made = []
    monkeypatch.setattr(own_engines, "fit_engine", lambda *given: made.append(given) or fit_engine(*given))
    page = demo_client.get(path).json
    assert page["flights"] > 0
    assert page["fit"]["figures"]
    assert all(abs(row["left"]) <= abs(row["before"] - row["shown"]) + 3 for row in page["fit"]["figures"])
    before = len(demo_client.get("/api/aircraft/a-trainer/versions").json["versions"])
    kept = demo_client.post(path, json={"who": "Ana"})
    assert kept.status_code == 200
    assert all(row["before"] == row["after"] for row in kept.json["fit"]["figures"]), (
        "what was fitted is what there is now"
    )
    assert demo_client.get(path).json == kept.json
    assert len(made) == 1, "what was shown is what is kept: it is not fitted again"
    versions = demo_client.get("/api/aircraft/a-trainer/versions").json["versions"]
    assert len(versions) > before
    (counts,) = [one for one in versions if one["counts"]]
    assert (counts["note"], counts["who"]) == ("Simulated engine fitted to its flights", "Ana")


def test_an_aircraft_without_flights_has_nothing_to_be_fitted_to(client):
    page = client.get("/api/aircraft/b-tourer/own-engine").json
    assert (page["flights"], page["fit"]["figures"], page["fit"]["constants"]) == (0, [], {})
    assert client.post("/api/aircraft/b-tourer/own-engine", json={"who": "Ana"}).status_code == 409


def until(condition, seconds: float = 20.0):
    """Ask again until it is so."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if found := condition():
            return found
        time.sleep(0.05)
    raise AssertionError("it never was so")


def test_a_fault_that_waits_comes_by_itself_and_the_debrief_tells_of_it(client):
    seat = DrillSeat(client, "lean-at-peak")
    now_s = client.get("/api/live").json["frame"]["at_s"]
    for fault in ({"from_s": now_s + 0.5}, {"from_ft": 50_000.0}):
        assert (
            client.post("/api/live/fault", json={"name": "dead_plug_left_2", "size": 1.0, **fault}).status_code == 200
        )
    assert len(client.get("/api/live/faults").json["waiting"]) == 2
    left = until(lambda: len(rows := client.get("/api/live/faults").json["waiting"]) == 1 and rows)
    assert left[0]["from_ft"] == 50_000.0, "what waits for its height still waits"
    assert client.delete("/api/live/faults/0").json == {"waiting": []}
    assert client.delete("/api/live/faults/0").json == {"waiting": []}
    notes = [line for line in seat.debrief()["lines"] if line["kind"] == "note"]
    assert [line["says"][:11] for line in notes] == ["Instructor:"]
    assert notes[0]["at_s"] == pytest.approx(now_s + 0.5, abs=1.0)


def test_a_fault_that_there_is_not_does_not_wait(client):
    DrillSeat(client, "lean-at-peak")
    answer = client.post("/api/live/fault", json={"name": "no_such", "size": 1.0, "from_s": 5.0})
    assert answer.status_code == 400
    assert client.get("/api/live/faults").json == {"waiting": []}
