"""Pages away from the engine, as one reads them: a record that is looked into, a profile that is searched, ids that are wrong."""

import re

from playwright.sync_api import Page, expect

WRONG = [
    "/records/nothing",
    "/aircraft/none",
    "/aircraft/none/plan",
    "/aircraft/none/starts",
    "/aircraft/none/trends",
    "/aircraft/none/method",
]


def record(page: Page, base_url: str) -> None:
    page.goto(f"{base_url}/records/demo-a-trainer-1")
    expect(page.get_by_role("region", name="Trace")).to_be_visible()


def reading(page: Page, name: str):
    return page.locator("dl div", has=page.locator("dt", has_text=re.compile(f"^{name}$"))).locator("dd")


def test_a_flag_jumps_to_what_was_judged_and_the_cursor_reads_every_channel(page: Page, demo_server):
    record(page, demo_server.base_url)
    expect(reading(page, "RPM")).to_have_text("0 RPM")
    expect(reading(page, "Magnetos")).to_have_text("OFF")
    page.get_by_role("button", name="Magnetos").click()
    expect(reading(page, "RPM")).not_to_have_text("0 RPM")
    expect(reading(page, "Magnetos")).not_to_have_text("OFF")
    place = page.get_by_role("slider")
    seen = set()
    for at in range(0, int(place.get_attribute("max")), 8):
        place.fill(str(at))
        seen.add(reading(page, "Magnetos").inner_text())
    assert {"BOTH", "L", "R"} <= seen, "a stretch of a minute or two is read row by row"
    page.get_by_role("button", name="Whole flight").click()
    expect(page.get_by_role("button", name="Whole flight")).to_have_count(0)


def test_the_hand_reads_under_the_cursor_and_draws_over_what_it_wants_nearer(page: Page, demo_server):
    record(page, demo_server.base_url)
    box = page.locator(".u-over").bounding_box()
    page.mouse.move(box["x"] + box["width"] * 0.5, box["y"] + 60)
    expect(reading(page, "RPM")).not_to_have_text("0 RPM")
    whole = page.get_by_role("slider").get_attribute("max")
    before = page.get_by_role("slider").get_attribute("aria-valuetext")
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * 0.6, box["y"] + 60, steps=5)
    with page.expect_response("**/trace**"):
        page.mouse.up()
    expect(page.get_by_role("slider")).not_to_have_attribute("max", whole)
    expect(page.get_by_role("button", name="Whole flight")).to_be_visible()
    page.get_by_role("slider").fill("100")
    expect(page.get_by_role("slider")).not_to_have_attribute("aria-valuetext", before)
    at = page.get_by_role("slider").get_attribute("aria-valuetext")
    page.get_by_role("button", name="Closer").click()
    expect(page.get_by_role("slider")).not_to_have_value("100")
    expect(page.get_by_role("slider")).to_have_attribute("aria-valuetext", at)
    for _ in range(9):
        if page.get_by_role("button", name="Whole flight").count():
            with page.expect_response("**/trace**"):
                page.get_by_role("button", name="Wider").click()
    expect(page.get_by_role("button", name="Whole flight")).to_have_count(0)


def test_what_was_within_is_one_table(page: Page, demo_server):
    record(page, demo_server.base_url)
    page.get_by_text("within limits:").click()
    table = page.locator("details .el-table")
    expect(table.get_by_role("row", name="Magnetos")).to_contain_text("at most")


def test_limits_stand_by_part_of_the_flight_and_are_searched_with_the_items(page: Page, demo_server):
    page.goto(f"{demo_server.base_url}/aircraft/a-trainer")
    for part in ("Start", "Warm-up and taxi", "Run-up", "Take-off and cruise", "At all times"):
        expect(page.locator("tbody h3", has_text=re.compile(f"^{part}$"))).to_be_visible()
    page.get_by_label("Find a limit or an item").fill("magneto")
    expect(page.get_by_role("cell", name="Magneto drop, at most", exact=True)).to_be_visible()
    expect(page.get_by_role("cell", name="Oil temperature, at most")).to_have_count(0)
    contents = page.get_by_role("navigation", name="On this page")
    expect(contents.get_by_role("link", name="Run-up")).to_be_visible()
    expect(contents.get_by_role("link", name="Cruise")).to_have_count(0)
    contents.get_by_role("link", name="Run-up").click()
    expect(page.get_by_role("heading", name="Run-up", level=2)).to_be_in_viewport()


