"""What comes from outside is refused in words or taken whole: strange JSON, long paths, profiles, files, weather, databases."""

import json
import socket
import sqlite3
import threading
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from jemmon.api import create_app
from jemmon.app.settings import Settings
from jemmon.core.base.errors import OutOfRange
from jemmon.core.base.weather import station_and_age
from jemmon.demo.weather_service import simulated_metar
from jemmon.feeds.weather import WeatherUnavailable, fetch_report
from jemmon.store.database import Database, DatabaseUnusable
from jemmon.store.lock import DatabaseInUse, DatabaseLock
from tests.conftest import run_jemmon
from tests.core.builders import PROFILES

JSON = {"Content-Type": "application/json"}
BEGIN = {"id": "f1", "aircraft": "a-trainer", "registration": "ZZ-WRN", "pilot": "Ana", "source": "manual"}
STRANGE = [
    r'{"id":"x","kind":"remark","body":{"text":"\ud800"}}',
    '{"id":"x\\n","kind":"remark","body":{"text":"x"}}',
    '{"id":"x","kind":"counted","body":{"item":"day","by":' + "9" * 400 + "}}",
    '{"id":"x","kind":"weather","body":{"oat_c":NaN}}',
    '{"id":"x","kind":"weather","body":{"oat_c":1e999}}',
    "[" * 100_000 + "]" * 100_000,
    b"\xff\xfe",
]


@pytest.mark.parametrize("text", STRANGE, ids=lambda text: str(text)[:24])
@pytest.mark.parametrize("path", ["flights/f1/events", "flights", "live/levers", "live/prime", "device", "aircraft"])
def test_strange_json_is_refused_and_changes_nothing(client, path, text):
    client.post("/api/flights", json=BEGIN)
    answer = client.post(f"/api/{path}", data=text, headers=JSON)
    assert 400 <= answer.status_code < 500, answer.data[:200]
    assert answer.json["message"]
    assert len(client.get("/api/flights/f1").json["timeline"]) <= 1


@pytest.mark.parametrize(
    "path", ["/" + "c" * 300, "/api/flights/" + "a" * 300, "/..%2f", "/..%2f..%2fetc/passwd", "/%00", "/a/../b"]
)
def test_strange_paths_are_not_found_and_say_nothing_of_files(client, path):
    answer = client.get(path)
    assert answer.status_code in (200, 404)
    assert "/work" not in answer.text
    assert answer.status_code == 404 or "<title>Jemmon" in answer.text
    if ".." in path or "%00" in path:
        assert answer.status_code == 404


def test_every_answer_keeps_other_sites_away(client):
    for path in ("/", "/api/live", "/api/nothing"):
        headers = client.get(path).headers
        assert headers["Cross-Origin-Resource-Policy"] == "same-origin"
        assert headers["Cross-Origin-Opener-Policy"] == "same-origin"
        assert headers["X-Content-Type-Options"] == "nosniff"


@pytest.mark.parametrize(
    ("name", "value"), [("id", "x\n"), ("name", "\ud800"), ("registration", "ZZ-\n"), ("about", "a\x00b")]
)
def test_a_text_that_is_none_is_refused_with_its_place(client, name, value):
    text = json.dumps({**PROFILES["a-trainer"].body, name: value})
    answer = client.post("/api/aircraft", data=text, headers=JSON)
    assert (answer.status_code, answer.json["where"]) == (400, name)


def test_over_an_aircraft_that_ships_a_profile_asks_first(client):
    changed = {**PROFILES["a-trainer"].body, "name": "Another"}
    asked = client.post("/api/aircraft", json=changed)
    assert (asked.status_code, asked.json["code"]) == (409, "takes_place")
    assert client.get("/api/aircraft/a-trainer").json["aircraft"]["name"] != "Another"
    assert client.post("/api/aircraft?replace=true", json=changed).status_code == 201
    assert client.get("/api/aircraft/a-trainer").json["aircraft"]["name"] == "Another"


def test_what_is_refused_is_not_kept(client):
    client.post("/api/flights", json={**BEGIN, "source": "bench"})
    answer = client.post("/api/live/prime", json={"id": "p1", "strokes": 2, "action": "e2_prime_strokes"})
    assert 400 <= answer.status_code < 500
    endless = {**PROFILES["a-trainer"].body, "id": "k-endless"}
    endless["bench"] = {**endless["bench"], "prime_stroke_g": 1e400}
    assert client.post("/api/aircraft", data=json.dumps(endless), headers=JSON).status_code == 400
    time.sleep(0.4)
    assert [row["kind"] for row in client.get("/api/flights/f1").json["timeline"]] == ["flight_started"]


# ---- files ------------------------------------------------------------------------------------------------------------


def read_in(client, text: str):
    return client.post(
        "/api/import?aircraft=a-trainer&name=x.csv", data=text.encode(), headers={"Content-Type": "text/csv"}
    )


