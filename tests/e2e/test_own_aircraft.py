"""An aircraft of one's own as its owner makes it: from the first page to the first run-up by a few taps; the editor by keys."""

import io

import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from jemmon.core.aircraft.questions import questions_of
from tests.conftest import ask
from tests.core.builders import PROFILES
from tests.e2e.cockpit import Cockpit, choose
from tests.e2e.test_for_everyone import faults

KIND = PROFILES["a-trainer"]
MOST_TAPS = 150
# every press, and every figure that is typed or lever that is set: a text that is filled in at once is one
COUNT = """() => {
  const add = () => sessionStorage.setItem('taps', String(Number(sessionStorage.getItem('taps') ?? 0) + 1))
  for (const kind of ['pointerdown', 'input']) window.addEventListener(kind, add, { capture: true })
  window.addEventListener('keydown', (event) => event.repeat || add(), { capture: true })
}"""


def taps(page: Page) -> int:
    return int(page.evaluate("sessionStorage.getItem('taps') ?? '0'"))


def answer_all(page: Page, kind: str) -> None:
    """Type every figure of the kind where it is asked for, page by page."""
    questions = questions_of(PROFILES[kind])
    subjects = list(dict.fromkeys(question.subject for question in questions))
    for number, subject in enumerate(subjects):
        for question in (q for q in questions if q.subject == subject):
            box = page.locator(f"[id='{question.id}']")
            box.fill(box.get_attribute("placeholder") or "")
        if number + 1 < len(subjects):
            page.get_by_role("button", name=f"Next: {subjects[number + 1]}").click()


def test_from_the_first_page_to_the_first_run_up_on_an_own_aircraft(page: Page, server):
    page.add_init_script(f"({COUNT})()")
    page.goto(f"{server.base_url}/")
    page.get_by_role("link", name="A new aircraft of your own").click()
    choose(page, "The nearest kind", KIND.name)
    page.get_by_role("textbox", name="Registration").fill("ZZ-MIN")
    expect(page.get_by_role("button", name="Make this aircraft")).to_be_disabled()
    answer_all(page, "a-trainer")
    expect(page.get_by_text("Still needed")).to_have_count(0)
    page.get_by_role("button", name="Make this aircraft").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("ZZ-MIN")
    page.get_by_role("link", name="Aircraft", exact=True).click()
    page.get_by_role("button", name="Practise on the simulated engine").click()
    expect(page.locator("main.flight")).to_be_visible()
    pilot = Cockpit(page, server.base_url)
    pilot.start_engine()
    pilot.slide("Throttle", 0.12)  # minutes at idle would foul the plugs, and a busy machine takes minutes
    pilot.done_to("oil_warm")
    pilot.speed(60)
    pilot.seen("oil_warm")
    pilot.speed(4)
    pilot.done_to("set_runup")
    pilot.hold_rpm(1800, 0.3)
    pilot.done_to("mags")
    pilot.flight_seconds(5)
    for side in ("L", "R"):
        pilot.mags(side)
        pilot.flight_seconds(6)
        pilot.mags("BOTH")
        pilot.flight_seconds(6)
    pilot.wait_for(lambda f: f["item"]["finding"] or f["item"]["id"] != "mags")
    count = taps(page)
    assert count <= MOST_TAPS, count
    pilot.end()


@pytest.fixture
def own(server) -> str:
    """An aircraft of one's own on this server, made once, with no draft."""
    answers = {q.id: {"value": q.kind_has, "choice": "metric" if q.unit == "l" else "us"} for q in questions_of(KIND)}
    body = {"name": "Mine", "registration": "ZZ-KEY", "answers": answers}
    ask(server.port, "POST", "/api/aircraft/a-trainer/own", body)  # refused where it is there already
    assert ask(server.port, "DELETE", "/api/aircraft/own-zz-key/draft")[0] == 200
    return f"{server.base_url}/aircraft/own-zz-key"


def kept(page: Page) -> None:
    expect(page.get_by_text("Draft kept")).to_be_visible()


def challenges(page: Page) -> list[str]:
    return page.get_by_role("listbox", name="Items of").locator("li b").all_inner_texts()


def test_lists_are_written_by_keys_alone_undone_and_still_there_after_a_reload(page: Page, own):
    page.goto(f"{own}/edit")
    expect(page.get_by_role("listbox", name="Items of")).to_be_visible()
    choose(page, "List", "Outside and cabin")
    expect(page.get_by_role("listbox", name="Items of Outside and cabin")).to_be_visible()
    before = challenges(page)
    keys = page.keyboard
    rows = page.get_by_role("listbox", name="Items of").get_by_role("option")
    rows.nth(0).focus()
    keys.press("ArrowDown")
    expect(rows.nth(1)).to_be_focused()
    keys.press("Alt+ArrowDown")
    kept(page)
    moved = [before[0], before[2], before[1], *before[3:]]
    assert challenges(page) == moved
    keys.press("Delete")
    expect(page.get_by_role("listbox", name="Items of").locator("li")).to_have_count(len(before) - 1)
    keys.press("Control+z")
    expect(page.get_by_role("listbox", name="Items of").locator("li")).to_have_count(len(before))
    page.get_by_role("textbox", name="Response").fill("By keys alone")
    kept(page)
    page.reload()
    expect(page.get_by_role("listbox", name="Items of")).to_be_visible()
    choose(page, "List", "Outside and cabin")
    expect(page.get_by_role("listbox", name="Items of Outside and cabin")).to_be_visible()
    assert challenges(page) == moved
    expect(page.get_by_role("listbox", name="Items of")).to_contain_text("By keys alone")


