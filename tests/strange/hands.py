"""The pilots of strange engines: run-ups, leanings, flights and failures, each all from one seed, with what was truly done."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field

import numpy as np

from jemmon.core.trace import Trace

from .engine import STEP_S, Engine, dryden
from .exhaust import Exhaust
from .instruments import Panel, any_panel
from .oil import draw_oil

# aircraft of the product whose kind the engine is of: (cylinders, governed, carburettor heat)
KINDS = {
    "a-trainer": (4, False, True),
    "b-tourer": (6, True, False),
    "d-twin": (4, True, True),
    "i-turbo": (6, True, False),
}
_COLUMNS = (
    "rpm",
    "map_inhg",
    "ff_gph",
    "phi",
    "brake_w",
    "warm_k",
    "throttle",
    "heat",
    "palt_ft",
    "oat_c",
    "ias_kt",
    "burns",
)


@dataclass
class Done:
    """Something truly done: its kind (L, R, heat, cycle, lean, ground, air, loss ...), when, and its figures."""

    kind: str
    start_s: float
    end_s: float
    drop_rpm: float = np.nan
    facts: dict[str, object] = field(default_factory=dict)


@dataclass
class Story:
    """One made-up trace with its truth."""

    kind: str
    trace: Trace
    done: list[Done]
    panel: Panel
    lag_s: float

    def of(self, *kinds: str) -> list[Done]:
        """Return what was done of these kinds."""
        return [one for one in self.done if one.kind in kinds]


class Hand:
    """A pilot on one engine: `wait` runs it, `story` shows it through the instruments."""

    def __init__(
        self, kind: str, rng: np.random.Generator, stress: tuple[float, float] = (1.0, 1.0), spread: float = 0.035
    ):
        cylinders, governed, has_heat = KINDS[kind]
        self.kind, self.rng = kind, rng
        self.engine = Engine(rng, cylinders, governed, has_heat, inertia_scale=stress[0])
        self.engine.isa_off_k = float(rng.uniform(-20, 18))
        self.engine.palt_ft = float(rng.uniform(0, 2500))
        self.exhaust = Exhaust(rng, cylinders, stress[1], spread)
        self.rows: list[tuple[float, ...]] = []
        self.sides: list[str] = []
        self.done: list[Done] = []
        self.climbs_ft_s = 0.0
        self.oil = draw_oil(rng)
        self.oil_dip_psi = self.fuel_psi = 0.0
        self.usual_fuel_psi = float(rng.uniform(4, 6) if has_heat else rng.uniform(18, 25))
        self.extra: list[tuple[float, float, float]] = []
        self.gusts = dryden(
            rng, 400_000, float(rng.uniform(12, 40)), float(rng.uniform(4, 12)), float(rng.uniform(0.1, 0.8))
        )
        self.wander = 0.0

    @property
    def now_s(self) -> float:
        """The time so far [s]."""
        return len(self.rows) * STEP_S

    def wait(self, seconds: float) -> None:
        """Run on as the levers stand."""
        engine = self.engine
        for _ in range(max(round(seconds / STEP_S), 1)):
            engine.palt_ft += self.climbs_ft_s * STEP_S
            engine.throttle = float(np.clip(engine.throttle + self.wander * STEP_S, 0.0, 1.0))
            true = engine.advance(float(self.gusts[len(self.rows) % len(self.gusts)]))
            pressure, kelvin = engine.outside
            ias_kt = engine.tas_ms * 1.944 * np.sqrt(pressure / kelvin * 288.15 / 101325.0)
            fuel = self.usual_fuel_psi * (0.15 if engine.fuel_share < 0.5 else 1.0)
            self.fuel_psi += (fuel - self.fuel_psi) * STEP_S / 0.4
            self.rows.append(
                (true["rpm"], true["map_inhg"], true["ff_gph"], true["phi"], true["brake_w"], engine.warm_k, engine.throttle,
                 engine.heat, engine.palt_ft, kelvin - 273.15, ias_kt, engine.burns_share)
            )  # fmt: skip
            oil_psi = self.oil.pressure_psi(true["rpm"]) - self.oil_dip_psi
            self.extra.append((oil_psi, self.oil.oil_f, self.fuel_psi))
            self.sides.append(engine.side)

    def move(self, name: str, to: float, seconds: float) -> None:
        """Move a lever evenly over so many seconds."""
        steps = max(round(seconds / STEP_S), 1)
        for value in np.linspace(getattr(self.engine, name), to, steps + 1)[1:]:
            setattr(self.engine, name, float(value))
            self.wait(STEP_S)

    @contextmanager
    def doing(self, kind: str, drop_rpm: float = np.nan, **facts: object) -> Iterator[Done]:
        """Note what is done in this block."""
        one = Done(kind, self.now_s, np.nan, drop_rpm, dict(facts))
        self.done.append(one)
        yield one
        one.end_s = self.now_s

    def story(self, panel: Panel, lag_s: float = np.nan) -> Story:
        """Return what the instruments showed."""
        truth: dict[str, np.ndarray] = dict(zip(_COLUMNS, np.array(self.rows).T, strict=True))
        truth |= dict(zip(("oil_p_psi", "oil_t_f", "fp_psi"), np.array(self.extra).T, strict=True))
        truth["side"] = np.array(self.sides)
        return Story(self.kind, panel.trace(truth, self.exhaust), self.done, panel, lag_s)


def run_up(seed: int, stress: tuple[float, float] = (1.0, 1.0), row_s: float | None = None) -> Story:
    """Return one run-up on the ground: a propeller cycle where there is one, both magnetos, carburettor heat, slips, touches."""
    rng = np.random.default_rng([seed, 1])
    kind = str(rng.choice(list(KINDS)))
    hand = Hand(kind, rng, stress)
    engine, panel = hand.engine, any_panel(rng, row_s)
    engine.set_speed(float(rng.uniform(1600, 2050)))
    for side, drop in zip(("L", "R"), _two_drops(rng), strict=True):
        engine.lose_on(side, drop)
    if rng.random() < 0.15:
        side = str(rng.choice(["L", "R"]))
        hand.exhaust.dead[side] = int(rng.integers(engine.cylinders))
    hand.wander = float(rng.normal(0, 3e-5))
    lag_s = engine.lag_s()
    hand.wait(rng.uniform(8, 15))
    if engine.governed:
        _cycles(hand)
    steps = [_magnetos] + [_heat] * engine.has_heat
    if rng.random() < 0.25:
        steps.reverse()
    for step in steps:
        _trap(hand, panel)
        step(hand, panel)
    hand.wait(rng.uniform(6, 10))
    return hand.story(panel, lag_s)


def _two_drops(rng: np.random.Generator) -> np.ndarray:
    """Log-normal, 25 to 170 RPM, the sides correlated."""
    common, own = rng.standard_normal(), rng.standard_normal(2)
    return np.clip(np.exp(np.log(70) + 0.4 * (0.7 * common + 0.7 * own)), 25, 170)


def _dwell_s(hand: Hand, panel: Panel) -> float:
    return float(hand.rng.uniform(max(3.5, min(2.5 * panel.row_s + 1, 9.0)), 12.0))


def _trap(hand: Hand, panel: Panel) -> None:
    """Sometimes a slip of the switch, sometimes a touched throttle."""
    rng, engine = hand.rng, hand.engine
    if rng.random() < 0.15:
        with hand.doing("slip"):
            engine.side = str(rng.choice(["L", "R"]))
            hand.wait(rng.uniform(0.3, 0.9))
        engine.side = "BOTH"
        hand.wait(rng.uniform(5, 9))
    if rng.random() < 0.2:
        hand.move("throttle", engine.throttle + float(rng.uniform(-0.008, 0.008)), 0.6)
        hand.wait(rng.uniform(6, 10))


def _magnetos(hand: Hand, panel: Panel) -> None:
    rng, engine = hand.rng, hand.engine
    for side in rng.permutation(["L", "R"]):
        base = engine.settled_rpm()
        engine.side = str(side)
        with hand.doing(str(side), base - engine.settled_rpm()):
            hand.wait(_dwell_s(hand, panel))
        engine.side = "BOTH"
        hand.wait(rng.uniform(max(4.0, min(2 * panel.row_s, 8.0)), 11))


def _heat(hand: Hand, panel: Panel) -> None:
    rng, engine = hand.rng, hand.engine
    iced = rng.random() < 0.12
    base = engine.settled_rpm()
    if iced:
        with hand.doing("ice"):
            hand.move("ice", float(rng.uniform(0.04, 0.1)), 40.0)
        base = engine.settled_rpm()
    with hand.doing("heat", iced=iced) as one:
        hand.move("heat", 1.0, 0.5)
        hand.wait(max(_dwell_s(hand, panel), 6.0) + (10.0 if iced else 0.0))
        # hot air may come so slowly that nothing settles: the drop is what was reached before it was shut off
        one.drop_rpm = base - float(np.mean([row[0] for row in hand.rows[-20:]]))
        one.facts["flat"] = one.drop_rpm < 18 and not iced
    hand.move("heat", 0.0, 0.5)
    hand.wait(rng.uniform(8, 14))


def _cycles(hand: Hand) -> None:
    rng, engine = hand.rng, hand.engine
    for _ in range(int(rng.integers(1, 4))):
        with hand.doing("cycle"):
            hand.oil_dip_psi = float(rng.uniform(3, 9))
            hand.move("pitch", float(rng.uniform(0.5, 1.0)), 1.0)
            hand.wait(rng.uniform(1.0, 2.5))
            hand.oil_dip_psi = 0.0
            hand.move("pitch", 0.0, 1.0)
        hand.wait(rng.uniform(4, 8))
    hand.wait(rng.uniform(4, 8))
    assert engine.pitch == 0.0


def _cruises(hand: Hand, palt_ft: float) -> None:
    """Put the aircraft into a cruise as if it had flown there."""
    rng, engine = hand.rng, hand.engine
    engine.palt_ft, engine.tas_ms = palt_ft, float(rng.uniform(45, 75))
    engine.throttle = float(rng.uniform(0.45, 1.0))
    if engine.governed:
        engine.governs_at_rpm = float(rng.choice([2200, 2300, 2400, 2500]))
    engine.settle()
    for _ in range(12):  # the propeller must hold what the engine gives
        if engine.governed and engine.rpm < engine.governs_at_rpm - 5:  # type: ignore[operator]
            engine.tas_ms += 5.0
            engine.settle()


def leaning(seed: int, stress: tuple[float, float] = (1.0, 1.0), row_s: float | None = None) -> Story:
    """Return one leaning in cruise: pulled evenly or in steps to beyond the last peak, or not so far, then left or put richer."""
    rng = np.random.default_rng([seed, 2])
    kind = str(rng.choice(list(KINDS)))
    hand = Hand(kind, rng, stress, spread=float(rng.uniform(0.005, 0.05)))
    panel = any_panel(rng, row_s, egt=True, one_egt=False, ff=True)
    _cruises(hand, float(rng.uniform(2_000, 9_000)))
    hand.wait(rng.uniform(12, 25))
    _lean(hand)
    return hand.story(panel)


def _lean(hand: Hand) -> Done:
    """Lean by hand; the truth is the exhausts' own."""
    rng, engine, exhaust = hand.rng, hand.engine, hand.exhaust
    peaks = [exhaust.peak(k)[0] for k in range(engine.cylinders)]
    passes = rng.random() < 0.85
    leanest = min(peaks) * rng.uniform(0.88, 0.95) if passes else max(peaks) * rng.uniform(1.05, 1.12)
    back = passes and rng.random() < 0.6
    final = max(peaks) * rng.uniform(1.04, 1.16) if back else leanest
    with hand.doing("lean", passes=passes) as one:
        _pull(hand, leanest, float(rng.uniform(20, 110)))
        hand.wait(float(rng.uniform(3, 15)))
        if back:
            hand.move("mixture", engine.phi_lever(final), float(rng.uniform(3, 10)))
        hand.wait(float(rng.uniform(18, 40)))
    burnt = [row[2] for row in hand.rows[int(one.start_s / STEP_S) :]]
    one.facts["small"] = min(burnt) > 0.88 * burnt[0]  # no more than a touch of the lever
    phi = engine.phi()
    rich, lean = phi > max(peaks), phi < min(peaks)
    one.facts["side"] = "rich" if rich else "lean" if lean else "between"
    counts = int(np.argmin(exhaust.richer)) if rich else int(np.argmax(exhaust.richer))
    one.facts["offset_f"] = float(
        -np.interp(phi * exhaust.richer[counts], np.linspace(0.45, 1.95, 76), exhaust.curve_f)
    )
    air_gph = hand.rows[-1][2] / phi
    one.facts["peak_gph"] = {k + 1: air_gph * p for k, p in enumerate(peaks)}
    one.facts["reference"] = counts + 1
    return one


