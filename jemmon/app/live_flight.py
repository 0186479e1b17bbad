"""One flight that is going on: its events and state in memory, its feed, and the frame that every screen shows.

Events are kept on disk before they count. The judgement runs on the last minutes of samples, once a second.
"""

import logging
import threading
import time
from collections import deque
from collections.abc import Mapping
from dataclasses import asdict
from datetime import UTC, datetime
from typing import Any

import numpy as np

from ..core.aircraft import Profile
from ..core.flight.fold import Event, FlightState, check_pilot_event, fold, last_undoable
from ..core.fuel.tanks import Burn, fed_by, follow_flow, is_crossfed
from ..core.live.burn_off import describe_burn_off, follow_burn_off
from ..core.live.climb import climb_lines, follow_climb
from ..core.live.descent import descent_lines
from ..core.live.following import (
    Now,
    follow_checks,
    follow_needles,
    follow_starts,
    gate_minutes,
    magneto_working,
    minutes_to,
    speed_working,
    start_advice,
)
from ..core.live.heat import heat_lines
from ..core.live.leaning import lean_working
from ..core.live.power import choices, follow_ratings, follow_tank
from ..core.live.rpm_ranges import speed_lines
from ..core.live.take_off import take_off_watch
from ..core.screen import frame as screen
from ..core.screen.lists import current_item
from ..core.start.advice import recorded_attempts
from ..core.start.following import StartWatch
from ..core.start.record import READ_KINDS, told_starts
from ..core.trace import Trace
from ..feeds.bench_feed import SAMPLE_S, BenchFeed, Sample
from ..feeds.device_feed import DeviceFeed
from ..feeds.feed import Feed
from ..feeds.scripted_feed import ScriptedFeed
from ..feeds.scripted_needles import first_needles, follow, targets
from ..store import flights, samples
from ..store.database import Database
from ..store.flights import Flight
from ..store.settings import device_address
from .recorder import Recorder

_RECENT_S = 420.0
_JUDGE_EVERY_S, _VERDICT_AFTER_S = 1.0, 1.4
_CHOICES_EVERY_S = 4.0  # a height and a temperature do not change what may be set any faster
_STALE_AFTER_S = 1.0
_CURVE_S = 90.0
_log = logging.getLogger(__name__)


