"""Every page for everyone, in both looks: what a screen reader needs, contrast, borders that are seen, targets for a thumb."""

import uuid
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.conftest import ask
from tests.core.builders import PROFILES

AXE = Path(__file__).parents[2] / "frontend/node_modules/axe-core/axe.min.js"
OWN_PAGES = (
    "",
    "/method",
    "/plan",
    "/trends",
    "/starts",
    "/today",
    "/balance",
    "/versions",
    "/panel",
    "/own",
    "/hear",
    "/engine",
)
PAGES = [
    "/",
    "/records",
    "/records/demo-a-trainer-1",
    "/settings",
    "/help",
    "/new",
    "/practice",
    "/instructor",
    *(f"/aircraft/a-trainer{o}" for o in OWN_PAGES),
]
CHECK = """async () => {
  const also = ['landmark-unique', 'landmark-one-main', 'page-has-heading-one', 'heading-order', 'region']
  const found = await axe.run({ rules: { 'color-contrast-enhanced': { enabled: true } } })
  return found.violations.filter((v) => ['serious', 'critical'].includes(v.impact) || also.includes(v.id))
    .map((v) => `${v.id}: ${v.nodes.map((n) => n.html.slice(0, 120)).join(' | ')}`)
}"""
# what can be pressed or typed in is 48 px high, unless it is a word of a sentence; its border is 3:1 against what is behind it
TARGETS = """() => {
  const light = (text) => {
    const [r, g, b, a] = text.match(/[\\d.]+/g).map(Number)
    const one = (v) => (v /= 255) <= 0.03928 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4
    return a === 0 ? null : 0.2126 * one(r) + 0.7152 * one(g) + 0.0722 * one(b)
  }
  const behind = (e) => {
    for (let up = e.parentElement; up; up = up.parentElement) {
      const own = light(getComputedStyle(up).backgroundColor)
      if (own !== null) return own
    }
    return 1
  }
  const bad = []
  for (const e of document.querySelectorAll('button, a, summary, input, .el-select__wrapper, [role=button], [role=slider]')) {
    const box = e.getBoundingClientRect()
    if (!box.width || !box.height || e.closest('[aria-hidden=true]')) continue
    if (e.matches('.el-input__inner, .el-range-input, .el-select__input')) continue
    if (getComputedStyle(e).opacity === '0' || getComputedStyle(e).clipPath !== 'none') continue
    const around = e.parentElement
    const inSentence = e.matches('a') && around.matches('p, small') && around.textContent.trim() !== e.textContent.trim()
    const high = e.matches('input[type=checkbox]') ? e.closest('label').getBoundingClientRect().height : box.height
    if (!inSentence && high < 47.5) bad.push(`low ${Math.round(high)}: ${e.outerHTML.slice(0, 100)}`)
    const style = getComputedStyle(e)
    if (parseFloat(style.borderTopWidth) > 0 && style.borderTopStyle !== 'none') {
      const [border, back] = [light(style.borderTopColor), behind(e)]
      const apart = (Math.max(border, back) + 0.05) / (Math.min(border, back) + 0.05)
      const isFilled = Math.abs((light(style.backgroundColor) ?? back) - back) > 0.3
      const isPale = border !== null && !isFilled && apart < 3
      if (isPale) bad.push(`pale: ${e.outerHTML.slice(0, 100)}`)
    }
  }
  return bad
}"""


def faults(page: Page) -> list[str]:
    """Return all that is wrong with the page as it is."""
    page.evaluate(AXE.read_text())
    return [*page.evaluate(CHECK), *page.evaluate(TARGETS)]


# the night look has colours of its own and nothing else: the pages with most kinds of parts
BY_NIGHT = [
    "/",
    "/records/demo-a-trainer-1",
    "/settings",
    "/practice",
    "/aircraft/a-trainer/plan",
    "/aircraft/a-trainer/trends",
]


@pytest.mark.parametrize(("look", "paths"), [("day", PAGES), ("night", BY_NIGHT)], ids=["day", "night"])
def test_every_page_is_for_everyone(page: Page, demo_server, look, paths):
    page.goto(f"{demo_server.base_url}/help")
    page.evaluate("look => localStorage.setItem('look', look)", look)
    found = {}
    for path in paths:
        page.goto(demo_server.base_url + path)
        expect(page.get_by_role("heading", level=1).first).to_be_visible()
        expect(page.get_by_text("Looking it up")).to_have_count(0)
        if wrong := faults(page):
            found[path] = wrong
    assert not found, "\n".join(f"{place}: {line}" for place, lines in found.items() for line in lines)


@pytest.mark.parametrize("aircraft", ["a-trainer", "d-twin"])
def test_every_phase_of_a_flight_is_for_everyone(page: Page, demo_server, aircraft):
    profile, flight = PROFILES[aircraft], uuid.uuid4().hex
    begin = {"id": flight, "aircraft": aircraft, "registration": profile.registration, "pilot": "Ana"}
    assert ask(demo_server.port, "POST", "/api/flights", begin)[0] == 201
    page.goto(f"{demo_server.base_url}/flight")
    found = {}
    for phase in profile.phases:
        body = {"id": uuid.uuid4().hex, "kind": "phase_entered", "body": {"phase": phase.id}}
        assert ask(demo_server.port, "POST", f"/api/flights/{flight}/events", body)[0] == 201
        expect(page.locator("main.flight")).to_contain_text(phase.title)
        if wrong := faults(page):
            found[phase.id] = wrong
    end = {"id": uuid.uuid4().hex, "kind": "flight_ended", "body": {}}
    assert ask(demo_server.port, "POST", f"/api/flights/{flight}/events", end)[0] == 201
    assert not found, "\n".join(f"{place}: {line}" for place, lines in found.items() for line in lines)
