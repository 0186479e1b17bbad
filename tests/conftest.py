"""What the tests share: the shipped profile, a database, the application's client, and a real server for the browser."""

import atexit
import contextlib
import fcntl
import http.client
import json
import multiprocessing
import os
import shutil
import socket
import sqlite3
import subprocess
import sys
import time
import urllib.request
import uuid
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from hypothesis import settings
from playwright.sync_api import expect

from jemmon.api import create_app
from jemmon.app.settings import Settings
from jemmon.cli import main
from jemmon.core.aircraft import Profile
from jemmon.demo.flying_group import build_demo
from jemmon.library.shipped import shipped_profiles
from jemmon.store.database import Database

CHROMIUM_FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--no-first-run",
]


def chromium() -> str:
    """Return the program of Chromium: the one that has no window, where it is installed, since it takes a third less work."""
    found = shutil.which("chromium-headless-shell") or shutil.which("chromium")
    assert found, "Chromium is missing; type: sudo apt-get install chromium-headless-shell"
    return found


expect.set_options(timeout=1000 * float(os.environ.get("JEMMON_PATIENCE_S", "60")))  # a busy machine is slow, not wrong
settings.register_profile("busy", deadline=None, derandomize=True)
settings.load_profile("busy")


@pytest.fixture(scope="session")
def profile() -> Profile:
    return shipped_profiles()["a-trainer"]


@pytest.fixture
def database(tmp_path):
    opened = Database(tmp_path / "jemmon.db")
    yield opened
    opened.close()


@pytest.fixture(scope="session")
def unheard_url():
    """An address of this machine on which nobody listens, whatever else runs here: bound, and never listened to."""
    with socket.socket() as held:
        held.bind(("127.0.0.1", 0))
        yield f"http://127.0.0.1:{held.getsockname()[1]}"


