"""Lists in the browser: whole aircraft by hand, ways of reading, setting aside, put-backs, weather, contrast."""

import subprocess
import sys
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from jemmon.library.shipped import shipped_profiles
from tests.conftest import Server, free_port
from tests.e2e.cockpit import SOON_MS, Cockpit

AXE = Path(__file__).parents[2] / "frontend/node_modules/axe-core/axe.min.js"
_CHECK = """async () => {
  const rules = { 'color-contrast-enhanced': { enabled: true } }
  const found = await axe.run({ rules })
  return found.violations.filter((v) => ['serious', 'critical'].includes(v.impact))
    .map((v) => `${v.id}: ${v.nodes.map((n) => n.html.slice(0, 160)).join(' | ')}`)
}"""


@pytest.mark.parametrize("registration", ["ZZ-PTR", "ZZ-DLN"])
def test_an_aircraft_is_taken_through_all_its_lists_by_hand(page: Page, server, registration):
    profile = next(p for p in shipped_profiles().values() if p.registration == registration)
    pilot = Cockpit(page, server.base_url)
    pilot.begin(by_hand=True, registration=registration)
    done = pilot.work_through()
    fits = set(profile.items)
    of_other_starts = {
        i.id
        for p in profile.phases
        for one in p.lists
        for i in one.items
        if one.id.startswith(("hot", "flood")) or {c.equals for c in i.only_if if c.of == "start"} & {"hot", "flooded"}
    }
    assert fits - of_other_starts == set(done)
    expect(page.get_by_text("Nothing was measured in this flight.")).to_be_visible()


def test_flow_then_read_two_people_and_not_now(page: Page, server):
    pilot = Cockpit(page, server.base_url)
    pilot.begin(by_hand=True)
    page.get_by_role("button", name="Two people").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("Read out: The day")
    pilot.done_to("brakes")
    page.get_by_role("button", name="Not now").click()
    page.get_by_role("button", name="Later: busy now").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("Throttle")
    line = page.get_by_role("listitem").filter(has_text="Brakes")
    expect(line).to_contain_text("Later: busy now")
    line.get_by_role("button", name="Take up").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("Brakes")
    page.get_by_role("button", name="Flow, then read").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("Before start: flow")
    pilot.main()
    expect(page.get_by_role("heading", level=1)).to_have_text("Before start")
    pilot.main()
    expect(page.get_by_role("heading", level=1)).to_have_text("Fuel")  # a killer item has a tap of its own


def test_an_interruption_keeps_the_place(page: Page, server):
    pilot = Cockpit(page, server.base_url)
    pilot.begin(by_hand=True)
    pilot.done("day")
    page.get_by_role("button", name="Interrupted").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("Interrupted")
    page.reload()
    expect(page.get_by_text("The place is kept: Weather")).to_be_visible()
    pilot.main()
    expect(page.get_by_role("heading", level=1)).to_have_text("Weather")


def test_a_phase_is_not_complete_with_something_set_until_carried_on_with(page: Page, server):
    pilot = Cockpit(page, server.base_url)
    pilot.begin(by_hand=True, registration="ZZ-DLN")
    page.get_by_role("button", name="Note a temporary setting").click()
    page.get_by_role("button", name="Alternator is off").click()
    while pilot.frame()["item"]:
        pilot.done()
    expect(page.get_by_role("heading", level=1)).to_have_text("Temporary setting still on")
    expect(page.get_by_role("button", name="Put back first")).to_have_attribute("aria-disabled", "true")
    page.get_by_role("button", name="Leave it on purpose").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("is done")
    expect(page.get_by_label("Temporary settings")).to_contain_text("left on purpose")


