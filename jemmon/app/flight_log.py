"""The events of a flight that goes on, in memory, and the state that follows: stepped by each, folded anew only on an undo."""

from collections.abc import Sequence

from ..core.aircraft import Profile
from ..core.flight.events import Event
from ..core.flight.fold import fold, last_undoable, step
from ..core.flight.state import FlightState


class FlightLog:
    """What is kept of one flight. `add` takes events as they were stored, in order of their `seq`."""

    def __init__(self, profile: Profile, events: Sequence[Event]):
        self._profile = profile
        self._events = list(events)
        self._by_id = {event.id: event for event in events}
        self._state = fold(profile, self._events)

    @property
    def events(self) -> Sequence[Event]:
        """All events so far, in order."""
        return self._events

    @property
    def state(self) -> FlightState:
        """The state after all of them."""
        return self._state

    @property
    def last_s(self) -> float:
        """Flight time of the latest event [s]."""
        return max((event.at_s for event in self._events), default=0.0)

    def find(self, event_id: str) -> Event | None:
        """Return an event by its id, or None."""
        return self._by_id.get(event_id)

    def add(self, event: Event) -> None:
        """Take an event that was stored."""
        self._events.append(event)
        self._by_id[event.id] = event
        if event.kind == "undo":
            self._state = fold(self._profile, self._events)
        else:
            self._state = step(self._profile, self._state, event)

    def last_undoable(self) -> Event | None:
        """Return the event that one tap takes back, or None."""
        return last_undoable(self._events)
