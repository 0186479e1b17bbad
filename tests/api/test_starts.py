"""A cold start of every kind through the interface: levers by HTTP, what to do by the frame, and the record after it."""

import threading
import time
from collections.abc import Callable

import pytest

from jemmon.feeds import bench as bench_feed
from jemmon.library.shipped import shipped_profiles
from tests.corpora.hands import (
    cranking_throttle,
    cranks_without_mixture,
    is_primed_by_pump,
    is_turned_by_hand,
    is_wobbled,
    starting_mixture,
)

PROFILES = shipped_profiles()
PATIENCE_S = 120.0  # only a fault takes so long, on a machine however busy


def look_again() -> None:
    """Let the engine run on by this machine's clock until the next look."""
    time.sleep(0.04)


class Seat:
    """A pilot's seat behind the interface."""

    pause: Callable[[], None] = staticmethod(look_again)  # between two looks

    def __init__(self, client, aircraft: str, phase: str | None = "start", speed: int = 10):
        self.client, self.profile = client, PROFILES[aircraft]
        body = {"id": "s1", "aircraft": aircraft, "registration": self.profile.registration, "pilot": "Ana"}
        assert client.post("/api/flights", json={**body, "source": "bench", "speed": speed}).status_code in (200, 201)
        if phase:
            client.post("/api/flights/s1/events", json={"id": "ph", "kind": "phase_entered", "body": {"phase": phase}})
        self.engine = self.frame()["start"]["engine"]
        self.count = 0

    def frame(self) -> dict:
        return self.client.get("/api/live").json["frame"]

    def set(self, **levers) -> None:
        own = {"master", "ground_power", "crossfeed", "primer_unlocked"}
        self.set_exactly({n if self.engine == 1 or n in own else f"e2_{n}": v for n, v in levers.items()})

    def set_exactly(self, named: dict) -> None:
        """Move levers by their full names, a second engine's with their prefix."""
        answer = self.client.post("/api/live/levers", json={"levers": named})
        assert answer.status_code == 200, answer.json

    def act(self, action: str, amount: float = 1) -> None:
        self.count += 1
        name = action if self.engine == 1 else f"e2_{action}"
        body = {"id": f"a{self.count}", "strokes": amount, "action": name}
        assert self.client.post("/api/live/prime", json=body).status_code == 200

    def until_or(self, condition, seconds: float) -> bool:
        """Say whether the frame meets a condition within so many seconds of this machine."""
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            if condition(self.frame()):
                return True
            self.pause()
        return False

    def until(self, condition, hold: str | None = None, seconds: float = PATIENCE_S) -> dict:
        """Wait until the frame meets a condition, a held switch renewed meanwhile."""
        end = time.monotonic() + seconds
        renewed = 0.0
        while time.monotonic() < end:
            if hold and time.monotonic() - renewed > 0.4:
                self.set(**{hold: True})
                renewed = time.monotonic()
            frame = self.frame()
            if condition(frame):
                return frame
            self.pause()
        raise AssertionError(f"not met in {seconds} s: {frame['start']}, {frame['rpm']} RPM")

    def flight_seconds(self, seconds: float, hold: str | None = None) -> None:
        start = self.frame()["at_s"]
        self.until(lambda f: f["at_s"] >= start + seconds, hold)


def prepare(seat: Seat) -> None:
    has = seat.profile.bench["levers"]
    seat.set(master=True)
    if "ground_power" in has:
        seat.set(ground_power=True)
    if is_turned_by_hand(seat.profile):
        seat.act("turn_blades", 12)
    if "lane_a" in has:
        seat.set(lane_a=True, lane_b=True)
    if is_wobbled(seat.profile):
        seat.act("wobble_strokes", 8)
    elif "pump" in has and seat.profile.start.unit != "strokes" and not is_primed_by_pump(seat.profile):
        seat.set(pump=True)
    if "mixture" in has:
        seat.set(mixture=starting_mixture(seat.profile))
    seat.set(throttle=cranking_throttle(seat.profile))
    if "mag" in has:
        seat.set(mag="BOTH")
    seat.flight_seconds(3)


def prime(seat: Seat, amount: float) -> None:
    if seat.profile.start.unit == "strokes":
        for _ in range(round(amount)):
            seat.act("prime_strokes")
    elif is_primed_by_pump(seat.profile):
        seat.client.post("/api/live/speed", json={"speed": 2})  # seconds too many would flood it
        seat.set(throttle=0.15, mixture=1.0, pump=True)
        seat.flight_seconds(amount + 0.4)
        seat.set(pump=False, throttle=cranking_throttle(seat.profile), mixture=starting_mixture(seat.profile))
        seat.client.post("/api/live/speed", json={"speed": 10})
    elif amount:
        seat.client.post("/api/live/speed", json={"speed": 2})
        seat.flight_seconds(amount, hold="primer")
        seat.set(primer=False)
        seat.client.post("/api/live/speed", json={"speed": 10})
    seat.flight_seconds(2)