def test_weather_that_does_not_answer_is_said_soon_and_typed_figures_do(page: Page, server):
    pilot = Cockpit(page, server.base_url)
    pilot.begin(by_hand=True)
    pilot.done_to("weather")
    page.get_by_role("button", name="Ask the weather service").click()
    expect(page.get_by_role("alert")).to_contain_text("does not answer", timeout=SOON_MS)
    page.get_by_label("Wind from °").fill("240")
    page.get_by_label("Wind kt").fill("12")
    page.get_by_role("button", name="Use these").click()
    expect(page.get_by_text("turn to 240 to face the wind")).to_be_visible()


@pytest.mark.parametrize(("mode", "says"), [("nonsense", "not a METAR"), ("slow", "does not answer"), ("ok", None)])
def test_the_weather_service_in_every_mood(tmp_path, page: Page, mode, says):
    port = free_port()
    service = subprocess.Popen([sys.executable, "-m", "jemmon.cli", "weather", "--port", str(port), "--mode", mode])
    own = Server(tmp_path / "x.db", free_port(), options=("--weather-url", f"http://127.0.0.1:{port}"))
    own.start()
    try:
        pilot = Cockpit(page, own.base_url)
        pilot.begin(by_hand=True)
        pilot.done_to("weather")
        page.get_by_role("button", name="Ask the weather service").click()
        if says:
            expect(page.get_by_role("alert")).to_contain_text(says, timeout=SOON_MS)
        else:
            expect(page.get_by_label("Temperature °F")).not_to_have_value("")
        pilot.done("weather")
    finally:
        own.kill()
        service.kill()
        service.wait()


@pytest.mark.parametrize("look", ["day", "night"])
def test_no_serious_accessibility_fault_at_enhanced_contrast(page: Page, server, look):
    page.add_init_script(f"localStorage.setItem('look', '{look}')")
    pilot = Cockpit(page, server.base_url)
    pilot.begin()
    for item in ("day", "weather", "brakes"):
        pilot.done_to(item)
        page.evaluate(AXE.read_text())
        assert page.evaluate(_CHECK) == [], item


def test_a_profile_is_read_in_and_a_wrong_one_is_refused_by_its_place(page: Page, server, tmp_path):
    import json

    body = dict(shipped_profiles()["h-geared"].body)
    body |= {"id": "mine", "registration": "ZZ-MIN", "name": "<script>alert(1)</script>"}
    good, bad = tmp_path / "good.json", tmp_path / "bad.json"
    good.write_text(json.dumps(body))
    bad.write_text(
        json.dumps(
            {**body, "limits": {**body["limits"], "oil_presure_min_psi": body["limits"]["oil_pressure_min_psi"]}}
        )
    )
    page.goto(server.base_url)
    page.get_by_label("Read an aircraft profile in").set_input_files(bad)
    expect(page.get_by_role("alert")).to_contain_text("oil_pressure_min_psi")
    page.get_by_label("Read an aircraft profile in").set_input_files(good)
    expect(page.get_by_role("status")).to_contain_text("ZZ-MIN is read in")
    expect(page.get_by_text("<script>alert(1)</script>").first).to_be_visible()


def test_a_run_up_by_hand_is_a_tap_a_figure_and_a_slip_is_taken_back_in_one(page: Page, server):
    pilot = Cockpit(page, server.base_url)
    pilot.begin(by_hand=True)
    pilot.tell("phase_entered", {"phase": "run_up"})
    pilot.done_to("mags")
    pad = page.get_by_role("region", name="Type the figures")
    near = pad.get_by_role("group")
    near.get_by_role("button", name="1800", exact=True).click()
    near.get_by_role("button", name="1680", exact=True).click()
    expect(pad.get_by_role("button", name="Left, lowest: 1680 (120)")).to_be_visible()
    pad.get_by_role("button", name="Last figure again").click()
    near.get_by_role("button", name="1740", exact=True).click()
    near.get_by_role("button", name="1740", exact=True).click()
    near.get_by_role("button", name="1800", exact=True).click()
    found = pilot.wait_for(lambda f: f["item"] and f["item"]["finding"])["item"]["finding"]
    assert found["verdict"] == "within"
    assert "60" in found["because"]