def test_what_is_wrong_stands_beside_its_field_and_keeps_it_from_being_saved(page: Page, own):
    page.goto(f"{own}/edit")
    page.get_by_role("button", name="Limits", exact=True).click()
    page.get_by_label("Find a limit").fill("Idle, at least")
    figure = page.get_by_role("textbox", name="Value [RPM]")
    figure.fill("6000")
    expect(page.get_by_text("1 to mend before")).to_be_visible()
    expect(page.locator(".field.bad")).to_contain_text("such figures lie within")
    expect(page.get_by_role("button", name="Save version")).to_be_disabled()
    figure.fill("640")
    expect(page.get_by_text("to mend before")).to_have_count(0)
    page.get_by_label("What was changed").fill("Idle of this engine")
    page.get_by_label("Who").fill("Ana Quill")
    page.get_by_role("button", name="Save version").click()
    expect(page.get_by_text("As it was saved")).to_be_visible()
    page.get_by_role("link", name="Versions").click()
    expect(page.get_by_role("row", name="Idle of this engine")).to_contain_text("counts now")


PASTED = "RUNUP\nBRAKES .... HOLD\nMAGS .... L, BOTH, R, BOTH\nGPS POSITION .... AGREES"


def test_lists_are_pasted_and_each_line_says_how_it_was_matched(page: Page, own):
    page.goto(f"{own}/edit")
    page.get_by_role("button", name="Lists", exact=True).click()
    page.get_by_text("Lists as text", exact=True).click()
    page.get_by_label("Paste lists").fill(PASTED)
    page.get_by_role("button", name="Put these lists in").click()
    lines = page.locator(".matched li")
    expect(lines).to_have_count(3)
    expect(lines.nth(1)).to_contain_text("as it was")
    expect(lines.nth(2)).to_contain_text("your own words")
    page.get_by_role("button", name="Discard the draft").click()
    expect(page.get_by_text("As it was saved")).to_be_visible()


def test_a_grid_of_power_is_pasted_from_a_spreadsheet(page: Page, own):
    page.goto(f"{own}/edit")
    page.get_by_role("button", name="Power table", exact=True).click()
    grid = "RPM\t18\t22\t26\n2100\t45\t58\t70\n2500\t52\t67\t82"
    page.evaluate(
        """(text) => {
          const data = new DataTransfer()
          data.setData('text/plain', text)
          const at = document.querySelector('[aria-label="Paste the grid here"]')
          at.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }))
        }""",
        grid,
    )
    expect(page.get_by_label("Percent at 2500 RPM and 26 inHg")).to_have_value("82")
    expect(page.get_by_text("Draft kept")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("No table yet")).to_be_visible()


def test_a_control_is_marked_on_the_photo_and_shown_from_its_item(page: Page, server, own):
    page.goto(f"{own}/panel")
    picture = io.BytesIO()
    Image.new("RGB", (1200, 600), (60, 64, 70)).save(picture, "PNG")
    photo = {"name": "panel.png", "mimeType": "image/png", "buffer": picture.getvalue()}
    page.get_by_label("Photo of the panel").set_input_files(photo)
    expect(page.get_by_alt_text("The panel")).to_be_visible()
    page.get_by_role("button", name="Master", exact=True).click()
    page.get_by_alt_text("The panel").click(position={"x": 200, "y": 100})
    expect(page.get_by_text("1 of")).to_be_visible()
    page.get_by_role("link", name="Aircraft", exact=True).click()
    page.get_by_role("button", name="ZZ-KEY").click()
    page.get_by_role("button", name="Practise on the simulated engine").click()
    expect(page.locator("main.flight")).to_be_visible()
    pilot = Cockpit(page, server.base_url)
    pilot.slide("Throttle", 0.08)
    pilot.done_to("master_on")
    page.get_by_role("button", name="Show where it is").click()
    card = page.get_by_role("complementary", name="Master")
    expect(card.get_by_alt_text("The panel")).to_be_visible()
    expect(card.locator(".ring")).to_have_count(1)
    pilot.end()


def test_a_drill_is_flown_on_it(page: Page, server, own):
    page.goto(f"{server.base_url}/practice")
    choose(page, "Aircraft", "ZZ-KEY")
    page.get_by_role("button", name="The first start").click()
    expect(page.locator("main.flight")).to_contain_text("ZZ-KEY")
    Cockpit(page, server.base_url).end()


def test_every_page_of_the_editor_is_for_everyone(page: Page, server):
    page.goto(f"{server.base_url}/aircraft/d-twin/edit")
    sections = page.get_by_role("navigation", name="Sections").get_by_role("button")
    expect(sections.first).to_be_visible()
    found = {}
    for name in sections.all_inner_texts():
        page.get_by_role("button", name=name, exact=True).click()
        expect(page.get_by_role("heading", level=2, name=name, exact=True)).to_be_visible()
        if wrong := faults(page):
            found[name] = wrong
    assert not found, "\n".join(f"{place}: {line}" for place, lines in found.items() for line in lines)