def told_when(client, aircraft: str, condition) -> dict:
    """Return the starts of an aircraft once they are on the disk: what the needles say is written within a quarter of a second."""
    end = time.monotonic() + 10
    while time.monotonic() < end:
        record = client.get(f"/api/aircraft/{aircraft}/starts").json
        if condition(record["rows"]):
            return record
        time.sleep(0.05)
    raise AssertionError(record)


@pytest.fixture
def one_tick(monkeypatch) -> Callable[[], None]:
    """Flight time that passes by ticks asked for, not by the clock: on a starved machine an engine that fires on its prime dies
    between two looks, before its mixture is in, and a held switch lapses."""
    asked, made = threading.Semaphore(0), threading.Semaphore(0)

    def turn(feed: bench_feed.BenchFeed) -> None:
        if asked.acquire(timeout=0.05):
            feed._tick()
            made.release()

    def tick() -> None:
        asked.release()
        assert made.acquire(timeout=PATIENCE_S), "the engine stands"

    monkeypatch.setattr(bench_feed.BenchFeed, "_turn", turn)
    monkeypatch.setattr(bench_feed, "HELD_RELEASE_S", PATIENCE_S)
    return tick


@pytest.mark.parametrize("aircraft", sorted(PROFILES))
def test_a_cold_start_by_the_screen_and_its_row_in_the_record(client, aircraft, one_tick):
    seat = Seat(client, aircraft)
    seat.pause = one_tick
    prepare(seat)
    advice = seat.until(lambda f: f["advice"])["advice"]
    assert advice["kind"] == "cold"
    assert advice["unit"] == PROFILES[aircraft].start.unit
    if PROFILES[aircraft].start.energise_s:
        large = seat.until(lambda f: f["start"]["large"] and "MESH" in f["start"]["large"]["say"], hold="energise")
        assert large["start"]["engine"] == seat.engine
        seat.set(energise=False)
    prime(seat, advice["strokes"])
    seat.client.post("/api/live/speed", json={"speed": 4})
    switch = PROFILES[aircraft].start.turned_by
    seat.until(lambda f: (f["start"]["large"] or {}).get("say") in {"CRANKING", "LET GO"}, hold=switch)
    if cranks_without_mixture(PROFILES[aircraft]):
        seat.flight_seconds(2, hold=switch)
        seat.set(mixture=1.0)
    seat.until(lambda f: f["engine_runs"], hold=switch)
    seat.set(**{switch: False})
    seat.until(lambda f: f["oil_clock"] and f["oil_clock"]["verdict"] == "seen")
    record = told_when(client, aircraft, lambda rows: rows and rows[0]["oil_s"] is not None)
    assert [row["ran"] for row in record["rows"]] == [True]
    assert record["rows"][0]["attempts"] == 1
    assert record["rows"][0]["oil_s"] > 0
    assert record["unit"] == PROFILES[aircraft].start.unit


def test_the_cockpit_says_what_levers_an_aircraft_has(client):
    Seat(client, "f-radial")
    cockpit = client.get("/api/live/cockpit").json
    kinds = {control["id"]: control["kind"] for control in cockpit["controls"]}
    assert (kinds["mesh"], kinds["throttle"], kinds["mag"], kinds["ground_power"]) == (
        "hold",
        "slider",
        "mag",
        "switch",
    )
    assert [engine["name"] for engine in cockpit["engines"]] == ["Left engine", "Right engine"]
    assert [action["id"] for action in cockpit["actions"]] == ["turn_blades"]


def test_blades_are_counted_for_the_engine_that_is_turned(client):
    seat = Seat(client, "f-radial")
    assert seat.engine == 2
    for _ in range(3):
        seat.act("turn_blades")
    assert seat.frame()["start"]["blades"] == 3
    client.post("/api/live/prime", json={"id": "left", "strokes": 1, "action": "turn_blades"})
    assert seat.frame()["start"]["blades"] == 3, "the other engine's blades are its own"


def test_taps_by_hand_and_a_tap_that_is_none(client):
    begun = {"id": "h1", "aircraft": "a-trainer", "registration": "ZZ-WRN", "pilot": "Ana", "source": "manual"}
    client.post("/api/flights", json=begun)

    def tap(what: str):
        body = {"id": f"t-{what}", "kind": "start_tap", "body": {"what": what}}
        return client.post("/api/flights/h1/events", json=body)

    assert tap("crank").status_code in (200, 201)
    assert client.get("/api/live").json["frame"]["start"]["large"]["say"] == "CRANKING"
    assert tap("fired").status_code in (200, 201)
    assert client.get("/api/live").json["frame"]["start"]["large"]["say"] == "OIL PRESSURE"
    refused = tap("dance")
    assert refused.status_code == 422
    assert "crank" in refused.json["message"]
