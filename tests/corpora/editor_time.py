"""How long a letter takes from the key to paint in the editor, in a real browser: a profile of 5,000 items against one of ten."""

import copy
import json
import tempfile
import urllib.request
from pathlib import Path
from typing import Any

import numpy as np
from playwright.sync_api import sync_playwright

from jemmon.library.shipped import shipped_profiles
from tests.conftest import CHROMIUM_FLAGS, Server, chromium, free_port

_LETTERS, _LISTS, _ITEMS = 40, 20, 50
_WATCH = """() => {
  const delays = (window.delays = [])
  window.addEventListener('keydown', () => {
    const since = performance.now()
    requestAnimationFrame(() => setTimeout(() => delays.push(performance.now() - since)))
  }, { capture: true })
}"""


def profile_of(items: int) -> dict[str, Any]:
    """Return a profile's JSON with so many items, in lists as long as a list may be."""
    body = copy.deepcopy(dict(shipped_profiles()["a-trainer"].body))
    first = body["phases"][0]["lists"][1]["items"][0]
    phase = {"id": "p0", "title": "Phase 0", "kind": "other", "instruments": [], "lists": []}
    made, number = [copy.deepcopy(phase)], 0
    while number < items:
        if len(made[-1]["lists"]) == _LISTS:
            made.append({**copy.deepcopy(phase), "id": f"p{len(made)}", "title": f"Phase {len(made)}"})
        here = [{**first, "id": f"i{k}", "challenge": f"Item {k}"} for k in range(number, min(number + _ITEMS, items))]
        made[-1]["lists"].append({"id": f"l{number}", "title": f"List {number}", "items": here})
        number += len(here)
    take_off = {**body["take_off"], "phase": "p0", "needs": []}
    return {**body, "phases": made, "put_backs": [], "take_off": take_off}


def key_to_paint_ms(items: int) -> float:
    """Return the median time [ms] from a key to the picture that shows its letter, in the editor of a profile of so many items."""
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        server = Server(Path(folder) / "x.db", free_port())
        server.start()
        browser = playwright.chromium.launch(executable_path=chromium(), args=CHROMIUM_FLAGS)
        try:
            _send(f"{server.base_url}/api/aircraft/a-trainer/draft", json.dumps(profile_of(items)).encode())
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.goto(f"{server.base_url}/aircraft/a-trainer/edit")
            box = page.get_by_role("textbox", name="Response")
            box.click()
            page.evaluate(_WATCH)
            for letter in range(_LETTERS):
                page.keyboard.press("abcdefghij"[letter % 10])
                page.wait_for_timeout(60)
            return float(np.median(page.evaluate("() => window.delays")))
        finally:
            browser.close()
            server.kill()


def _send(url: str, body: bytes) -> None:
    request = urllib.request.Request(url, body, {"Content-Type": "application/json"}, method="PUT")
    urllib.request.urlopen(request, timeout=60).close()
