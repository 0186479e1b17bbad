"""Every figure follows the units that were chosen: no page and no phase of any type shows one of the other system."""

import re
import uuid

import pytest
from playwright.sync_api import Page, expect

from tests.conftest import ask
from tests.core.builders import PROFILES

ALL_US = {"temperature": "us", "manifold_pressure": "us", "pressure": "us", "fuel": "us"}
ALL_METRIC = dict.fromkeys(ALL_US, "metric")
# what is read where a family is as in the other column; a "bar" and a "gal" in a word is none
LABELS = {
    "temperature": (r"°F", r"°C"),
    "manifold_pressure": (r"\binHg", r"\bhPa"),
    "pressure": (r"\bpsi\b", r"(?<=[\d–]\s)bar\b"),
    "fuel": (r"\bgal\b", r"(?<=\d )L\b|\bL/h"),
}
DIFFERENT = ("a-trainer", "e-rotor", "h-geared", "i-turbo")  # gauges as different as they come
OWN_PAGES = ("", "/method", "/plan", "/trends", "/starts")


def choose(page: Page, choices: dict[str, str]) -> None:
    page.evaluate("value => localStorage.setItem('unit_choices', JSON.stringify(value))", choices)
    page.evaluate("localStorage.setItem('units', 'own')")


def leaks(page: Page, choices: dict[str, str]) -> list[str]:
    """Return every place of the page that shows a unit that was not chosen, or a figure that was left in its raw form."""
    shown = page.evaluate(
        "() => document.body.innerText + [...document.querySelectorAll('[aria-label]')].map(e => e.ariaLabel)"
    )
    wrong = [LABELS[family][system == "us"] for family, system in choices.items()]
    return [shown[max(found.start() - 50, 0) : found.end() + 20] for pattern in [*wrong, r"\|[a-z]+\}"]
            for found in re.finditer(pattern, shown)]  # fmt: skip


@pytest.mark.parametrize("choices", [ALL_US, ALL_METRIC, {**ALL_US, "fuel": "metric"}], ids=["us", "metric", "litres"])
def test_every_page_keeps_to_the_units_that_were_chosen(page: Page, demo_server, choices):
    page.goto(f"{demo_server.base_url}/help")
    choose(page, choices)
    found = {}
    paths = [f"/aircraft/{name}{own}" for name in ("a-trainer", "e-rotor") for own in OWN_PAGES]
    for path in ["/", "/records", "/records/demo-a-trainer-1", "/records/demo-a-trainer-3", *paths]:
        page.goto(demo_server.base_url + path)
        expect(page.get_by_role("heading", level=1).first).to_be_visible()
        expect(page.get_by_text("Looking it up")).to_have_count(0)
        expect(page.locator("main")).to_contain_text(re.compile(r"\w{4}"))
        if wrong := leaks(page, choices):
            found[path] = wrong
    assert not found, "\n".join(f"{place}: {line}" for place, lines in found.items() for line in lines)


@pytest.mark.parametrize("name", ["h-geared", "m-mixed"])
def test_the_pages_of_an_aircraft_have_the_units_of_its_own_gauges(page: Page, demo_server, name):
    own = {**ALL_US, **{family: one for family, one in PROFILES[name].units.families.items() if family in ALL_US}}
    found = {}
    for path in (*OWN_PAGES, "/today", "/balance"):
        page.goto(f"{demo_server.base_url}/aircraft/{name}{path}")
        expect(page.get_by_text("Looking it up")).to_have_count(0)
        expect(page.locator("main")).to_contain_text(re.compile(r"\w{4}"))
        expect(page.locator("header")).to_contain_text("°C")
        if wrong := leaks(page, own):
            found[path] = wrong
    assert not found, "\n".join(f"{place}: {line}" for place, lines in found.items() for line in lines)


@pytest.mark.parametrize("choices", [ALL_US, ALL_METRIC], ids=["us", "metric"])
def test_every_phase_keeps_to_the_units_that_were_chosen(page: Page, demo_server, choices):
    page.goto(f"{demo_server.base_url}/help")
    choose(page, choices)
    found = {}
    for name in DIFFERENT:  # the words of all types are looked through in tests/core/test_needles.py
        profile = PROFILES[name]
        flight = uuid.uuid4().hex
        begin = {"id": flight, "aircraft": name, "registration": profile.registration, "pilot": "Ana"}
        assert ask(demo_server.port, "POST", "/api/flights", begin)[0] == 201
        page.goto(f"{demo_server.base_url}/flight")
        for phase in profile.phases:
            body = {"id": uuid.uuid4().hex, "kind": "phase_entered", "body": {"phase": phase.id}}
            assert ask(demo_server.port, "POST", f"/api/flights/{flight}/events", body)[0] == 201
            expect(page.locator("main.flight")).to_contain_text(phase.title)
            if wrong := leaks(page, choices):
                found[f"{name} {phase.id}"] = wrong
        end = {"id": uuid.uuid4().hex, "kind": "flight_ended", "body": {}}
        assert ask(demo_server.port, "POST", f"/api/flights/{flight}/events", end)[0] == 201
    assert not found, "\n".join(f"{place}: {line}" for place, lines in found.items() for line in lines)
