"""Draw the figures of the invented types anew: `tools/draw_types.py SEED FROM TO` reads the profiles of one folder and writes them
into another, each with a displacement, a rated speed and limits of its own.

The ranges are those of piston aircraft of its kind (docs/bench.md); the physics stays, since what is drawn scales the engine as a
whole: `k` is how much more air and power, `r` how much more speed. Whatever goes with size goes with k, with time with r, so that a
table of percent power, a gate's minutes and a drop's share stay true. The same old figure becomes the same new one in every place.
"""

import argparse
import json
import math
import random
import re
from collections.abc import Callable
from pathlib import Path
from typing import Any

# rated speed (a rotor's: at 100 %) and its step [RPM], displacement [L]
RANGES: dict[str, tuple[tuple[int, int, int], tuple[float, float]]] = {
    "b-tourer": ((2540, 2640, 20), (8.9, 9.7)),
    "d-twin": ((2480, 2600, 20), (6.3, 6.8)),
    "e-rotor": ((2420, 2540, 20), (6.3, 6.8)),
    "f-radial": ((2380, 2480, 20), (17.3, 19.0)),
    "g-vee": ((2760, 2880, 20), (29.0, 31.5)),
    "h-geared": ((5250, 5500, 50), (1.55, 1.75)),
    "i-turbo": ((2520, 2620, 20), (9.2, 9.9)),
    "j-glass": ((2640, 2760, 20), (5.0, 5.9)),
    "k-hover": ((2580, 2700, 20), (7.0, 7.9)),
    "l-field": ((2560, 2680, 20), (6.5, 7.4)),
    "m-mixed": ((2760, 2940, 20), (3.0, 3.6)),
    "n-amphib": ((2220, 2360, 20), (10.4, 12.2)),
}
# constants of the simulated engine by how they go with size and speed: exponents of k and of r
SCALES: dict[str, tuple[float, float]] = {
    "displacement_l": (1, -1),
    "throttle_area_open_cm2": (1, 0),
    "throttle_area_idle_cm2": (1, 0),
    "reference_air_flow_kg_s": (1, 0),
    "volumetric_efficiency_best_rpm": (0, 1),
    "enrichment_idle_air_kg_s": (1, 0),
    "accelerator_pump_g": (1, 0),
    "friction_bar_per_krpm": (0, -1),
    "friction_bar_per_krpm2": (0, -2),
    "head_heat_capacity_j_k": (1, 0),
    "head_cooling_w_k": (1, 0),
    "blast_m_per_rev": (0, -1),
    "oil_heat_capacity_j_k": (1, 0),
    "oil_cooling_w_k": (1, 0),
    "oil_pump_per_krpm": (0, -1),
    "oil_fill_per_krpm_s": (0, -1),
    "propeller_diameter_m": (0.2, -0.6),
    "shaft_inertia_kg_m2": (1, -2),
    "battery_ah": (1, 0),
    "battery_ohm": (-1, 0),
    "starter_stall_nm": (1, -1),
    "starter_free_rpm": (0, 1),
    "starter_stall_a": (1, 0),
    "alternator_cut_in_rpm": (0, 1),
    "alternator_2_cut_in_rpm": (0, 1),
    "metering_from_rpm": (0, 1),
    "prime_stroke_g": (1, 0),
    "primer_g_s": (1, 0),
    "wet_plugs_g": (1, 0),
    "percolation_g": (1, 0),
    "injection_static_g_s": (1, 0),
    "suction_per_krpm_inhg": (0, -1),
    "blower_ratio_per_krpm2": (0, -2),
    "inertia_kg_m2": (1, 0),
    "inertia_motor_nm": (1, 0),
    "inertia_clutch_nm": (1, -1),
    "coolant_heat_capacity_j_k": (1, 0),
    "coolant_radiator_w_k": (1, 0),
    "governor_low_rpm": (0, 1),
    "governor_high_rpm": (0, 1),
    "rpm_100": (0, 1),
    "rotor_inertia_kg_m2": (1, -2),
    "rotor_flat_w": (1, 0),
    "rotor_collective_w": (1, 0),
    "clutch_nm": (1, -1),
    "tank_gal": (1, 0),
}
# what is a type's own beside that: figures by their place, words of its lists
PRIMED = {"d-twin": (1.2, "primer_g_s"), "f-radial": (1.3, "primer_g_s"), "g-vee": (1.36, "prime_stroke_g")}
OWN: dict[str, dict[tuple[str, ...], Any]] = {
    "e-rotor": {
        ("limits", "rpm_pct_max_pct", "value"): 103,
        ("limits", "rotor_horn_pct", "value"): 95,
        ("limits", "rotor_min_pct", "value"): 88,
        ("limits", "rotor_max_pct", "value"): 110,
    },
    "g-vee": {("limits", "map_max_inhg", "value"): 53, ("start", "blades"): 3},
    "f-radial": {("start", "blades"): 4},
}
WORDS: dict[str, tuple[tuple[str, str], ...]] = {
    "e-rotor": (
        *(("104 %", "103 %"), ("97 %", "95 %"), ("70 to 75 %", "68 to 73 %"), ("at 75 %", "at 73 %")),
        *(("at most 7 %", "at most 8 %"), ("12 kt", "14 kt")),
    ),
    "d-twin": (("12 kt", "13 kt"),),
    "f-radial": (("9 blades", "12 blades"), ("12 kt", "10 kt")),
    "g-vee": (("9 blades", "12 blades"), ("10 strokes", "14 strokes"), ("12 kt", "10 kt")),
}
COUNTED = {"9 blades": 12}
ROTOR_RUN_UP, ROTOR_DROP, ROTOR_GOVERNED = 0.73, 0.08, 1.03  # of its 100 %
STARTER_S, REST_S = 2, 15  # longer by
_WIDTH = 240
_STATIC_SLACK = 0.992
_TEXT_FIGURE = re.compile(r"\{([0-9.]+)\|(f|psi)\}")
_TEXT_RPM = re.compile(r"\b(\d,\d{3}|\d{3,4}(?= RPM)|\d{3}(?= to \d,))(?! ft)\b")


