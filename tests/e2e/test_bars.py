"""What a newcomer meets, as bars: taps until the engine runs, a run-up by keys alone, what a screen reader hears."""

from playwright.sync_api import Page, expect

from tests.core.builders import PROFILES
from tests.e2e.cockpit import Cockpit

MOST_TAPS = 25
LISTEN = """() => {
  window.heard = []
  const tell = (node) => {
    const live = (node.nodeType === 1 ? node : node.parentElement)?.closest('[aria-live], [role=alert], [role=status]')
    if (live && live.textContent.trim()) window.heard.push(live.textContent.trim())
  }
  new MutationObserver((rows) => rows.forEach((row) => {
    if (row.type === 'characterData') tell(row.target)
    row.addedNodes.forEach(tell)
  })).observe(document.body, { subtree: true, childList: true, characterData: true })
}"""


class Student:
    """Does what the screen asks for, one tap after the other, and counts them."""

    def __init__(self, pilot: Cockpit):
        self.pilot, self.taps = pilot, 0

    def tap(self, name: str) -> None:
        self.pilot.press(name)
        self.taps += 1

    def slide(self, name: str, value: float) -> None:
        self.pilot.slide(name, value)
        self.taps += 1

    def done(self) -> None:
        self.pilot.done()
        self.taps += 1

    def step(self, frame: dict) -> None:
        """Take the item of this moment."""
        item = frame["item"]
        if item is None:
            self.pilot.main()
            self.taps += 1
            self.pilot.wait_for(lambda f: f["phase"] != frame["phase"])
            return
        wanted = item["as_expected"] is False
        if item["watch"] == "start":
            self.pilot.page.keyboard.down("s")
            self.pilot.wait_for(lambda f: (f["rpm"] or 0) > 500)
            self.pilot.page.keyboard.up("s")
            self.taps += 1
            self.pilot.wait_for(lambda f: f["oil_clock"] and f["oil_clock"]["verdict"] == "seen")
            return
        if item["counts"] is not None:
            for stroke in range(1, round(frame["advice"]["strokes"]) + 1):
                self.tap("Prime")
                self.pilot.wait_for(lambda f, n=stroke: f["strokes"] >= n)
            self.tap("Lock")
        elif wanted and item["lever"] == "mag":
            self.tap("Magnetos BOTH")
        elif wanted and item["lever"] == "master":
            self.tap("Master")
        elif wanted and item["lever"] == "throttle":
            self.slide("Throttle", ((item["lowest"] or 0) + (item["highest"] or 0.1)) / 2)
        elif wanted and item["lever"] == "mixture":
            self.slide("Mixture", 1)
        if wanted:
            self.pilot.wait_for(lambda f: (f["item"] or {}).get("id") != item["id"] or f["item"]["as_expected"])
        if (self.pilot.frame()["item"] or {}).get("id") == item["id"]:
            self.done()


def test_a_student_has_oil_pressure_in_a_few_taps(page: Page, server):
    page.goto(server.base_url)
    page.get_by_role("button", name="ZZ-WRN").click()
    page.get_by_role("button", name="Practise on the simulated engine").click()
    expect(page.locator("main.flight")).to_be_visible()
    page.get_by_role("button", name="Only what starts it").click()
    pilot = Cockpit(page, server.base_url)
    student = Student(pilot)
    student.taps = 3
    pilot.wait_for(lambda f: any(i["state"] == "skipped" for one in f["lists"] for i in one["items"]))
    for _ in range(40):
        frame = pilot.frame()
        if frame["oil_clock"] and frame["oil_clock"]["verdict"] == "seen":
            break
        student.step(frame)
    assert frame["oil_clock"]["verdict"] == "seen"
    assert student.taps <= MOST_TAPS, student.taps


def test_a_whole_run_up_by_keys_alone(page: Page, server):
    pilot = Cockpit(page, server.base_url)
    pilot.begin()
    pilot.start_engine()
    pilot.slide("Throttle", 0.12)  # minutes at idle would foul the plugs, and a busy machine takes minutes
    pilot.done_to("oil_warm")
    pilot.speed(60)
    pilot.seen("oil_warm")
    pilot.speed(4)
    pilot.done_to("set_runup")
    keys = page.keyboard
    keys.press("t")
    keys.press("Home")
    for key in ["PageUp"] * 3 + ["ArrowUp"] * 8:
        keys.press(key)
    pilot.wait_for(lambda f: 1_650 < f["rpm"] < 1_950)
    while pilot.frame()["item"]["id"] != "mags":
        before = pilot.frame()["item"]["id"]
        page.wait_for_timeout(350)
        keys.press(" ")
        pilot.wait_for(lambda f, b=before: f["item"]["id"] != b)
    pilot.flight_seconds(5)
    page.evaluate(LISTEN)
    for side in ("l", "r"):
        keys.press(side)
        pilot.flight_seconds(6)
        keys.press("b")
        pilot.flight_seconds(6)
    found = pilot.wait_for(lambda f: f["item"]["finding"])["item"]["finding"]
    assert found["verdict"] == "within", str(found)
    expect(page.get_by_label("Run-up working")).to_contain_text("Magnetos: within")
    page.wait_for_timeout(500)
    assert len([words for words in page.evaluate("window.heard") if words.startswith("Magnetos: within")]) == 1


def test_a_screen_reader_hears_an_item_once_and_nothing_while_nothing_changes(page: Page, server):
    pilot = Cockpit(page, server.base_url)
    pilot.begin()
    pilot.slide("Throttle", 0.1)
    pilot.done_to("trims")
    page.evaluate(LISTEN)
    pilot.flight_seconds(8)
    assert page.evaluate("window.heard") == []
    pilot.done("trims")
    page.wait_for_timeout(500)
    heard = page.evaluate("window.heard")
    item = pilot.frame()["item"]
    assert heard == [f"{item['challenge']}: {item['response']}"]


TYPED = {
    "base_rpm": "1800",
    "left_rpm": "1740",
    "right_rpm": "1730",
    "restored_rpm": "1800",
    "low_rpm": "1720",
    "idle_rpm": "650",
}
MOST_FOR_FIGURES = 60


def test_by_hand_to_take_off_costs_one_tap_an_item_and_sixty_for_the_figures(page: Page, server):
    pilot = Cockpit(page, server.base_url)
    pilot.begin(by_hand=True)
    asked: list[str] = []
    taps = typed = 0
    while (frame := pilot.frame())["phase"] != "take_off_climb":
        assert taps < 200, frame["item"]
        item = frame["item"]
        if item and item["manual"] and not item["finding"]:
            typed += pilot.type_figures(item, TYPED)
            continue
        step = frame["step"]  # a flow is one tap, and so is the list that is read against it
        whole = f"{step['does']} {step['list']}" if step["does"] in ("flow", "by_heart") else None
        asked.append(whole or (item["id"] if item else frame["phase"]))
        pilot.caught_up()
        pilot.main()
        taps += 1
        seq = frame["last_seq"]
        pilot.wait_for(lambda f, s=seq: f["last_seq"] > s)
    assert typed <= MOST_FOR_FIGURES, typed
    again = {name for name in asked if asked.count(name) > 1}
    assert all(PROFILES["a-trainer"].items[name].killer for name in again), again  # what kills is read twice
