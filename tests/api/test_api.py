"""The application's interface: events kept once, guards against strangers, bad files refused, nothing half-written."""

import sqlite3
import time
from dataclasses import replace

import pytest

from jemmon.core.base.figures import plain
from jemmon.library.shipped import shipped_profiles
from jemmon.store import flights
from jemmon.store.database import MIGRATIONS, Database, connect, migrate, transaction

BEGIN = {"id": "f1", "aircraft": "a-trainer", "registration": "ZZ-WRN", "pilot": "Ana Quill", "source": "manual"}


@pytest.fixture
def flight(client):
    assert client.post("/api/flights", json=BEGIN).status_code == 201
    return "f1"


def post(client, event_id, kind="item_done", body=None):
    sent = {"id": event_id, "kind": kind, "body": {"item": "brakes"} if body is None else body}
    return client.post("/api/flights/f1/events", json=sent)


def test_a_repeated_event_changes_nothing_and_another_body_is_a_conflict(client, flight):
    first, again = post(client, "e1"), post(client, "e1")
    assert (first.status_code, again.status_code) == (201, 200)
    assert first.json["seq"] == again.json["seq"]
    other = post(client, "e1", body={"item": "seats"})
    assert other.status_code == 409
    assert other.json["code"] == "conflict"


def test_undo_is_an_event_and_brings_the_item_back(client, flight):
    post(client, "e1")
    answer = client.post("/api/flights/f1/undo", json={"id": "u1"})
    lines = [row for one in answer.json["frame"]["lists"] for row in one["items"]]
    assert next(row["state"] for row in lines if row["id"] == "brakes") != "done"
    kinds = [row["kind"] for row in client.get("/api/flights/f1").json["timeline"]]
    assert kinds.count("undo") == 1


@pytest.mark.parametrize(
    ("headers", "status"),
    [
        ({"Origin": "http://evil.invalid"}, 403),
        ({"Sec-Fetch-Site": "cross-site"}, 403),
        ({"Sec-Fetch-Site": "same-site"}, 403),
        ({"Host": "evil.invalid"}, 400),
        ({"Content-Type": "text/plain"}, 415),
        ({"Content-Type": "application/x-www-form-urlencoded"}, 415),
    ],
)
def test_what_comes_from_another_page_is_refused(client, headers, status):
    sent = {"Content-Type": "application/json", **headers}
    answer = client.post("/api/flights", data='{"id": "x"}', headers=sent)
    assert answer.status_code == status
    assert set(answer.json) == {"code", "message", "where"}
    assert client.get("/api/flights").json["flights"] == []


def test_every_answer_carries_the_content_policy(client):
    for path in ("/api/units", "/api/nothing", "/"):
        policy = client.get(path).headers["Content-Security-Policy"]
        assert "default-src 'none'" in policy
        assert "unsafe" not in policy


@pytest.mark.parametrize(
    ("path", "body", "status"),
    [
        ("/api/flights", {**BEGIN, "aircraft": "z-none"}, 404),
        ("/api/flights", {**BEGIN, "registration": "ZZ-ABC"}, 409),
        ("/api/flights", {**BEGIN, "speed": 7}, 409),
        ("/api/flights", {**BEGIN, "surprise": 1}, 422),
        ("/api/flights/f9/events", {"id": "e", "kind": "resumed"}, 404),
        ("/api/live/levers", {"levers": {"throttle": 0.5}}, 404),
    ],
)
def test_bad_requests_say_what_is_wrong(client, path, body, status):
    answer = client.post(path, json=body)
    assert answer.status_code == status
    assert answer.json["message"]


def test_malformed_json_is_refused(client):
    answer = client.post("/api/flights", data="{", headers={"Content-Type": "application/json"})
    assert answer.status_code == 400
    assert answer.json["code"] == "bad_request"


def upload(client, data: bytes):
    return client.post("/api/import?aircraft=a-trainer&name=x.csv", data=data, headers={"Content-Type": "text/csv"})


@pytest.mark.parametrize(
    ("data", "status", "words"),
    [
        (b"", 422, "empty"),
        (b"time,rpm\n0,1\n", 422, "time_s"),
        (b"time_s,rpm\n0,1\n1,x\n", 422, "line 3, column rpm"),
        (b"time_s,rpm\n1,1\n0,1\n", 422, "line 3"),
        (b"time_s,rpm\n" + b"0" * 300_000, 413, "not read"),
    ],
)
def test_a_bad_file_is_refused_and_leaves_no_record(client, data, status, words):
    answer = upload(client, data)
    assert answer.status_code == status
    assert words in answer.json["message"]
    assert client.get("/api/flights").json["flights"] == []


def test_a_trace_goes_out_as_it_came(client):
    text = b"time_s,rpm,note\r\n0,1000.10,a\r\n1,1001.00,b\r\n"
    flight_id = upload(client, text).json["id"]
    assert client.get(f"/api/flights/{flight_id}/trace.csv").data == text


