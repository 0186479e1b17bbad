"""One whole flight through the real interface on the simulated engine, and the run-up of one by hand."""

import os
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.e2e.cockpit import Cockpit

PICTURES = os.environ.get("JEMMON_PICTURES")


def picture(page: Page, name: str) -> None:
    """Keep a picture of the screen when asked to (JEMMON_PICTURES=folder)."""
    if PICTURES:
        page.wait_for_timeout(400)
        page.screenshot(path=Path(PICTURES) / f"{name}.png")


def assert_nothing_cut(page: Page, scrolls: bool) -> None:
    """No text is wider than its box, nothing runs off the page sideways, and (unless it scrolls) nothing below."""
    cut = page.evaluate(
        """() => {
          const bad = []
          for (const e of document.querySelectorAll('button, p, h1, span, li, a, b')) {
            const box = e.getBoundingClientRect()
            if (!box.width || getComputedStyle(e).clipPath !== 'none') continue
            if (e.scrollWidth > e.clientWidth + 1 && getComputedStyle(e).display !== 'inline') bad.push('cut: ' + e.textContent)
            if (box.right > innerWidth + 1 || box.left < -1) bad.push('off: ' + e.textContent)
          }
          return bad
        }"""
    )
    assert cut == []
    width, height = page.evaluate(
        "() => [document.documentElement.scrollWidth - innerWidth, document.documentElement.scrollHeight - innerHeight]"
    )
    assert width <= 0
    assert scrolls or height <= 0


def assert_fits_every_screen(page: Page) -> None:
    for width, height in ((1280, 800), (1024, 768), (390, 844)):
        page.set_viewport_size({"width": width, "height": height})
        page.wait_for_timeout(150)
        assert_nothing_cut(page, scrolls=width < 700)
        for part in (
            page.get_by_label("Now", exact=True),
            page.get_by_label("Temporary settings"),
            page.locator("button.main").last,
        ):
            box = part.bounding_box()
            assert box is not None
            assert box["y"] + box["height"] <= height, f"{part} is below the first view at {width} px"
    page.set_viewport_size({"width": 1280, "height": 800})


def test_whole_flight_on_the_simulated_engine(page: Page, server):
    problems = []
    page.on("console", lambda m: problems.append(m.text) if m.type == "error" else None)
    page.on("pageerror", lambda error: problems.append(str(error)))
    pilot = Cockpit(page, server.base_url)
    pilot.begin()
    assert_fits_every_screen(page)
    pilot.start_engine()
    expect(page.get_by_label("Hands full")).to_contain_text("OIL PRESSURE")
    warm_up(pilot)
    run_up(page, pilot)
    take_off_and_lean(page, pilot)
    shut_down(pilot)
    page.locator("button.main").last.click()
    expect(page.get_by_role("heading", name="Judged")).to_be_visible()
    for kind in ("Start", "Magnetos", "Carburettor heat", "Idle", "Leaning"):
        expect(page.get_by_role("region", name="Trace").get_by_role("button", name=kind).first).to_be_visible()
    expect(page.get_by_text("Trace as CSV")).to_be_visible()
    picture(page, "record")
    assert problems == []


def warm_up(pilot: Cockpit) -> None:
    pilot.done_to("taxi_lean")
    pilot.slide("Throttle", 0.12)
    pilot.slide("Mixture", 0.5)
    pilot.speed(60)
    pilot.wait_for(lambda f: any(p["id"] == "taxi_lean" for p in f["put_backs"]))
    pilot.done_to("oil_warm")
    pilot.seen("oil_warm")
    pilot.slide("Mixture", 1)
    pilot.wait_for(lambda f: not f["put_backs"])


def run_up(page: Page, pilot: Cockpit) -> None:
    pilot.speed(4)
    pilot.done_to("set_runup")
    pilot.hold_rpm(1800, 0.34)
    pilot.done_to("mags")
    pilot.speed(1)
    pilot.flight_seconds(5)
    pilot.mags("L")
    pilot.wait_for(lambda f: any(p["id"] == "one_magneto" for p in f["put_backs"]))
    pilot.flight_seconds(5)
    expect(page.get_by_label("Run-up working")).to_contain_text("left settled")
    picture(page, "flight-one-magneto")
    assert_fits_every_screen(page)
    pilot.mags("BOTH")
    pilot.flight_seconds(5)
    pilot.mags("R")
    pilot.flight_seconds(5)
    pilot.mags("BOTH")
    frame = pilot.wait_for(lambda f: f["item"]["finding"])
    finding = frame["item"]["finding"]
    assert finding["verdict"] == "within"
    assert 40 < finding["measured"]["drop_left_rpm"] < 110
    assert finding["measured"]["difference_rpm"] < 50
    expect(page.get_by_label("Magnetos", exact=True)).to_contain_text("within")
    assert_fits_every_screen(page)
    pilot.done("mags")
    pilot.speed(4)
    page.keyboard.press("h")
    pilot.wait_for(lambda f: any(p["id"] == "carb_heat" for p in f["put_backs"]))
    pilot.flight_seconds(8)
    page.keyboard.press("h")
    frame = pilot.wait_for(lambda f: f["item"]["finding"])
    assert frame["item"]["finding"]["kind"] == "carb_heat_check"
    assert frame["item"]["finding"]["verdict"] == "within"
    pilot.done_to("idle")
    pilot.slide("Throttle", 0)
    pilot.flight_seconds(10)
    pilot.slide("Throttle", 0.1)
    assert pilot.wait_for(lambda f: f["item"]["finding"])["item"]["finding"]["kind"] == "idle_check"
    pilot.done()


