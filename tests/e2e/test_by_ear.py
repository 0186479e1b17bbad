"""The microphone in a real browser: an engine of the tests' own synthesiser is what it hears."""

import wave
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Browser, BrowserType, Page, expect

from tests.conftest import CHROMIUM_FLAGS
from tests.e2e.cockpit import Cockpit
from tests.e2e.test_whole_flight import assert_fits_every_screen, picture
from tests.strange.sound import RATE_HZ, engine_sound, lagged, wander

# a run-up of which the browser plays one round after the other: (begins [s], ends [s], falls by [RPM])
FALLS = ((22.0, 29.0, 70.0), (36.0, 43.0, 95.0))
LONG_S = 60.0


@pytest.fixture(scope="module")
def run_up_wav(tmp_path_factory) -> Path:
    draw = np.random.default_rng(601)
    time = np.arange(0, LONG_S, 1 / RATE_HZ)
    target = np.full_like(time, 1_800.0)
    for begin, end, fall in FALLS:
        target[(time >= begin) & (time < end)] -= fall
    rpm = lagged(target, 0.5) + wander(draw, len(time))
    samples = engine_sound(draw, rpm, 4, 2, 1.0, 18.0)
    path = tmp_path_factory.mktemp("sound") / "run-up.wav"
    with wave.open(str(path), "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(RATE_HZ)
        file.writeframes((0.7 * samples * 32_767).astype("<i2").tobytes())
    return path


@pytest.fixture
def page_that_hears(browser_type: BrowserType, browser_type_launch_args, run_up_wav):
    """A page in a browser whose microphone is the file."""
    sound = ("--use-fake-device-for-media-stream", f"--use-file-for-fake-audio-capture={run_up_wav}")
    arguments = [*CHROMIUM_FLAGS, "--use-fake-ui-for-media-stream", *sound]
    own: Browser = browser_type.launch(**{**browser_type_launch_args, "args": arguments})
    page = own.new_page(viewport={"width": 1024, "height": 768})
    yield page
    own.close()


def both_sides(finding: dict) -> list[float]:
    """The two drops [RPM] in order of depth; none while one side alone was heard: a busy machine loses sound now and then."""
    drops = [finding["measured"].get(name) for name in ("drop_first_rpm", "drop_second_rpm")]
    return [] if None in drops else sorted(drops)


def test_a_run_up_by_hand_is_heard(page_that_hears: Page, server):
    page = page_that_hears
    pilot = Cockpit(page, server.base_url)
    pilot.begin(by_hand=True)
    pilot.done_to("mags")
    panel = page.get_by_role("region", name="By ear")
    page.get_by_role("button", name="Listen to the engine").click()
    expect(panel).to_contain_text("read the needle", timeout=60_000)
    pilot.wait_for(lambda f: f["ear"] and f["ear"]["level_pct"] > 20)
    page.get_by_role("button", name="The needle shows 1,800").click()
    heard = pilot.wait_for(lambda f: f["ear"] and f["ear"]["rpm"])["ear"]
    assert 1_650 < heard["rpm"] < 1_850
    expect(panel).to_contain_text("Hearing 1,")
    expect(page.get_by_role("button", name="Take what is heard: 1")).to_be_visible()
    assert_fits_every_screen(page)
    picture(page, "flight-by-ear")
    found = pilot.wait_for(lambda f: f["item"] and f["item"]["finding"] and both_sides(f["item"]["finding"]))["item"][
        "finding"
    ]
    assert found["kind"] == "mag_check"
    falls = both_sides(found)
    assert falls == pytest.approx([fall for _, _, fall in FALLS], abs=15)
    page.get_by_role("button", name="Stop listening").click()
    pilot.wait_for(lambda f: f["ear"] is None)
    expect(page.get_by_role("button", name="Listen to the engine")).to_be_visible()
