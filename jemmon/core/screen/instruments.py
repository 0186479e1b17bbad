"""The needles that the screen shows: name, unit, limits, and whether a figure is out of them."""

from collections.abc import Mapping
from typing import Any

from ..aircraft import Profile
from ..flight.fold import FlightState
from ..live.following import Now, with_derived

# instrument -> (short name, unit of the core, lowest limit, highest limit)
INSTRUMENTS: dict[str, tuple[str, str, str | None, str | None]] = {
    "rpm": ("RPM", "rpm", None, "rpm_max"),
    "map_inhg": ("Manifold", "inhg", None, "map_max_inhg"),
    "ff_gph": ("Fuel flow", "gph", None, None),
    "fp_psi": ("Fuel pressure", "psi", "fuel_pressure_min_psi", "fuel_pressure_max_psi"),
    "oil_p_psi": ("Oil pressure", "psi", "oil_pressure_min_psi", "oil_pressure_max_psi"),
    "oil_t_f": ("Oil temp", "f", None, "oil_t_max_f"),
    "cht_max_f": ("Hottest head", "f", None, "cht_max_f"),
    "volts_v": ("Volts", "v", "volts_min_v", "volts_max_v"),
    "suction_inhg": ("Suction", "inhg", "suction_min_inhg", "suction_max_inhg"),
    "rpm_pct": ("Engine", "pct", None, "rpm_pct_max_pct"),
    "rotor_pct": ("Rotor", "pct", "rotor_min_pct", "rotor_max_pct"),
    "coolant_t_f": ("Coolant", "f", None, "coolant_t_max_f"),
    "tit_f": ("Turbine inlet", "f", None, "tit_max_f"),
    "amps_a": ("Load", "a", None, None),
    "oat_f": ("Outside", "f", None, None),
    "ias_kt": ("Airspeed", "kt", None, None),
    "palt_ft": ("Altitude", "ft", None, None),
}
_ONLY_RUNNING = ("oil_p_psi", "suction_inhg", "fp_psi")
_BUS_OFF_V = 1.0
_SUCTION_FROM_RPM = 1500.0
_RPM_SLACK = 15.0  # a needle trembles by as much at its governor (common practice)


def unit_of(signal: str) -> str:
    """Return the core unit of a reading by its name (`rpm`, `oil_p_psi`, ...); empty for levers and switches."""
    own = signal.removeprefix("e2_")
    if own in INSTRUMENTS:
        return INSTRUMENTS[own][1]
    return own.rsplit("_", 1)[-1] if own.endswith(("_f", "_psi", "_v", "_gph", "_inhg")) else ""


def spec_of(name: str, profile: Profile) -> tuple[str, str, str | None, str | None] | None:
    """Return (label, unit, lowest limit, highest limit) of an instrument, or None; of twins the label names the engine."""
    own = name.removeprefix("e2_")
    if own not in INSTRUMENTS:
        return None
    label, unit, low, high = INSTRUMENTS[own]
    names = dict(profile.engines)
    is_shared = own in ("ias_kt", "palt_ft", "volts_v", "suction_inhg", "oat_f")
    if len(names) == 2 and not is_shared:
        label = f"{label}, {names[2 if name.startswith('e2_') else 1].lower()}"
    return label, unit, low, high


def instrument(profile: Profile, name: str, readings: Mapping[str, float], runs: bool) -> dict[str, Any]:
    """Return one instrument: figure, unit, limits, and `state` ok, low, high or none."""
    spec = spec_of(name, profile)
    assert spec is not None
    label, unit, low_name, high_name = spec
    value = readings.get(name)
    low = profile.limits[low_name].value if low_name and low_name in profile.limits else None
    high = profile.limits[high_name].value if high_name and high_name in profile.limits else None
    state = "none" if value is None else "ok"
    slack = _RPM_SLACK if unit == "rpm" else 0.0
    if value is not None and high is not None and value > high + slack:
        state = "high"
    elif name == "volts_v" and value is not None and value < _BUS_OFF_V:
        state = "ok"  # the master is off: nothing is low
    elif name == "suction_inhg" and readings.get("rpm", 0.0) < _SUCTION_FROM_RPM:
        state = "ok"  # a pump at idle is not judged
    elif value is not None and low is not None and value < low and (runs or name not in _ONLY_RUNNING):
        state = "low"
    return {"id": name, "label": label, "unit": unit, "value": value, "low": low, "high": high, "state": state}


def instruments(profile: Profile, state: FlightState, now: Now | None) -> list[dict[str, Any]]:
    """Return the phase's instruments (five at most), and any other that is out of limits while the engine runs."""
    readings = with_derived(now.readings) if now else {}
    wanted = list(profile.phase(state.phase).instruments)
    shown = [instrument(profile, name, readings, state.engine_runs) for name in wanted if spec_of(name, profile)]
    for name in INSTRUMENTS:
        if name not in wanted and state.engine_runs and name != "fp_psi":
            extra = instrument(profile, name, readings, True)
            if extra["state"] in ("low", "high"):
                shown.append({**extra, "came_by_itself": True})
    return shown
