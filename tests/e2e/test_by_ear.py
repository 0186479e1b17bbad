"""From cold to take-off by hand and ear, with one hand on a tablet: the microphone hears the tests' own synthesiser, which is
driven by a run-up of the simulated engine."""

import wave
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Browser, BrowserType, Page, expect

from jemmon.core.bench import Bench
from tests.conftest import CHROMIUM_FLAGS
from tests.core.builders import PROFILES
from tests.e2e.cockpit import Cockpit
from tests.e2e.test_bars import TYPED
from tests.e2e.test_whole_flight import assert_fits_every_screen, picture
from tests.strange.sound import RATE_HZ, engine_sound, wander

# a run-up of which the browser plays one round after the other: on one magneto from, to [s]
SIDES = (("L", 20.0, 30.0), ("R", 37.0, 47.0))
LONG_S, ROW_S = 60.0, 0.05
# of the corpora's wander: in a wind the speed before a side and the one after it differ by 16 RPM, and then no drop is the true one
CALM = 0.25


def run_up_of_the_bench() -> tuple[np.ndarray, np.ndarray]:
    """Time [s] and RPM, a sample of the sound each, of a warm trainer's engine in calm air, whose magnetos are switched off one
    after the other."""
    bench = Bench(PROFILES["a-trainer"].bench)
    bench.make_running(1_800)
    bench.set_lever("throttle", 0.335)
    bench.advance(120)
    time, rpm = np.arange(0, LONG_S, ROW_S), []
    for at in time:
        bench.set_lever("mag", next((side for side, begin, end in SIDES if begin <= at < end), "BOTH"))
        bench.advance(ROW_S)
        rpm.append(float(bench.state["speed_rad_s"][0]) * 60 / (2 * np.pi))
    samples = np.arange(0, LONG_S, 1 / RATE_HZ)
    return samples, np.interp(samples, time, rpm) + CALM * wander(np.random.default_rng(601), len(samples))


def falls_of(time: np.ndarray, rpm: np.ndarray) -> list[float]:
    """The true drops [RPM], the smaller first: the settled speed before and after, which gusts move apart, against that of the
    last seconds on one side."""

    def level(begin: float, end: float) -> float:
        return float(np.median(rpm[(time > begin) & (time < end)]))

    return sorted(
        (level(begin - 4, begin) + level(end + 2, end + 6)) / 2 - level(end - 2, end) for _, begin, end in SIDES
    )


@pytest.fixture(scope="module")
def run_up() -> tuple[np.ndarray, np.ndarray]:
    return run_up_of_the_bench()


@pytest.fixture(scope="module")
def run_up_wav(tmp_path_factory, run_up) -> Path:
    samples = engine_sound(np.random.default_rng(602), run_up[1], 4, 2, 1.0, 18.0)
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
    page = own.new_page(viewport={"width": 1024, "height": 768}, has_touch=True)
    yield page
    own.close()


def both_sides(finding: dict) -> list[float]:
    """The two drops [RPM] in order of depth; none while one side alone was heard."""
    drops = [finding["measured"].get(name) for name in ("drop_first_rpm", "drop_second_rpm")]
    return [] if None in drops else sorted(drops)


def to_take_off(pilot: Cockpit) -> None:
    """Work through what is left before the take-off, its figures on the number pad."""
    while (frame := pilot.frame())["phase"] != "take_off_climb":
        item = frame["item"]
        if item and item["manual"] and not item["finding"]:
            pilot.type_figures(item, TYPED)
            continue
        pilot.caught_up()
        pilot.main()
        pilot.wait_for(lambda f, s=frame["last_seq"]: f["last_seq"] > s)


def test_from_cold_to_take_off_by_hand_and_ear(page_that_hears: Page, server, run_up):
    page = page_that_hears
    pilot = Cockpit(page, server.base_url)
    pilot.begin(by_hand=True)
    pilot.done_to("mags")
    panel = page.get_by_role("region", name="By ear")
    page.get_by_role("button", name="Listen to the engine").tap()
    expect(panel).to_contain_text("read the needle", timeout=60_000)
    pilot.wait_for(lambda f: f["ear"] and f["ear"]["level_pct"] > 20)
    page.get_by_role("button", name="The needle shows 1,800").tap()
    heard = pilot.wait_for(lambda f: f["ear"] and f["ear"]["rpm"])["ear"]
    assert run_up[1].min() - 15 < heard["rpm"] < run_up[1].max() + 15
    expect(panel).to_contain_text("Hearing 1,")
    expect(page.get_by_role("button", name="Take what is heard: 1")).to_be_visible()
    assert_fits_every_screen(page)
    picture(page, "flight-by-ear")
    # a busy machine loses sound, and a side that is shorter by it has not settled: then a later round shows the true drops, as near
    # as those of any box that is not ours (how near the ear comes on a calm one, tests/core holds)
    true = pytest.approx(falls_of(*run_up), abs=12)
    found = pilot.wait_for(lambda f: f["item"] and f["item"]["finding"] and both_sides(f["item"]["finding"]) == true)[
        "item"
    ]["finding"]
    assert (found["kind"], found["verdict"]) == ("mag_check", "within")
    page.get_by_role("button", name="Stop listening").tap()
    pilot.wait_for(lambda f: f["ear"] is None)
    expect(page.get_by_role("button", name="Listen to the engine")).to_be_visible()
    to_take_off(pilot)
    left = {phase["id"]: phase["open"] for phase in pilot.frame()["phases"]}
    assert left["run_up"] == 0, "what was heard is the magneto check's proof"
