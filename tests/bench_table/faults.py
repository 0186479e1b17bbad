"""Each fault of the simulated engine by its needles: how it is flown, what moves and by how much, and which check names it.

`python -m tests.bench_table.faults` writes docs/faults.md. What a needle should do is common practice, from memory.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import numpy as np

from jemmon.core.bench import BenchScript, run_script
from jemmon.core.bench.faults import BY_NAME, ROWS
from jemmon.core.judgement.judge import judge
from jemmon.core.judgement.registry import title_of
from jemmon.core.trace import Trace
from jemmon.core.trace.finding import WITHIN
from tests.core.builders import PROFILES
from tests.corpora.whole_run_ups import run_up_throttle

A, B, D, E, G, H, I = "a-trainer", "b-tourer", "d-twin", "e-rotor", "g-vee", "h-geared", "i-turbo"  # noqa: E741
Steps = list[dict]
Columns = Mapping[str, np.ndarray]


def _set(at: float, ramp_s: float = 0.0, **levers: float | str | bool) -> dict:
    return {"at": at, "set": levers, "ramp_s": ramp_s}


def _has(kind: str, name: str) -> bool:
    return name in PROFILES[kind].bench["levers"]


def _with(fault: str | None, at: float) -> Steps:
    return [] if fault is None else [{"at": at, "fault": fault, "size": 1.0}]


def run_up(kind: str, fault: str | None) -> Steps:
    """Both magnetos at run-up speed from 120 s, hot air from 156, a propeller cycle at 185, idle from 200 to 225 s."""
    throttle = run_up_throttle(kind, PROFILES[kind].limit("runup_rpm"))
    first, second = ({"mag": "L"}, {"mag": "R"}) if _has(kind, "mag") else ({"lane_b": False}, {"lane_a": False})
    both = {"mag": "BOTH"} if _has(kind, "mag") else {"lane_a": True, "lane_b": True}
    steps = [{"at": 0, "engine": {"running": True}}, _set(0.5, alternator=True), _set(1, 3, throttle=throttle)]
    steps += _with(fault, 2)
    steps += [_set(120, **first), _set(128, **both), _set(138, **second), _set(146, **both)]
    steps += [_set(156, 1, carb_heat=1.0), _set(172, 1, carb_heat=0.0)] if _has(kind, "carb_heat") else []
    steps += [_set(185, 1, prop=0.06), _set(189, 1, prop=1.0)] if _has(kind, "prop") else []
    return [*steps, _set(200, 2, throttle=0.0), _set(225, 2, throttle=0.7 * throttle), {"at": 240, "end": True}]


def _flown(kind: str, fault: str | None, palt_ft: float, at: float = 600, end: float = 900, **levers: float) -> Steps:
    air = {"palt_ft": palt_ft, "oat_c": 15 - 2 * palt_ft / 1000, "ias_kt": 95 if kind == A else 110}
    wanted = {"throttle": 0.6, "prop": 0.6, "mixture": 0.85, "alternator": True, "cowl_flaps": 0.3, **levers}
    steps = [{"at": 0, "air": air}, {"at": 0, "engine": {"running": True}}]
    steps.append(_set(1, 3, **{name: value for name, value in wanted.items() if _has(kind, name)}))
    return [*steps, *_with(fault, at), {"at": end, "end": True}]


def cruise(kind: str, fault: str | None) -> Steps:
    """Ten minutes of cruise at 5,000 ft; then the fault, five minutes more."""
    return _flown(kind, fault, 5000)


def long_cruise(kind: str, fault: str | None) -> Steps:
    """The fault after a minute of cruise; twelve minutes in all."""
    return _flown(kind, fault, 5000, at=60, end=720)


def high_cruise(kind: str, fault: str | None) -> Steps:
    """Cruise at 20,000 ft."""
    return _flown(kind, fault, 20_000, throttle=0.9)


def descent(kind: str, fault: str | None) -> Steps:
    """From cruise the throttle closed at 600 s, the propeller driven by the air."""
    return [*_flown(kind, fault, 5000, at=590, end=660)[:-1], _set(600, 2, throttle=0.0), {"at": 660, "end": True}]


def start(kind: str, fault: str | None, oat_c: float = 15.0) -> Steps:
    """A start from cold: primed, the starter from 4 to 9 s, a minute in all."""
    strokes = 3 if oat_c > 0 else 13
    ready = {
        "master": True,
        "mixture": 1.0,
        "throttle": 0.1,
        "mag": "BOTH",
        "alternator": True,
        "prime_strokes": strokes,
    }
    steps = [{"at": 0, "air": {"oat_c": oat_c}}, {"at": 0, "engine": {"soak_h": 12}}]
    steps += [_set(1, **{name: value for name, value in ready.items() if _has(kind, name) or name == "prime_strokes"})]
    steps += [{"at": 2, "set": {"turn_blades": 12}}] if fault != "oil_in_the_cylinders" else []
    return [*steps, *_with(fault, 3), _set(4, starter=True), _set(9, starter=False), {"at": 60, "end": True}]


def frosty_start(kind: str, fault: str | None) -> Steps:
    """The same at -20 °C."""
    return start(kind, fault, -20.0)


def feathered(kind: str, fault: str | None) -> Steps:
    """At run-up speed the propeller in feather from 60 to 62 s."""
    throttle = run_up_throttle(kind, 0.8 * PROFILES[kind].limit("runup_rpm"))
    steps = [{"at": 0, "engine": {"running": True}}, _set(1, 3, throttle=throttle), *_with(fault, 2)]
    return [*steps, _set(60, prop=0.0), _set(62, prop=1.0), {"at": 80, "end": True}]


def chopped(kind: str, fault: str | None) -> Steps:
    """The helicopter's throttle chopped at 90 s, the rotor at its speed."""
    steps = [{"at": 0, "engine": {"running": True}}, _set(1, 2, throttle=0.32, clutch=True), *_with(fault, 2)]
    return [*steps, _set(90, 0.3, throttle=0.02), {"at": 95, "end": True}]