def test_a_method_is_found_by_a_word_of_its_own(page: Page, demo_server):
    page.goto(f"{demo_server.base_url}/aircraft/a-trainer/method")
    expect(page.get_by_role("heading", name="Magnetos", level=2)).to_be_visible()
    page.get_by_label("Find a check, a word or a limit").fill("carburettor-heat drop")
    expect(page.get_by_role("heading", name="Carburettor heat", level=2)).to_be_visible()
    expect(page.get_by_role("heading", name="Idle mixture", level=2)).to_have_count(0)


def test_an_aircraft_with_nobody_in_it_is_not_told_inside(page: Page, demo_server):
    page.goto(f"{demo_server.base_url}/aircraft/e-rotor/balance")
    word, seat = page.get_by_role("status").first, page.get_by_label("Right seat")
    expect(word).to_have_text("Type what is loaded.")
    seat.fill("170")
    expect(word).to_contain_text("Inside")
    seat.fill("")
    expect(word).to_have_text("Type what is loaded.")


def test_a_wrong_id_says_so_and_shows_a_way_out(page: Page, demo_server):
    for path in WRONG:
        page.goto(demo_server.base_url + path)
        expect(page.get_by_role("alert")).to_contain_text("There is no")
        expect(page.get_by_role("heading", level=1)).to_be_visible()
        expect(page.locator("main form, main table, main .el-input")).to_have_count(0)
        page.get_by_role("link", name="All aircraft").click()
        expect(page.get_by_role("button", name="ZZ-WRN")).to_be_visible()


def test_a_server_that_is_away_is_said_and_asked_again(page: Page, demo_server):
    for path in ("/", "/records", "/records/demo-a-trainer-1", "/aircraft/a-trainer/trends"):
        page.route("**/api/**", lambda route: route.abort())
        page.goto(demo_server.base_url + path)
        expect(page.get_by_role("alert").first).to_contain_text("server does not answer")
        page.unroute("**/api/**")
        page.get_by_role("button", name="Ask again").click()
        expect(page.get_by_role("alert")).to_have_count(0)
        expect(page.locator("body")).to_contain_text("ZZ-WRN")


def test_an_unknown_address_says_so_and_leads_to_the_aircraft(page: Page, demo_server):
    page.goto(f"{demo_server.base_url}/no/such/page")
    expect(page.get_by_role("heading", level=1)).to_have_text("No such page")
    page.get_by_role("link", name="All aircraft").click()
    expect(page).to_have_url(f"{demo_server.base_url}/")


def test_on_a_phone_the_aircraft_comes_first_and_the_others_are_a_list_that_opens(page: Page, demo_server):
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(demo_server.base_url)
    rows = page.get_by_role("group", name="Aircraft")
    expect(page.get_by_role("heading", name="ZZ-WRN")).to_be_in_viewport()
    expect(rows).to_have_count(0)
    page.get_by_role("button", name="Another aircraft").click()
    rows.get_by_role("button", name="ZZ-PTR").click()
    expect(rows).to_have_count(0)
    expect(page.get_by_role("heading", name="ZZ-PTR")).to_be_in_viewport()


def test_on_a_phone_the_judgement_of_a_flight_is_in_sight(page: Page, demo_server):
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{demo_server.base_url}/records")
    row = page.get_by_role("row", name="ZZ-WRN").first
    expect(row.get_by_text("within")).to_be_visible()
    table, verdict = row.bounding_box(), row.get_by_text("within").bounding_box()
    assert verdict["x"] + verdict["width"] <= 390 - table["x"]
