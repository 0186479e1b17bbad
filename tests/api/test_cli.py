"""The command line as other people's scripts call it: files in, JSON out, exit 2 and one clear line when it cannot."""

import json
import shutil
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

import pytest
from click.testing import CliRunner

from jemmon.cli import _begin_anew, main
from jemmon.core.start.advice import FIRED, book_strokes, recorded_attempts
from jemmon.demo.flying_group import build_demo, flown, planned
from jemmon.store import flights
from jemmon.store.database import Database
from jemmon.store.settings import set_demo_fingerprint
from tests.core.builders import PROFILES

SCRIPT = [
    {"at": 0, "engine": {"running": True}},
    {"at": 1, "set": {"throttle": 0.34}},
    {"at": 60, "set": {"mag": "L"}},
    {"at": 66, "set": {"mag": "BOTH"}},
    {"at": 72, "set": {"mag": "R"}},
    {"at": 78, "set": {"mag": "BOTH"}},
    {"at": 95, "end": True},
]


def run(*arguments):
    return CliRunner().invoke(main, [str(a) for a in arguments])


def fly(tmp_path, script, *more):
    path, out = tmp_path / "s.json", tmp_path / "t.csv"
    path.write_text(script if isinstance(script, str) else json.dumps(script))
    return run("bench", "--aircraft", "a-trainer", "--script", path, "--out", out, *more), out


def test_bench_writes_a_trace_that_judge_reads(tmp_path):
    result, out = fly(tmp_path, SCRIPT, "--truth", tmp_path / "truth.csv", "--rate", 2)
    assert result.exit_code == 0, result.output
    body = json.loads(run("judge", out, "--aircraft", "a-trainer", "--json").output)
    assert body["aircraft"] == "a-trainer"
    assert body["trace"]["rate_hz"] == 2
    (magnetos,) = [f for f in body["findings"] if f["kind"] == "mag_check"]
    assert {f["kind"] for f in body["findings"]} <= {"mag_check", "gauges"}
    assert set(magnetos) >= {
        "engine",
        "start_s",
        "end_s",
        "verdict",
        "measured",
        "limits",
        "because",
        "next",
        "source",
    }


def test_the_same_seed_gives_the_same_trace_and_another_seed_another(tmp_path):
    _, out = fly(tmp_path, SCRIPT, "--seed", 5)
    first = out.read_bytes()
    fly(tmp_path, SCRIPT, "--seed", 5)
    assert out.read_bytes() == first
    fly(tmp_path, SCRIPT, "--seed", 6)
    assert out.read_bytes() != first


@pytest.mark.parametrize(
    ("script", "words"),
    [
        ([{"at": 0, "set": {"warp": 1}}], "warp"),
        ([{"at": 0, "fault": "gremlins", "size": 1}], "gremlins"),
        ([{"at": 0, "set": {"throttle": 2}}], "0 to 1"),
        ([{"set": {"throttle": 1}}], "Step 1"),
        ("[{", "line 1"),
        ("{}", "list of steps"),
    ],
)
def test_a_bad_script_exits_2_with_one_clear_line(tmp_path, script, words):
    result, out = fly(tmp_path, script)
    assert result.exit_code == 2
    assert words in result.stderr
    assert result.stderr.count("\n") == 1
    assert not out.exists()


def test_a_bad_trace_exits_2_and_names_line_and_column(tmp_path):
    bad = tmp_path / "bad.csv"
    bad.write_text("time_s,rpm\n0,1\n1,x\n")
    result = run("judge", bad, "--aircraft", "a-trainer", "--json")
    assert result.exit_code == 2
    assert "line 3, column rpm" in result.stderr


def test_an_unknown_aircraft_is_named_with_those_that_there_are(tmp_path):
    result = run("judge", tmp_path / "x.csv", "--aircraft", "z-none", "--json")
    assert result.exit_code == 2
    assert "a-trainer" in result.stderr


def test_list_prints_levers_and_faults():
    result = run("bench", "--list")
    assert "throttle" in result.output
    assert "dead_plug_left_4" in result.output


def test_a_demo_made_anew_deletes_exactly_its_own_files(tmp_path, demo_template):
    path = Path(shutil.copy(demo_template, tmp_path / "demo.db"))
    for end in ("-wal", "-shm", ".lock", "-notes.txt", "2", ".before-004.db"):
        path.with_name(f"demo.db{end}").write_text("x")
    _begin_anew(path)
    assert sorted(one.name for one in tmp_path.iterdir()) == ["demo.db-notes.txt", "demo.db.before-004.db", "demo.db2"]


def test_a_demo_in_which_somebody_flew_is_moved_aside_and_named(tmp_path, demo_template, capsys):
    path = Path(shutil.copy(demo_template, tmp_path / "demo.db"))
    kept = Database(path)
    with kept.writing() as db:
        flown = flights.flight_by_id(db, "demo-a-trainer-1")
        flights.add_flight(db, replace(flown, id="mine"))
    kept.close()
    _begin_anew(path)
    (aside,) = tmp_path.glob("demo.kept-*.db")
    assert str(aside) in capsys.readouterr().out
    assert not path.exists()
    again = Database(aside)
    with again.reading() as db:
        assert flights.flight_by_id(db, "mine")
    again.close()


def test_the_demo_holds_forty_flights_of_three_aircraft_each_with_its_story():
    wanted = list(planned(PROFILES))
    assert len({one.id for one in wanted}) == len(wanted) == 40
    assert {one.profile.id for one in wanted} == {"a-trainer", "b-tourer", "d-twin"}
    for name in ("a-trainer", "b-tourer", "d-twin"):
        own = [one for one in wanted if one.profile.id == name]
        assert [one.days_ago for one in own] == sorted(one.days_ago for one in own), "the newest first"
        assert [one.size for one in own] == sorted((one.size for one in own), reverse=True), "what is wrong grows"


@pytest.mark.parametrize("name", ["a-trainer", "b-tourer", "d-twin"])
def test_each_engine_of_the_demo_fires_on_its_books_prime_at_the_first_try(name):
    one = next(one for one in planned(PROFILES) if one.profile.id == name)
    kept = flown(one, datetime(2026, 5, 1, tzinfo=UTC)).events
    starts = recorded_attempts([[(event.kind, event.body) for event in kept]])
    assert len(starts) == len(one.profile.engines)
    book = book_strokes(one.profile, one.oat_c)
    for start in starts:
        assert start.outcome == FIRED
        assert start.strokes == pytest.approx(book, abs=0.5)


def test_demo_flights_of_another_bench_are_made_anew_and_nothing_else_is_touched(tmp_path, demo_template):
    kept = Database(Path(shutil.copy(demo_template, tmp_path / "demo.db")))
    assert build_demo(kept, PROFILES, only=5) == 0, "they are all there"
    with kept.writing() as db:
        old = flights.flight_by_id(db, "demo-a-trainer-5")
        flights.add_flight(db, replace(old, id="mine", kind="practice"))
        flights.add_flight(db, replace(old, id="demo-1"))
        set_demo_fingerprint(db, "an older bench")
    assert build_demo(kept, PROFILES, only=1) == 1
    with kept.reading() as db:
        assert {line.id for line in flights.flight_lines(db)} == {"mine", "demo-a-trainer-1"}
    kept.close()
