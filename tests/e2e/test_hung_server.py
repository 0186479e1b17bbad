"""A server that hangs, is killed, or whose disk is held by another: the screen says that it is old, keeps the taps, and delivers
them in order."""

import contextlib
import signal
import sqlite3
import time

import pytest
from playwright.sync_api import Page, expect

from tests.conftest import Server, free_port
from tests.e2e.cockpit import SOON_MS, Cockpit
from tests.e2e.test_whole_flight import assert_fits_every_screen

OLD = "OLD since"


@contextlib.contextmanager
def hung(server: Server):
    """The server's process is stopped, its connections stay open."""
    server.send_signal(signal.SIGSTOP)
    try:
        yield
    finally:
        server.send_signal(signal.SIGCONT)


@pytest.mark.parametrize("by_hand", [False, True])
def test_a_hung_server_is_seen_in_every_tab_and_taps_wait(page: Page, server, by_hand):
    pilot = Cockpit(page, server.base_url)
    pilot.begin(by_hand=by_hand)
    other = page.context.new_page()
    other.goto(f"{server.base_url}/flight")
    expect(other.locator("main.flight")).to_be_visible()
    page.bring_to_front()
    page.wait_for_timeout(2500)
    expect(page.get_by_text(OLD)).to_be_hidden()
    first = pilot.frame()["item"]["id"]
    with hung(server):
        expect(page.get_by_text(OLD)).to_be_visible(timeout=SOON_MS)
        for _ in range(5):
            pilot.main()  # of one item, however often
        expect(page.get_by_text("1 tap waits to be kept")).to_be_visible()
        assert_fits_every_screen(page)
        other.bring_to_front()
        expect(other.get_by_text(OLD)).to_be_visible(timeout=SOON_MS)
        page.bring_to_front()
    expect(page.get_by_text(OLD)).to_be_hidden(timeout=SOON_MS)
    pilot.wait_for(lambda f: f["item"]["id"] != first)
    expect(page.get_by_text("waits to be kept")).to_be_hidden()
    with_the_item = [i for one in pilot.frame()["lists"] for i in one["items"] if i["id"] == first]
    assert with_the_item[0]["state"] == "done"
    other.close()


def test_taps_of_a_killed_server_arrive_in_order_after_it_is_back(page: Page, tmp_path):
    server = Server(tmp_path / "x.db", free_port())
    server.start()
    pilot = Cockpit(page, server.base_url)
    pilot.begin(by_hand=True)
    server.kill()
    expect(page.get_by_text(OLD)).to_be_visible(timeout=SOON_MS)
    pilot.main()
    page.keyboard.press("Backspace")  # takes back what is seen last: the tap that still waits
    page.keyboard.press("i")
    expect(page.get_by_text("3 taps wait to be kept")).to_be_visible()
    page.goto("about:blank")  # nothing is left of them but the store of the browser
    server.start()
    page.goto(f"{server.base_url}/flight")
    pilot.wait_for(lambda f: f["paused"])
    kinds = kept_kinds(server)
    assert kinds[-3:] == ["item_done", "undo", "interrupted"]
    server.kill()


def kept_kinds(server: Server) -> list[str]:
    """Return the kinds of what is on the disk, in order."""
    db = sqlite3.connect(f"file:{server.database}?mode=ro", uri=True)
    try:
        return [row[0] for row in db.execute("SELECT kind FROM events ORDER BY seq")]
    finally:
        db.close()


def test_while_another_holds_the_database_it_is_said_and_the_needles_go_on(page: Page, tmp_path):
    server = Server(tmp_path / "x.db", free_port())
    server.start()
    pilot = Cockpit(page, server.base_url)
    pilot.begin()
    first = pilot.frame()["item"]["id"]
    held = sqlite3.connect(server.database, isolation_level=None)
    held.execute("BEGIN IMMEDIATE")
    expect(page.get_by_text("Nothing is being written: another program")).to_be_visible(timeout=SOON_MS)
    at_s = pilot.frame()["at_s"]
    pilot.main()
    pilot.wait_for(lambda f: f["at_s"] > at_s + 2)
    expect(page.get_by_text(OLD)).to_be_hidden()
    assert pilot.frame()["item"]["id"] == first
    held.rollback()
    held.close()
    pilot.wait_for(lambda f: f["item"]["id"] != first)
    expect(page.get_by_text("Nothing is being written")).to_be_hidden(timeout=SOON_MS)
    server.kill()


def test_what_is_refused_stays_listed_until_it_is_dismissed(page: Page, server):
    pilot = Cockpit(page, server.base_url)
    pilot.begin(by_hand=True)
    page.evaluate(
        """async () => {
          const open = indexedDB.open('jemmon')
          const db = await new Promise((go) => (open.onsuccess = () => go(open.result)))
          const body = { id: 'strange-1', kind: 'item_done', body: { item: 'no_such_item' } }
          const flight = await (await fetch('/api/live')).json()
          db.transaction('letters', 'readwrite').objectStore('letters').add({ way: 'event', flight: flight.frame.flight, body })
          db.close()
        }"""
    )
    page.reload()
    refusal = page.get_by_role("alert").filter(has_text="Not taken")
    expect(refusal).to_be_visible()
    pilot.done()
    expect(refusal).to_be_visible()
    page.reload()
    expect(refusal).to_be_visible()
    refusal.get_by_role("button", name="Dismiss").click()
    expect(refusal).to_be_hidden()


def test_two_tabs_keep_the_order_of_the_taps(page: Page, server):
    pilot = Cockpit(page, server.base_url)
    pilot.begin(by_hand=True)
    other = page.context.new_page()
    other.goto(f"{server.base_url}/flight")
    expect(other.locator("main.flight")).to_be_visible()
    before = len(kept_kinds(server))
    with hung(server):
        expect(other.get_by_text(OLD)).to_be_visible(timeout=SOON_MS)
        for tab, key in ((other, "i"), (page, " "), (other, "Backspace"), (page, "i")):
            tab.bring_to_front()
            tab.keyboard.press(key)
            tab.wait_for_timeout(300)
    end = time.monotonic() + 20
    while len(kept_kinds(server)) < before + 3 and time.monotonic() < end:
        page.wait_for_timeout(100)
    assert kept_kinds(server)[before : before + 3] == ["interrupted", "item_done", "undo"]
    other.close()