Flown = Callable[[str, str | None], Steps]


@dataclass(frozen=True)
class Signature:
    """What one fault does: the aircraft and the flight that show it, the needle, when it is read [s], between which figures it
    moves against a healthy flight, and the check that names it, or why none can."""

    fault: str
    kind: str
    flown: Flown
    needle: str
    when_s: tuple[float, float]
    lowest: float
    highest: float
    named: str = ""
    cannot: str = ""
    is_swing: bool = False

    @property
    def given(self) -> str:
        """The fault with its cylinder, where it has one."""
        return f"{self.fault}_2" if BY_NAME[self.fault].by_cylinder else self.fault

    def moves(self) -> float:
        """Return by how much the needle moves against a healthy flight, in its unit."""
        return self._read(self.given) - self._read(None)

    def _read(self, fault: str | None) -> float:
        columns = flown(self.kind, self.flown, fault)
        part = (columns["time_s"] > self.when_s[0]) & (columns["time_s"] < self.when_s[1])
        values = columns[self.needle][part]
        return float(np.ptp(values) if self.is_swing else values.mean())

    def findings(self) -> set[str]:
        """Return the kinds of findings that the fault brings and a healthy flight does not have."""
        healthy, faulty = (_told(self.kind, self.flown, fault) for fault in (None, self.given))
        return faulty - healthy


@cache
def flown(kind: str, how: Flown, fault: str | None) -> Columns:
    """Return the columns of a flight, with its times."""
    run = run_script(BenchScript.from_json(how(kind, fault)), PROFILES[kind].bench, 2.0, 3)
    return {"time_s": run.time_s, **run.shown, **run.levers}


@cache
def _told(kind: str, how: Flown, fault: str | None) -> frozenset[str]:
    columns = dict(flown(kind, how, fault))
    trace = Trace(columns.pop("time_s"), columns)
    return frozenset(f.kind for f in judge(trace, PROFILES[kind]) if f.verdict != WITHIN)


