"""Where samples come from, in two small interfaces: a `Feed` is read; an `Engine` also has levers to move and faults to give."""

import logging
import threading
from collections.abc import Callable, Mapping
from typing import Any, ClassVar, Protocol, runtime_checkable

from ..core.screen.cockpit import Cockpit, FeedFacts
from ..core.trace.sample import Sample
from .practice_faults import WaitingFault

OnSample = Callable[[Sample], None]
_AFTER_FAULT_S = 0.5
_log = logging.getLogger(__name__)


class Feed(Protocol):
    """A source of samples with a clock of its own, handing each to what it was made with; `start` begins its thread."""

    about: ClassVar[FeedFacts]
    """What it is, and what a screen says of it."""
    at_s: float
    """Flight time [s]; never back."""
    speed: int
    """How many times real time it runs."""

    @property
    def is_dead(self) -> bool:
        """Whether its thread ended without being stopped."""
        ...

    @property
    def is_stopped(self) -> bool:
        """Whether it was stopped."""
        ...

    def start(self) -> None:
        """Begin to run."""
        ...

    def stop(self) -> None:
        """Stop and wait for the thread."""
        ...

    def state(self) -> dict[str, Any]:
        """Return all that `resume` needs, as plain data."""
        ...

    def resume(self, body: Mapping[str, Any]) -> None:
        """Go on from a kept state."""
        ...


@runtime_checkable
class Engine(Protocol):
    """What has levers: the simulated engine."""

    def cockpit(self) -> Cockpit:
        """Return the levers and switches as a screen lays them out."""
        ...

    def set_levers(self, levers: Mapping[str, float | str | bool]) -> None:
        """Move levers. Raises ScriptError where there are none of this name; then none is moved."""
        ...

    def check_action(self, action: str, amount: float) -> None:
        """Raise ScriptError unless a hand can do this here."""
        ...

    def act(self, action: str, amount: float) -> None:
        """Do what a hand does at once: prime, pump by hand, turn the propeller through. Raises ScriptError."""
        ...

    def freeze(self, frozen: bool) -> None:
        """Let flight time stand, or go on."""
        ...

    def set_fault(self, name: str, size: float) -> None:
        """Set a fault. Raises ScriptError where there is none of this name."""
        ...

    @property
    def waiting(self) -> tuple[WaitingFault, ...]:
        """The faults that wait for their time or height."""
        ...

    def wait_with(self, fault: WaitingFault) -> None:
        """Set a fault when it is due. Raises ScriptError where there is none of this name."""
        ...

    def forget_waiting(self, place: int) -> None:
        """Let a fault that waits not come; none where there is no such place."""
        ...


class OwnThread:
    """A feed's thread: `_turn` of the subclass is called again and again until `stop`. A turn that fails is logged, and the next
    one is tried: one exception never stops the needles."""

    def __init__(self, name: str):
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._run, name=name, daemon=True)

    def _turn(self) -> None:
        raise NotImplementedError

    def _run(self) -> None:
        while not self._stop.is_set():
            try:
                self._turn()
            except Exception:
                _log.exception("a turn of the feed %s failed", self._thread.name)
                self._stop.wait(_AFTER_FAULT_S)

    @property
    def is_dead(self) -> bool:
        """Whether it was started and ended without being stopped."""
        return self._thread.ident is not None and not self._thread.is_alive() and not self._stop.is_set()

    @property
    def is_stopped(self) -> bool:
        """Whether it was stopped."""
        return self._stop.is_set()

    def start(self) -> None:
        """Begin to run."""
        self._thread.start()

    def stop(self) -> None:
        """Stop and wait for the thread."""
        self._stop.set()
        if self._thread.is_alive() and self._thread is not threading.current_thread():
            self._thread.join(5)
