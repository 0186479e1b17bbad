"""A whole flight of the injected six in fast time: climb by steps, cruise at 65 % lean of peak, tank change, descent; and the
warnings of power, as a pilot meets them."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.cockpit import Cockpit
from tests.e2e.test_whole_flight import assert_fits_every_screen, picture

TOURER = "ZZ-HRN"


def start_tourer(pilot: Cockpit) -> None:
    """From the first item to oil pressure: primed by the pump, in a hurry through the rest of the lists."""
    pilot.slide("Throttle", 0.1)
    pilot.slide("Mixture", 1)
    pilot.done_to("master_on")
    pilot.press("Master")
    pilot.seen("master_on")
    pilot.done_to("cold_prime")
    pilot.page.keyboard.press("f")
    pilot.flight_seconds(6)
    pilot.page.keyboard.press("f")
    pilot.done_to("mags_both")
    pilot.mags("BOTH")
    pilot.done_to("crank")
    pilot.page.keyboard.down("s")
    pilot.wait_for(lambda f: (f["rpm"] or 0) > 500)
    pilot.page.keyboard.up("s")
    pilot.wait_for(lambda f: f["oil_clock"] and f["oil_clock"]["verdict"] == "seen")


def take_off(page: Page, pilot: Cockpit) -> None:
    pilot.done_to("oil_runup")
    pilot.speed(60)
    pilot.slide("Throttle", 0.16)
    pilot.done_to("oil_to")
    pilot.seen("oil_to")
    pilot.flight_seconds(120)  # not by a hair: it cools a little while the lists are worked through
    pilot.speed(1)
    pilot.done_to("full_power")
    pilot.slide("Throttle", 1)
    watch = pilot.wait_for(lambda f: (f["working"].get("take_off") or {}).get("settled"))["working"]["take_off"]
    assert watch["stop"] is None
    expect(page.get_by_label("In the air")).to_contain_text("Manifold pressure")
    picture(page, "flight-take-off")
    assert_fits_every_screen(page)


def set_wanted(page: Page, pilot: Cockpit, name: str) -> None:
    """Ask for a power and follow its steps by throttle and propeller until the screen is calm."""
    page.get_by_role("group", name="Set power").get_by_role("button", name=re.compile(name)).click()
    wanted = pilot.wait_for(lambda f: f["power"]["wanted"])["power"]["wanted"]
    throttle, propeller = float(pilot.frame()["levers"]["throttle"]), float(pilot.frame()["levers"]["prop"])
    for _ in range(40):
        frame = pilot.frame()
        wanted = frame["power"]["wanted"]
        if wanted["there"]:
            break
        step = wanted["steps"][0]
        asked = float(re.sub(r"[^0-9.]", "", step.split()[-1]) or 0)
        if step.startswith("RPM"):
            propeller += (asked - frame["rpm"]) / 1215
            pilot.slide("Propeller", round(min(max(propeller, 0), 1), 3))
        elif step.startswith("Manifold"):
            pressure = next(i["value"] for i in frame["instruments"] if i["id"] == "map_inhg")
            throttle += (asked - pressure) * 0.02
            pilot.slide("Throttle", round(min(max(throttle, 0), 1), 3))
        pilot.flight_seconds(5)
    assert wanted["there"], wanted
    expect(page.get_by_label("Power", exact=True)).to_contain_text("Within the band")
    page.get_by_role("button", name="Done with it").click()


def lean_past_the_last(page: Page, pilot: Cockpit) -> None:
    """Pull until every cylinder has peaked, and stop where the screen says so."""
    pilot.press("30 °F lean of last to peak")
    pilot.speed(4)
    lever = float(pilot.frame()["levers"]["mixture"])
    for _ in range(90):
        lean = pilot.frame()["working"].get("lean")
        if lean and lean["say"] == "At the target":
            break
        closer = lean and lean["last"] and lean["side"] == "lean"
        lever -= (
            0.004 if closer and lean["say"] == "Leaner" else -0.004 if closer and lean["say"] == "Richer" else 0.012
        )
        pilot.slide("Mixture", round(lever, 3))
        pilot.flight_seconds(5 if closer else 1.2)
    found = pilot.wait_for(lambda f: (f["item"]["finding"] or {}).get("measured", {}).get("side") == "lean")
    measured = found["item"]["finding"]["measured"]
    assert measured["last_to_peak"] in (4, 6), "the richest by its profile"
    assert 10 < measured["offset_f"] < 60
    assert_fits_every_screen(page)
    picture(page, "flight-lean-of-peak")


def test_the_tourer_climbs_cruises_lean_of_peak_changes_tanks_and_comes_down(page: Page, server):
    pilot = Cockpit(page, server.base_url)
    pilot.begin(registration=TOURER)
    start_tourer(pilot)
    take_off(page, pilot)
    pilot.speed(10)
    pilot.done_to("climb_power")
    pressure_ahead_is_said(page, pilot)
    set_wanted(page, pilot, "Climb")
    said = set()
    pilot.speed(60)
    pilot.wait_for(lambda f: remember(said, f) and f["palt_ft"] > 2500)
    pilot.speed(10)
    top = pilot.wait_for(lambda f: remember(said, f) and f["palt_ft"] > 5700)
    assert {"traffic", "climb_lean"} <= said
    sentences_follow_the_units(page)
    assert top["power"]["best_pct"] < 90
    pilot.done_to("cruise_power")
    pilot.flight_seconds(60)
    pilot.slide("Throttle", 1)
    pilot.slide("Propeller", 1)
    lean_of_peak_is_refused_at_high_power(page, pilot)
    set_wanted(page, pilot, "65 %")
    pilot.done_to("lean")
    lean_past_the_last(page, pilot)
    pilot.done("lean")
    power = pilot.wait_for(lambda f: f["power"]["by_flow_pct"])["power"]
    assert 52 < power["best_pct"] < 72
    change_tanks(page, pilot)
    come_down(pilot)


def pressure_ahead_is_said(page: Page, pilot: Cockpit) -> None:
    """Propeller back first, throttle still open: the wrong order."""
    pilot.slide("Throttle", 1)
    pilot.slide("Propeller", 0.2)
    expect(page.get_by_role("alert").filter(has_text="is ahead of RPM")).to_be_visible()
    pilot.slide("Propeller", 1)
    expect(page.get_by_role("alert").filter(has_text="is ahead of RPM")).to_be_hidden()


def sentences_follow_the_units(page: Page) -> None:
    """What is said of the heads is in the unit on display, like the needles beside it."""
    air = page.get_by_label("In the air")
    expect(air).to_contain_text(re.compile(r"\d{3} °F"))
    page.get_by_role("button", name="Display: units, look, hand and sound").click()
    page.get_by_title("Switch units").click()
    expect(air).to_contain_text(re.compile(r"\d{2,3} °C"))
    expect(air).not_to_contain_text("°F")
    page.get_by_title("Switch units").click()
    page.get_by_role("button", name="Display: units, look, hand and sound").click()


def lean_of_peak_is_refused_at_high_power(page: Page, pilot: Cockpit) -> None:
    pilot.done_to("lean")
    pilot.press("30 °F lean of last to peak")
    pilot.wait_for(lambda f: f["power"]["best_pct"] > 76)
    expect(page.get_by_role("alert").filter(has_text="not lean of peak")).to_be_visible()
    page.get_by_role("button", name="Take back the last step").click()
    pilot.wait_for(lambda f: f["item"]["id"] == "cowl_closed")


def remember(said: set, frame: dict) -> bool:
    said |= {line["id"] for line in frame["working"].get("lines") or []}
    return True


def change_tanks(page: Page, pilot: Cockpit) -> None:
    fuel = page.get_by_label("Fuel", exact=True)
    for tank in range(2):
        box = fuel.locator("input").first
        box.fill("30")
        box.press("Enter")
        expect(fuel.locator("input")).to_have_count(1 - tank)
    fuel.get_by_role("button", name="Left").click()
    pilot.wait_for(lambda f: f["fuel"]["tanks"][0]["feeds"])
    pilot.speed(60)
    due = pilot.wait_for(lambda f: f["fuel"]["due_s"] is not None and f["fuel"]["due_s"] <= 0)
    assert due["fuel"]["next"] == "Right"
    expect(fuel).to_contain_text("Change to Right now")
    pilot.speed(1)
    pilot.press("RIGHT")
    fuel.get_by_role("button", name="Right").click()
    expect(fuel).to_contain_text("Watch pressure and flow")
    assert_fits_every_screen(page)
    picture(page, "flight-tanks")
    used = pilot.frame()["fuel"]["tanks"][0]
    assert 3 < used["used_gal"] < 10
    assert used["remaining_gal"] == pytest.approx(30 - used["used_gal"], abs=0.2)


def come_down(pilot: Cockpit) -> None:
    pilot.done_to("power_down")
    pilot.speed(60)
    pilot.slide("Throttle", 0.4)
    pilot.flight_seconds(120)
    said = {line["id"] for line in pilot.frame()["working"].get("lines") or []}
    assert "lean_again" in said or "head" in said
    pilot.slide("Mixture", 1)
    pilot.slide("Throttle", 0.12)
    pilot.speed(60)
    pilot.flight_seconds(500)
    pilot.done_to("cool")
    line = pilot.wait_for(lambda f: "cooling" in {x["id"] for x in f["working"].get("lines") or []})
    assert line["rpm"] < 1400
