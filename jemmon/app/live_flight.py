"""One flight that goes on: its lock, and when what is asked. What anything means is decided in the core, what is kept and when by
the keeper; nothing here waits for the database but a pilot's own event.

The judgement runs on the last minutes of samples, once a second.
"""

import logging
import threading
import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Any

from ..core.aircraft import Profile
from ..core.flight.events import Event
from ..core.flight.fold import check_pilot_event
from ..core.flight.starts import flown_starts
from ..core.flight.state import FlightState
from ..core.hearing.wav import SoundError
from ..core.judgement.judge import evidence_of
from ..core.live.burn_off import describe_burn_off, follow_burn_off
from ..core.live.by_hand import gate_minutes_by_hand, sample_by_hand
from ..core.live.checks import follow_checks
from ..core.live.following import Following, follow, follow_read
from ..core.live.lean_by_hand import lean_by_hand
from ..core.live.ratings import pressures_ahead
from ..core.live.take_off import follow_take_off
from ..core.power.wanted import PowerChoice
from ..core.screen.ear import EarNow
from ..core.screen.frame import Frame, Identity, Worked, Working, describe
from ..core.screen.lists import current_item
from ..core.screen.power import choices
from ..core.screen.working import Curve, curve_of, work_out
from ..core.start.attempts import Attempt
from ..core.trace.sample import Sample
from ..core.trace.signals import engine_of
from ..feeds.clock import steady_s
from ..feeds.feed import Engine, Feed
from ..store.database import Database
from ..store.flights import Flight
from .flight_log import FlightLog
from .keeper import Keeper
from .listening import Listening
from .recorder import Recorder

_JUDGE_EVERY_S, _VERDICT_AFTER_S = 1.0, 1.4
_CHOICES_EVERY_S = 4.0  # an altitude and a temperature do not change what may be set any faster
_STALE_AFTER_S = 1.0
_log = logging.getLogger(__name__)


