"""What version 0.1.0 kept on users' disks (tests/data): it opens, shows, judges and flies on, and stays as it was."""

import gzip
import json
import shutil
import sqlite3
from pathlib import Path

import pytest

from jemmon.api import create_app
from jemmon.app.doors import profile_from_text
from jemmon.app.settings import Settings
from jemmon.core.judgement.judge import judge
from jemmon.core.judgement.registry import checks
from jemmon.core.trace import read_trace_csv

DATA = Path(__file__).parents[1] / "data"


@pytest.fixture
def kept(tmp_path):
    path = tmp_path / "jemmon.db"
    with gzip.open(DATA / "jemmon-0.1.0.db.gz") as packed, path.open("wb") as out:
        shutil.copyfileobj(packed, out)
    return path


@pytest.fixture
def old(kept):
    app = create_app(Settings(database=kept, most_upload_bytes=2_000_000, speeds=(1, 60)))
    yield app.test_client()
    app.extensions["hangar"].close()


def test_every_flight_opens_with_what_it_said(old):
    flights = old.get("/api/flights").json["flights"]
    assert {one["id"] for one in flights} == {"demo-1", "file-70d7c452570f", "kept-bench", "kept-hand"}
    for one in flights:
        record = old.get(f"/api/flights/{one['id']}").json
        assert record["timeline"]
        assert all(finding["title"] and finding["because"] for finding in record["findings"])
    before = json.loads((DATA / "flight-record.json").read_text())
    now = old.get("/api/flights/kept-hand").json
    again = {finding["event"]: finding for finding in now["findings"]}
    for finding in before["findings"]:
        own = again[finding["event"]]
        assert own["verdict"] == finding["verdict"]
        assert {name: own["measured"].get(name) for name in finding["measured"]} == finding["measured"]
    assert [line["id"] for line in now["timeline"] if line["kind"] == "from_a_later_version"], (
        "an unknown kind is shown"
    )


def test_the_trace_is_the_one_that_was_exported_and_its_checks_are_found_again(old):
    text = old.get("/api/flights/demo-1/trace.csv").data
    exported = (DATA / "flight-trace-export.csv").read_bytes()
    assert read_trace_csv(text).summary() == read_trace_csv(exported).summary()
    profile = profile_from_text(old.get("/api/aircraft/a-trainer/profile.json").data)
    told = {finding["kind"] for finding in old.get("/api/flights/demo-1").json["findings"]}
    assert told <= {finding.kind for finding in judge(read_trace_csv(text), profile)}


def test_starts_trends_plans_and_methods_of_its_aircraft_are_shown(old):
    for one in old.get("/api/aircraft").json["aircraft"]:
        for page in ("", "/starts", "/trends", "/methods", "/plan", "/profile.json"):
            answer = old.get(f"/api/aircraft/{one['id']}{page}")
            assert answer.status_code in (200, 422), (one["id"], page, answer.json)
    assert old.get("/api/aircraft/a-trainer/starts").json["rows"]


def test_the_flight_whose_end_was_taken_back_goes_on(old):
    frame = old.get("/api/live").json["frame"]
    assert (frame["flight"], frame["ended"]) == ("kept-hand", False)
    body = {"id": "after-the-update", "kind": "remark", "body": {"text": "still here"}}
    assert old.post("/api/flights/kept-hand/events", json=body).status_code == 201
    timeline = old.get("/api/flights/kept-hand").json["timeline"]
    assert timeline[-1]["text"] == "still here"


def test_what_was_kept_is_not_changed_by_being_opened(kept, old):
    old.get("/api/flights")
    old.get("/api/flights/kept-hand")
    fresh = kept.with_name("as-it-was.db")
    with gzip.open(DATA / "jemmon-0.1.0.db.gz") as packed, fresh.open("wb") as out:
        shutil.copyfileobj(packed, out)

    def rows(path: Path, sql: str) -> list[tuple]:
        db = sqlite3.connect(path)
        try:
            return db.execute(sql).fetchall()
        finally:
            db.close()

    for sql in (
        "SELECT content_hash, body FROM profiles ORDER BY 1",
        "SELECT flight_id, id, kind, version, at_s, body FROM events ORDER BY seq",
    ):
        was = rows(fresh, sql)
        assert [row for row in rows(kept, sql) if row in was] == was


def test_findings_that_were_told_are_not_told_again(old):
    findings = old.get("/api/flights/demo-1").json["findings"]
    assert len(findings) == len({(f["kind"], f["start_s"]) for f in findings}) == 7


@pytest.mark.parametrize(
    "name", ["profile-format-1.json", "profile-format-2.json", "profile-format-3.json", "profile-export.json"]
)
def test_a_profile_of_each_format_is_read_and_what_is_gone_is_set_aside_with_a_word(name):
    data = (DATA / name).read_bytes()
    profile = profile_from_text(data)
    assert not set(profile.limits) & {"egt_fall_dead_plug_f", "mag_drop_max_pct"}
    gone = {limit for limit in json.loads(data)["limits"] if limit not in profile.limits}
    assert len(profile.set_aside) >= len(gone)
    assert all(any(limit in words for words in profile.set_aside) for limit in gone)
    trace = read_trace_csv((DATA / "flight-trace-export.csv").read_bytes())
    assert {finding.kind for finding in judge(trace, profile)} <= set(checks())