def test_a_pedal_is_learned_by_pressing_it_once_and_does_done_whatever_has_the_focus(page: Page, server):
    page.goto(f"{server.base_url}/settings")
    page.get_by_role("button", name="Done: learn a key or pedal").click()
    page.keyboard.press("F8")
    expect(page.get_by_role("button", name="Done: F8")).to_be_visible()
    page.get_by_role("button", name="Back: learn a key or pedal").click()
    page.keyboard.press("F9")
    pilot = Cockpit(page, server.base_url)
    pilot.begin(by_hand=True)
    first = pilot.frame()["item"]["id"]
    page.get_by_role("button", name="Emergency").focus()
    page.keyboard.press("F8")
    pilot.wait_for(lambda f: f["item"]["id"] != first)
    page.keyboard.press("F9")
    pilot.wait_for(lambda f: f["item"]["id"] == first)


def test_needles_of_a_pulled_instrument_are_called_old_soon(page: Page, server):
    port = free_port()
    device = subprocess.Popen([sys.executable, "-m", "jemmon.cli", "device", "--port", str(port), "--speed", "4"])
    try:
        page.goto(f"{server.base_url}/settings")
        page.get_by_label("Port").fill(str(port))
        page.get_by_role("button", name="Keep", exact=True).click()
        expect(page.get_by_role("status")).to_contain_text("Kept")
        page.goto(server.base_url)
        page.get_by_role("button", name="ZZ-WRN").click()
        page.get_by_label("Type the registration").fill("ZZ-WRN")
        page.get_by_role("button", name="Begin with an instrument").click()
        expect(page.get_by_text("Live from the instrument.")).to_be_visible(timeout=60_000)
    finally:
        device.kill()
        device.wait()
    expect(page.get_by_text("No reading from the instrument.")).to_be_visible(timeout=SOON_MS)


def test_by_hand_needles_are_typed_and_the_lists_go_by_them(page: Page, server):
    pilot = Cockpit(page, server.base_url)
    pilot.begin(by_hand=True)
    needles = page.get_by_label("Needles, typed")
    needles.get_by_role("button", name="Oil temperature").click()
    expect(needles.get_by_role("button", name="Bus voltage")).to_have_count(0)
    for digit in "95":
        needles.get_by_role("button", name=digit, exact=True).click()
    needles.get_by_role("button", name="Take this figure").click()
    pilot.wait_for(lambda f: next(i for i in f["instruments"] if i["id"] == "oil_t_f")["value"] == 95)
    expect(needles.get_by_role("button", name="Oil temperature")).to_contain_text("typed just now")
    needles.get_by_role("button", name="Oil temperature").click()
    needles.get_by_role("button", name="+5", exact=True).click()
    needles.get_by_role("button", name="Take this figure").click()
    pilot.wait_for(lambda f: next(i for i in f["instruments"] if i["id"] == "oil_t_f")["value"] == 100)
    needles.get_by_role("button", name="Oil temperature").click()
    needles.get_by_role("button", name="Same as before").click()
    expect(needles.get_by_role("button", name="Bus voltage")).to_be_visible()
    assert next(i for i in pilot.frame()["instruments"] if i["id"] == "oil_t_f")["state"] == "ok"


def test_a_list_stays_where_the_hand_has_scrolled_it_till_the_next_item(page: Page, server):
    pilot = Cockpit(page, server.base_url)
    pilot.begin()
    pilot.done_to("oil_quantity")
    items = page.get_by_role("list", name="Items of").first
    items.evaluate("box => { box.scrollTop = 60 }")
    there = items.evaluate("box => box.scrollTop")
    assert there > 0
    seen = pilot.frame()["at_s"]
    pilot.wait_for(lambda f: f["at_s"] > seen + 2)
    assert items.evaluate("box => box.scrollTop") == there
    pilot.end()
