"""A pilot who starts the simulated engine of any shipped aircraft by its own procedure and by what the screen says."""

from collections.abc import Sequence

import numpy as np

from jemmon.core.aircraft import Profile
from jemmon.core.bench import Bench, Sensors
from jemmon.core.flight.events import Event
from jemmon.core.flight.fold import first_state, step
from jemmon.core.flight.state import FlightState
from jemmon.core.live.needles import follow_needles
from jemmon.core.live.starts import follow_starts, start_advice
from jemmon.core.screen.start import StartNow, describe_start
from jemmon.core.start.advice import Attempt, StartAdvice
from jemmon.core.start.following import StartWatch
from jemmon.core.trace import Trace
from jemmon.core.trace.sample import Sample
from tests.corpora.hands import (
    cranking_throttle,
    cranks_without_mixture,
    feeds_before_it_catches,
    is_primed_by_pump,
    is_turned_by_hand,
    is_wobbled,
)

_COUGHS = 0.33  # of the speed that only a firing engine reaches
_WARM_UP_THROTTLE = {"f-radial": 0.12, "n-amphib": 0.12, "h-geared": 0.12, "e-rotor": 0.05, "k-hover": 0.05}


class StartPilot:
    """Hands on one engine: samples at `rate_hz` go through the same fold as in a flight, and the screen is read."""

    def __init__(
        self,
        profile: Profile,
        oat_c: float = 15.0,
        soak_h: float = 12.0,
        seed: int = 1,
        rate_hz: float = 4.0,
        history: Sequence[Attempt] = (),
        engine: int | None = None,
        keeps_levers: bool = False,
        **overrides: float,
    ):
        assert profile.bench is not None
        self.profile, self.history, self.dt = profile, history, 1 / rate_hz
        self.engine = engine or profile.engines[0][0]
        self.bench = Bench(profile.bench, **overrides)
        self.bench.set_air(palt_ft=600, oat_c=oat_c)
        self.bench.make_cold(soak_h)
        self.sensors = Sensors(self.bench, [seed])
        self.events: list[Event] = []
        self.watches: dict[int, StartWatch] = {}
        self.keeps_levers = keeps_levers
        self.said: list[str] = []
        self.drops_out: set[str] = set()
        self.at_s = 0.0
        self.rows: list[dict[str, float | str]] = []
        self.now = Sample(at_s=0.0, readings={}, levers={})
        self._state = first_state(profile)
        self._keep("phase_entered", {"phase": "start"})
        self.wait(1.0)

    @property
    def state(self) -> FlightState:
        """The flight as the events tell it."""
        return self._state

    @property
    def kinds(self) -> list[str]:
        """The kinds of all events so far."""
        return [event.kind for event in self.events]

    @property
    def advice(self) -> StartAdvice:
        """What the screen advises now."""
        advice = start_advice(self.profile, self.state, self.now, self.history)
        assert advice is not None, "no advice: the engine runs"
        return advice

    def shown(self) -> StartNow:
        """What the screen shows of the start now."""
        return describe_start(self.profile, self.state, self.watches, self.now, self.at_s)

    def _keep(self, kind: str, body: dict) -> None:
        seq = len(self.events) + 1
        self.events.append(Event(id=f"{kind}{seq}", kind=kind, at_s=self.at_s, body=body, seq=seq))
        self._state = step(self.profile, self._state, self.events[-1])

    def wait(self, seconds: float) -> None:
        """Let time pass; every sample is followed as in a flight."""
        for _ in range(max(round(seconds / self.dt), 1)):
            self.bench.advance(self.dt)
            self.at_s = round(self.at_s + self.dt, 4)
            shown = self.sensors.read(self.dt)[0]
            readings = dict(zip(self.bench.channels, map(float, shown), strict=True))
            readings = {name: value for name, value in readings.items() if name not in self.drops_out}
            self.now = Sample(at_s=self.at_s, readings=readings, levers=self.bench.lever_positions())
            moved = self.now.levers if self.keeps_levers else {}
            self.rows.append({"time_s": self.at_s, **readings, **moved})
            self.watches, started = follow_starts("f", self.profile, self.state, self.watches, self.now)
            for event in [*started, *follow_needles("f", self.profile, self.state, self.now)]:
                self._keep(event.kind, dict(event.body))
            large = self.shown().large
            if large and (not self.said or self.said[-1] != large.say):
                self.said.append(large.say)

    def trace(self) -> Trace:
        """All samples so far, as a recorder would have kept them."""
        names = [name for name in self.rows[0] if name != "time_s"]
        time_s = np.array([row["time_s"] for row in self.rows])
        columns = {n: [row.get(n, np.nan) for row in self.rows] for n in names}
        return Trace(
            time_s, {n: np.array(v, dtype=object if isinstance(v[0], str) else float) for n, v in columns.items()}
        )

    def lever(self, name: str, value: float | str, ramp_s: float = 0.0) -> None:
        """Move a lever of the engine that is started."""
        shared = name in ("master", "ground_power", "crossfeed")
        self.bench.set_lever(name if self.engine == 1 or shared else f"e2_{name}", value, ramp_s)

    def has(self, name: str) -> bool:
        """Say whether the aircraft has this lever."""
        return name in self.bench.lever_names

    def prepare(self) -> None:
        """Everything before prime and starter, by the type's list."""
        self.lever("master", 1)
        for lane in ("lane_a", "lane_b"):
            if self.has(lane):
                self.lever(lane, 1)
        if self.has("ground_power"):
            self.lever("ground_power", 1)
        if is_turned_by_hand(self.profile):
            self._act("turn_blades", 12)
        if is_wobbled(self.profile):
            self._act("wobble_strokes", 8)
        elif self.has("pump") and self.profile.start.unit != "strokes" and not is_primed_by_pump(self.profile):
            self.lever("pump", 1)
        if self.has("mixture") and not cranks_without_mixture(self.profile):
            self.lever("mixture", 1)
        self.lever("throttle", cranking_throttle(self.profile))
        self.wait(2.0)

    def _act(self, action: str, amount: float) -> None:
        name = action if self.engine == 1 else f"e2_{action}"
        self.bench.act(name, amount)
        kind = "prime_stroke" if action == "prime_strokes" else "hand_action"
        body = {"strokes": amount} if action == "prime_strokes" else {"action": action, "amount": amount}
        self._keep(kind, {**body, "engine": self.engine})

    def prime(self, amount: float) -> None:
        """Prime as this type is primed: strokes, seconds of a pump or of a primer."""
        if amount <= 0 or self.profile.start.unit == "none":
            return
        if self.profile.start.unit == "strokes":
            self._act("prime_strokes", amount)
            self.wait(2.0)
        elif is_primed_by_pump(self.profile):
            self.lever("throttle", 0.15)
            self.lever("mixture", 1)
            self.lever("pump", 1)
            for _ in range(round((amount + 10) / self.dt)):  # a weak battery may never show the pressure
                self.wait(self.dt)
                if self.watches[self.engine].priming_s >= amount - self.dt / 2:
                    break
            self.lever("pump", 0)
            self.lever("throttle", cranking_throttle(self.profile))
            if cranks_without_mixture(self.profile):
                self.lever("mixture", 0)
            self.wait(1.0)
        else:
            self.lever("primer", 1)
            self.wait(amount)
            self.lever("primer", 0)
            self.wait(self.dt)

    def prime_turning(self) -> None:
        """One stroke, shot or second while the starter turns a cleared engine, as the advice says."""
        if self.profile.start.unit == "strokes":
            self._act("prime_strokes", 1)
        elif self.has("primer"):
            self.lever("primer", 1)
            self.wait(1.0)
            self.lever("primer", 0)

    def energise(self) -> None:
        """Spin up an inertia starter until the screen says that it is enough."""
        if self.profile.start.energise_s:
            self.lever("energise", 1)
            for _ in range(120):
                self.wait(self.dt)
                large = self.shown().large
                if large and large.say == "MESH WHEN READY":
                    break
            self.lever("energise", 0)

    def crank(self, share_of_limit: float = 0.8, clears: bool = False) -> bool:
        """Turn the starter until it fires or most of its limit is used; say whether it runs on ten seconds later."""
        if self.has("mag"):
            self.lever("mag", "BOTH")
        switch = self.profile.start.turned_by
        if clears:
            self.lever("throttle", 1.0)
            if self.has("mixture"):
                self.lever("mixture", 0.0)
        self.lever(switch, 1)
        limit_s = self.profile.limit("starter_on_max_s") * share_of_limit
        turned, closed = 0.0, not clears
        while turned < limit_s:
            self.wait(self.dt)
            turned += self.dt
            if not closed and turned >= min(5.0, limit_s / 2):
                closed = True
                self.lever("throttle", cranking_throttle(self.profile))
                if self.has("mixture"):
                    self.lever("mixture", 1.0, ramp_s=6.0)
            if clears and abs(turned - 8.0) < self.dt / 2:
                self.prime_turning()
            if feeds_before_it_catches(self.profile) and not clears and abs(turned - 2.5) < self.dt / 2:
                self.lever("mixture", 1, ramp_s=1.5)
            if self._catches():
                self.lever("mixture", 1)
            if self.state.engine(self.engine).runs and closed:
                break
        self.lever(switch, 0)
        if not closed:
            self.lever("throttle", cranking_throttle(self.profile))
        if self.has("mixture"):
            self.lever("mixture", 1.0, ramp_s=6.0 if clears else 0.0)
        self.wait(10.0)
        return self.state.engine(self.engine).runs

    def _catches(self) -> bool:
        """Say whether an injected engine, cranked without mixture, coughs on its prime, above its cranking speed."""
        turns = max(self.now.readings.get("rpm", 0.0), self.now.readings.get("rpm_pct", 0.0))
        injected = cranks_without_mixture(self.profile) and not feeds_before_it_catches(self.profile)
        return injected and turns > _COUGHS * self.profile.limit("rpm_firing_min")

    def start(self, attempts: int = 1) -> int:
        """Start by the screen's advice; return the attempt at which it ran, or 0."""
        given = 0.0
        for attempt in range(1, attempts + 1):
            advice = self.advice
            if advice.kind == "hot" and self.profile.start.boils:
                self.purge()
            self.energise()
            self.prime(max(advice.strokes - given, 0.0))
            given = max(given, advice.strokes)
            if self.crank(clears=advice.kind == "flooded"):
                return attempt
            self.rest()
        return 0

    def purge(self) -> None:
        """Cool hot lines with the pump, mixture at cut-off, as the hot list says."""
        pumps = [name for name in ("pump", "backup_pump") if self.has(name)]
        if self.has("mixture"):
            self.lever("mixture", 0.0)
        for pump in pumps:
            self.lever(pump, 1)
        self.wait(15.0)
        self.lever(pumps[-1], 0)
        if self.has("mixture"):
            self.lever("throttle", 0.15)
            self.lever("mixture", 1.0)

    def rest(self) -> None:
        """Wait until the screen says that the starter has rested."""
        while self.shown().starter.rest_left_s > 0:
            self.wait(2.0)

    def warm_up(self, seconds: float = 40.0) -> None:
        """Idle at warm-up speed."""
        self.lever("throttle", _WARM_UP_THROTTLE.get(self.profile.id, 0.13), ramp_s=2.0)
        self.wait(seconds)