def test_two_hot_cylinders_of_a_file_are_two_findings_of_its_record(client):
    """They begin in the same second; neither may hide the other."""
    rows = "".join(f"{t},2300,600,610,300\n" for t in range(200))
    answer = upload(client, f"time_s,rpm,cht1_f,cht2_f,cht3_f\n{rows}".encode())
    record = client.get(f"/api/flights/{answer.json['id']}").json
    hot = [f["measured"]["cylinder"] for f in record["findings"] if f["kind"] == "exceedance"]
    assert sorted(hot) == [1, 2]


def test_methods_are_told_with_the_limits_of_the_aircraft(client):
    (magnetos,) = [m for m in client.get("/api/aircraft/a-trainer/methods").json["methods"] if m["kind"] == "mag_check"]
    drop = next(limit for limit in magnetos["limits"] if limit["name"] == "mag_drop_max_rpm")
    own = {x["name"]: x for x in client.get("/api/aircraft/a-trainer").json["limits"]}["mag_drop_max_rpm"]
    assert (drop["value"], drop["unit"], drop["source"]) == (own["value"], "rpm", own["source"])
    assert {m["kind"] for m in client.get("/api/methods").json["methods"]} >= {"mag_check", "lean", "trend"}
    assert client.get("/api/aircraft/z-none/methods").status_code == 404


def test_the_bench_moves_by_levers_and_an_unknown_lever_is_refused(client):
    client.post("/api/flights", json={**BEGIN, "source": "bench", "speed": 10})
    assert client.post("/api/live/levers", json={"levers": {"throttle": 0.5}}).status_code == 200
    refused = client.post("/api/live/levers", json={"levers": {"warp": 9}})
    assert refused.status_code == 400
    assert "no lever" in refused.json["message"]


def test_one_prime_id_is_one_stroke(client):
    client.post("/api/flights", json={**BEGIN, "source": "bench"})
    for _ in range(3):
        strokes = client.post("/api/live/prime", json={"id": "p1"}).json["strokes"]
    assert strokes == 1


def test_a_commit_is_on_the_disk_and_the_journal_is_wal(tmp_path):
    db = Database(tmp_path / "x.db")
    with db.writing() as writer:
        assert writer.execute("PRAGMA synchronous").fetchone()[0] == 2  # FULL
        assert writer.execute("PRAGMA journal_mode").fetchone()[0] == "wal"
        assert writer.execute("PRAGMA foreign_keys").fetchone()[0] == 1
    db.close()