def _pull(hand: Hand, phi: float, seconds: float) -> None:
    rng, engine = hand.rng, hand.engine
    target, start = engine.phi_lever(phi), engine.mixture
    # free play and a bent linkage: the first part of the travel does nothing
    if rng.random() < 0.5:
        hand.move("mixture", target, seconds)
        return
    pieces = int(rng.integers(5, 12))
    for piece in range(1, pieces + 1):
        hand.move("mixture", start + (target - start) * piece / pieces, min(1.5, 0.5 * seconds / pieces))
        hand.wait(max(seconds / pieces - 1.5, 0.5))


def flight(seed: int, row_s: float | None = None) -> Story:
    """Return a whole flight from taxi to shutdown; most aircraft write no airspeed, some no altitude."""
    rng = np.random.default_rng([seed, 3])
    kind = str(rng.choice(list(KINDS)))
    hand = Hand(kind, rng)
    engine = hand.engine
    row_s = float(rng.choice([0.5, 1.0, 2.0, 3.0, 6.0])) if row_s is None else row_s
    panel = any_panel(
        rng, row_s, egt=True, one_egt=False, ff=True, ias_kt=rng.random() < 0.3, palt_ft=rng.random() < 0.7
    )
    field_ft = engine.palt_ft
    with hand.doing("ground"):
        engine.set_speed(float(rng.uniform(950, 1250)))
        hand.wait(rng.uniform(60, 200))
        engine.set_speed(float(rng.uniform(1650, 2000)))
        for side, drop in zip(("L", "R"), _two_drops(rng), strict=True):
            engine.lose_on(side, drop)
        hand.wait(rng.uniform(10, 20))
        if engine.governed:
            _cycles(hand)
        for step in [_magnetos] + [_heat] * engine.has_heat:
            step(hand, panel)
        engine.set_speed(float(rng.uniform(900, 1100)))
        hand.wait(rng.uniform(30, 120))
    _takes_off(hand)
    _climbs(hand, field_ft + float(rng.uniform(2_500, 7_500)))
    _cruise_with_leaning(hand)
    _comes_down(hand, field_ft)
    with hand.doing("ground"):
        hand.climbs_ft_s, engine.tas_ms, engine.governs_at_rpm = 0.0, 0.0, None
        engine.set_speed(float(rng.uniform(900, 1100)))
        hand.wait(rng.uniform(60, 200))
        hand.move("mixture", 0.05, 2.0)
        hand.wait(5.0)
    return hand.story(panel)


