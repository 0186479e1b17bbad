"""The other screens in the browser: nothing from outside, size of what is fetched, bad files, keys."""

import gzip
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

import jemmon
from tests.e2e.cockpit import Cockpit, choose

WEB = Path(jemmon.__file__).parent / "web"


def test_nothing_is_loaded_from_outside_and_scripts_stay_small(page: Page, server):
    asked = []
    page.on("request", lambda request: asked.append(request.url))
    page.goto(server.base_url)
    expect(page.get_by_role("heading", name="ZZ-WRN")).to_be_visible()
    Cockpit(page, server.base_url).begin()
    assert all(url.startswith((server.base_url, "data:")) for url in asked)
    scripts = {url.rsplit("/", 1)[-1] for url in asked if url.endswith(".js")}
    size = sum(len(gzip.compress((WEB / "assets" / name).read_bytes(), 9)) for name in scripts)
    assert size < 300_000


def test_a_wrong_registration_is_asked_back(page: Page, server):
    page.goto(server.base_url)
    page.get_by_label("Type the registration").fill("ZZ-ABC")
    page.get_by_role("button", name="Begin by hand").click()
    expect(page.get_by_role("alert")).to_contain_text("The registration is ZZ-WRN")


def test_a_broken_trace_file_is_named_by_line_and_a_good_one_becomes_a_record(page: Page, server, tmp_path):
    bad, good = tmp_path / "bad.csv", tmp_path / "good.csv"
    bad.write_text("time_s,rpm\n0,1000\n1,fast\n")
    good.write_text("time_s,rpm\n" + "".join(f"{t},{1000 + t % 3}\n" for t in range(60)))
    page.goto(f"{server.base_url}/records")
    expect(page.get_by_label("Read a trace file in")).to_be_disabled()  # by whose limits?
    choose(page, "Recorded on", "ZZ-HRN, Orrisant four-seat tourer")
    page.get_by_label("Read a trace file in").set_input_files(bad)
    expect(page.get_by_role("alert")).to_contain_text("line 3, column rpm")
    page.get_by_label("Read a trace file in").set_input_files(good)
    expect(page.get_by_text("Nothing was measured in this flight.")).to_be_visible()
    expect(page.get_by_text("ZZ-HRN")).to_be_visible()


def test_keys_and_emergency_card_never_block_the_flight(page: Page, server):
    pilot = Cockpit(page, server.base_url)
    pilot.begin()
    page.keyboard.press("?")
    expect(page.get_by_label("Keys").last).to_contain_text("take back")
    page.keyboard.press("e")
    expect(page.get_by_label("Emergency").last).to_contain_text("Keep cranking")
    page.keyboard.press(" ")
    expect(page.get_by_role("heading", name="Weather")).to_be_visible()
    page.wait_for_timeout(350)
    page.keyboard.press("Backspace")
    expect(page.get_by_role("heading", name="The day")).to_be_visible()


def test_what_was_kept_is_still_there_after_a_reload(page: Page, server):
    pilot = Cockpit(page, server.base_url)
    pilot.begin()
    pilot.done("day")
    page.reload()
    expect(page.get_by_role("heading", name="Weather")).to_be_visible()


def test_units_and_night_look_are_switched_in_one_place(page: Page, server):
    pilot = Cockpit(page, server.base_url)
    pilot.begin()
    page.get_by_role("button", name="Display: units, look, hand and sound").click()
    page.get_by_title("Switch units").click()
    expect(page.get_by_label("Instruments")).to_contain_text("hPa")
    page.get_by_role("button", name="Day").click()
    assert page.evaluate("() => document.documentElement.dataset.look") == "night"


def test_eight_tabs_share_one_stream_and_all_follow(page: Page, server):
    pilot = Cockpit(page, server.base_url)
    pilot.begin()
    tabs = [page, *(page.context.new_page() for _ in range(7))]
    for tab in tabs[1:]:
        tab.goto(f"{server.base_url}/flight")
    pilot.done("day")
    for tab in tabs:
        tab.bring_to_front()
        expect(tab.get_by_role("heading", level=1)).to_have_text("Weather")


