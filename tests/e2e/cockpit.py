"""A pilot's hands on the real interface, for the browser tests and the pictures of docs/screenshots."""

import json
import os
import time
import urllib.request
import uuid

from playwright.sync_api import Page, expect

# how long a state is waited for: only a fault takes so long, a busy machine may fall to a fifth of its speed
_LEVER_STEP = 0.05  # of a slider; at a gate it is held much further off
PATIENCE_S = float(os.environ.get("JEMMON_PATIENCE_S", "300"))
_LOOKS_MS = 200  # between two looks at a frame: each costs the server a frame of its own
# what a pilot must see within seconds: far less than what a machine gives up after, far more than a busy one needs
SOON_MS = 25_000


def choose(page: Page, name: str, option: str) -> None:
    """Choose in a list that drops down; again where the list moved away from under the first tap, as a pilot would."""
    select = page.locator(".el-select", has=page.get_by_role("combobox", name=name, exact=True)).first
    shown = page.locator(".el-select-dropdown").get_by_role("option", name=option).filter(visible=True).first
    end = time.monotonic() + PATIENCE_S
    while option not in select.inner_text():
        assert time.monotonic() < end, f"{option} is not taken as {name}"
        if not shown.is_visible():
            select.click()
        shown.click()
        page.wait_for_timeout(200)


