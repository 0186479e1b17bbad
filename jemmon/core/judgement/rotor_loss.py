"""A helicopter's engine that fails in flight: its needle leaves the rotor's, and no throttle that was closed explains it.

The freewheel lets go, so that the engine stops within seconds while the rotor turns on; no propeller drives it round. Manifold
pressure rises as it slows with the throttle open, and falls with one that is closed.
"""

import numpy as np

from ..trace import Trace
from ..trace.masks import filled, has_figures
from .airborne import airborne
from .check import Evidence
from .power_seen import EGT_FALLS_F, FUEL, IGNITION, PRESSURE_GONE, RPM_LEFT, UNKNOWN, PowerSeen, range_lately

# common practice: the engine's speed in flight [% of its full one]; how much less than of the rotor's is left of its speed where it
# has left it; what is left where no rotor is shown, whose own speed sinks as far under too much collective
_FLIES_PCT, _PARTED, _LEFT_ALONE, _LEFT_BLIND = 85.0, 0.03, 0.85, 0.6
# common practice: a throttle or manifold pressure that was not closed; a collective that carries
_STILL_OPEN, _MAP_KEPT, _CARRIES = 0.75, 0.9, 0.25
# common practice: fuel flow goes with speed and manifold pressure (speed-density, Heywood, chapter 7): what is far from that
_FLOW_SHORT, _FLOW_UNBURNT = 0.6, 1.25


def rotor_flies(evidence: Evidence) -> np.ndarray:
    """Return the rows (rows,) in which a helicopter is in the air: by airspeed or altitude, else by a collective that is up."""
    collective = evidence.trace.signal("collective")
    flies = airborne(evidence)
    return flies if collective is None else flies | (np.nan_to_num(collective) > _CARRIES)


def rotor_losses(evidence: Evidence, seen: PowerSeen, before_s: float) -> tuple[np.ndarray, np.ndarray]:
    """Return the rows (rows,) in which the engine no longer drives its rotor and no throttle closed within `before_s` [s] explains
    it, and those of them where throttle or manifold pressure is known."""
    trace, engine = evidence.trace, evidence.profile.engine
    full_rpm = float(engine.get("rpm_at_100_pct") or engine["rated_rpm"])  # its tachometer may show RPM
    rpm, rotor_pct = trace.signal("rpm"), trace.signal("rotor_pct")
    assert rpm is not None
    lost = seen.before.mean(rpm) / full_rpm * 100 > _FLIES_PCT
    if rotor_pct is not None and np.isfinite(rotor_pct).any():
        lost &= (seen.rpm < RPM_LEFT) & (seen.before.share(rotor_pct) - seen.rpm > _PARTED)
    elif seen.egt_f is not None:
        lost &= (seen.rpm < _LEFT_ALONE) & (seen.egt_f < -EGT_FALLS_F)
    else:
        lost &= seen.rpm < _LEFT_BLIND
    is_open = _is_open(trace, before_s)
    return (lost, np.zeros_like(lost)) if is_open is None else (lost & is_open, lost & is_open)


def _is_open(trace: Trace, before_s: float) -> np.ndarray | None:
    """Return the rows (rows,) in which the throttle was not closed within `before_s` [s], None where nothing shows it. A governor
    closes it some way with the collective; of an engine that stops under it manifold pressure rises."""
    is_open = None
    for name, kept in (("throttle", _STILL_OPEN), ("map", _MAP_KEPT)):
        shown = trace.signal(name)
        if shown is not None and has_figures(trace, name):
            stays = filled(shown) >= kept * range_lately(trace, filled(shown), before_s)[1]
            is_open = stays if is_open is None else is_open | stays
    return is_open


def rotor_lost_by(seen: PowerSeen, first: int, last: int) -> str:
    """Return what the readings of rows `first` to `last` say of the cause: `fuel`, `ignition` or `unknown`."""
    rows = slice(first, last + 1)
    fuel_pressure = None if seen.fuel_pressure is None else float(np.nanmin(seen.fuel_pressure[rows]))
    if fuel_pressure is not None and fuel_pressure < PRESSURE_GONE:
        return FUEL
    if seen.flow is None:
        return UNKNOWN
    air = seen.rpm[rows] * (1.0 if seen.map_share is None else seen.map_share[rows])
    as_mixed = seen.flow[rows] / np.maximum(air, 1e-3)
    if np.nanmin(as_mixed) < _FLOW_SHORT:
        return FUEL
    # a flow that only lags behind looks unburnt too, unless its pressure is seen to be there
    return IGNITION if fuel_pressure is not None and np.nanmin(as_mixed) > _FLOW_UNBURNT else UNKNOWN