def test_a_tap_on_a_verdict_shows_how_it_is_made_and_figures_follow_the_unit(page: Page, server, tmp_path):
    hot = tmp_path / "hot.csv"
    hot.write_text("time_s,rpm,cht1_f,cht2_f\n" + "".join(f"{t},2300,600,300\n" for t in range(200)))
    page.goto(f"{server.base_url}/records")
    choose(page, "Recorded on", "ZZ-WRN, Pellamy two-seat trainer")
    page.get_by_label("Read a trace file in").set_input_files(hot)
    card = page.get_by_label("Beyond a limit")
    expect(card).to_contain_text("cylinder 1 600 °F")
    page.get_by_title("Switch units").click()
    expect(card).to_contain_text("cylinder 1 316 °C")
    card.get_by_role("button", name="How it is made").click()
    expect(card).to_contain_text("each cylinder by itself")
    expect(card).to_contain_text("CHT, at most")
    page.get_by_role("link", name="How verdicts are made").click()
    expect(page.get_by_label("Magnetos")).to_contain_text("stay clear of the propeller")
    expect(page.get_by_label("Magnetos")).to_contain_text("Magneto drop, at most")


def test_the_planner_plans_and_refuses_what_is_too_lean(page: Page, server):
    page.goto(f"{server.base_url}/aircraft/b-tourer/plan")
    settings = page.get_by_label("Settings")
    expect(settings).to_contain_text("quietest")
    page.get_by_label("Fuel on board").fill("60")
    page.get_by_label("Fuel on board").blur()
    expect(settings.get_by_role("row").nth(1)).to_contain_text(":")  # hours of endurance
    tanks = page.get_by_label("Tanks")
    expect(tanks.get_by_role("row").nth(2)).to_have_text("0:30Right30.0")
    expect(tanks).to_contain_text("Reserve of 30 min")
    page.get_by_label("Power", exact=True).fill("80")
    page.get_by_label("Power", exact=True).blur()
    choose(page, "Mixture of the cruise", "30 °F lean of last to peak")
    expect(page.get_by_role("alert")).to_contain_text("not lean of peak")
    page.get_by_label("Power", exact=True).fill("900")
    page.get_by_label("Power", exact=True).blur()
    expect(page.get_by_role("alert").first).to_contain_text("at most 100")


def test_a_flight_is_ended_or_discarded_in_two_taps_from_anywhere_and_taken_back(page: Page, server):
    pilot = Cockpit(page, server.base_url)
    pilot.begin()
    flight = pilot.frame()["flight"]
    page.get_by_role("button", name="Leave").click()
    page.get_by_role("button", name="End and keep").click()
    expect(page).to_have_url(f"{server.base_url}/records/{flight}")
    page.get_by_role("button", name="Take that back").click()
    expect(page.locator("main.flight")).to_be_visible()
    assert not pilot.frame()["ended"]
    page.goto(f"{server.base_url}/records")
    going = page.get_by_label("Flight going on")
    expect(going).to_contain_text("ZZ-WRN: a flight is going on")
    going.get_by_role("button", name="End it").click()
    going.get_by_role("button", name="Discard").click()
    expect(page.get_by_text("ZZ-WRN: the flight is discarded.")).to_be_visible()
    expect(going).to_be_hidden()
    page.goto(f"{server.base_url}/records")
    expect(page.locator(f'a[href="/records/{flight}"]')).to_have_count(0)
    page.goto(f"{server.base_url}/settings")
    expect(page.locator(f'a[href="/records/{flight}"]')).to_have_count(1)


def test_a_record_is_deleted_and_brought_back_and_keeps_a_note(page: Page, server):
    pilot = Cockpit(page, server.base_url)
    pilot.begin()
    flight = pilot.frame()["flight"]
    pilot.end()
    page.goto(f"{server.base_url}/records/{flight}")
    page.get_by_label("Note").fill("A first try")
    page.get_by_label("Note").blur()
    page.get_by_role("button", name="Delete").click()
    expect(page.get_by_text("Out of the records.")).to_be_visible()
    page.get_by_role("button", name="Bring it back").click()
    expect(page.get_by_role("button", name="Delete")).to_be_visible()
    page.goto(f"{server.base_url}/records")
    expect(page.get_by_role("row").filter(has_text="A first try")).to_contain_text("practice")


