"""Drills in the browser: begun in two taps, flown by the levers on the screen, debriefed; an instructor's window; a controller."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.core.builders import PROFILES
from tests.e2e.cockpit import Cockpit

WELL = re.compile("Nothing to do differently")
PAD = """
window.axes = [-1, 0]
navigator.getGamepads = () => [{ id: 'quadrant', axes: window.axes, buttons: [] }]
"""


class Student:
    """A pilot in a drill, by the screen alone."""

    def __init__(self, page: Page, base_url: str):
        self.page, self.base_url, self.pilot = page, base_url, Cockpit(page, base_url)

    def begin(self, title: str, speed: int = 1) -> None:
        self.page.goto(self.base_url)
        self.page.get_by_role("link", name="Practice", exact=True).click()
        self.page.get_by_role("listitem").get_by_role("button", name=title).click()
        expect(self.page.get_by_role("region", name="Drill")).to_contain_text(title)
        if speed > 1:
            self.pilot.speed(speed)

    def say(self, cause: str) -> None:
        self.choose("What is it?", cause)

    def decide(self, decision: str) -> None:
        self.choose("What now?", decision)

    def choose(self, question: str, words: str) -> None:
        drill = self.page.get_by_role("region", name="Drill")
        drill.get_by_role("button", name=question).click()
        drill.get_by_role("button", name=words).click()
        expect(drill.get_by_role("button", name=re.compile(f"(It is|Decided): {words}"))).to_be_visible()

    def debrief(self) -> str:
        self.page.get_by_role("button", name="End, debrief").click()
        expect(self.page.get_by_role("heading", name="What happened")).to_be_visible()
        return self.page.locator("p.first").inner_text()

    def needle(self, name: str, is_met) -> None:
        self.pilot.wait_for(
            lambda f: any(i["id"] == name and i["value"] and is_met(i["value"]) for i in f["instruments"])
        )

    def throttle_back(self) -> None:
        self.pilot.slide("Throttle", 0.1)
        self.pilot.wait_for(lambda f: f["levers"]["throttle"] < 0.15)


def no_charge(one: Student) -> None:
    one.begin("The alternator that does not charge")
    one.needle("volts_v", lambda volts: volts < 26)
    one.say("The alternator")
    one.decide("Taxi back")
    one.throttle_back()


def low_suction(one: Student) -> None:
    one.begin("No suction")
    one.needle("suction_inhg", lambda inhg: inhg < 3.5)
    one.say("The suction pump")
    one.decide("Taxi back")
    one.throttle_back()


def dead_magneto(one: Student) -> None:
    one.begin("A magneto that misses")
    for side in ("L", "BOTH", "R"):
        one.pilot.mags(side)
        one.pilot.flight_seconds(1)
    one.say("A magneto that misses")
    one.pilot.mags("BOTH")
    one.decide("Taxi back")
    one.throttle_back()


def stuck_door(one: Student) -> None:
    one.begin("The heat that does not come")
    one.page.get_by_role("button", name="Carburettor heat").click()
    one.pilot.flight_seconds(8)
    one.say("The door does not open")
    one.page.get_by_role("button", name="Carburettor heat").click()
    one.pilot.wait_for(lambda f: f["levers"]["carb_heat"] < 0.05)
    one.decide("Taxi back")


def taxi_lean(one: Student) -> None:
    one.begin("Still leaned from taxiing")
    one.pilot.slide("Mixture", 1.0)
    one.pilot.wait_for(lambda f: f["levers"]["mixture"] > 0.98)
    one.pilot.slide("Throttle", 1.0)
    one.pilot.flight_seconds(12)


def engine_pump(one: Student) -> None:
    one.begin("The engine's own fuel pump")
    one.needle("fp_psi", lambda psi: psi < 9)
    one.page.get_by_role("button", name="Fuel pump").click()
    one.say("The engine's own pump")
    one.decide("Land at the nearest field")


@pytest.mark.parametrize("fly", [no_charge, low_suction, dead_magneto, stuck_door, taxi_lean, engine_pump])
def test_a_drill_is_flown_to_its_good_end(page: Page, server, fly):
    student = Student(page, server.base_url)
    fly(student)
    assert WELL.search(student.debrief())
    page.get_by_role("link", name="Other drills").click()
    expect(page.get_by_role("heading", name="How it goes")).to_be_visible()


def test_a_drill_that_is_flown_badly_says_the_one_thing_and_its_moment_is_flown_again(page: Page, server):
    student = Student(page, server.base_url)
    student.begin("The alternator that does not charge", speed=10)
    student.needle("volts_v", lambda volts: volts < 26)
    student.decide("Go on")
    assert "taxi back" in student.debrief()
    page.get_by_role("button", name="Fly this moment again").click()
    expect(page.get_by_role("region", name="Drill")).to_be_visible()
    student.needle("volts_v", lambda volts: volts < 26)
    student.say("The alternator")
    student.decide("Taxi back")
    student.throttle_back()
    assert WELL.search(student.debrief())
    page.goto(f"{server.base_url}/practice")
    expect(page.get_by_text("comes back today")).to_have_count(1)  # a moment flown again scores nothing


def test_an_instructor_sees_what_the_pilot_sees_gives_a_fault_and_lets_time_stand(page: Page, server):
    Student(page, server.base_url).begin("The heat that does not come")
    window = page.context.new_page()
    window.goto(f"{server.base_url}/instructor")
    expect(window.get_by_text("Named: nothing yet")).to_be_visible()
    window.get_by_role("button", name="Let time stand").click()
    expect(window.get_by_role("button", name="Time goes on")).to_be_visible()
    pilot = Cockpit(page, server.base_url)
    before = pilot.frame()["at_s"]
    window.wait_for_timeout(400)
    assert pilot.frame()["at_s"] == before
    window.get_by_role("button", name="Time goes on").click()
    window.get_by_role("combobox", name="Fault").click()
    window.get_by_role("option", name=re.compile("alternator's field is open")).click()
    window.get_by_role("button", name="Give it").click()
    pilot.wait_for(lambda f: any(i["id"] == "volts_v" and i["value"] and i["value"] < 26 for i in f["instruments"]))
    window.get_by_role("button", name="At a time").click()
    window.get_by_role("textbox", name="Flight time, seconds").fill("90000")
    window.get_by_role("button", name="Give it").click()
    expect(window.get_by_text("at 90000 s")).to_be_visible()
    window.reload()
    expect(window.get_by_text("at 90000 s")).to_be_visible()
    window.get_by_role("button", name="Take it back").click()
    expect(window.get_by_text("at 90000 s")).to_be_hidden()


def test_a_controller_learns_a_lever_by_moving_it_once(page: Page, server):
    page.add_init_script(PAD)
    Student(page, server.base_url).begin("Still leaned from taxiing")
    page.get_by_text("Controller: 0 of").click()
    page.get_by_role("button", name="Throttle: learn it").click()
    expect(page.get_by_text("Move its lever from closed to open, once.")).to_be_visible()
    page.evaluate("window.axes = [1, 0]")
    expect(page.get_by_role("button", name="Throttle: learned")).to_be_visible()
    pilot = Cockpit(page, server.base_url)
    page.evaluate("window.axes = [0, 0]")
    pilot.wait_for(lambda f: abs(f["levers"]["throttle"] - 0.5) < 0.03)


SPEAKS = """
window.said = []
window.SpeechSynthesisUtterance = function (text) { this.text = text }
Object.defineProperty(window, 'speechSynthesis', { value: { cancel() {}, speak(one) { window.said.push(one.text) } } })
"""


@pytest.mark.parametrize(
    ("choice", "says_items", "says_alarms"),
    [
        ("Nothing", False, False),
        ("Alarms", False, True),
        ("Items, verdicts and alarms", True, True),
    ],
)
def test_the_device_speaks_what_was_chosen(page: Page, server, choice, says_items, says_alarms):
    page.add_init_script(SPEAKS)
    page.goto(f"{server.base_url}/settings")
    page.get_by_role("button", name=choice, exact=True).click()
    student = Student(page, server.base_url)
    student.begin("The alternator that does not charge", speed=10)
    student.needle("volts_v", lambda volts: volts < 26)
    expect(page.locator(".spoken [aria-live=assertive]")).to_contain_text("Bus voltage low")
    said = page.evaluate("window.said")
    assert any("Position" in words for words in said) is says_items, said
    assert ("Bus voltage low" in said) is says_alarms, said


def test_a_mixture_is_held_at_its_gate_until_a_second_stroke(page: Page, server):
    pilot = Cockpit(page, server.base_url)
    pilot.begin()
    pilot.slide("Mixture", 1)
    gate = PROFILES["a-trainer"].bench["mixture_cutoff_lever"]
    slider = page.locator(".levers").get_by_role("slider", name="Mixture")

    def pull_to_the_stop() -> None:
        slider.scroll_into_view_if_needed()
        box = slider.bounding_box()
        middle = box["y"] + box["height"] / 2
        page.mouse.move(box["x"] + 8 + (box["width"] - 16) * float(slider.input_value()), middle)
        page.mouse.down()
        page.mouse.move(box["x"] + 1, middle, steps=6)
        page.mouse.up()

    page.locator(".levers").get_by_role("slider", name="Throttle").focus()  # the hand comes from another lever
    pull_to_the_stop()
    expect(page.get_by_text("At the gate: let go, then on.")).to_be_visible()
    pilot.wait_for(lambda f: f["levers"]["mixture"] == pytest.approx(gate, abs=0.006))
    pull_to_the_stop()
    pilot.wait_for(lambda f: f["levers"]["mixture"] < 0.02)
    expect(page.get_by_text("At the gate: let go, then on.")).to_have_count(0)
