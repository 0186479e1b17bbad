"""A whole flight of every shipped kind by its own lists, through the interface: what the screen asks for is done, to the end."""

import pytest

from tests.api.test_starts import PROFILES, Seat, prime
from tests.corpora.hands import (
    cranking_throttle,
    cranks_without_mixture,
    is_turned_by_hand,
    is_wobbled,
    running_mixture,
    starting_mixture,
)

# items whose needle shows what a lever did: where the lever goes
BY_LEVER = {
    "master_on": 1,
    "main_pump": 1,
    "wobble_on": 1,
    "pump_heard": 0,
    "xfeed_on": 1,
    "xfeed_close": 0,
    "cut_off": 0.0,
    "set_runup": 0.35,
}
# items without a lever of their own that set one all the same
MORE = {"set_map": {"throttle": 0.45}, "clutch": {"clutch": True}, "gov_check": {"governor": True, "throttle": 0.3}}
LONGEST_CRANKING_S = 30  # of a starter without a limit of its own
FLIES = {"take_off": 1.0, "climb": 0.9, "cruise": 0.6, "descent": 0.3, "before_landing": 0.3}


class ListPilot:
    """Does what the item of the moment asks for, with the lever that it names, and confirms what the needles do not."""

    def __init__(self, client, aircraft: str):
        self.seat, self.profile = Seat(client, aircraft, phase=None, speed=60), PROFILES[aircraft]
        self.has = self.profile.bench["levers"]
        self.said = 0
        self.confirmed: list[str] = []
        self.false_alarms: set[str] = set()

    def tell(self, kind: str, **body) -> None:
        self.said += 1
        answer = self.seat.client.post(
            "/api/flights/s1/events", json={"id": f"l{self.said}", "kind": kind, "body": body}
        )
        assert answer.status_code in (200, 201), (kind, body, answer.json)

    def fly(self) -> dict:
        """Work through every list of every phase; return the last frame."""
        for _ in range(600):
            frame = self.seat.frame()
            self.look_for_false_alarms(frame)
            does, step = frame["step"]["does"], frame["step"]
            if does == "flow":
                self.tell("flow_done", list=step["list"])
            elif does == "by_heart":
                self.tell("list_done", list=step["list"])
            elif does in ("item", "answer"):
                self.take(frame)
            elif does == "put_back":
                self.put_back(frame)
            elif does == "next_phase":
                self.next_phase(frame)
            else:
                assert does == "end", (does, frame["item"], frame["run_up"])
                self.tell("flight_ended")
                return frame
        raise AssertionError(f"never came to an end: {frame['item']}")

    def look_for_false_alarms(self, frame: dict) -> None:
        """Nothing fails in this flight: no power is lost, and before the start no needle is out of its limits."""
        if frame["power_loss"]:
            self.false_alarms.add(frame["power_loss"]["say"])
        if frame["rpm"] is not None and frame["rpm"] < 1 and not frame["start"]["taps"]:
            red = [i["name"] for i in frame["instruments"] if i["state"] == "high"]
            self.false_alarms |= {f"{name} is red, standing" for name in red}

    def take(self, frame: dict) -> None:
        item, name = frame["item"], frame["item"]["id"].split("@")[0]
        if item["watch"] == "start":
            self.start(frame)
        elif item["lever"] in self.levers_of(item) and item["unit"] == "" and item["as_expected"] is False:
            self.seat.set_exactly({item["lever"]: self.wanted(item)})
        elif name in BY_LEVER and item["lever"] in self.levers_of(item):
            self.seat.set_exactly({item["lever"]: BY_LEVER[name]})
        elif name in MORE:
            own = "e2_" if item["engine"] == 2 else ""
            self.seat.set_exactly({own + lever: value for lever, value in MORE[name].items()})
        elif name.startswith("energise"):
            self.energise(item)
        elif name == "oil_pressure":
            self.seat.until(lambda f: f["oil_clock"] and f["oil_clock"]["verdict"] == "seen")
        self.confirm(item)

    def levers_of(self, item: dict) -> list[str]:
        prefix = "e2_" if (item["lever"] or "").startswith("e2_") else ""
        return [prefix + lever for lever in self.has] + ["master"]

    @staticmethod
    def wanted(item: dict) -> float | str:
        if item["lever"].endswith("mag"):
            return "OFF" if item["id"].startswith("mags_off") else "BOTH"
        low, high = item["lowest"], item["highest"]
        return 1.0 if high is None else 0.0 if low is None else (low + high) / 2

    def confirm(self, item: dict) -> None:
        """Wait for the needles where they confirm it themselves, else say so."""
        if item["confirms_itself"] and not item["again"]:
            gone = self.seat.until_or(lambda f: (f["item"] or {}).get("id") != item["id"], seconds=3.0)
            if gone:
                return
        if item["watch"] == "start" and (self.seat.frame()["item"] or {}).get("id") != item["id"]:
            return  # the needles confirmed it while it was started
        self.tell("item_done", item=item["id"])
        self.confirmed.append(item["id"])

    def energise(self, item: dict) -> None:
        self.seat.engine = item["engine"] or 1
        self.seat.until(lambda f: f["start"]["large"] and "MESH" in f["start"]["large"]["say"], hold="energise")
        self.seat.set(energise=False)

    def start(self, frame: dict) -> None:
        """Prime by the advice and crank until it runs, with the levers as this type has them; before it the other engine, where
        that has died since: the advice is for that one then."""
        own, died, crank = frame["item"]["engine"], frame["start"]["engine"], frame["item"]["id"]
        if own and died != own:
            self.start_engine(died, crank.replace(f"@{own}", f"@{died}"))
        self.start_engine(own or self.profile.engines[0][0], crank)

    def start_engine(self, number: int, crank: str) -> None:
        """Start one engine, in as many attempts as it takes."""
        seat = self.seat
        seat.engine = number
        while not (self.fires(crank) and self.shows_oil_pressure()):
            # a busy machine primes too long, or lets the prime drain: what a pilot does then is another attempt
            seat.client.post("/api/live/speed", json={"speed": 60})
            seat.until(lambda f: not f["start"]["starter"]["rest_left_s"])
        seat.set(throttle=0.15)

    def shows_oil_pressure(self) -> bool:
        """Wait for the oil pressure of an engine that fired; say whether it ran on until then."""
        self.seat.client.post("/api/live/speed", json={"speed": 60})
        frame = self.seat.until(lambda f: not f["oil_clock"] or f["oil_clock"]["verdict"] == "seen")
        return bool(frame["oil_clock"])

    def fires(self, crank: str) -> bool:
        """Prime and crank as long as the starter may be turned; say whether the needles have confirmed it."""
        seat, profile = self.seat, self.profile
        seat.client.post("/api/live/speed", json={"speed": 10})
        self.before_cranking()
        advice = seat.until(lambda f: f["advice"])["advice"]
        if profile.start.unit != "none":
            prime(seat, advice["strokes"])
        seat.client.post("/api/live/speed", json={"speed": 4})
        switch = profile.start.turned_by
        if cranks_without_mixture(profile):
            seat.flight_seconds(2, hold=switch)
            seat.set(mixture=running_mixture(profile))
        seat.until(lambda f: self.has_fired(f, crank) or self.is_cranked_long(f["start"]["starter"]), hold=switch)
        seat.set(**{switch: False})
        return seat.until_or(lambda f: self.has_fired(f, crank), seconds=2.0)

    @staticmethod
    def is_cranked_long(starter: dict) -> bool:
        return starter["over"] or (starter["turned_s"] or 0) > LONGEST_CRANKING_S

    @staticmethod
    def has_fired(frame: dict, item: str) -> bool:
        """The item is confirmed and the engine has not died since: its oil clock would be gone."""
        return bool(frame["oil_clock"]) and any(
            line["id"] == item and line["state"] == "done" for one in frame["lists"] for line in one["items"]
        )

    def before_cranking(self) -> None:
        seat, profile = self.seat, self.profile
        if is_turned_by_hand(profile):
            seat.act("turn_blades", 12)
        if is_wobbled(profile):
            seat.act("wobble_strokes", 8)
        seat.set(throttle=cranking_throttle(profile))
        if "mixture" in self.has:
            seat.set(mixture=starting_mixture(profile))
        if "mag" in self.has:
            seat.set(mag="BOTH")
        for name in ("lane_a", "lane_b"):
            if name in self.has:
                seat.set(**{name: True})
        if "pump" in self.has:
            seat.set(pump=True)
        if profile.start.energise_s:
            seat.until(lambda f: f["start"]["large"] and "MESH" in f["start"]["large"]["say"], hold="energise")
            seat.set(energise=False)

    def put_back(self, frame: dict) -> None:
        for pair in frame["put_backs"]:
            if pair["keeps_open"]:
                self.tell("put_back_tapped", put_back=pair["id"], away=False)

    def next_phase(self, frame: dict) -> None:
        phase = frame["next_phase"]["id"]
        self.tell("phase_entered", phase=phase)
        kind = self.profile.kind_of(phase).name
        if kind == "shutdown":
            self.seat.engine = 1
        if kind in FLIES:
            own = ("throttle", "e2_throttle")[: len(self.profile.engines)]
            self.seat.set_exactly(dict.fromkeys(own, FLIES[kind]))


@pytest.mark.parametrize("aircraft", sorted(PROFILES))
def test_a_whole_flight_by_its_lists(client, aircraft):
    pilot = ListPilot(client, aircraft)
    pilot.fly()
    assert pilot.false_alarms == set()
    record = client.get("/api/flights/s1").json
    assert any(row["kind"] == "engine_fired" for row in record["timeline"])