def _takes_off(hand: Hand) -> None:
    engine = hand.engine
    hand.move("throttle", 1.0, 3.0)
    if engine.governed:
        engine.governs_at_rpm = engine.rated_rpm
    with hand.doing("roll"):
        for _ in range(20):
            engine.tas_ms += 1.7
            hand.wait(1.0)


def _climbs(hand: Hand, to_ft: float) -> None:
    """Climb with throttle and RPM for it, the mixture leaned by some on the way."""
    rng, engine = hand.rng, hand.engine
    with hand.doing("climb"):
        engine.tas_ms = float(rng.uniform(38, 48))
        hand.climbs_ft_s = float(rng.uniform(8, 14))
        hand.wait(60.0)
        if engine.governed:
            hand.move("throttle", float(rng.uniform(0.6, 1.0)), 3.0)
            hand.move("governs_at_rpm", float(rng.choice([2400, 2500])), 3.0)
        leans = rng.random() < 0.4
        while engine.palt_ft < to_ft:
            hand.wait(70.0)
            if leans and engine.palt_ft > 4_000 and engine.phi() > 1.25:
                hand.move("mixture", engine.mixture * 0.985, 1.5)


def _cruise_with_leaning(hand: Hand) -> None:
    rng, engine = hand.rng, hand.engine
    with hand.doing("level"):
        hand.climbs_ft_s = 0.0
        while engine.tas_ms < 58:
            engine.tas_ms += 0.5
            hand.wait(1.0)
        if engine.governed:
            hand.move("throttle", float(rng.uniform(0.5, 0.8)), 3.0)
            hand.move("governs_at_rpm", float(rng.choice([2200, 2300, 2400])), 3.0)
        else:
            engine_rpm = float(rng.uniform(0.84, 0.95)) * engine.rpm
            low = engine.throttle
            engine.set_speed(engine_rpm)
            to, engine.throttle = engine.throttle, low
            hand.move("throttle", to, 3.0)
        hand.wait(rng.uniform(30, 120))
        _lean(hand)
        hand.wait(rng.uniform(240, 600))