def test_a_file_with_gaps_and_false_figures_is_read_and_says_so(client):
    rows = [f"{t},{1800},{9999 if t == 5 else 180}" for t in (*range(120), *range(4000, 4120))]
    answer = read_in(client, "\n".join(["time_s,rpm,oil_t_f", *rows]) + "\n")
    assert answer.status_code == 201
    assert len(answer.json["notes"]) == 2
    told = [row["text"] for row in client.get(f"/api/flights/{answer.json['id']}").json["timeline"]]
    assert [note for note in answer.json["notes"] if note in told] == answer.json["notes"]


def test_a_large_file_is_judged_by_a_process_of_its_own_with_the_same_answer(tmp_path):
    app = create_app(Settings(database=tmp_path / "large.db"))
    client = app.test_client()
    rows = "\n".join(f"{t / 2},1800,{320 if t > 30_000 else 180},60" for t in range(40_000))
    answer = read_in(client, f"time_s,rpm,oil_t_f,oil_p_psi\n{rows}\n")
    assert answer.status_code == 201, answer.json
    assert answer.json["rows"] == 40_000
    kinds = [f["kind"] for f in client.get(f"/api/flights/{answer.json['id']}").json["findings"]]
    assert "exceedance" in kinds
    bad = read_in(client, f"time_s,rpm,oil_t_f,oil_p_psi\n{rows}\nlast,1,2,3\n")
    assert (bad.status_code, bad.json["where"]) == (422, "line 40002, column time_s")
    app.extensions["hangar"].close()


# ---- weather ----------------------------------------------------------------------------------------------------------

NOON = datetime(2026, 5, 10, 12, 0, tzinfo=UTC)


class Service:
    """A weather service that answers with these bytes, `each_s` [s] a byte."""

    def __init__(self, answer: bytes, each_s: float = 0.0):
        self.server = socket.create_server(("127.0.0.1", 0))
        self.url = f"http://127.0.0.1:{self.server.getsockname()[1]}"
        self.answer, self.each_s, self.asked = answer, each_s, 0
        threading.Thread(target=self._serve, daemon=True).start()

    def _serve(self) -> None:
        while True:
            try:
                line, _ = self.server.accept()
                self.asked += 1
                line.recv(4000)
                if not self.each_s:
                    line.sendall(self.answer)
                else:
                    for byte in self.answer:
                        line.sendall(bytes([byte]))
                        time.sleep(self.each_s)
                line.close()
            except OSError:
                continue


def http(text: str, status: str = "200 OK", more: str = "") -> bytes:
    return f"HTTP/1.1 {status}\r\nContent-Length: {len(text)}\r\nConnection: close\r\n{more}\r\n{text}".encode()


def report(station: str = "ZZLK", at: datetime = NOON) -> str:
    return f"{station} {at:%d%H%M}Z 27008KT 9999 SCT035 12/08 Q1013"


@pytest.mark.parametrize(
    ("answer", "says"),
    [
        (http(report("ZZBR")), "of ZZBR, not of ZZLK"),
        (http(report(at=NOON - timedelta(minutes=125))), "2 h old"),
        (http(report(at=NOON - timedelta(days=3))), "72 h old"),
        (http("", "500 Internal Server Error"), "knows nothing|answered 500"),
        (http("no", "302 Found", "Location: http://127.0.0.1:1/\r\n"), "answered 302"),
        (b"HTTP/1.1 nonsense\r\n\r\n", "does not answer"),
        (b"\x00\xff" * 50, "does not answer"),
        (b"", "does not answer"),
    ],
)
def test_a_service_that_answers_wrongly_is_said_in_words(answer, says):
    with pytest.raises(WeatherUnavailable, match=says):
        fetch_report(Service(answer).url, "ZZLK", now=NOON)


@pytest.mark.parametrize("minutes", [-20, 0, 119])
def test_a_fresh_report_of_the_station_is_taken(minutes):
    taken = fetch_report(Service(http(report(at=NOON - timedelta(minutes=minutes)))).url, "ZZLK", now=NOON)
    assert taken.oat_c == 12


def test_a_service_that_drips_is_cut_off():
    began = time.monotonic()
    with pytest.raises(WeatherUnavailable):
        fetch_report(Service(http(report()), each_s=0.2).url, "ZZLK", timeout_s=1.0, now=NOON)
    assert time.monotonic() - began < 3


def test_a_report_without_a_time_is_nonsense():
    with pytest.raises(OutOfRange, match="when it was made"):
        fetch_report(Service(http("ZZLK 27008KT 9999 12/08 Q1013")).url, "ZZLK", now=NOON)


def test_the_age_of_a_report_is_reckoned_over_the_end_of_a_month():
    assert station_and_age("ZZLK 302350Z 27008KT", datetime(2026, 5, 1, 0, 20, tzinfo=UTC)) == ("ZZLK", 30)
    for hour in range(24):
        now = NOON.replace(hour=hour, minute=37 if hour % 2 else 55)
        _, age_min = station_and_age(simulated_metar("ZZLK", now), now)
        assert 0 <= age_min < 60


# ---- databases --------------------------------------------------------------------------------------------------------