class LiveFlight:
    """The flight in the air, or on the ground with its engine running. `feed` is None when flown by hand."""

    def __init__(self, database: Database, flight: Flight, profile: Profile, speed: int = 1, oat_c: float = 15.0):
        self.flight, self.profile = flight, profile
        self._database = database
        self._lock = threading.RLock()
        with database.reading() as db:
            self._events = list(flights.events_of(db, flight.id))
            kept = samples.bench_state(db, flight.id) if flight.source == "bench" else None
            trace_rows = _kept_rows(db, flight.id)
            earlier = flights.events_of_aircraft(db, flight.registration, READ_KINDS, but=flight.id)
        self._starts = recorded_attempts([told_starts(profile, events) for _, _, events in earlier])
        self._state = fold(profile, self._events)
        self._now: Now | None = None
        self._watches: dict[int, StartWatch] = {}
        self._sample_wall, self._handed_over_ms = time.monotonic(), 0
        self._recent: deque[np.ndarray] = deque(maxlen=int(_RECENT_S / SAMPLE_S))
        self._judged_at = 0.0
        self._judge_by = float("inf")
        self._choices: list[dict[str, Any]] = []
        self._chosen_at = float("-inf")
        self._burn = Burn()
        self._working: dict[str, Any] = {}
        self._frame_number = 0
        self.news = threading.Condition()
        self._manual_from = time.monotonic() - (self._events[-1].at_s if self._events else 0.0)
        self.feed: Feed | None = None
        if flight.source == "bench":
            self.feed = self._make_feed(oat_c, speed)
            self._recorder = Recorder(database, flight.id, self.feed)
            if kept:
                self.feed.resume(kept[1])
                last_event_s = max((event.at_s for event in self._events), default=0.0)
                self.feed.at_s = max(self.feed.at_s, last_event_s)  # flight time never goes back
                self._recorder.go_on(trace_rows)
                self._recent.extend(trace_rows[-self._recent.maxlen :])  # type: ignore[operator]
            with database.writing() as db:
                samples.set_columns(db, flight.id, self.feed.columns)

    def _make_feed(self, oat_c: float, speed: int) -> Feed:
        def phase() -> str:
            return self._state.phase

        if self.flight.feed == "device":
            with self._database.reading() as db:
                address = device_address(db)
            return DeviceFeed(self.profile, self._on_sample, address.host, address.port)
        if self.profile.bench is not None:
            return BenchFeed(self.profile, self._on_sample, phase, oat_c=oat_c, speed=speed)

        def move(phase: str, phase_s: float, needles: Mapping[str, float], dt_s: float) -> dict[str, float]:
            return follow(needles, targets(self.profile, phase, phase_s), dt_s)

        return ScriptedFeed(self.profile, self._on_sample, phase, first_needles(self.profile, oat_c), move, speed)

    def start(self) -> None:
        """Begin to run, and to judge."""
        if self.feed:
            self.feed.start()

    def stop(self) -> None:
        """Stop the feed and write what is open."""
        if self.feed:
            self.feed.stop()
            self._recorder.flush()

    @property
    def state(self) -> FlightState:
        """The state after all events kept so far."""
        return self._state

    @property
    def now_s(self) -> float:
        """Flight time: the feed's while samples come, the wall clock's else; never back."""
        if self.feed:
            return self.feed.at_s
        return time.monotonic() - self._manual_from

    def post(self, event_id: str, kind: str, body: Mapping[str, Any]) -> tuple[Event, bool]:
        """Keep a pilot's event; return it and whether it is new. It is on disk when this returns.

        Raises:
            EventError: the event cannot be taken. SameIdOtherBody: another event has this id.
        """
        with self._lock:
            if not any(known.id == event_id for known in self._events):
                check_pilot_event(self.profile, self._state, self._events, kind, body)
            return self._keep(Event(id=event_id, kind=kind, at_s=round(self.now_s, 2), body=body))

    def undo_last(self, event_id: str) -> Event | None:
        """Take back the last pilot event; return the undo, or None where there is nothing to take back."""
        with self._lock:
            if known := next((e for e in self._events if e.id == event_id), None):
                return known
            last = last_undoable(self._events)
            return self.post(event_id, "undo", {"event": last.id})[0] if last else None

    def prime(self, event_id: str, strokes: float, action: str = "prime_strokes") -> None:
        """Do once for each new id what a hand does at once, and keep it as an event: a stroke of the primer, a stroke of
        the hand pump, a blade turned through."""
        with self._lock:
            own = action.removeprefix("e2_")
            kind = "prime_stroke" if own == "prime_strokes" else "hand_action"
            amount = {"strokes": strokes} if kind == "prime_stroke" else {"action": own, "amount": strokes}
            body = {**amount, "engine": 2 if own != action else 1}
            _, is_new = self._keep(Event(id=event_id, kind=kind, at_s=round(self.now_s, 2), body=body))
            if is_new and self.feed:
                self.feed.act(action, strokes)

    def _keep(self, event: Event) -> tuple[Event, bool]:
        wall = datetime.now(UTC).isoformat(timespec="milliseconds")
        event = Event(id=event.id, kind=event.kind, at_s=event.at_s, body=event.body, wall_utc=wall)
        with self._database.writing() as db:
            seq, is_new = flights.add_event(db, self.flight.id, event)
        if is_new:
            kept = Event(id=event.id, kind=event.kind, at_s=event.at_s, body=event.body, wall_utc=wall, seq=seq)
            self._events.append(kept)
            self._state = fold(self.profile, self._events)
            self._tell()
        return next(e for e in self._events if e.seq == seq), is_new

    def _tell(self) -> None:
        with self.news:
            self._frame_number += 1
            self.news.notify_all()

    def wait_for_news(self, known_number: int, seconds: float) -> None:
        """Return when there is a frame newer than the one known, or after some seconds."""
        with self.news:
            self.news.wait_for(lambda: self._frame_number != known_number, seconds)

    def _on_sample(self, sample: Sample) -> None:
        with self._lock:
            self._now, self._sample_wall, self._handed_over_ms = sample.now, time.monotonic(), round(time.time() * 1000)
            self._watches, started = follow_starts(self.flight.id, self.profile, self._state, self._watches, sample.now)
            told = follow_needles(self.flight.id, self.profile, self._state, sample.now)
            told += follow_ratings(self.flight.id, self.profile, self._state, sample.now)
            told += follow_climb(self.flight.id, self.profile, self._state, sample.now)
            told += follow_tank(self.flight.id, self.profile, self._state, sample.now)
            told += self._burnt(sample.now)
            for event in [*started, *told]:
                self._keep(event)
                if event.kind == "put_back_back":  # a check may have ended: the pilot waits for its verdict
                    self._judge_by = time.monotonic() + _VERDICT_AFTER_S
            if self._recorder.take(sample):
                self._recent.append(sample.row)
        if time.monotonic() > min(self._judged_at + _JUDGE_EVERY_S, self._judge_by):
            self._judge()
        self._tell()

    def _judge(self) -> None:
        """Judge the last minutes outside the lock, so that a tap is not kept waiting."""
        self._judged_at = time.monotonic()
        if self._judged_at > self._judge_by:
            self._judge_by = float("inf")
        recent = self._recent_trace()
        if recent is None:
            return
        state = self._state
        working: dict[str, Any] = {"magneto": magneto_working(recent, self.profile, state)}
        if state.engine_runs and self._now is not None:
            working["gates"] = gate_minutes(recent, self.profile, state, self._now)
        item = current_item(self.profile, state, self.now_s)
        if burning := describe_burn_off(self.profile, state, recent, self.now_s):
            working["burn_off"] = burning
        if item and item.watch == "lean":
            working["lean"] = lean_working(recent.of_engine(item.engine or 1), self.profile, state)
        if state.engine_runs and self._now is not None:
            if self._judged_at - self._chosen_at >= _CHOICES_EVERY_S:
                self._choices, self._chosen_at = choices(self.profile, state, self._now), self._judged_at
            working["choices"] = self._choices
            working["take_off"] = take_off_watch(self.profile, state, recent, self._now)
            working["lines"] = [
                line
                for lines in (climb_lines, heat_lines, descent_lines, speed_lines)
                for line in lines(self.profile, state, recent, self._now)
            ]
        if item and item.reading:
            working["minutes"] = minutes_to(recent, item.reading)
            working["speed"] = speed_working(recent, self.profile, item)
        found = follow_checks(self.flight.id, self.profile, state, recent)
        found += follow_burn_off(self.flight.id, self.profile, state, recent)
        with self._lock:
            self._working = working
            for event in found:
                self._keep(event)

    def _burnt(self, now: Now) -> list[Event]:
        """Sum the flow of the engines, and tell it by and by."""
        names = ((1, "ff_gph"), (2, "e2_ff_gph"))
        flows, state = {k: now.readings[name] for k, name in names if name in now.readings}, self._state
        by_tank = fed_by(self.profile, state.fuel, flows, is_crossfed(now.levers, state.away))
        self._burn, told = follow_flow(self._burn, now.at_s, by_tank)
        return [
            Event(
                id=f"{self.flight.id}:fuel_used:{tank}:{now.at_s:.2f}",
                kind="fuel_used",
                at_s=now.at_s,
                body={"gal": round(gallons, 4), "tank": tank},
            )
            for tank, gallons in told.items()
        ]

    def _burn_off(self, state: FlightState) -> dict[str, Any] | None:
        """Return the burn-off: looked at once a second where there are needles, else by the tapped clock."""
        if self.feed is None:
            return describe_burn_off(self.profile, state, None, self.now_s)
        return self._working.get("burn_off")

    def _recent_trace(self) -> Trace | None:
        with self._lock:
            if not self._recent or self.feed is None:
                return None
            return samples.trace_from_rows(np.stack(self._recent), self.feed.columns)

    def frame(self) -> dict[str, Any]:
        """Return what every screen shows now: the description of the flight, the levers, the workings, its number."""
        with self._lock:
            now, state = self._now, self._state
            body = screen.describe(self.profile, state, now, self.now_s, self._watches)
            for gate in body["gates"]:
                gate["minutes"] = self._working.get("gates", {}).get(gate["gate"])
            advice = start_advice(self.profile, state, now, self._starts)
            stale_s = time.monotonic() - self._sample_wall
            body |= {
                "flight": self.flight.id,
                "number": self._frame_number,
                "source": self.flight.source,
                "feed": _feed_kind(self.feed),
                "registration": self.flight.registration,
                "handed_over_ms": self._handed_over_ms,
                "stale": bool(self.feed and stale_s > _STALE_AFTER_S),
                "advice": asdict(advice) if advice else None,
                "levers": dict(now.levers) if now else {},
                "rpm": now.readings.get("rpm", now.readings.get("rpm_pct")) if now else None,
                "palt_ft": now.readings.get("palt_ft") if now else None,
                "rough": bool(now and now.readings.get("roughness", 0) > 0.15),
                "egt_f": {k[3:-2]: v for k, v in now.readings.items() if k.startswith("egt")} if now else {},
                "speed": self.feed.speed if self.feed else 1,
                "working": self._working,
                "burn_off": self._burn_off(state),
            }
        return body

    def curve(self) -> dict[str, Any]:
        """Return the last 90 s of RPM and mean EGT for the trace on the flight screen."""
        recent = self._recent_trace()
        if recent is None:
            return {"time_s": [], "rpm": [], "egt_f": []}
        keep = recent.time_s > recent.time_s[-1] - _CURVE_S
        egts = list(recent.cylinders("egt").values())
        rpm = recent.speed()
        assert rpm is not None
        mean = np.mean(egts, axis=0)[keep] if egts else np.zeros(0)
        return {"time_s": recent.time_s[keep].tolist(), "rpm": rpm[keep].tolist(), "egt_f": mean.round(1).tolist()}


def _feed_kind(feed: Feed | None) -> str | None:
    """Return what makes the needles: bench, scripted or device; None for a flight by hand."""
    kinds = {BenchFeed: "bench", ScriptedFeed: "scripted", DeviceFeed: "device"}
    return kinds[type(feed)] if feed is not None else None


def _kept_rows(db: Any, flight_id: str) -> np.ndarray:
    sql = "SELECT rows, cells FROM sample_blocks WHERE flight_id = ? ORDER BY minute DESC LIMIT 8"
    blocks = [np.frombuffer(r["cells"], "<f8").reshape(r["rows"], -1) for r in db.execute(sql, (flight_id,))]
    return np.concatenate(blocks[::-1]) if blocks else np.zeros((0, 1))