def _comes_down(hand: Hand, field_ft: float) -> None:
    rng, engine = hand.rng, hand.engine
    with hand.doing("descent"):
        hand.move("mixture", min(engine.mixture * 1.1, 1.0), 4.0)
        hand.move("throttle", engine.throttle * float(rng.uniform(0.6, 0.85)), 4.0)
        hand.climbs_ft_s = -float(rng.uniform(7, 11))
        while engine.palt_ft > field_ft + 900:
            hand.wait(40.0)
            hand.move("mixture", min(engine.mixture * 1.04, 1.0), 2.0)
        hand.move("mixture", 1.0, 3.0)
        if engine.governed:
            engine.governs_at_rpm = engine.rated_rpm
        hand.move("throttle", float(rng.uniform(0.15, 0.3)), 4.0)
        engine.tas_ms = 36.0
        hand.wait(rng.uniform(60, 90))
        hand.move("throttle", 0.03, 2.0)
        hand.climbs_ft_s = 0.0
        while engine.tas_ms > 4.0:
            engine.tas_ms -= 1.5
            hand.wait(1.0)


def failure(seed: int, cause: str | None = None, row_s: float | None = None) -> Story:
    """Return an engine that fails in flight by a cause (fuel, ignition, carburettor_ice, mechanical), windmilling on."""
    rng = np.random.default_rng([seed, 4])
    kind = str(rng.choice(["a-trainer", "d-twin"] if cause == "carburettor_ice" else list(KINDS)))
    cause = str(rng.choice(["fuel", "ignition", "mechanical"])) if cause is None else cause
    hand = Hand(kind, rng)
    engine = hand.engine
    _cruises(hand, float(rng.uniform(800, 8_000)))
    engine.mixture = engine.phi_lever(float(rng.uniform(1.0, 1.3)))
    panel = any_panel(rng, float(rng.choice([0.1, 0.25, 0.5])) if row_s is None else row_s, egt=True, one_egt=False, ff=True,
                      map=True, ias_kt=True, palt_ft=True, fp_psi=True, levers=True)  # fmt: skip
    hand.wait(rng.uniform(40, 80))
    with hand.doing("loss", cause=cause):
        if cause == "fuel":
            hand.move("fuel_share", 0.12, float(rng.uniform(0.5, 4)))
        elif cause == "ignition":
            engine.burns_share = float(rng.uniform(0.0, 0.55))
        elif cause == "mechanical":
            engine.work_share = float(rng.uniform(0.15, 0.6))
            engine.fills *= float(rng.uniform(0.5, 0.75))
        else:
            hand.move("ice", float(rng.uniform(0.45, 0.7)), float(rng.uniform(40, 120)))
        hand.wait(25.0)
    return hand.story(panel)


