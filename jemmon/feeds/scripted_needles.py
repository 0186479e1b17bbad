"""Made-up needles for an aircraft that has no simulated engine yet: each phase has figures that its limits suggest, and
the needles run towards them with a lag. It is not an engine: levers do nothing. The screen says so."""

from collections.abc import Mapping

from ..core.aircraft import Profile
from ..core.aircraft.phases import PhaseKind

_LAG_S = {"oil_p_psi": 6.0, "oil_t_f": 90.0, "coolant_t_f": 80.0, "cht_max_f": 60.0, "palt_ft": 60.0, "ias_kt": 8.0}
_USUAL_LAG_S = 1.5
_FIRES_AFTER_S = 15.0
_PCT_RUNNING = {"start": 55.0, "warm_up": 72.0, "run_up": 75.0, "shutdown": 70.0}
# share of rated RPM, and of the way from idle to full manifold pressure, by the kind of phase
_POWER = {"start": (0.4, 0.1), "warm_up": (0.4, 0.1), "run_up": (0.65, 0.35), "before_take_off": (0.4, 0.1)}
_POWER |= {"take_off": (0.99, 1.0), "climb": (0.92, 0.85), "cruise": (0.86, 0.7), "descent": (0.8, 0.4)}
_POWER |= {"taxi": (0.4, 0.1), "before_landing": (0.8, 0.35), "after_landing": (0.4, 0.1), "shutdown": (0.38, 0.1)}


def first_needles(profile: Profile, oat_c: float) -> dict[str, float]:
    """Return the needles of an engine that has stood: every signal that later ones have."""
    cold = oat_c * 1.8 + 32
    shown = targets(profile, profile.phases[0].kind, 0.0)
    return {name: cold if name in ("oil_t_f", "coolant_t_f", "cht_max_f") else value for name, value in shown.items()}


def targets(profile: Profile, kind: PhaseKind, phase_s: float) -> dict[str, float]:
    """Return what the needles run towards in a kind of phase, so many seconds [s] after it began."""
    phase_id = kind.name
    runs = phase_id in _POWER and not (phase_id == "start" and phase_s < _FIRES_AFTER_S)
    speed, pull = _POWER.get(phase_id, (0.0, 0.0)) if runs else (0.0, 0.0)
    limit = {name: x.value for name, x in profile.limits.items()}
    bus_v = limit.get("volts_max_v", 29.5) / 29.5
    out = {"volts_v": (28.0 if runs else 25.0) * bus_v, "oat_f": 59.0, "ias_kt": 95.0 if kind.flies else 0.0}
    out["palt_ft"] = 4500.0 if phase_id in ("cruise", "climb") else 600.0
    if "rpm_pct_max_pct" in limit:
        flying = 104.0 if runs else 0.0
        out["rpm_pct"] = _PCT_RUNNING.get(phase_id, flying) if runs else 0.0
        out["rotor_pct"] = out["rpm_pct"]
    else:
        low, high = limit.get("warm_up_min_rpm", 900), limit.get("warm_up_max_rpm", 1200)
        out["rpm"] = (low + high) / 2 if runs and speed <= 0.4 else limit.get("rpm_max", 2700) * speed
        if phase_id == "run_up":
            out["rpm"] = limit.get("runup_rpm", out["rpm"])
    full = limit.get("map_max_inhg", 29.0)
    out["map_inhg"] = 29.3 if not runs else 11.0 + (full - 12.0) * pull
    running = {
        "oil_p_psi": (limit.get("oil_pressure_min_psi", 30.0) + limit.get("oil_pressure_max_psi", 90.0)) / 2,
        "ff_gph": 22.0 * max(pull, 0.08),
        "suction_inhg": limit.get("suction_min_inhg", 4.5) + 0.4,
    }
    out |= {name: value if runs else 0.0 for name, value in running.items()}
    out |= {"oil_t_f": 0.75 * limit.get("oil_t_max_f", 240.0), "cht_max_f": 300.0 + 90.0 * pull} if runs else {}
    out.setdefault("oil_t_f", 59.0)
    out.setdefault("cht_max_f", 59.0)
    if "coolant_t_max_f" in limit:
        out["coolant_t_f"] = 0.8 * limit["coolant_t_max_f"] if runs else 59.0
    if "tit_max_f" in limit:
        out["tit_f"] = 900.0 + 700.0 * pull if runs else 59.0
    if "fuel_pressure_max_psi" in limit:
        on = runs or phase_id == "start" or profile.engine.get("ignition") == "lanes"
        out["fp_psi"] = (limit.get("fuel_pressure_min_psi", 0) + limit["fuel_pressure_max_psi"]) / 2 if on else 0.0
    if len(profile.engines) == 2:
        out |= {
            f"e2_{name}": out[name]
            for name in ("rpm", "map_inhg", "oil_p_psi", "oil_t_f", "ff_gph", "fp_psi")
            if name in out
        }
    return out


def move(needles: Mapping[str, float], wanted: Mapping[str, float], dt_s: float) -> dict[str, float]:
    """Return the needles a moment later."""
    moved = {}
    for name, value in needles.items():
        lag_s = _LAG_S.get(name.removeprefix("e2_"), _USUAL_LAG_S)
        moved[name] = value + (wanted.get(name, value) - value) * min(dt_s / lag_s, 1.0)
    return moved
