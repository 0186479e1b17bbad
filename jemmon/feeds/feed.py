"""Where samples come from: what a live flight asks of a feed, whichever it is."""

import threading
from collections.abc import Mapping
from typing import Any, Protocol


class Feed(Protocol):
    """A source of samples with a clock of its own; `start` begins its thread."""

    speed: int
    at_s: float

    @property
    def columns(self) -> tuple[str, ...]:
        """The trace columns of a row, without time_s."""
        ...

    def start(self) -> None:
        """Begin to run."""
        ...

    def stop(self) -> None:
        """Stop and wait for the thread."""
        ...

    def set_levers(self, levers: Mapping[str, float | str | bool]) -> None:
        """Move levers. Raises ScriptError where there are none of this name."""
        ...

    def act(self, action: str, amount: float) -> None:
        """Do what a hand does at once: prime, pump by hand, turn the propeller through."""
        ...

    def set_fault(self, name: str, size: float) -> None:
        """Set a fault. Raises ScriptError where there is none of this name."""
        ...

    def state(self) -> dict[str, Any]:
        """Return all that `resume` needs."""
        ...

    def resume(self, body: Mapping[str, Any]) -> None:
        """Go on from a kept state."""
        ...


class OwnThread:
    """A feed's thread: `_run` of the subclass loops until `_stop` is set."""

    def __init__(self, name: str):
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._run, name=name, daemon=True)

    def _run(self) -> None:
        raise NotImplementedError

    def start(self) -> None:
        """Begin to run."""
        self._thread.start()

    def stop(self) -> None:
        """Stop and wait for the thread."""
        self._stop.set()
        if self._thread.is_alive() and self._thread is not threading.current_thread():
            self._thread.join(5)