def take_off_and_lean(page: Page, pilot: Cockpit) -> None:
    pilot.done_to("pump_on")
    page.keyboard.press("f")
    pilot.done_to("full_power")
    pilot.speed(10)
    pilot.slide("Throttle", 1)
    pilot.done_to("pump_off")
    page.keyboard.press("f")
    pilot.speed(60)
    pilot.flight_seconds(320)
    pilot.speed(10)  # on a slow machine minutes pass per item at 60 times: level at full throttle the engine overspeeds
    pilot.done_to("cruise_power")
    pilot.slide("Throttle", 0.62)
    pilot.flight_seconds(60)
    pilot.done_to("lean")
    lean_to_fifty_rich(page, pilot)
    pilot.done("lean")


def lean_to_fifty_rich(page: Page, pilot: Cockpit) -> None:
    pilot.speed(4)
    for _ in range(3):  # a hand that a busy machine made jerky begins again
        pilot.flight_seconds(10)
        if (finding := leaned(pilot)) is not None:
            break
        pilot.slide("Mixture", 1)
    assert finding is not None
    assert finding["measured"]["side"] == "rich"
    assert finding["measured"]["first_to_peak"] == 3
    expect(page.get_by_label("Mixture working")).to_contain_text("rich of peak")
    assert_fits_every_screen(page)


def leaned(pilot: Cockpit) -> dict | None:
    """Lean slowly past the peaks and back to the target; return what is told of it, None where it is something else."""
    lever, begun = 1.0, pilot.frame()["at_s"]
    while lever > 0.36:  # about a minute of slow pulling, by flight time: a busy machine moves it in larger steps
        pilot.flight_seconds(1.0)
        frame = pilot.frame()
        lever = max(1.0 - 0.01 * (frame["at_s"] - begun), 0.35)
        pilot.slide("Mixture", round(lever, 3))
        lean = frame["working"].get("lean")
        if lean and lean["last"] and lean["side"] == "lean":
            break
    pilot.flight_seconds(4)
    first = pilot.frame()["working"]["lean"]["first"]
    assert first == 3  # the trainer's leanest cylinder, by its profile
    nudge_to_target(pilot, lever)
    there_s = pilot.frame()["at_s"]
    finding = pilot.wait_for(lambda f: near_fifty(f["item"]["finding"]) or f["at_s"] > there_s + 120)["item"]["finding"]
    return finding if near_fifty(finding) else None


def nudge_to_target(pilot: Cockpit, lever: float) -> float:
    """Richer in steps, as the screen says, until it stands at the target."""
    for _ in range(40):
        lean = pilot.frame()["working"]["lean"]
        if lean["say"] == "At the target":
            return lever
        step = min(max(lean["to_target_f"] / 1500.0, 0.006), 0.05)  # few steps: a busy machine waits long after each
        lever += step if lean["say"].startswith("Richer") or lean["side"] == "lean" else -step
        pilot.slide("Mixture", round(lever, 3))
        pilot.flight_seconds(7)
    raise AssertionError(f"the target was not found: {lean}")


def near_fifty(finding: dict | None) -> bool:
    return bool(finding and finding["measured"]["offset_f"] and 35 <= finding["measured"]["offset_f"] <= 65)


def shut_down(pilot: Cockpit) -> None:
    pilot.done_to("richer")
    pilot.speed(60)
    pilot.slide("Mixture", 1)
    pilot.slide("Throttle", 0.15)
    pilot.done_to("landed")
    pilot.flight_seconds(480)
    pilot.done_to("cool")
    pilot.slide("Throttle", 0.08)
    pilot.done_to("cut_off")
    pilot.slide("Mixture", 0)
    pilot.wait_for(lambda f: f["rpm"] < 50)
    pilot.done_to("mags_off")
    pilot.mags("OFF")
    pilot.press("Master")
    while pilot.frame()["item"]:
        pilot.done()


def test_run_up_by_hand_on_the_number_pad(page: Page, server):
    pilot = Cockpit(page, server.base_url)
    pilot.begin(by_hand=True)
    pilot.done_to("mags")
    for figure in ("1800", "1710", "1640", "1795"):
        page.keyboard.type(figure)
        page.get_by_role("button", name="Take this figure").click()
    card = page.get_by_label("Magnetos", exact=True)
    expect(card).to_contain_text("stop")
    expect(card).to_contain_text("160 RPM")
    assert_fits_every_screen(page)
    picture(page, "flight-by-hand")
    page.keyboard.press("Backspace")
    expect(card).to_be_hidden()
