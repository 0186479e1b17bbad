"""The pictures of docs/screenshots that no browser flight takes: the pages away from the engine and the first lists, of the
demo's data. `make pictures` takes all."""

import argparse
import tempfile
from pathlib import Path

from playwright.sync_api import Page, expect, sync_playwright

from jemmon.demo.flying_group import build_demo
from jemmon.library.shipped import shipped_profiles
from jemmon.store.database import Database
from tests.conftest import CHROMIUM_FLAGS, Server, chromium, free_port
from tests.e2e.cockpit import Cockpit

_PAGES = {
    "aircraft": "/",
    "records": "/records",
    "starts": "/aircraft/a-trainer/starts",
    "trends": "/aircraft/a-trainer/trends",
    "plan": "/aircraft/b-tourer/plan",
    "profile": "/aircraft/d-twin",
    "edit": "/aircraft/a-trainer/edit",
    "settings": "/settings",
    "practice": "/practice",
}


_FLIGHTS = ("flight-list", "flight-cranking", "debrief")


def take_pages(page: Page, base_url: str, names: list[str], folder: Path) -> None:
    """Take the pictures of these pages."""
    for name in names:
        page.goto(base_url + _PAGES[name])
        page.wait_for_load_state("networkidle")
        expect(page.locator("main")).to_be_visible()
        page.screenshot(path=folder / f"{name}.png")


def take_flights(page: Page, base_url: str, names: list[str], folder: Path) -> None:
    """Take the pictures of the first lists and of a start."""

    def keep(name: str) -> None:
        if name in names:
            page.wait_for_timeout(400)
            page.screenshot(path=folder / f"{name}.png")

    pilot = Cockpit(page, base_url)
    pilot.begin()
    pilot.done_to("trims")
    keep("flight-list")
    if "flight-cranking" in names:
        pilot.slide("Throttle", 0.08)
        pilot.done_to("master_on")
        pilot.press("Master")
        pilot.seen("master_on")
        pilot.done_to("mags_both")
        pilot.mags("BOTH")
        pilot.done_to("crank")
        page.keyboard.down("s")
        pilot.wait_for(lambda f: f["start"]["large"])
        keep("flight-cranking")
        page.keyboard.up("s")
    if "debrief" in names:
        pilot.end()
        take_drill(page, pilot)
        keep("debrief")


def take_drill(page: Page, pilot: Cockpit) -> None:
    """Fly a drill by one side of its check only, to its debrief."""
    page.goto(f"{pilot.base_url}/practice")
    page.get_by_role("listitem").get_by_role("button", name="A magneto that misses").click()
    pilot.mags("L")
    pilot.flight_seconds(5)
    pilot.mags("BOTH")
    for question, words in (("What is it?", "A magneto that misses"), ("What now?", "Taxi back")):
        drill = page.get_by_role("region", name="Drill")
        drill.get_by_role("button", name=question).click()
        drill.get_by_role("button", name=words).click()
    page.get_by_role("button", name="End, debrief").click()
    expect(page.get_by_role("heading", name="What happened")).to_be_visible()
    page.wait_for_timeout(11_000)  # until the bar that offers to take the end back is gone


def main() -> None:
    """Take them all, or those that are named, at a size."""
    parser = argparse.ArgumentParser()
    parser.add_argument("names", nargs="*", help=", ".join([*_PAGES, *_FLIGHTS]))
    parser.add_argument("--out", type=Path, default=Path("docs/screenshots"))
    parser.add_argument("--size", default="1280x800")
    parser.add_argument("--night", action="store_true")
    given = parser.parse_args()
    names = given.names or [*_PAGES, *_FLIGHTS]
    width, height = (int(part) for part in given.size.split("x"))
    with tempfile.TemporaryDirectory() as kept, sync_playwright() as playwright:
        path = Path(kept) / "demo.db"
        database = Database(path)
        build_demo(database, shipped_profiles())
        database.close()
        server = Server(path, free_port())
        server.start()
        browser = playwright.chromium.launch(executable_path=chromium(), args=CHROMIUM_FLAGS)
        try:
            page = browser.new_page(viewport={"width": width, "height": height})
            page.goto(server.base_url)
            page.evaluate(f"localStorage.setItem('look', '{'night' if given.night else 'day'}')")
            take_pages(page, server.base_url, [name for name in names if name in _PAGES], given.out)
            if any(name in _FLIGHTS for name in names):
                take_flights(page, server.base_url, names, given.out)
        finally:
            browser.close()
            server.kill()


if __name__ == "__main__":
    main()
