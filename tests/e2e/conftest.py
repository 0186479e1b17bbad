"""A server with the demo's records, for the browser tests that read pages."""

import shutil

import pytest

from tests.conftest import Server, free_port


@pytest.fixture(scope="module")
def demo_server(tmp_path_factory, demo_template, unheard_url):
    path = shutil.copy(demo_template, tmp_path_factory.mktemp("demo") / "demo.db")
    running = Server(path, free_port(), options=("--weather-url", unheard_url))
    running.start()
    yield running
    running.kill()