class LiveFlight:
    """The flight in the air, or on the ground with its engine running. `feed` is None when flown by hand; `attach` gives it
    one. `history` are the earlier starts of the aircraft, `own_lack_inhg` what full throttle of each engine lacked in its
    earlier take-offs [inHg]."""

    def __init__(
        self,
        database: Database,
        flight: Flight,
        profile: Profile,
        events: Sequence[Event],
        history: Sequence[Attempt],
        own_lack_inhg: Mapping[int, float],
        at_s: float = 0.0,
    ):
        self.flight, self.profile = flight, profile
        self._history, self._own_lack_inhg = history, own_lack_inhg
        self._lock = threading.RLock()
        self._log = FlightLog(profile, events)
        self._keeper = Keeper(database, flight.id, self._log, self._lock, self._look_after_feed)
        self._following = Following()
        self._now: Sample | None = None
        self._sample_wall, self._handed_over_ms = time.monotonic(), 0
        self._judged_at, self._judge_by = 0.0, float("inf")
        self._choices: tuple[PowerChoice, ...] = ()
        self._chosen_at = float("-inf")
        self._worked = Worked()
        self._frame_number = 0
        self._news = threading.Condition()
        self._by_hand_from = steady_s() - max(at_s, self._log.last_s)
        self.feed: Feed | None = None
        self._feed_lock, self._feed_stopped_s, self._is_stopping = threading.Lock(), steady_s(), False
        self._make_feed: Callable[[], Feed] | None = None
        self._recorder: Recorder | None = None
        self._make_ear: Callable[[], tuple[Listening, Recorder]] | None = None
        self._ear: Listening | None = None

    def attach(self, make_feed: Callable[[], Feed], recorder_of: Callable[[Feed], Recorder]) -> None:
        """Give the flight what makes its needles; flight time never goes back."""
        self._make_feed = make_feed
        at_s, self.feed = self.now_s, make_feed()
        self.feed.at_s = max(self.feed.at_s, at_s)
        self._recorder = self._keeper.recorder = recorder_of(self.feed)

    def attach_ear(self, make_ear: Callable[[], tuple[Listening, Recorder]]) -> None:
        """Give a flight by hand what hears its engine; it is made when a microphone is opened."""
        self._make_ear = make_ear

    def listen(self, data: bytes, rate_hz: int, number: int) -> EarNow:
        """Take a chunk of the microphone's sound, and return what is heard. Raises SoundError: no chunk, a flight with needles, or
        its engine cannot be heard."""
        if self._make_ear is None:
            raise SoundError("This flight has needles; the ear is for one that is flown by hand.")
        with self._lock:
            if self._ear is None:
                self._ear, self._recorder = self._make_ear()
                self._keeper.recorder = self._recorder
        heard = self._ear.take(data, rate_hz, number, self.now_s)
        found = self._ear.found(self.flight.id, self.state)
        if found:
            self._keeper.note(found)
        self._tell()
        return heard

    def stop_listening(self) -> None:
        """Forget what was heard last, with all sound."""
        if self._ear:
            self._ear.forget()
            self._tell()

    def start(self) -> None:
        """Begin to run, to keep and to judge."""
        self._keeper.start()
        if self.feed and not self.state.ended:
            self.feed.start()

    def stop(self) -> None:
        """Stop the feed and write what is open; a database that does not take it keeps nothing from stopping."""
        self._is_stopping = True
        if self.feed:
            self.feed.stop()
        self._keeper.stop()

    def _look_after_feed(self) -> None:
        """Give the flight a new feed where the old one's thread died, or where its end was taken back; stop it at the end."""
        with self._feed_lock:
            feed, make = self.feed, self._make_feed
            if feed is None or make is None or self._is_stopping:
                return
            if self.state.ended and not feed.is_stopped:
                feed.stop()
                self._feed_stopped_s = steady_s()
            elif not self.state.ended and (feed.is_dead or feed.is_stopped):
                _log.warning("flight %s: the needles begin again", self.flight.id)
                self.feed = make()
                gap_s = steady_s() - self._feed_stopped_s if feed.is_stopped else 0.0
                self.feed.resume({**feed.state(), "at_s": feed.at_s + gap_s})
                if self._recorder:
                    self._recorder.feed_state = self.feed.state
                self.feed.start()

    @property
    def state(self) -> FlightState:
        """The state after all events kept so far."""
        return self._log.state

    @property
    def engine(self) -> Engine | None:
        """What has levers, or None: an instrument, scripted needles, a flight by hand."""
        return self.feed if isinstance(self.feed, Engine) else None

    @property
    def now_s(self) -> float:
        """Flight time [s]: the feed's while samples come, the wall clock's else; never back."""
        if self.feed:
            return self.feed.at_s
        return steady_s() - self._by_hand_from

    def post(self, event_id: str, kind: str, body: Mapping[str, Any]) -> tuple[Event, bool]:
        """Keep a pilot's event; return it and whether it is new. It is on disk when this returns.

        Raises:
            EventError: the event cannot be taken. SameIdOtherBody: another event has this id. NotWritten: the database does not
            take it now.
        """

        def make(state: FlightState) -> Event:
            if self._log.find(event_id) is None:
                check_pilot_event(self.profile, state, kind, body)
            return Event(id=event_id, kind=kind, at_s=round(self.now_s, 2), body=body)

        return self._keep(make)

    def undo_last(self, event_id: str, seen: str | None = None) -> Event | None:
        """Take back the pilot event `seen`, the one that the screen offered to take back, or the last; return the undo, or None
        where there is nothing to take back."""
        if known := self._log.find(event_id):
            return known
        last = self._log.last_undoable()
        target = seen or (last.id if last else None)
        return self.post(event_id, "undo", {"event": target})[0] if target else None

    def prime(self, event_id: str, amount: float, action: str) -> None:
        """Do once for each new id what a hand does at once, and keep it as an event: a stroke of the primer, a stroke of the hand
        pump, a blade turned through.

        Raises:
            ScriptError: the simulated aircraft has no such action. EventError: the aircraft has no such engine.
        """
        number, own = (2, action.removeprefix("e2_")) if action.startswith("e2_") else (1, action)
        self.check_engine(number)
        if self.engine:
            self.engine.check_action(action, amount)
        kind = "prime_stroke" if own == "prime_strokes" else "hand_action"
        what = {"strokes": amount} if kind == "prime_stroke" else {"action": own, "amount": amount}
        body = {**what, "engine": number}
        _, is_new = self._keep(lambda state: Event(id=event_id, kind=kind, at_s=round(self.now_s, 2), body=body))
        if is_new and self.engine:
            self.engine.act(action, amount)

    def note(self, events: Sequence[Event]) -> None:
        """Let events of Jemmon's own count now and be written soon."""
        self._keeper.note(events)

    def write_now(self) -> None:
        """Write what is open, to the last sample. Raises NotWritten where the database does not take it."""
        self._keeper.write_now()

    def check_engine(self, number: int) -> None:
        """Raise EventError where the aircraft has no engine of this number."""
        check_pilot_event(self.profile, self.state, "start_tap", {"what": "blade", "engine": number})

    def _keep(self, make: Callable[[FlightState], Event]) -> tuple[Event, bool]:
        kept, is_new = self._keeper.keep(make)
        if is_new and kept.kind == "needle_read":
            number, name = engine_of(str(kept.body["needle"]))
            if self._ear and name == "rpm":
                self._ear.tap(float(kept.body["value"]), number)
            self._follow_by_hand()
        if is_new:
            self._tell()
            if kept.kind in ("flight_ended", "undo"):
                self._look_after_feed()
        return kept, is_new

    def _follow_by_hand(self) -> None:
        """Let the lists, the ratings and the climb see what was read out, as they would see a sample."""
        with self._lock:
            now = self._sample_by_hand()
            if now is not None and self.feed is None:
                self._keeper.note(follow_read(self.flight.id, self.profile, self.state, now))

    def _tell(self) -> None:
        with self._news:
            self._frame_number += 1
            self._news.notify_all()

    def wait_for_news(self, known_number: int, seconds: float) -> None:
        """Return when there is a frame newer than the one known, or after some seconds."""
        with self._news:
            self._news.wait_for(lambda: self._frame_number != known_number, seconds)

    def take(self, sample: Sample) -> None:
        """Take a sample of the feed, and judge when it is time."""
        with self._lock:
            self._now, self._sample_wall, self._handed_over_ms = sample, time.monotonic(), round(time.time() * 1000)
            self._following, events = follow(self.flight.id, self.profile, self.state, self._following, sample)
            self._keeper.note(events)
            if any(
                event.kind == "put_back_back" for event in events
            ):  # a check may have ended: its verdict is waited for
                self._judge_by = time.monotonic() + _VERDICT_AFTER_S
            if self._recorder:
                self._recorder.take(sample)
        if time.monotonic() > min(self._judged_at + _JUDGE_EVERY_S, self._judge_by):
            self._judge()
        self._tell()

    def _judge(self) -> None:
        """Judge the last minutes outside the lock, so that a tap is not kept waiting."""
        self._judged_at = time.monotonic()
        if self._judged_at > self._judge_by:
            self._judge_by = float("inf")
        recent, now, state = self._recorder.recent() if self._recorder else None, self._now, self.state
        if recent is None or now is None:
            return
        numbers = [number for number, _ in self.profile.engines]
        told = {number: flown_starts(self._log.events, number, now.at_s) for number in numbers}
        evidence = evidence_of(recent, self.profile, told)
        if self._judged_at - self._chosen_at >= _CHOICES_EVERY_S:
            self._choices, self._chosen_at = choices(self.profile, state, now), self._judged_at
        worked = work_out(self.profile, state, recent, evidence, now, self._choices, self._own_lack_inhg)
        found = follow_checks(self.flight.id, self.profile, state, evidence)
        found += follow_burn_off(self.flight.id, self.profile, state, evidence)
        found += follow_take_off(self.flight.id, self.profile, now, worked.working.take_off)
        with self._lock:
            self._worked = worked
            self._keeper.note(found)

    def frame(self) -> Frame:
        """Return what every screen shows now."""
        with self._lock:
            worked, now_s = self._worked, self.now_s
            now = self._now
            if self.feed is None:
                now = self._sample_by_hand()
                minutes = gate_minutes_by_hand(self.profile, self.state, now) if now else {}
                off = describe_burn_off(self.profile, self.state, None, now_s)
                ahead = pressures_ahead(self.profile, self.state, now, now_s)
                worked = replace(worked, burn_off=off, gates=minutes, working=self._working_by_hand(), ahead=ahead)
            watches = self._following.watches
            identity = self._identity()
            frame = describe(self.profile, self.state, now, now_s, watches, worked, identity, self._history)
            return replace(frame, ear=self._ear.now()) if self._ear else frame

    def _sample_by_hand(self) -> Sample | None:
        """Return what was read out lately, and the speed that is heard."""
        return sample_by_hand(self.state, self.now_s, self._ear.readings() if self._ear else {})

    def _working_by_hand(self) -> Working:
        """Return what is worked out of figures that were read out: the leaning, while its item is the one of this moment."""
        first = current_item(self.profile, self.state, self.now_s)
        line = lean_by_hand(self.profile, self.state) if first is not None and first.watch == "lean" else None
        return Working(lines=() if line is None else (line,))

    def _identity(self) -> Identity:
        stale_s = time.monotonic() - self._sample_wall
        return Identity(
            flight=self.flight.id,
            number=self._frame_number,
            registration=self.flight.registration,
            source=self.flight.source,
            feed=self.feed.about if self.feed else None,
            speed=self.feed.speed if self.feed else 1,
            stale=bool(self.feed and stale_s > _STALE_AFTER_S),
            handed_over_ms=self._handed_over_ms,
            trouble=self._keeper.trouble,
            undoable=self._log.undoable_ids(),
        )

    def curve(self) -> Curve:
        """Return the last 90 s of speed and mean EGT for the trace on the flight screen."""
        return curve_of(self._recorder.recent() if self._recorder else None)