class Cockpit:
    """Drives the flight screen by what a pilot sees: names of buttons and levers."""

    def __init__(self, page: Page, base_url: str):
        self.page, self.base_url = page, base_url

    def begin(self, by_hand: bool = False, registration: str = "ZZ-WRN") -> None:
        """Open the first page, choose the aircraft, confirm its registration, begin."""
        self.page.goto(f"{self.base_url}/")
        self.page.get_by_role("button", name=registration).click()
        self.page.get_by_label("Pilot").fill("Ana Quill")
        engine = self.page.get_by_role("button", name="Practise on the simulated engine")
        needles = self.page.get_by_role("button", name="Practise with scripted needles")
        if by_hand:
            self.page.get_by_label("Type the registration").fill(registration)
        (self.page.get_by_role("button", name="Begin by hand") if by_hand else engine.or_(needles)).click()
        expect(self.page.locator("main.flight")).to_be_visible()

    def end(self) -> None:
        """End the flight, as another screen would."""
        self.tell("flight_ended", {})

    def tell(self, kind: str, said: dict) -> None:
        """Say something as another screen would."""
        body = json.dumps({"id": uuid.uuid4().hex, "kind": kind, "body": said}).encode()
        url = f"{self.base_url}/api/flights/{self.frame()['flight']}/events"
        request = urllib.request.Request(url, body, {"Content-Type": "application/json"})
        urllib.request.urlopen(request, timeout=60).close()

    def frame(self) -> dict:
        """Return the newest frame, asked from the server."""
        with urllib.request.urlopen(f"{self.base_url}/api/live", timeout=60) as answer:
            return json.load(answer)["frame"]

    def wait_for(self, condition) -> dict:
        """Wait until the frame meets a condition, and return it."""
        end = time.monotonic() + PATIENCE_S
        while time.monotonic() < end:
            frame = self.frame()
            if condition(frame):
                return frame
            self.page.wait_for_timeout(_LOOKS_MS)
        item = frame["item"] or {}
        shown = {name: item.get(name) for name in ("id", "shown", "as_expected", "again", "contradicted")}
        raise AssertionError(
            f"not met within {PATIENCE_S} s: {frame['phase']}, {shown}, {frame['rpm']} RPM, at {frame['at_s']} s, "
            f"paused {frame['paused']}, stale {frame['stale']}, trouble {frame['trouble']}, {frame['step']}, "
            f"levers {frame['levers']}; the screen says {self.page.inner_text('body')!r}"
        )

    def speed(self, times: int) -> None:
        """Press the speed button until it says so many times real time."""
        button = self.page.get_by_role("button", name="Speed of the simulated engine")
        for _ in range(6):
            if f"{times}×" in (button.text_content() or ""):
                return
            before = button.text_content()
            button.click()
            expect(button).not_to_have_text(before or "")
        raise AssertionError(f"the speed {times} cannot be chosen")

    def slide(self, name: str, value: float) -> None:
        """Set a slider of the column of levers; the stroke that begins at a gate goes through it."""
        slider = self.page.locator(".levers").get_by_role("slider", name=name)
        slider.fill(str(value))
        if abs(float(slider.input_value()) - value) > _LEVER_STEP:
            slider.fill(str(value))

    def press(self, name: str) -> None:
        """Press a button by its exact name."""
        self.page.get_by_role("button", name=name, exact=True).click()

    def go_on_in_spite(self, why: str) -> None:
        """Go on in spite of STOP with a reason; tapped again where the screen moved away from under the tap, as a pilot would."""
        self.page.get_by_role("button", name="in spite of STOP").click()
        on_record = self.page.get_by_role("button", name="Go on, on record")
        expect(on_record).to_be_disabled()
        self.page.get_by_label("Why?").fill(why)
        end = time.monotonic() + PATIENCE_S
        while on_record.is_visible():
            assert time.monotonic() < end, "the reason is not taken"
            on_record.click()
            self.page.wait_for_timeout(_LOOKS_MS)

    def mags(self, position: str) -> None:
        """Turn the magneto switch."""
        self.press(f"Magnetos {position}")

    def done(self, item: str | None = None) -> None:
        """Confirm the current item (which must be `item` if given), with the main button."""
        before = self.wait_for(lambda f: f["start"]["large"] is None)["item"]  # both hands are busy till then
        if before is None:
            return  # the needles have confirmed it meanwhile
        if item is not None:
            assert before["id"] == item, f"the screen is at {before['id']}, not {item}"
        self.sweep()
        if self.by_heart():
            self.tap_on_from(before)
            return
        if before["confirms_itself"] and before["as_expected"] and not before["again"]:
            # a needle that left its place again confirms nothing: the pilot ticks it then
            went_on = self.wait_for(lambda f: not self.is_at(f, before) or f["item"]["as_expected"] is False)
            if not self.is_at(went_on, before):
                return
        said = f"{before['engine_name'] or ''}: {before['challenge']}".removeprefix(": ")
        self.wait_for(lambda f: not self.is_at(f, before) or said in self.heading())
        self.tap_on_from(before)

    def tap_on_from(self, before: dict) -> None:
        """Tap the main button until the item is another one."""
        end = time.monotonic() + PATIENCE_S
        while self.is_at(self.frame(), before):  # else the needles were faster
            assert time.monotonic() < end, f"{before['id']} is not confirmed"
            self.page.locator("button.main").last.click()
            # a tap that went to what was there before: again, as a pilot would
            again = time.monotonic() + SOON_MS / 1000
            while self.is_at(self.frame(), before) and time.monotonic() < again:
                self.page.wait_for_timeout(_LOOKS_MS)

    @staticmethod
    def is_at(frame: dict, item: dict) -> bool:
        """Say whether an item is the one of this moment."""
        return (frame["item"] or {}).get("id") == item["id"]

    def heading(self) -> str:
        """Return what the screen says in large."""
        return self.page.get_by_role("heading", level=1).first.text_content() or ""

    def sweep(self) -> None:
        """Say that the flow is done, where the list begins with one."""
        if self.frame()["step"]["does"] == "flow":
            expect(self.page.get_by_role("heading", level=1)).to_contain_text(": flow")
            self.main()
            self.wait_for(lambda f: f["step"]["does"] != "flow")

    def by_heart(self) -> bool:
        """Say whether the current list is one for the air, confirmed as a whole."""
        return self.frame()["step"]["does"] == "by_heart"

    def main(self) -> None:
        """Press the main button."""
        self.page.locator("button.main").last.click()

    def caught_up(self) -> None:
        """Wait until the screen shows what the server knows: an older main button would confirm what is done already."""
        newest = self.frame()["last_seq"]
        self.wait_for(lambda _: int(self.page.locator("main.flight").get_attribute("data-seq") or -1) >= newest)

    def work_through(self) -> list[str]:
        """Take every list of every phase to its end as the screen leads, and end the flight; return the items done."""
        done = []
        while True:
            frame = self.frame()
            if frame["item"]:
                self.sweep()
                current = next(
                    (x for x in frame["lists"] if frame["item"]["id"] in [i["id"] for i in x["items"]]), None
                )
                by_heart = current is not None and self.by_heart()
                done += (
                    [i["id"] for i in current["items"] if not i["needs_own_tap"]]
                    if current and by_heart
                    else [frame["item"]["id"]]
                )
                self.done()
            elif any(p["keeps_open"] for p in frame["put_backs"]):
                self.put_back_what_is_open()
            elif frame["next_phase"]:
                self.next_phase()
            else:
                self.main()
                expect(self.page).to_have_url(f"{self.base_url}/records/{frame['flight']}")
                return done

    def done_to(self, item: str) -> None:
        """Confirm items until `item` is the current one, or the needles have confirmed it already."""
        for _ in range(80):
            frame = self.frame()
            current = frame["item"]
            if (current and current["id"] == item) or self.is_done(frame, item):
                return
            if current is None:
                self.put_back_what_is_open()
                self.next_phase()
            else:
                self.done()
        raise AssertionError(f"never came to {item}")

    @staticmethod
    def is_done(frame: dict, item: str) -> bool:
        """Say whether an item of this phase is confirmed."""
        return any(line["id"] == item and line["state"] == "done" for one in frame["lists"] for line in one["items"])

    def seen(self, item: str) -> None:
        """Wait until the needles have confirmed an item, or show it as expected."""
        self.wait_for(
            lambda f: self.is_done(f, item) or ((f["item"] or {}).get("id") == item and f["item"]["as_expected"])
        )

    def type_figures(self, item: dict, typed: dict[str, str]) -> int:
        """Type the figures of an item's check on the number pad, by the names of its fields; return how many taps that took."""
        figures = [typed[field["name"]] for field in item["fields"] if field["kind"] == "figure"]
        self.caught_up()
        pad = self.page.get_by_role("region", name="Type the figures")
        expect(pad).to_be_visible()  # a key before it would be lost
        for figure in figures:
            self.page.keyboard.type(figure)
            expect(pad.locator("[aria-pressed=true] b").first).to_contain_text(figure)
            self.press("Take this figure")
        self.wait_for(lambda f: f["item"]["id"] != item["id"] or f["item"]["finding"])
        return sum(len(figure) + 1 for figure in figures)

    def put_back_what_is_open(self) -> None:
        """Put back, by a tap, what was set for a moment and keeps the list open."""
        while keeping := [p for p in self.frame()["put_backs"] if p["keeps_open"]]:
            expect(self.page.get_by_role("heading", level=1)).to_have_text("Temporary setting still on")
            self.page.get_by_role("button", name=keeping[0]["back"], exact=True).click()
            self.wait_for(lambda f, k=keeping: k[0]["id"] not in [p["id"] for p in f["put_backs"]])

    def next_phase(self) -> None:
        """Go to the next phase when the list is complete; what kills may fall due again in that moment, and comes first."""
        before, end = self.frame()["phase"], time.monotonic() + PATIENCE_S
        while True:
            frame = self.wait_for(lambda f: f["phase"] != before or f["item"] or "is done" in self.heading())
            if frame["phase"] != before or frame["item"]:
                return
            self.caught_up()
            self.page.locator("button.main").last.click()
            again = time.monotonic() + SOON_MS / 1000
            while time.monotonic() < again:
                frame = self.frame()
                if frame["phase"] != before or frame["item"]:
                    return
                self.page.wait_for_timeout(_LOOKS_MS)
            # the tap went to an item that fell due and was seen by the needles in that same moment: tapped again, as a pilot would
            assert time.monotonic() < end, f"the phase after {before} is not entered: {frame['step']}"

    def start_engine(self, strokes: int = 3) -> None:
        """Follow the list from the first item until oil pressure shows."""
        self.slide("Throttle", 0.08)
        self.done_to("master_on")
        self.press("Master")
        self.seen("master_on")
        self.done_to("mixture_rich")
        self.slide("Mixture", 1)
        self.done_to("prime")
        for stroke in range(1, strokes + 1):
            self.press("Prime")
            self.wait_for(lambda f, n=stroke: f["strokes"] == n)
        self.press("Lock")
        self.done()
        self.next_phase()
        self.done_to("mags_both")
        self.mags("BOTH")
        self.done_to("crank")
        self.page.keyboard.down("s")
        self.wait_for(lambda f: (f["rpm"] or 0) > 500)
        self.page.keyboard.up("s")
        self.wait_for(lambda f: (f["item"] or {}).get("id") != "crank")  # the needles confirm it: no hand is free
        self.wait_for(lambda f: f["oil_clock"] and f["oil_clock"]["verdict"] == "seen")

    def hold_rpm(self, rpm: float, lever: float, within: float = 45.0) -> float:
        """Move the throttle until the needle settles near `rpm`; return the lever."""
        for _ in range(12):
            self.slide("Throttle", lever)
            start = self.frame()["at_s"]
            shown = self.wait_for(lambda f, s=start: f["at_s"] > s + 6)["rpm"]
            if abs(shown - rpm) < within:
                return lever
            lever = min(max(lever + (rpm - shown) / 9000, 0), 1)
        raise AssertionError(f"{rpm} RPM not reached, {shown} shown")

    def flight_seconds(self, seconds: float) -> None:
        """Let so much flight time pass."""
        start = self.frame()["at_s"]
        self.wait_for(lambda f: f["at_s"] > start + seconds)
