"""What all browser tests share: the patience of a tap."""

import pytest

from tests.e2e.cockpit import PATIENCE_S


@pytest.fixture(autouse=True)
def patience(request):
    """Let a tap wait for its button as long as any state is waited for: a busy machine is slow, not wrong."""
    if "page" in request.fixturenames:
        request.getfixturevalue("page").context.set_default_timeout(1000 * PATIENCE_S)