def test_a_fault_is_practised_and_told_at_the_end(page: Page, server):
    page.goto(server.base_url)
    page.get_by_role("button", name="ZZ-WRN").click()
    choose(page, "Practise a fault", "The alternator gives half its current.")
    page.get_by_role("button", name="Practise on the simulated engine").click()
    expect(page.locator("main.flight")).to_be_visible()
    expect(page.get_by_text("half its current")).to_have_count(0)
    pilot = Cockpit(page, server.base_url)
    flight = pilot.frame()["flight"]
    page.goto(f"{server.base_url}/records/{flight}")
    expect(page.get_by_role("heading", name="Timeline")).to_be_visible()
    expect(page.get_by_text("half its current")).to_have_count(0)
    pilot.end()
    page.goto(f"{server.base_url}/records/{flight}")
    expect(page.locator("p").filter(has_text="Practised:")).to_contain_text("half its current")


def test_a_key_acts_on_what_has_the_focus(page: Page, server):
    pilot = Cockpit(page, server.base_url)
    pilot.begin()
    first = pilot.frame()["item"]["id"]
    page.get_by_role("button", name="Emergency").focus()
    page.keyboard.press(" ")
    expect(page.get_by_label("Emergency").last).to_contain_text("Keep cranking")
    assert pilot.frame()["item"]["id"] == first, "space pressed the button and nothing else"
    page.keyboard.press("Escape")
    page.keyboard.press("t")
    expect(page.get_by_role("slider", name="Throttle", exact=True)).to_be_focused()
    mixture = pilot.frame()["levers"]["mixture"]
    page.keyboard.press("ArrowUp")
    page.keyboard.press("ArrowUp")
    pilot.wait_for(lambda f: f["levers"]["throttle"] > 0.009)
    assert pilot.frame()["levers"]["mixture"] == mixture
    page.keyboard.press(" ")
    pilot.wait_for(lambda f: f["item"]["id"] != first)
    expect(page.get_by_role("slider", name="Throttle", exact=True)).to_be_focused()
    page.get_by_role("button", name="Take back the last step").click()
    pilot.wait_for(lambda f: f["item"]["id"] == first)
    page.wait_for_timeout(350)  # a second press within 0.3 s is none
    page.keyboard.press(" ")  # a tap by hand leaves the focus where it was
    pilot.wait_for(lambda f: f["item"]["id"] != first)


SEVEN_SIZES = ((390, 640), (390, 844), (780, 437), (844, 390), (1024, 768), (1280, 800), (1920, 1080))
# a control is reachable where its own scroll or sheet brings it under the finger
REACH = """() => [...document.querySelectorAll('main.flight button, main.flight a, main.flight input')].filter((own) => {
  if (!own.checkVisibility()) return false
  own.scrollIntoView({ block: 'center' })
  const box = own.getBoundingClientRect()
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2]
  const hit = document.elementFromPoint(x, y)
  return !(hit && (own.contains(hit) || hit.contains(own) || hit.closest('label')?.contains(own)))
}).map((own) => own.getAttribute('aria-label') ?? own.textContent.trim())"""
SIDEWAYS = "() => document.scrollingElement.scrollWidth - innerWidth"


@pytest.mark.parametrize("registration", ["ZZ-WRN", "ZZ-PTR", "ZZ-BTN", "ZZ-DPR"])
def test_every_control_is_reachable_at_seven_sizes(page: Page, server, registration):
    pilot = Cockpit(page, server.base_url)
    pilot.begin(registration=registration)
    expect(page.get_by_label("Levers of the simulated engine")).to_be_visible()
    for width, height in SEVEN_SIZES:
        page.set_viewport_size({"width": width, "height": height})
        page.wait_for_timeout(150)
        assert page.evaluate(REACH) == [], f"{width}x{height}"
        assert page.evaluate(SIDEWAYS) <= 0, f"{width}x{height} scrolls sideways"
        main = page.locator("button.main").last.bounding_box()
        assert main["y"] + main["height"] <= height, f"{width}x{height}: the main button is below the view"