def _under_way(rng: np.random.Generator, lowest_ft: float, highest_ft: float) -> Hand:
    """Return a cruise of any kind between two heights, the mixture somewhat rich."""
    hand = Hand(str(rng.choice(list(KINDS))), rng)
    _cruises(hand, float(rng.uniform(lowest_ft, highest_ft)))
    hand.engine.mixture = hand.engine.phi_lever(float(rng.uniform(1.0, 1.3)))
    return hand


def no_failure(seed: int, row_s: float | None = None) -> Story:
    """Return a throttle closing, a descent, a levelling off or a go-around: power goes by the pilot's own hand."""
    rng = np.random.default_rng([seed, 5])
    hand = _under_way(rng, 1_500, 8_000)
    engine = hand.engine
    panel = any_panel(rng, float(rng.choice([0.1, 0.25, 0.5, 1.0])) if row_s is None else row_s, egt=True, one_egt=False, ff=True,
                      map=True, ias_kt=True, palt_ft=True, fp_psi=True, levers=rng.random() < 0.6)  # fmt: skip
    hand.wait(rng.uniform(40, 70))
    what = str(rng.choice(["close", "descend", "level", "lean", "around"]))
    with hand.doing(what):
        if what == "close":
            hand.move("throttle", float(rng.uniform(0.03, 0.2)), float(rng.uniform(0.3, 4)))
        elif what == "descend":
            hand.climbs_ft_s = -10.0
            hand.move("throttle", engine.throttle * float(rng.uniform(0.5, 0.9)), float(rng.uniform(1, 8)))
        elif what == "level":
            hand.move("throttle", engine.throttle * float(rng.uniform(0.7, 0.9)), float(rng.uniform(1, 4)))
            if engine.governed:
                hand.move("governs_at_rpm", engine.governs_at_rpm - 200, 3.0)  # type: ignore[operator]
        elif what == "lean":
            hand.move("mixture", engine.phi_lever(0.88), float(rng.uniform(15, 60)))
        else:
            hand.move("throttle", 0.1, 2.0)
            hand.wait(6.0)
            hand.move("throttle", 1.0, 2.0)
        hand.wait(25.0)
    return hand.story(panel)


def slowing(seed: int) -> Story:
    """Return a nose that is raised or a landing roll, the throttle left open: the air takes the propeller's speed away, no hand."""
    rng = np.random.default_rng([seed, 6])
    hand = _under_way(rng, 100, 5_000)
    engine = hand.engine
    hand.move("throttle", float(rng.uniform(0.08, 0.7)), 3.0)
    panel = any_panel(rng, float(rng.choice([0.1, 0.25, 0.5, 1.0])), egt=True, one_egt=False, ff=rng.random() < 0.8,
                      map=True, ias_kt=True, palt_ft=True, fp_psi=True, levers=rng.random() < 0.6)  # fmt: skip
    hand.wait(rng.uniform(40, 70))
    slows_ms2 = float(rng.uniform(0.5, 2.2))
    with hand.doing("slow"):
        while engine.tas_ms > 15.0:
            engine.tas_ms -= slows_ms2 * 0.2
            hand.wait(0.2)
    hand.wait(5.0)
    return hand.story(panel)