_ON_LEFT, _ON_RIGHT, _ON_BOTH, _HOT, _IDLES, _LATE = (
    (124, 128),
    (142, 146),
    (100, 118),
    (166, 172),
    (215, 224),
    (870, 900),
)
_LIVE = "a record does not; in flight the cylinder that stands apart is told"
_LEFT_OUT = "left out by the other checks, and not told apart"
_NO_NEEDLE = "no needle shows it"
_SMALL = "within what any engine does; the trend over flights shows it"
SIGNATURES: tuple[Signature, ...] = (
    Signature("late_timing_left", A, run_up, "rpm", _ON_LEFT, -130, -40, "mag_check"),
    Signature("late_timing_right", A, run_up, "rpm", _ON_RIGHT, -130, -40, "mag_check"),
    Signature("early_timing_left", A, run_up, "egt1_f", _ON_BOTH, -80, -25, cannot=_SMALL),
    Signature("early_timing_right", A, run_up, "egt1_f", _ON_BOTH, -80, -25, cannot=_SMALL),
    Signature("dead_magneto_left", B, cruise, "egt1_f", _LATE, 100, 200, "ignition_lost"),
    Signature("dead_magneto_right", A, cruise, "egt1_f", _LATE, 100, 200, "ignition_lost"),
    Signature("open_ground_left", A, run_up, "rpm", _ON_RIGHT, 35, 110, "mag_check"),
    Signature("open_ground_right", A, run_up, "rpm", _ON_LEFT, 35, 110, "mag_check"),
    Signature("distributor_left", I, high_cruise, "egt1_f", _LATE, 60, 200, "ignition_lost"),
    Signature("distributor_right", I, high_cruise, "egt1_f", _LATE, 60, 200, "ignition_lost"),
    Signature("weak_impulse", A, start, "rpm", (7, 9), -900, -200, cannot="it fires as the starter is let go"),
    Signature("dead_plug_left", A, run_up, "egt2_f", _ON_BOTH, 60, 170, "mag_check"),
    Signature("dead_plug_right", A, run_up, "egt2_f", _ON_BOTH, 60, 170, "mag_check"),
    Signature("fouled_plug_left", A, run_up, "egt2_f", _ON_BOTH, 60, 170, "mag_check"),
    Signature("fouled_plug_right", A, run_up, "egt2_f", _ON_BOTH, 60, 170, "mag_check"),
    Signature("leaded_plug_left", A, run_up, "egt2_f", _ON_BOTH, 60, 170, "mag_check"),
    Signature("leaded_plug_right", A, run_up, "egt2_f", _ON_BOTH, 60, 170, "mag_check"),
    Signature("stuck_valve", A, start, "egt2_f", (20, 40), -900, -100, cannot="it clears before it is judged"),
    Signature("broken_ring", A, run_up, "rpm", _ON_BOTH, -120, -20, cannot=_LIVE),
    Signature("pre_ignition", A, cruise, "cht2_f", _LATE, 60, 250, cannot=_LIVE),
    Signature("exhaust_leak", A, cruise, "egt2_f", _LATE, -110, -60, cannot=_LIVE),
    Signature("afterfire", A, descent, "egt1_f", (630, 655), 5, 400, cannot=_NO_NEEDLE + " but the exhausts' jumps", is_swing=True),
    Signature("holed_piston", A, cruise, "rpm", _LATE, -700, -60, cannot="too little for a power loss: it is heard"),
    Signature("clogged_nozzle", B, cruise, "ff_gph", _LATE, 0.2, 2.0, cannot=_LIVE),
    Signature("lost_baffle", A, cruise, "cht2_f", _LATE, 25, 100, cannot=_LIVE),
    Signature("leaking_pipe", A, run_up, "egt2_f", _ON_BOTH, 20, 250, cannot=_LIVE),
    Signature("intake_leak", A, run_up, "rpm", _IDLES, 15, 200, cannot=_SMALL),
    Signature("stuck_carb_heat", A, run_up, "rpm", _HOT, 40, 130, "carb_heat_check"),
    Signature("carburettor_ice", A, cruise, "map_inhg", (602, 625), -6, -0.8, "power_loss"),
    Signature("rich_idle", A, run_up, "rpm", _IDLES, -200, -30, "idle_check"),
    Signature("lean_idle", A, run_up, "rpm", _IDLES, 5, 120, cannot="only the cut-off shows it: no rise"),
    Signature("low_idle_stop", A, run_up, "rpm", _IDLES, -200, -30, "idle_check"),
    Signature("backfire", A, start, "rpm", (7, 9), -1000, 400, cannot=_NO_NEEDLE + ": smoke and a hot intake"),
    Signature("primer_open", A, run_up, "egt1_f", _ON_BOTH, -250, -30, "idle_check"),
    Signature("dead_fuel_pump", B, start, "fp_psi", (2, 4), -0.5, 0.5, cannot="with the own pump running nothing shows it"),
    Signature("weak_engine_pump", B, cruise, "fp_psi", _LATE, -12, -5, "exceedance"),
    Signature("vapour_in_climb", A, cruise, "ff_gph", (610, 640), -9, -2, "power_loss"),
    Signature("vapour_in_the_lines", A, cruise, "ff_gph", (602, 608), -9, -1, "power_loss"),
    Signature("water_in_fuel", A, cruise, "rpm", (602, 612), -1500, -100, "power_loss"),
    Signature("wet_plugs", A, cruise, "rpm", (601, 605), -1500, -60, "power_loss"),
    Signature("no_oil_pressure", B, cruise, "oil_p_psi", (610, 640), -90, -40, "exceedance"),
    Signature("oil_leak", B, long_cruise, "oil_p_psi", (690, 720), -90, -25, "exceedance"),
    Signature("summer_oil", A, frosty_start, "oil_p_psi", (25, 40), -90, -8, "start"),
    Signature("oil_in_the_cylinders", G, start, "rpm", (10, 40), -3000, 3000, cannot=_NO_NEEDLE + ": it does not turn"),
    Signature("no_start_retard", A, start, "rpm", (6, 9), -900, -100, cannot="it kicks: the starter is let go"),
    Signature("sticking_starter", A, start, "batt_amps_a", (15, 40), -90, -30, "start"),
    Signature("hot_starter", A, start, "rpm", (4.4, 6), -150, -10, cannot=_SMALL),
    Signature("dead_alternator", B, cruise, "volts_v", _LATE, -5, -1.5, "exceedance"),
    Signature("open_field", B, cruise, "volts_v", _LATE, -5, -1.5, "exceedance"),
    Signature("overvoltage", B, cruise, "volts_v", _LATE, 2, 7, "exceedance"),
    Signature("surging_alternator", B, cruise, "volts_v", _LATE, 2, 8, "exceedance", is_swing=True),
    Signature("dead_alternator_2", H, cruise, "amps2_a", _LATE, -40, 0, cannot="its own item of the list asks for it"),
    Signature("weak_battery", A, start, "volts_v", (4.2, 5.5), -26, -1, cannot="nothing turns: the list asks for volts before"),
    Signature("weak_suction", B, cruise, "suction_inhg", _LATE, -5.5, -2, "exceedance"),
    Signature("slow_governor", B, run_up, "rpm", (187, 190), 40, 900, "prop_cycle"),
    Signature("stuck_governor", B, run_up, "rpm", (187, 190), 80, 900, "prop_cycle"),
    Signature("surging_governor", B, cruise, "rpm", _LATE, 40, 400, cannot="hunting is seen on the needle", is_swing=True),
    Signature("runaway_propeller", B, cruise, "rpm", _LATE, 150, 1200, "exceedance"),
    Signature("slow_feather", D, feathered, "rpm", (61, 62.6), 60, 900, "feather_check"),
    Signature("stuck_freewheel", E, chopped, "rotor_pct", (92, 95), -60, -2, "freewheel_check"),
    Signature("dead_egt_probe", A, cruise, "egt2_f", _LATE, -1700, -900, cannot=_LEFT_OUT),
    Signature("drifting_egt_probe", A, cruise, "egt2_f", _LATE, -60, -35, cannot=_LIVE),
    Signature("stuck_egt_probe", A, run_up, "egt2_f", _ON_LEFT, -400, -50, cannot=_LEFT_OUT),
    Signature("noisy_egt_probe", A, cruise, "egt2_f", _LATE, 60, 400, cannot=_LEFT_OUT, is_swing=True),
    Signature("dead_cht_probe", A, cruise, "cht2_f", _LATE, -500, -150, cannot=_LIVE),
    Signature("drifting_cht_probe", A, cruise, "cht2_f", _LATE, -60, -35, cannot=_LIVE),
    Signature("stuck_cht_probe", A, run_up, "cht2_f", _ON_BOTH, -150, -10, cannot="it looks like a cold cylinder"),
    Signature("noisy_cht_probe", A, cruise, "cht2_f", _LATE, 60, 400, cannot=_SMALL, is_swing=True),
    Signature("tachometer_error", A, cruise, "rpm", _LATE, -130, -60, cannot="only another tachometer, or the ear, can tell"),
    Signature("tachometer_steps", A, cruise, "rpm", _LATE, -60, 60, cannot="drops are told with the plus-or-minus of its steps"),
    Signature("map_line_leak", A, cruise, "map_inhg", _LATE, 0.3, 3, cannot="before a start it reads ambient"),
    Signature("flow_bias", A, cruise, "ff_gph", _LATE, 0.3, 2, cannot="the tanks at the next refuelling tell"),
    Signature("dropouts", A, cruise, "rpm", _LATE, -30, 30, cannot="nothing is wrong but the record; its gaps are passed over"),
)  # fmt: skip

_HEAD = """# Faults of the simulated engine

Made by `python -m tests.bench_table.faults` (`make bench-table`); each row is a test (tests/core/test_faults.py). Size 1; what the
needle does is measured against the same flight without the fault. "Named by" is the check that says so
in the record of that flight.

| fault | what size 0.5 does | aircraft, flight | needle | moves by | named by |
|---|---|---|---|---|---|
"""


def main() -> None:
    """Fly every fault and write the table."""
    lines = []
    for one in SIGNATURES:
        how = one.flown.__name__.replace("_", " ")
        named = title_of(one.named) if one.named else f"not: {one.cannot}"
        needle = f"{one.needle}{' (swing)' if one.is_swing else ''}"
        says = BY_NAME[one.fault].says
        lines.append(f"| {one.fault} | {says} | {one.kind}, {how} | {needle} | {one.moves():+.3g} | {named} |")
    Path("docs/faults.md").write_text(_HEAD + "\n".join(lines) + "\n")
    print(f"{len(lines)} faults of {len(ROWS)}")


if __name__ == "__main__":
    main()
