"""Percent of power and fuel flow as they are worked out from the needles, against what the simulated engine truly gives. The
tables of the profiles are its own: this holds the arithmetic together, the outside is in tests/reference."""

import numpy as np
import pytest

from jemmon.core.base.atmosphere import standard_temperature_c
from jemmon.core.bench import Bench
from jemmon.core.power import power_by_flow_pct, power_by_table_pct
from jemmon.core.power.settings import fuel_flow_gph
from tests.core.builders import PROFILES

# equivalence ratio -> distance from peak EGT [°F], negative lean (a crank-angle calculation; arithmetic, not published)
_PHI, _OFFSET_F = [0.85, 0.90, 1.00, 1.05, 1.10, 1.17, 1.45], [-88, -45, 0, 15, 45, 105, 285]


@pytest.mark.parametrize("name", [k for k in PROFILES if PROFILES[k].power])
def test_the_planned_fuel_flow_is_what_the_engine_burns_at_any_rpm(name):
    """Random settings of the simulated engine, held at speeds over the whole range: within 6 % at 95 %; a low RPM costs less."""
    profile, rng = PROFILES[name], np.random.default_rng(12)
    ratios = []
    for rpm in np.linspace(profile.power.rpm[0], profile.power.rpm[-1], 3):
        bench = _held(profile, 20, rpm, 4000.0, 7.0, rng)
        power = bench.state["brake_w"] / 745.7 / profile.engine["rated_power_hp"] * 100
        phi = bench.state["equivalence_ratio"][:, : bench.cylinders].mean(axis=1)
        flow = bench.state["fuel_metered_kg_s"] * 3600 / 0.72 / 3.785411784
        for k in np.flatnonzero((power > 45) & (power < 100) & (phi > 0.87) & (phi < 1.42)):
            offset = float(np.interp(phi[k], _PHI, _OFFSET_F))
            said = fuel_flow_gph(profile, float(power[k]), "lean" if offset < -2 else "rich", abs(offset), float(rpm))
            ratios.append(abs(said / flow[k] - 1))
    assert len(ratios) > 5
    assert np.quantile(ratios, 0.95) < 0.06
    slow, fast = (fuel_flow_gph(profile, 60, rpm=float(profile.power.rpm[n])) for n in (0, -1))
    assert slow < fast


@pytest.mark.parametrize("name", [k for k in PROFILES if PROFILES[k].power])
def test_percent_is_within_three_of_the_true_brake_power(name):
    """95 % of random settings within the allowed range; the tables are fixed in the profiles."""
    profile, rng = PROFILES[name], np.random.default_rng(11)
    by_table, by_flow = [], []
    for _ in range(5):
        rpm, height_ft = rng.uniform(profile.power.rpm[0], profile.power.rpm[-1]), rng.uniform(0, 9000)
        outside_c = standard_temperature_c(height_ft) + rng.uniform(-20, 20)
        bench = _held(profile, 20, rpm, height_ft, outside_c, rng)
        true = bench.state["brake_w"] / 745.7 / profile.engine["rated_power_hp"] * 100
        phi = bench.state["equivalence_ratio"][:, : bench.cylinders].mean(axis=1)
        pressure = bench.state["manifold_pa"] / 3386.389
        flow = bench.state["fuel_metered_kg_s"] * 3600 / 0.72 / 3.785411784
        for k in np.flatnonzero((true > 40) & (true < 100) & (phi > 0.85) & (phi < 1.42)):
            offset = float(np.interp(phi[k], _PHI, _OFFSET_F))
            side = "lean" if offset < -2 else "rich"
            said = power_by_table_pct(profile, rpm, float(pressure[k]), height_ft, outside_c, side, abs(offset))
            by_table += [] if said is None else [abs(said - true[k])]
            by_flow += [abs(power_by_flow_pct(profile, float(flow[k]), rpm) - true[k])] if side == "lean" else []
    assert len(by_table) > 20
    assert np.quantile(by_table, 0.95) < 3
    assert not by_flow or np.quantile(by_flow, 0.9) < 5


def _held(profile, engines: int, rpm: float, height_ft: float, outside_c: float, rng) -> Bench:
    """Engines held at one speed, each with its own throttle and mixture."""
    section = {**profile.bench, "engines": 1, "rotor_inertia_kg_m2": 0}
    bench = Bench(section, engines=engines, shaft_inertia_kg_m2=1e12)
    bench.set_air(palt_ft=height_ft, oat_c=outside_c, ias_kt=100)
    bench.make_running(rpm)
    for k in range(engines):
        bench.set_lever("throttle", float(rng.uniform(0.15, 1)), which=k)
        if "mixture" in profile.bench["levers"]:
            bench.set_lever("mixture", float(rng.uniform(0.3, 1)), which=k)
    bench.advance(80)
    return bench