def test_one_server_on_one_database(tmp_path):
    first = create_app(Settings(database=tmp_path / "x.db"))
    first.extensions["hangar"].lock.say("process 7, http://127.0.0.1:8401")
    with pytest.raises(DatabaseInUse, match="http://127.0.0.1:8401"):
        create_app(Settings(database=tmp_path / "x.db"))
    first.extensions["hangar"].close()
    second = create_app(Settings(database=tmp_path / "x.db"))
    second.extensions["hangar"].close()


def damaged(path: Path, how: str) -> None:
    Database(path).close()
    whole = path.read_bytes()
    if how == "newer":
        db = sqlite3.connect(path)
        db.execute("INSERT INTO migrations (number, name) VALUES (900, '900_later.sql')")
        db.commit()
        db.close()
    elif how == "empty":
        path.write_bytes(b"")
    elif how == "another file":
        path.write_bytes(b"# notes\n" * 2000)
    elif how == "truncated":
        path.write_bytes(whole[:5000])
    elif how == "corrupt":
        path.write_bytes(whole[:100] + bytes(len(whole) - 100))


@pytest.mark.parametrize(
    ("how", "says"),
    [
        ("newer", "newer Jemmon"),
        ("empty", "is empty"),
        ("another file", "damaged"),
        ("truncated", "damaged"),
        ("corrupt", "damaged"),
    ],
)
def test_a_database_that_cannot_be_used_is_one_sentence_and_exit_2(tmp_path, how, says):
    path = tmp_path / "x.db"
    damaged(path, how)
    with pytest.raises(DatabaseUnusable, match=says):
        Database(path)
    ran = run_jemmon(tmp_path, "serve", "--port", "0", "--database", str(path))
    assert ran.returncode == 2
    assert says in ran.stderr
    assert "Traceback" not in ran.stderr
    assert len(ran.stderr.strip().splitlines()) == 1


def test_pages_that_went_bad_inside_are_found_by_the_check_and_told(tmp_path):
    path = tmp_path / "x.db"
    app = create_app(Settings(database=path))
    client = app.test_client()
    client.post("/api/flights", json=BEGIN)
    for number in range(60):
        body = {"id": f"r{number}", "kind": "remark", "body": {"text": "x" * 1500}}
        client.post("/api/flights/f1/events", json=body)
    client.post("/api/flights/f1/events", json={"id": "end", "kind": "flight_ended", "body": {}})
    app.extensions["hangar"].close()
    with path.open("r+b") as file:
        file.seek(path.stat().st_size - 40_000)
        file.write(b"\xff" * 20_000)
    again = create_app(Settings(database=path))
    end = time.monotonic() + 10
    while again.extensions["hangar"].damage is None and time.monotonic() < end:
        time.sleep(0.05)
    assert again.test_client().get("/api/aircraft").json["damage"]
    again.extensions["hangar"].close()


def test_a_profile_that_todays_rules_refuse_hides_nothing(tmp_path, template):
    path = tmp_path / "x.db"
    path.write_bytes(template.read_bytes())
    old = {**PROFILES["a-trainer"].body, "id": "k-old", "registration": "ZZ-OLD", "phases": []}
    db = sqlite3.connect(path)
    db.execute("INSERT INTO profiles (content_hash, profile_id, body) VALUES ('h', 'k-old', ?)", (json.dumps(old),))
    db.execute("INSERT INTO aircraft (profile_id, content_hash, imported_utc) VALUES ('k-old', 'h', '2026-01-01')")
    row = ("f9", "h", "ZZ-OLD", "Ana", "t", "manual", "2026-01-01T10:00:00+00:00")
    db.execute(
        "INSERT INTO flights (id, profile_hash, registration, pilot, title, source, started_utc) VALUES (?,?,?,?,?,?,?)",
        row,
    )
    event = "INSERT INTO events (flight_id, id, kind, version, at_s, wall_utc, body) VALUES ('f9', 'e1', 'item_done', 1, 5, '', ?)"
    db.execute(event, (json.dumps({"item": "brakes"}),))
    db.commit()
    db.close()
    app = create_app(Settings(database=path))
    client = app.test_client()
    listed = client.get("/api/aircraft").json
    assert "k-old" not in [one["id"] for one in listed["aircraft"]]
    (refused,) = listed["not_read"]
    assert refused["registration"] == "ZZ-OLD"
    assert "does not read its profile" in refused["about"]
    record = client.get("/api/flights/f9").json
    assert [row["kind"] for row in record["timeline"]] == ["item_done"]
    assert client.get("/api/flights").json["flights"][0]["id"] == "f9"
    app.extensions["hangar"].close()


def test_a_lock_is_let_go_with_its_process(tmp_path):
    held = DatabaseLock(tmp_path / "x.db")
    with pytest.raises(DatabaseInUse):
        DatabaseLock(tmp_path / "x.db")
    held.release()
    DatabaseLock(tmp_path / "x.db").release()


def test_a_place_that_cannot_be_written_is_one_sentence_and_exit_2(tmp_path):
    (tmp_path / "notes").write_text("a file where a folder should be")
    path = tmp_path / "notes" / "x.db"
    ran = run_jemmon(tmp_path, "serve", "--port", "0", "--database", str(path))
    assert ran.returncode == 2
    assert "may not be written" in ran.stderr
    assert len(ran.stderr.strip().splitlines()) == 1
