"""What browser tests share: a server with the demo's records for those that read pages, and the patience of a tap."""

import shutil

import pytest

from tests.conftest import Server, free_port
from tests.e2e.cockpit import PATIENCE_S


@pytest.fixture(autouse=True)
def patience(request):
    """Let a tap wait for its button as long as any state is waited for: a busy machine is slow, not wrong."""
    if "page" in request.fixturenames:
        request.getfixturevalue("page").context.set_default_timeout(1000 * PATIENCE_S)


@pytest.fixture(scope="module")
def demo_server(tmp_path_factory, demo_template, unheard_url):
    path = shutil.copy(demo_template, tmp_path_factory.mktemp("demo") / "demo.db")
    running = Server(path, free_port(), options=("--weather-url", unheard_url))
    running.start()
    yield running
    running.kill()