def test_a_migration_that_fails_leaves_nothing_of_itself(tmp_path):
    folder = tmp_path / "m"
    folder.mkdir()
    (folder / "001_good.sql").write_text("CREATE TABLE a (x INTEGER) STRICT;")
    path = tmp_path / "x.db"
    db = connect(path)
    assert migrate(db, path, folder) == 1
    (folder / "002_bad.sql").write_text("CREATE TABLE b (x INTEGER) STRICT;\nINSERT INTO nowhere VALUES (1);")
    with pytest.raises(sqlite3.OperationalError):
        migrate(db, path, folder)
    tables = [row["name"] for row in db.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
    assert "b" not in tables
    assert path.with_suffix(".before-002.db").exists()
    assert MIGRATIONS.is_dir()


def test_a_failed_transaction_keeps_nothing(database):
    def fail():
        with database.writing() as db:
            db.execute("INSERT INTO profiles VALUES ('h', 'p', '{}')")
            raise RuntimeError("stop")

    with pytest.raises(RuntimeError, match="stop"):
        fail()
    with database.reading() as db, transaction(db):
        assert db.execute("SELECT count(*) FROM profiles").fetchone()[0] == 0


def test_a_held_starter_is_let_go_when_it_is_not_renewed(client, app):
    client.post("/api/flights", json={**BEGIN, "source": "bench"})
    client.post("/api/live/levers", json={"levers": {"master": True, "starter": True}})
    end = time.monotonic() + 60
    held = []
    while time.monotonic() < end and (1.0 not in held or held[-1] != 0.0):
        if 1.0 not in held:  # a busy machine may look only after it was let go: then it is held once more
            client.post("/api/live/levers", json={"levers": {"starter": True}})
        held.append(client.get("/api/live").json["frame"]["levers"].get("starter"))
        time.sleep(0.05)
    assert 1.0 in held
    assert held[-1] == 0.0


def fly_typed(client, aircraft: str, count: int, reading) -> dict[str, dict]:
    """Return the trend figures of an aircraft after flights of one typed magneto check each."""
    registration = client.get(f"/api/aircraft/{aircraft}").json["aircraft"]["registration"]
    for number in range(count):
        begun = {
            "id": f"t{number}",
            "aircraft": aircraft,
            "registration": registration,
            "pilot": "Ana",
            "source": "manual",
        }
        assert client.post("/api/flights", json=begun).status_code in (200, 201)
        body = {"check": "mag_check", **reading(number)}
        typed = {"id": "m", "kind": "typed_reading", "body": body}
        assert client.post(f"/api/flights/t{number}/events", json=typed).status_code in (200, 201)
        client.post(f"/api/flights/t{number}/events", json={"id": "e", "kind": "flight_ended", "body": {}})
    told = client.get(f"/api/aircraft/{aircraft}/trends").json
    assert told["health"] == [], "no series of leanings yet"
    return {f["id"]: f for f in told["figures"]}


def test_trends_follow_the_findings_of_an_aircrafts_flights(client):
    base = {"base_rpm": 1800, "right_rpm": 1740, "restored_rpm": 1800}
    figures = fly_typed(client, "a-trainer", 8, lambda number: {**base, "left_rpm": 1740 - 12 * number})
    left = figures["drop_left"]
    assert [round(point["value"]) for point in left["points"]] == [60, 72, 84, 96, 108, 120, 132, 144]
    assert left["limit"] == 150
    assert left["trend"]["slope_per_flight"] == 12
    assert "Left magneto drop grows by 12.0 RPM a flight" in plain(left["trend"]["message"])
    assert figures["drop_right"]["trend"]["message"] is None


def test_each_engine_of_a_twin_has_trends_of_its_own(client):
    base = {"base_rpm": 1700, "right_rpm": 1640, "restored_rpm": 1700, "engine": 2}
    figures = fly_typed(client, "d-twin", 6, lambda number: {**base, "left_rpm": 1640 - 12 * number})
    assert "drop_left" not in figures, "the left engine was never checked"
    assert len(figures["e2_drop_left"]["points"]) == 6
    assert figures["e2_drop_left"]["title"] == "Right engine: Left magneto drop"


def test_a_plan_is_asked_for_in_the_address_and_nonsense_is_refused(client):
    made = client.get("/api/aircraft/b-tourer/plan?pct=65&palt_ft=6000&fuel_gal=60&wind_kt=-10").json["plan"]
    assert made["rows"]
    assert made["rows"][0]["endurance_h"] > 2
    assert [line["rpm"] for line in made["available"]["lines"]][-1] == shipped_profiles()["b-tourer"].engine[
        "rated_rpm"
    ]
    for query in ("pct=lots", "palt_ft=1e400", "pct=5", "target=none", "oat_c=;drop"):
        assert client.get(f"/api/aircraft/b-tourer/plan?{query}").status_code in (400, 409, 422), query
    assert client.get("/api/aircraft/nobody/plan").status_code == 404


def test_fuel_is_told_by_events_like_any_other(client):
    asked = {**BEGIN, "aircraft": "b-tourer", "registration": "ZZ-HRN", "source": "manual"}
    begun = client.post("/api/flights", json=asked)
    events = f"/api/flights/{BEGIN['id']}/events"
    assert begun.status_code in (200, 201), begun.json
    for kind, body in (("fuel_on_board", {"tank": "Left", "gal": 30}), ("tank_selected", {"tank": "Left"})):
        sent = client.post(events, json={"id": f"x-{kind}", "kind": kind, "body": body})
        assert sent.status_code in (200, 201), sent.json
    fuel = client.get("/api/live").json["frame"]["fuel"]
    assert fuel["tanks"][0] == {"tank": "Left", "feeds": True, "remaining_gal": 30.0, "used_gal": 0.0}
    bad = client.post(events, json={"id": "x-bad", "kind": "tank_selected", "body": {"tank": "Third"}})
    assert bad.status_code in (400, 409, 422)


def test_an_aircraft_of_many_flights_is_looked_back_on_so_far_and_the_page_says_so(client, app):
    base = {"base_rpm": 1800, "left_rpm": 1740, "right_rpm": 1740, "restored_rpm": 1800}
    fly_typed(client, "a-trainer", 1, lambda number: base)
    assert client.get("/api/aircraft/a-trainer/trends").json["looks_back"] is None
    with app.extensions["hangar"].database.writing() as db:
        kept = flights.flight_by_id(db, "t0")
        for number in range(flights.NEWEST):
            older = replace(
                kept, id=f"old{number}", started_utc=f"2024-01-01T00:{number % 60:02}:{number // 60:02}+00:00"
            )
            flights.add_flight(db, older)
            for event in flights.events_of(db, "t0"):
                flights.add_event(db, older.id, event)
    told = client.get("/api/aircraft/a-trainer/trends").json
    points = next(f for f in told["figures"] if f["id"] == "drop_left")["points"]
    assert (len(points), points[-1]["flight"]) == (flights.NEWEST, "t0"), "the newest are shown, oldest first"
    assert told["looks_back"] == f"The newest {flights.NEWEST} of {flights.NEWEST + 1} flights."
    assert client.get("/api/aircraft/a-trainer/starts").json["looks_back"] == told["looks_back"]
