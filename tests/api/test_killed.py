"""Killing the server at any moment loses no confirmed event, and the flight and its bench go on."""

import http.client
import random
import threading
import time
import uuid

import pytest

from tests.api.dies_after_commit import DEADLY
from tests.conftest import Server, ask, free_port

KILLS = 4


def test_sigkill_loses_no_confirmed_event(tmp_path):
    server = Server(tmp_path / "x.db", free_port())
    server.start()
    begin = {"id": "f1", "aircraft": "a-trainer", "registration": "ZZ-WRN", "pilot": "Ana", "speed": 10}
    assert ask(server.port, "POST", "/api/flights", begin)[0] == 201
    ask(server.port, "POST", "/api/live/levers", {"levers": {"throttle": 0.3, "master": True}})
    wait_until_flown(server.port, 25)  # the bench's state is kept each second, at ten times real time
    confirmed: dict[str, int] = {}
    last_s = 0.0
    dice = random.Random(7)
    for _ in range(KILLS):
        post_until_killed(server, confirmed, dice.randint(6, 40), dice.uniform(0.0, 0.02))
        server.start()
        _, live = ask(server.port, "GET", "/api/live")
        assert live["frame"]["at_s"] >= last_s - 1.0 * 10 - 1  # at most one second of samples, at ten times real time
        last_s = live["frame"]["at_s"]
        _, record = ask(server.port, "GET", "/api/flights/f1")
        kept = {row["id"]: row["seq"] for row in record["timeline"]}
        assert {i: kept.get(i) for i in confirmed} == confirmed
    time.sleep(0.5)
    levers = ask(server.port, "GET", "/api/live")[1]["frame"]["levers"]
    server.kill()
    assert len(confirmed) > 20
    assert levers["starter"] == 0
    assert levers["throttle"] == 0.3


def wait_until_flown(port: int, seconds: float) -> None:
    """Wait until so much flight time has passed."""
    while ask(port, "GET", "/api/live")[1]["frame"]["at_s"] < seconds:
        time.sleep(0.1)


def post_until_killed(server: Server, confirmed: dict[str, int], enough: int, moment_s: float) -> None:
    """Post events without a pause; a moment after `enough` of them are confirmed the server is killed, whatever it does."""
    killer = threading.Timer(moment_s, server.kill)
    mine = 0
    while True:
        event_id = uuid.uuid4().hex
        body = {"id": event_id, "kind": "remark", "body": {"text": "x"}}
        try:
            status, answer = ask(server.port, "POST", "/api/flights/f1/events", body, 60)
        except (OSError, http.client.HTTPException):
            killer.join()
            return
        assert status == 201
        confirmed[event_id] = answer["seq"]
        mine += 1
        if mine == enough:
            killer.start()


def test_an_event_whose_answer_was_lost_is_kept_once(tmp_path):
    server = Server(tmp_path / "x.db", free_port(), module="tests.api.dies_after_commit")
    server.start()
    begin = {"id": "f1", "aircraft": "a-trainer", "registration": "ZZ-WRN", "pilot": "Ana", "source": "manual"}
    assert ask(server.port, "POST", "/api/flights", begin)[0] == 201
    last = {"id": "e1", "kind": "remark", "body": {"text": DEADLY}}
    with pytest.raises((OSError, http.client.HTTPException)):
        ask(server.port, "POST", "/api/flights/f1/events", last)
    server.kill()
    healthy = Server(tmp_path / "x.db", free_port())
    healthy.start()
    status, answer = ask(healthy.port, "POST", "/api/flights/f1/events", last)
    _, record = ask(healthy.port, "GET", "/api/flights/f1")
    healthy.kill()
    assert status == 200, "the event was committed before the kill, so it is known"
    assert [row["seq"] for row in record["timeline"] if row["id"] == "e1"] == [answer["seq"]]