class Figures:
    """What each figure of a type becomes: the same old one the same new one."""

    def __init__(self, draw: random.Random, r: float):
        self._draw, self._r, self._known = draw, r, {}

    def new(self, unit: str, old: float) -> float:
        """Return what a figure becomes, in its unit."""
        how: dict[str, Callable[[float], float]] = {"rpm": self._rpm, "f": self._degrees, "psi": self._pressure}
        if unit not in how:
            return old
        return self._known.setdefault((unit, float(old)), how[unit](float(old)))

    def exact_rpm(self, old: float) -> float:
        """Return what a speed becomes before it is rounded."""
        return old * self._r

    def _rpm(self, old: float) -> float:
        step = 50 if old >= 1500 else 10 if old >= 300 else 5
        return round(old * self._r / step) * step or old

    def _degrees(self, old: float) -> float:
        if old % 5:  # a handbook in °C: its round figures are 9 °F apart
            return old + 9
        return old + 5 * self._draw.randint(1, 2)

    def _pressure(self, old: float) -> float:
        if old >= 60:
            return old + self._draw.randint(3, 9)
        new = old * self._draw.uniform(0.82, 0.94)
        return round(new) if old >= 12 else round(2 * new) / 2


def redrawn(body: dict[str, Any], draw: random.Random) -> dict[str, Any]:
    """Return a profile with figures of its own."""
    (lowest, highest, step), litres = RANGES[body["id"]]
    engine, bench = body["engine"], body["bench"]
    of_rotor = engine.get("rpm_at_100_pct")
    before = of_rotor or engine["rated_rpm"]
    rated = draw.randrange(lowest, highest + 1, step)
    r = rated / before
    displacement = round(draw.uniform(*litres), 1 if litres[0] > 2 else 2)
    k = displacement * r / engine["displacement_l"]
    figures = Figures(draw, r)
    figures.new("rpm", before)
    figures._known["rpm", float(before)] = rated
    engine["displacement_l"] = displacement
    engine["rated_power_hp"] = round(engine["rated_power_hp"] * k)
    engine["rated_rpm"] = figures.new("rpm", engine["rated_rpm"])
    if of_rotor:
        engine["rpm_at_100_pct"] = rated
    for name, (by_size, by_speed) in SCALES.items():
        if name in bench:
            bench[name] = float(f"{bench[name] * k**by_size * r**by_speed:.4g}")
    pumped = draw.uniform(0.86, 0.95)
    for name in ("engine_pump_psi", "electric_pump_psi", "wobble_psi"):
        if name in bench:
            bench[name] = round(bench[name] * pumped, 1)
    _limits(body["limits"], figures, pumped)
    _power(body["power"], figures, r)
    for when in body.get("take_off", {}).get("when", []):
        if when["of"] == "rpm":
            when["above"] = figures.new("rpm", when["above"])
    body["schedule"]["mass_kg"] = round(body["schedule"]["mass_kg"] * k / 10) * 10
    on_s = body["limits"]["starter_on_max_s"]
    words = (*WORDS.get(body["id"], ()), (f"{on_s['value']} s at most", f"{on_s['value'] + STARTER_S} s at most"))
    on_s["value"] += STARTER_S
    body["limits"]["starter_rest_s"]["value"] += REST_S
    for part in ("phases", "emergency", "start", "put_backs"):
        body[part] = _told(body[part], figures, words)
    _own(body, rated)
    return body


