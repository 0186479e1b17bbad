"""How long a sample takes from the feed's hand-over to paint, in a real browser on the flight screen."""

import tempfile
from pathlib import Path

import numpy as np
from playwright.sync_api import sync_playwright

from tests.conftest import CHROMIUM_FLAGS, Server, chromium, free_port
from tests.e2e.cockpit import Cockpit

_SECONDS = 20

# runs in the page: for each newly shown hand-over, the time at which the picture that shows it has been painted
_WATCH = """() => {
  const main = document.querySelector('main.flight'), delays = (window.delays = [])
  new MutationObserver(() => {
    const since = Number(main.dataset.handedOver)
    requestAnimationFrame(() => setTimeout(() => delays.push(Date.now() - since)))
  }).observe(main, { attributes: true, attributeFilter: ['data-handed-over'] })
}"""


def sample_to_screen_ms() -> np.ndarray:
    """Return the delays [ms] of about 20 s of samples at real time."""
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        server = Server(Path(folder) / "x.db", free_port())
        server.start()
        browser = playwright.chromium.launch(executable_path=chromium(), args=CHROMIUM_FLAGS)
        try:
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            Cockpit(page, server.base_url).begin()
            page.evaluate(_WATCH)
            page.wait_for_timeout(_SECONDS * 1000)
            return np.array(page.evaluate("() => window.delays"), dtype=float)
        finally:
            browser.close()
            server.kill()
