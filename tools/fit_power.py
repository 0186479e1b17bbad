"""Measure the power tables of the shipped aircraft on their own simulated engines: `python tools/fit_power.py [ID ...]`.

An invented type has no handbook but its engine. Each cell is the best power of a mixture sweep at a held speed, standard
temperature; `friction_pct` is what the engine itself takes at its rated speed, `temperature_exponent` how power at one manifold
pressure goes with the outside temperature. Run it when the simulated engines change on purpose; axes stay.
"""

import json
import re
import sys
from pathlib import Path

import numpy as np

from jemmon.core.base.atmosphere import standard_temperature_c
from jemmon.core.bench import Bench

LIBRARY = Path(__file__).parents[1] / "jemmon/library"
_THROTTLES = np.linspace(0.08, 1.0, 24)
_MIXTURES = np.linspace(1.0, 0.4, 31)
_SHAPE = {"pct": r"\[.*?\]\s*\]\s*\]", "full_throttle": r"\{.*?\}"}  # how these figures look in a profile
_WATT_PER_HP, _PA_PER_INHG = 745.7, 3386.389


def best_power_w(section: dict, rpm: float, palt_ft: float, oat_c: float) -> tuple[np.ndarray, np.ndarray, float]:
    """Return manifold pressures [inHg] and best brake powers [W] over the throttle, and the friction [W] at this speed."""
    held = {**section, "engines": 1, "rotor_inertia_kg_m2": 0}
    bench = Bench(held, engines=len(_THROTTLES), shaft_inertia_kg_m2=1e12)
    bench.set_air(palt_ft=palt_ft, oat_c=oat_c, ias_kt=100)
    bench.make_running(rpm)
    for engine, throttle in enumerate(_THROTTLES):
        bench.set_lever("throttle", float(throttle), which=engine)
    bench.advance(60)
    best = np.zeros(len(_THROTTLES))
    pressure = np.zeros(len(_THROTTLES))
    for mixture in _MIXTURES if "mixture" in section["levers"] else [1.0]:
        if "mixture" in section["levers"]:
            bench.set_lever("mixture", float(mixture))
        bench.advance(8)
        power = bench.state["brake_w"]
        pressure = np.where(power > best, bench.state["manifold_pa"] / _PA_PER_INHG, pressure)
        best = np.maximum(best, power)
    return pressure, best, float(bench.state["friction_w"][-1])


def full_throttle_inhg(section: dict, rpm: float, altitudes_ft: list[float]) -> list[float]:
    """Return the manifold pressures [inHg] at full throttle in the climb, at altitudes of the standard day."""
    held = {**section, "engines": 1}
    bench = Bench(held, engines=len(altitudes_ft), shaft_inertia_kg_m2=1e12)
    for engine, palt_ft in enumerate(altitudes_ft):
        bench.set_air(engine, palt_ft=palt_ft, oat_c=standard_temperature_c(palt_ft), ias_kt=100)
    bench.make_running(rpm)
    bench.set_lever("throttle", 1.0)
    bench.advance(60)
    return [round(float(pa) / _PA_PER_INHG, 1) for pa in bench.state["manifold_pa"]]


def _at(pressures: np.ndarray, powers: np.ndarray, wanted: list[float]) -> np.ndarray:
    """Return power at manifold pressures, carried on in a straight line where the engine cannot reach them: it is affine."""
    order = np.argsort(pressures)
    x, y = pressures[order], powers[order]
    slope, base = np.polyfit(x[y > 0.15 * y.max()], y[y > 0.15 * y.max()], 1)
    inside = np.interp(wanted, x, y)
    return np.where((np.array(wanted) < x[0]) | (np.array(wanted) > x[-1]), slope * np.array(wanted) + base, inside)


def fitted(profile: dict) -> dict[str, object]:
    """Return the figures of the `power` section that the simulated engine gives."""
    section, power = profile["bench"], profile["power"]
    rated_w = profile["engine"]["rated_power_hp"] * _WATT_PER_HP
    table = []
    for palt_ft in power["palt_ft"]:
        rows = []
        for rpm in power["rpm"]:
            pressures, powers, _ = best_power_w(section, rpm, palt_ft, standard_temperature_c(palt_ft))
            rows.append([round(float(p), 1) for p in _at(pressures, powers, power["map_inhg"]) / rated_w * 100])
        table.append(rows)
    rpm, middle = power["rpm"][-2], [power["map_inhg"][1]]
    cold, warm = (_at(*best_power_w(section, rpm, 3000, oat_c)[:2], middle)[0] for oat_c in (-15.0, 35.0))
    friction_w = best_power_w(section, profile["engine"]["rated_rpm"], 0, 15.0)[2]
    found = {
        "temperature_exponent": round(float(-np.log(warm / cold) / np.log(308.15 / 258.15)), 2),
        "friction_pct": round(friction_w / rated_w * 100, 1),
        "pct": table,
    }
    if full := power.get("full_throttle"):
        found["full_throttle"] = {
            **full,
            "map_inhg": [full_throttle_inhg(section, rpm, full["palt_ft"]) for rpm in full["rpm"]],
        }
    return found


def main() -> None:
    """Write the figures into the profiles, each in its place."""
    for path in sorted(LIBRARY.glob("?-*.json")):
        profile = json.loads(path.read_text())
        if sys.argv[1:] and profile["id"] not in sys.argv[1:] or "power" not in profile or "bench" not in profile:
            continue
        text = path.read_text()
        for name, value in fitted(profile).items():
            new = json.dumps(value)
            pattern = rf'("{name}": )' + _SHAPE.get(name, r"[^,\n]+")
            text, count = re.subn(pattern, lambda m, new=new: m.group(1) + new, text, count=1, flags=re.S)
            assert count == 1, (path.name, name)
        path.write_text(text)
        print(path.name)


if __name__ == "__main__":
    main()