def _made_once(tmp_path_factory: pytest.TempPathFactory, name: str, make: Callable[[Path], None]) -> Path:
    """Return a file that the first of the processes that test beside each other makes for all of them."""
    folder = tmp_path_factory.getbasetemp()
    folder = folder.parent if "PYTEST_XDIST_WORKER" in os.environ else folder
    with (folder / f"{name}.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not (folder / name).exists():
            make(folder / f"half-{name}")
            _in_one_file(folder / f"half-{name}")
            (folder / f"half-{name}").rename(folder / name)
    return folder / name


def _in_one_file(path: Path) -> None:
    """Bring what SQLite still keeps beside a database into its file: the check at the start may read it a while longer
    than the application is open, and then closing leaves that where it is."""
    with contextlib.closing(sqlite3.connect(path, timeout=60)) as db:
        (is_busy, *_) = db.execute("PRAGMA wal_checkpoint(TRUNCATE)").fetchone()
    assert not is_busy, f"{path} is still read"


def _first_start(path: Path) -> None:
    create_app(Settings(database=path)).extensions["hangar"].close()


@pytest.fixture(scope="session")
def template(tmp_path_factory) -> Path:
    """A database as the application leaves it at its first start; tests begin with a copy."""
    return _made_once(tmp_path_factory, "template.db", _first_start)


@pytest.fixture(scope="session")
def demo_template(tmp_path_factory, template) -> Path:
    """A database with the records of the demo; tests begin with a copy."""

    def with_records(path: Path) -> None:
        shutil.copy(template, path)
        opened = Database(path)
        build_demo(opened, shipped_profiles(), only=5)
        opened.close()

    return _made_once(tmp_path_factory, "demo.db", with_records)


@pytest.fixture
def app(tmp_path, template, unheard_url):
    path = Path(shutil.copy(template, tmp_path / "jemmon.db"))
    own = Settings(database=path, most_upload_bytes=200_000, speeds=(1, 4, 10, 60), weather_url=unheard_url)
    made = create_app(own)
    yield made
    made.extensions["hangar"].close()


@pytest.fixture
def client(app):
    return app.test_client()


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


def ask(port: int, method: str, path: str, body: Any = None, patience_s: float = 10.0) -> tuple[int, Any]:
    """Return (status, answer) of a call to a real server; raises OSError or HTTPException where there is none."""
    connection = http.client.HTTPConnection("127.0.0.1", port, timeout=patience_s)
    try:
        text = None if body is None else json.dumps(body)
        connection.request(method, path, text, {"Content-Type": "application/json"})
        answer = connection.getresponse()
        return answer.status, json.loads(answer.read())
    finally:
        connection.close()


_OWN = "jemmon.cli"
# what a server imports is imported once and forked from there: three seconds of computing less for each of some forty
_FORKED = multiprocessing.get_context("forkserver")
_FORKED.set_forkserver_preload(["jemmon.api", "jemmon.app.serving"])


def _run(arguments: list[str], output: str = os.devnull, errors: str | None = None) -> None:
    """Be the command line, in a process that was forked, with its two outputs in files."""
    for stream, path in ((1, output), (2, errors)):
        if path is not None:
            os.dup2(os.open(path, os.O_WRONLY | os.O_CREAT), stream)
    main(arguments, prog_name="jemmon")


def run_jemmon(folder: Path, *arguments: str) -> subprocess.CompletedProcess[str]:
    """Run a command of ours to its end, at most a minute; what it printed passes through files of a folder."""
    output, errors = folder / "stdout.txt", folder / "stderr.txt"
    for path in (output, errors):
        path.write_text("")
    process = _FORKED.Process(target=_run, args=(list(arguments), str(output), str(errors)))
    process.start()
    process.join(60)
    assert process.exitcode is not None, "not ended within a minute"
    return subprocess.CompletedProcess(arguments, process.exitcode, output.read_text(), errors.read_text())


class Server:
    """A real server in a process of its own; `kill` is SIGKILL."""

    def __init__(self, database: Path, port: int, module: str = _OWN, options: tuple[str, ...] = ()):
        self.database, self.port, self.base_url = database, port, f"http://127.0.0.1:{port}"
        self.module, self.options = module, options
        self.process: Any = None

    @property
    def pid(self) -> int:
        """The number of its process."""
        return int(self.process.pid)

    def start(self) -> None:
        own = [
            "serve",
            "--fast",
            "--port",
            str(self.port),
            "--database",
            str(self.database),
            "--frame-s",
            "0.25",
            *self.options,
        ]
        if self.module == _OWN:
            self.process = _FORKED.Process(
                target=_run, args=(own,)
            )  # no daemon: a server has a process of its own for files
            self.process.start()
            atexit.register(self.kill)
        else:
            self.process = subprocess.Popen([sys.executable, "-m", self.module, *own], stdout=subprocess.DEVNULL)
        end = time.monotonic() + 60
        while time.monotonic() < end:
            try:
                urllib.request.urlopen(f"{self.base_url}/api/units", timeout=2).close()
                return
            except OSError:
                time.sleep(0.1)
        raise AssertionError("the server did not start within 60 s")

    def send_signal(self, number: int) -> None:
        os.kill(self.pid, number)

    def wait(self, seconds: float | None = None) -> int | None:
        """Wait for its end; return its exit status, or None where it has not ended by then."""
        if isinstance(self.process, subprocess.Popen):
            return self.process.wait(seconds)
        self.process.join(seconds)
        status: int | None = self.process.exitcode
        return status

    def kill(self) -> None:
        if self.process:
            self.process.kill()
            self.wait()


@pytest.fixture(scope="module")
def shared_server(tmp_path_factory, template, unheard_url):
    path = Path(shutil.copy(template, tmp_path_factory.mktemp("server") / "jemmon.db"))
    running = Server(path, free_port(), options=("--weather-url", unheard_url))
    running.start()
    yield running
    running.kill()


@pytest.fixture
def server(shared_server):
    """The file's server with no flight going on; what a test began is ended after it."""
    yield shared_server
    with urllib.request.urlopen(f"{shared_server.base_url}/api/live", timeout=60) as answer:
        frame = json.load(answer)["frame"]
    if frame and not frame["ended"]:
        body = json.dumps({"id": uuid.uuid4().hex, "kind": "flight_ended"}).encode()
        url = f"{shared_server.base_url}/api/flights/{frame['flight']}/events"
        urllib.request.urlopen(
            urllib.request.Request(url, body, {"Content-Type": "application/json"}), timeout=10
        ).close()


@pytest.fixture(scope="session")
def browser_type_launch_args():
    return {"executable_path": chromium(), "args": CHROMIUM_FLAGS}


@pytest.fixture(scope="session")
def browser_context_args():
    return {"viewport": {"width": 1280, "height": 800}}
