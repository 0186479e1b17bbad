"""A database that is locked, full or broken, a server that is killed at every stage, screens that never read: nothing confirmed is
lost, the needles go on, flight time never goes back, and what is wrong is said."""

import contextlib
import signal
import socket
import sqlite3
import time
from datetime import UTC, datetime, timedelta
from itertools import pairwise

import pytest

from jemmon.api import create_app
from jemmon.app.flight_log import FlightLog
from jemmon.app.making import flight_time_s
from jemmon.app.settings import Settings
from jemmon.app.streams import Streams
from jemmon.core.flight.events import Event
from jemmon.feeds.bench import BenchFeed
from jemmon.store import flights
from jemmon.store.database import Database, NotWritten
from jemmon.store.flights import Flight
from tests.conftest import Server, ask, free_port
from tests.core.builders import PROFILES

BEGIN = {"id": "f1", "aircraft": "a-trainer", "registration": "ZZ-WRN", "pilot": "Ana"}


def frame_of(client) -> dict:
    return client.get("/api/live").json["frame"]


def until(client, condition, seconds: float = 20.0) -> dict:
    """Return the first frame that meets a condition."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        frame = frame_of(client)
        if condition(frame):
            return frame
        time.sleep(0.05)
    raise AssertionError(frame["trouble"])


@contextlib.contextmanager
def locked(path):
    """Another program holds the database."""
    other = sqlite3.connect(path, isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    try:
        yield
    finally:
        other.rollback()
        other.close()


def confirm(client, number: int, item: str = "day"):
    return client.post("/api/flights/f1/events", json={"id": f"e{number}", "kind": "item_done", "body": {"item": item}})


def test_a_locked_database_is_busy_and_the_needles_go_on(client, tmp_path):
    client.post("/api/flights", json={**BEGIN, "speed": 60})
    until(client, lambda f: f["rpm"] is not None)
    with locked(tmp_path / "jemmon.db"):
        told = until(client, lambda f: f["trouble"] is not None)
        assert told["trouble"]["code"] == "busy"
        assert told["trouble"]["say"].startswith("Nothing is being written: another program")
        before = time.monotonic()
        refused = confirm(client, 1)
        assert (refused.status_code, refused.json["code"]) == (503, "busy")
        assert time.monotonic() - before < 5
        at_s = frame_of(client)["at_s"]
        going = until(client, lambda f: f["at_s"] > at_s + 20)
        assert not going["stale"]
        assert "day" not in [i["id"] for x in going["lists"] for i in x["items"] if i["state"] == "done"], (
            "not kept is not confirmed"
        )
    assert confirm(client, 1).status_code == 201
    until(client, lambda f: f["trouble"] is None)


def test_what_the_needles_said_while_it_was_locked_is_written_when_it_is_free(client, tmp_path):
    client.post("/api/flights", json={**BEGIN, "speed": 10})
    until(client, lambda f: f["rpm"] is not None)
    with locked(tmp_path / "jemmon.db"):
        client.post(
            "/api/live/levers", json={"levers": {"master": True, "starter": True}}
        )  # let go by itself after a second
        until(client, lambda f: f["start"]["starter"]["turned_s"] is not None)
        until(client, lambda f: f["start"]["starter"]["turned_s"] is None)
        held = kept_kinds(client)
    until(client, lambda f: f["trouble"] is None)
    assert "cranking_began" not in held
    assert confirm(client, 1).status_code == 201
    kinds = kept_kinds(client)
    assert kinds.index("cranking_began") < kinds.index("cranking_ended") < kinds.index("item_done")


def kept_kinds(client) -> list[str]:
    """Return the kinds of what is on the disk, in the order in which it was written."""
    with client.application.extensions["hangar"].database.reading() as db:
        return [event.kind for event in flights.events_of(db, "f1")]


def test_a_full_disk_is_said_keeps_nothing_half_and_is_over_when_there_is_room(client, app):
    client.post("/api/flights", json={**BEGIN, "source": "manual"})
    writer = app.extensions["hangar"].database._writer
    pages = writer.execute("PRAGMA page_count").fetchone()[0]
    writer.execute(f"PRAGMA max_page_count = {pages}")
    big = "x" * 1900
    answers = [
        client.post("/api/flights/f1/events", json={"id": f"r{n}", "kind": "remark", "body": {"text": big}})
        for n in range(8)
    ]
    refused = [answer.json for answer in answers if answer.status_code != 201]
    assert refused
    assert {answer["code"] for answer in refused} == {"disk_full"}
    assert frame_of(client)["trouble"]["code"] == "disk_full"
    writer.execute("PRAGMA max_page_count = 1000000")
    kept = sum(answer.status_code == 201 for answer in answers)
    until(client, lambda f: f["trouble"] is None)
    told = [row["id"] for row in client.get("/api/flights/f1").json["timeline"] if row["kind"] == "remark"]
    assert told == [f"r{n}" for n in range(kept)]


def test_a_writer_that_waits_in_vain_changes_nothing(tmp_path):
    database = Database(tmp_path / "x.db")
    with locked(tmp_path / "x.db"), pytest.raises(NotWritten, match="busy"), database.writing(0.05):
        raise AssertionError("never here")
    with database.writing(0.05) as db:
        db.execute("INSERT INTO settings (name, value) VALUES ('a', 'b')")
    database.close()


def test_the_end_stops_the_needles_and_taking_it_back_starts_them_again(client, app):
    client.post("/api/flights", json={**BEGIN, "speed": 10})
    until(client, lambda f: f["rpm"] is not None)
    client.post("/api/flights/f1/events", json={"id": "end", "kind": "flight_ended", "body": {}})
    ended = frame_of(client)["at_s"]
    time.sleep(0.5)
    assert frame_of(client)["at_s"] == ended
    client.post("/api/flights/f1/undo", json={"id": "u", "event": "end"})
    again = until(client, lambda f: f["at_s"] > ended + 5)
    assert not again["ended"]


def test_a_flight_whose_end_was_taken_back_is_there_after_a_restart(client, app, tmp_path):
    client.post("/api/flights", json={**BEGIN, "source": "manual"})
    client.post("/api/flights/f1/events", json={"id": "end", "kind": "flight_ended", "body": {}})
    client.post("/api/flights/f1/undo", json={"id": "u", "event": "end"})
    app.extensions["hangar"].close()
    again = create_app(Settings(database=tmp_path / "jemmon.db"))
    assert frame_of(again.test_client())["flight"] == "f1"
    again.extensions["hangar"].close()


def test_an_undo_takes_back_what_was_seen(client):
    client.post("/api/flights", json={**BEGIN, "source": "manual"})
    for number, item in enumerate(("day", "weather", "walk_round")):
        assert confirm(client, number, item).status_code == 201
    assert frame_of(client)["undoable"][:3] == ["e2", "e1", "e0"]
    answer = client.post("/api/flights/f1/undo", json={"id": "u1", "event": "e1"})
    assert answer.status_code == 201
    done = [i["id"] for x in frame_of(client)["lists"] for i in x["items"] if i["state"] == "done"]
    assert "day" in done
    assert "walk_round" in done
    assert "weather" not in done
    assert client.post("/api/flights/f1/undo", json={"id": "u1", "event": "e1"}).json["seq"] == answer.json["seq"]


# ---- flight time ------------------------------------------------------------------------------------------------------


def at(seconds: float) -> str:
    return (datetime(2026, 5, 1, 12, tzinfo=UTC) + timedelta(seconds=seconds)).isoformat(timespec="milliseconds")


def flight() -> Flight:
    row = {"id": "f", "profile_hash": "", "registration": "", "pilot": "", "title": "", "source": "bench"}
    return Flight(**row, started_utc=at(0))


@pytest.mark.parametrize(
    ("events", "kept", "now_s", "flight_s"),
    [
        ([], None, 30.0, 30.0),
        ([(12.0, 12.0)], None, 40.0, 40.0),
        ([(50.0, 5.0)], None, 25.0, 70.0),  # ten times real time: the newest moment known, and the wall from there
        ([(50.0, 5.0)], (58.0, 5.8), 25.8, 78.0),
        ([(50.0, 5.0)], None, 1.0, 50.0),  # the wall clock was set back
    ],
)
def test_flight_time_goes_on_while_no_server_runs(events, kept, now_s, flight_s):
    told = [
        Event(id=str(n), kind="remark", at_s=at_s, body={}, wall_utc=at(wall)) for n, (at_s, wall) in enumerate(events)
    ]
    wall_s = datetime.fromisoformat(at(0)).timestamp()
    state = (kept[0], {"wall_s": wall_s + kept[1]}) if kept else None
    assert flight_time_s(flight(), told, state, wall_s + now_s) == pytest.approx(flight_s, abs=0.01)


@pytest.mark.parametrize("source", ["manual", "bench", "device"])
@pytest.mark.parametrize("after_s", [0.1, 2.5])
def test_killed_at_any_stage_flight_time_counts_the_outage(tmp_path, source, after_s):
    server = Server(tmp_path / "x.db", free_port())
    server.start()
    began = time.monotonic()
    assert ask(server.port, "POST", "/api/flights", {**BEGIN, "source": source})[0] == 201
    time.sleep(after_s)
    before_s = ask(server.port, "GET", "/api/live")[1]["frame"]["at_s"]
    server.kill()
    time.sleep(1.0)
    server.start()
    # needles that begin again stand for up to a second; what is lost would never be made up
    until = time.monotonic() + 30
    after, least_s = 0.0, 0.0
    while after <= least_s and time.monotonic() < until:
        least_s = time.monotonic() - began - 0.9
        after = ask(server.port, "GET", "/api/live")[1]["frame"]["at_s"]
    most_s = time.monotonic() - began
    server.kill()
    assert after > before_s + 0.9
    assert least_s < after <= most_s + 1.1  # its begin is kept in whole seconds


# ---- streams and the end ----------------------------------------------------------------------------------------------


def listener(port: int) -> socket.socket:
    """A screen that asks for the stream and reads nothing."""
    one = socket.socket()
    one.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 4096)
    one.connect(("127.0.0.1", port))
    one.sendall(f"GET /api/stream HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\n\r\n".encode())
    one.settimeout(10)
    return one


def test_thirty_streams_leave_the_server_alive_and_those_who_never_read_are_let_go(tmp_path):
    server = Server(tmp_path / "x.db", free_port())
    server.start()
    ask(server.port, "POST", "/api/flights", {**BEGIN, "speed": 60})
    screens = [listener(server.port) for _ in range(30)]
    heads = [screen.recv(200) for screen in screens]
    assert sum(b"200 OK" in head for head in heads) == 12
    assert sum(b"503" in head for head in heads) == 18
    began = time.monotonic()
    assert ask(server.port, "GET", "/api/live")[0] == 200
    assert time.monotonic() - began < 5
    end = time.monotonic() + 60
    while time.monotonic() < end:  # none of the twelve reads on: their places are given back
        late = listener(server.port)
        if b"200 OK" in late.recv(200):
            break
        late.close()
        time.sleep(0.5)
    else:
        raise AssertionError("those who never read keep their places")
    for screen in [*screens, late]:
        screen.close()
    server.kill()


def test_a_screen_gets_no_more_frames_than_it_was_set_to(client, app):
    app.extensions["streams"] = Streams(frame_s=0.4)
    assert client.post("/api/flights", json=BEGIN).status_code == 201
    told, at_s = iter(client.get("/api/stream").response), []
    while len(at_s) < 4:
        if next(told).startswith(b"id:"):
            at_s.append(time.monotonic())
    assert min(b - a for a, b in pairwise(at_s)) >= 0.39


def test_a_stream_beats_when_nothing_is_told(client, app):
    told = client.get("/api/stream").response
    began = time.monotonic()
    beats = [next(iter(told)) for _ in range(3)]
    assert beats == [b"event: beat\ndata: 1\n\n"] * 3
    assert time.monotonic() - began < 3


def test_told_to_end_the_server_keeps_what_is_open_and_ends_cleanly(tmp_path):
    server = Server(tmp_path / "x.db", free_port())
    server.start()
    ask(server.port, "POST", "/api/flights", {**BEGIN, "speed": 60})
    screen = listener(server.port)
    time.sleep(0.7)
    at_s = ask(server.port, "GET", "/api/live")[1]["frame"]["at_s"]
    server.send_signal(signal.SIGTERM)
    assert server.wait(20) == 0
    screen.close()
    db = sqlite3.connect(tmp_path / "x.db")
    assert db.execute("SELECT at_s FROM bench_states").fetchone()[0] >= at_s - 0.05  # a frame says its time to a tenth
    db.close()


def test_events_noted_ahead_of_the_disk_keep_their_order_through_an_undo():
    log = FlightLog(PROFILES["a-trainer"], [])
    log.add(Event(id="a", kind="item_done", at_s=1, body={"item": "day"}, seq=5))
    log.add(Event(id="n", kind="engine_fired", at_s=2, body={"limit_s": 30.0}, seq=log.state.last_seq))
    log.add(Event(id="u", kind="undo", at_s=3, body={"event": "a"}, seq=8))
    log.settle(Event(id="n", kind="engine_fired", at_s=2, body={"limit_s": 30.0}, seq=7))
    assert [event.seq for event in log.events] == [5, 7, 8]
    assert log.state.last_seq == 8
    assert "day" not in log.state.done
    assert log.state.engine_runs


class Clock:
    """A steady clock that a test moves."""

    def __init__(self):
        self.now_s = 100.0

    def __call__(self) -> float:
        return self.now_s


@pytest.mark.parametrize(("slept_s", "counted_s"), [(3600.0, 3600.0), (6.0, 6.0), (4.0, 0.0)])
def test_sleep_of_the_machine_is_flight_time_and_a_slow_machine_is_not(monkeypatch, slept_s, counted_s):
    clock = Clock()
    monkeypatch.setattr("jemmon.feeds.bench.steady_s", clock)
    profile = PROFILES["a-trainer"]
    feed = BenchFeed(profile, lambda sample: None, lambda: profile.phases[0].kind)
    feed._due_s = clock.now_s
    feed._turn()
    before_s = feed.at_s
    clock.now_s += slept_s
    feed._turn()
    assert feed.at_s - before_s == pytest.approx(counted_s + 0.1, abs=0.25)


def test_by_hand_sleep_is_flight_time_too(monkeypatch, client, app):
    clock = Clock()
    monkeypatch.setattr("jemmon.app.live_flight.steady_s", clock)
    client.post("/api/flights", json={**BEGIN, "source": "manual"})
    before_s = frame_of(client)["at_s"]
    clock.now_s += 1800
    assert frame_of(client)["at_s"] == pytest.approx(before_s + 1800, abs=1)