def _limits(limits: dict[str, Any], figures: Figures, pumped: float) -> None:
    for name, limit in limits.items():
        unit = name.rsplit("_", 1)[-1]
        if name == "static_min_rpm":  # what a healthy engine gives on the brakes is above it on any day
            limit["value"] = math.floor(_STATIC_SLACK * figures.exact_rpm(limit["value"]) / 10) * 10
            continue
        if unit == "rpm" and limit["source"] == "common practice" and limit["value"] < 200:
            continue  # what is near enough is so for all
        if name.startswith("fuel_pressure"):
            limit["value"] = round(2 * limit["value"] * pumped) / 2
            continue
        unit = "rpm" if name in ("rpm_firing_min", "rpm_max", "runup_rpm") or unit == "rpm" else unit
        limit["value"] = figures.new("rpm" if name == "feather_fall_min_rpm_s" else unit, limit["value"])


def _own(body: dict[str, Any], rated: int) -> None:
    """Give a type what is its own."""
    bench, limits = body["bench"], body["limits"]
    for place, value in OWN.get(body["id"], {}).items():
        part = body
        for name in place[:-1]:
            part = part[name]
        part[place[-1]] = value
    if "rpm_at_100_pct" in body["engine"]:
        limits["runup_rpm"]["value"] = round(ROTOR_RUN_UP * rated / 5) * 5
        limits["mag_drop_max_rpm"]["value"] = round(ROTOR_DROP * rated)
        bench["governor_high_rpm"] = round(ROTOR_GOVERNED * rated)
    if body["id"] in PRIMED:
        more, gives = PRIMED[body["id"]]
        bench[gives] = float(f"{bench[gives] / more:.4g}")
        for row in body["prime"]:
            row["amount"] = (
                max(round(row["amount"] * more * 2) / 2, 1) if more < 1.3 else max(round(row["amount"] * more), 1)
            )


def _power(power: dict[str, Any], figures: Figures, r: float) -> None:
    power["rpm"] = [round(rpm * r) for rpm in power["rpm"]]  # the axes of a table: exactly by the speed
    if "full_throttle" in power:
        power["full_throttle"]["rpm"] = [round(rpm * r) for rpm in power["full_throttle"]["rpm"]]
    for row in [*power.get("settings", []), *power.get("map_most", [])]:
        row["rpm"] = figures.new("rpm", row["rpm"])
    for rating in power.get("ratings", []):
        if "above_rpm" in rating:
            rating["above_rpm"] = round(rating["above_rpm"] * r)
    for detent in power.get("detents", []):
        if "below_rpm" in detent:
            detent["below_rpm"] = figures.new("rpm", detent["below_rpm"])
    power["avoid_rpm"] = [[figures.new("rpm", rpm) for rpm in band] for band in power.get("avoid_rpm", [])]


def _told(part: Any, figures: Figures, words: tuple[tuple[str, str], ...]) -> Any:
    """Return a part of a profile with the figures of its texts as they became."""
    if isinstance(part, dict):
        told = {name: _told(value, figures, words) for name, value in part.items()}
        for response, count in COUNTED.items():
            if str(part.get("response", "")).startswith(response):
                told["count_to"] = count
        return told
    if isinstance(part, list):
        return [_told(value, figures, words) for value in part]
    if not isinstance(part, str):
        return part
    for before, after in words:
        part = part.replace(before, after)
    text = _TEXT_FIGURE.sub(lambda m: f"{{{figures.new(m[2], float(m[1])):g}|{m[2]}}}", part)
    return _TEXT_RPM.sub(lambda m: f"{figures.new('rpm', float(m[1].replace(',', ''))):,.0f}", text)


def written(part: Any, depth: int = 0) -> str:
    """Return JSON as a person lays it out: what fits on a line is on one, but for the profile itself."""
    line = json.dumps(part, ensure_ascii=False)
    if depth > 1 and len(line) + 2 * depth <= _WIDTH or not isinstance(part, dict | list) or not part:
        return line
    inside = "  " * (depth + 1)
    if isinstance(part, dict):
        rows = [f"{inside}{json.dumps(name)}: {written(value, depth + 1)}" for name, value in part.items()]
    else:
        rows = [f"{inside}{written(value, depth + 1)}" for value in part]
    first, last = ("{", "}") if isinstance(part, dict) else ("[", "]")
    return "\n".join([first, ",\n".join(rows), "  " * depth + last])


def main() -> None:
    """Draw them all."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("seed", type=int)
    parser.add_argument("source", type=Path)
    parser.add_argument("target", type=Path)
    given = parser.parse_args()
    for name in RANGES:
        if not (given.source / f"{name}.json").exists():
            continue  # some kinds were drawn later, from the body of a relative
        body = json.loads((given.source / f"{name}.json").read_text())
        body = redrawn(body, random.Random(f"{given.seed}-{name}"))
        (given.target / f"{name}.json").write_text(written(body) + "\n")


if __name__ == "__main__":
    main()
