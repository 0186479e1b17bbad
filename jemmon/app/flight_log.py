"""The events of a flight that goes on, in memory, and the state that follows: stepped by each, folded anew only on an undo."""

from collections.abc import Sequence
from dataclasses import replace

from ..core.aircraft import Profile
from ..core.flight.events import Event
from ..core.flight.fold import fold, last_undoable, step, undoable_ids
from ..core.flight.state import FlightState


class FlightLog:
    """What is kept of one flight. `add` takes events as they were stored, in order of their `seq`."""

    def __init__(self, profile: Profile, events: Sequence[Event]):
        self.profile = profile
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
            self._state = fold(self.profile, self._events)
        else:
            self._state = step(self.profile, self._state, event)

    def ahead(self, events: Sequence[Event]) -> FlightState:
        """Return the state after these too, without taking them; those that are here already count once."""
        new = [event for event in events if event.id not in self._by_id]
        last_seq = max((event.seq for event in events), default=self._state.last_seq)
        if any(event.kind == "undo" for event in new):
            return replace(fold(self.profile, [*self._events, *new]), last_seq=last_seq)
        state = self._state
        for event in new:
            state = step(self.profile, state, event)
        return replace(state, last_seq=max(state.last_seq, last_seq))

    def settle(self, event: Event) -> None:
        """Take the `seq` that an event got when it was written; one that is not here is left alone."""
        if (noted := self._by_id.get(event.id)) is None:
            return
        self._by_id[event.id] = event
        place = next(n for n in range(len(self._events) - 1, -1, -1) if self._events[n] is noted)
        self._events[place] = event
        self._state = replace(self._state, last_seq=max(self._state.last_seq, event.seq))

    def undoable_ids(self, most: int = 5) -> tuple[str, ...]:
        """Return the ids of the newest events that can be taken back, newest first."""
        return undoable_ids(self._events, most)

    def last_undoable(self) -> Event | None:
        """Return the event that one tap takes back, or None."""
        return last_undoable(self._events)
