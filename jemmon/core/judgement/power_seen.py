"""What the readings of an engine in flight have come to against some seconds before: what a loss of power is told by."""

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import maximum_filter1d, minimum_filter1d, uniform_filter1d

from ..trace import Trace
from ..trace.lookback import LookBack
from ..trace.masks import filled, has_figures
from .exhausts import working_probes

# common practice, tried on tests/strange, seeds 0 to 199: how much of a fuel flow is a loss, how far exhausts cool with it [°F]
FLOW_LEFT, EGT_COOLS_F = 0.75, 12.0
# common practice, tried there too: what is left of a speed and of a fuel pressure that are lost, exhausts that are cold [°F]
RPM_LEFT, PRESSURE_GONE, EGT_FALLS_F = 0.93, 0.6, 55.0
FUEL, IGNITION, ICE, MECHANICAL, UNKNOWN = "fuel", "ignition", "carburettor_ice", "mechanical", "unknown"
# common practice, tried there too: a manifold pressure that stayed, a mixture that did; what settles a slow probe [s]
_MAP_KEPT, _SETTLES_S, _SAME_MIXTURE = 0.93, 30.0, (0.975, 1.03)
_FLOW_STEP_GPH = 0.1  # common practice: what a fuel flow is shown by
# common practice: shares of a lever's way; how soon an exhaust answers a hand [s]
_LEVER_STILL, _CUT, _NO_ANSWER_S = 0.03, 0.15, 2.5


@dataclass(frozen=True, slots=True)
class PowerSeen:
    """Each signal against what it was some seconds before (rows,): shares of speed, airspeed (1 where it did not fall), manifold
    pressure, fuel flow, fuel pressure, the change of the middle exhaust [°F]; whether the throttle stayed, and manifold
    pressure with it, over some seconds and over long enough for the slowest probe to have settled; whether the mixture stayed;
    whether fuel flow fell and the exhausts did not answer, as they would to a hand. None where the trace has none of it.
    `before`: the seconds that it is held against."""

    before: LookBack
    rpm: np.ndarray
    slower_air: np.ndarray
    map_share: np.ndarray | None
    flow: np.ndarray | None
    fuel_pressure: np.ndarray | None
    egt_f: np.ndarray | None
    still: np.ndarray | None
    long_still: np.ndarray | None
    map_kept: np.ndarray | None
    map_long_kept: np.ndarray | None
    as_mixed: np.ndarray | None
    less_air: np.ndarray | None


def power_seen(trace: Trace, rpm: np.ndarray, before: LookBack, from_s: float) -> PowerSeen:
    """Return each signal against what it was: `rpm` [RPM] (rows,), the seconds `before`, which begin `from_s` [s] before a row."""
    pressure, flow, fuel = (trace.signal(name) for name in ("map", "ff", "fp"))
    probes = working_probes(trace)
    egt = np.nanmedian(np.array(list(probes.values())), axis=0) if probes else None
    throttle, has_throttle = trace.signal("throttle"), has_figures(trace, "throttle")
    alone = {name: np.ones(len(trace), dtype=bool) for name in ("mixture", "prop")}
    for name in filter(lambda name: has_figures(trace, name), alone):
        alone[name] = is_still(trace, trace.signal(name), from_s, _CUT)
    unmixed = alone["mixture"]  # a hand that cuts the mixture knows it
    # a propeller pulled far back takes speed and flow with it, but never half of that
    unmoved = unmixed & alone["prop"]
    flow_share = None if flow is None else before.share(flow)
    egt_change = None if egt is None else egt - before.mean(egt)
    return PowerSeen(
        before=before,
        rpm=before.share(rpm),
        slower_air=_slower_air(trace, before),
        map_share=None if pressure is None else before.share(pressure),
        flow=flow_share,
        fuel_pressure=None if fuel is None else before.share(fuel),
        egt_f=egt_change,
        still=is_still(trace, throttle, from_s) & unmixed if has_throttle else None,
        long_still=is_still(trace, throttle, max(_SETTLES_S, from_s)) & unmoved if has_throttle else None,
        map_kept=None if pressure is None else _kept(trace, pressure, from_s),
        map_long_kept=None if pressure is None else _kept(trace, pressure, max(_SETTLES_S, from_s)),
        as_mixed=None if flow is None else _as_mixed(trace, rpm, pressure, flow),
        less_air=None if flow_share is None or egt_change is None else _less_air(trace, flow_share, egt_change),
    )


def _slower_air(trace: Trace, before: LookBack) -> np.ndarray:
    """Return the share (rows,) that airspeed has fallen to, 1 where it has not or nothing shows it: with the throttle left alone a
    propeller slows by no more, since it cannot turn slower than at the same advance ratio (blade-element theory)."""
    speed = trace.signal("ias")
    return np.ones(len(trace)) if speed is None else np.clip(np.nan_to_num(before.share(speed), nan=1.0), 0.0, 1.0)


def range_lately(trace: Trace, values: np.ndarray, over_s: float) -> tuple[np.ndarray, np.ndarray]:
    """Return (lowest, highest) figure (rows,) of the last seconds before and at each row."""
    rows = max(round(over_s * trace.rate_hz), 1) + 1
    padded = np.concatenate([np.full(rows - 1, values[0]), values])
    shift = rows // 2
    least, most = minimum_filter1d(padded, rows), maximum_filter1d(padded, rows)
    ends = np.arange(len(values)) + rows - 1 - (rows - 1 - shift)
    return least[ends], most[ends]


def is_still(trace: Trace, lever: np.ndarray | None, over_s: float, most: float = _LEVER_STILL) -> np.ndarray:
    """Return the rows (rows,) over whose last seconds a lever has not moved."""
    assert lever is not None
    lowest, highest = range_lately(trace, filled(lever), over_s)
    return np.asarray(highest - lowest < most)


def _kept(trace: Trace, pressure: np.ndarray, over_s: float) -> np.ndarray:
    """Return the rows (rows,) over whose last seconds manifold pressure was neither higher by more than a throttle's first touch
    nor fell away in between."""
    level = filled(pressure)
    least, most = range_lately(trace, level, over_s)
    began = level[np.searchsorted(trace.time_s, trace.time_s - over_s)]
    return np.asarray((level > _MAP_KEPT * most) & (least > _MAP_KEPT * np.minimum(most, began)))


def _as_mixed(trace: Trace, rpm: np.ndarray, pressure: np.ndarray | None, flow: np.ndarray) -> np.ndarray:
    """Return the rows (rows,) over whose last seconds fuel flow stayed what the air asks for: a hand that leans or enriches moves
    it. Speed-density (Heywood, chapter 7)."""
    air = np.maximum(filled(rpm), 1.0) * (1.0 if pressure is None else np.maximum(filled(pressure), 1.0))
    width = max(round(trace.rate_hz), 1)
    smooth = uniform_filter1d(filled(flow), width)
    mixture = uniform_filter1d(filled(flow) / air, width)
    least, most = _SAME_MIXTURE
    enriched = smooth > most * range_lately(trace, smooth, _SETTLES_S)[0]
    flickers = _FLOW_STEP_GPH / np.maximum(smooth, 1.0)
    return np.asarray((mixture > (least - flickers) * range_lately(trace, mixture, _SETTLES_S)[1]) & ~enriched)


def _less_air(trace: Trace, flow_share: np.ndarray, egt_f: np.ndarray) -> np.ndarray:
    """Return the rows (rows,) in which fuel flow has been down for seconds and no exhaust answered: the engine takes less."""
    down = range_lately(trace, filled(flow_share), _NO_ANSWER_S)[1] < FLOW_LEFT
    return np.asarray(down & (np.abs(egt_f) < EGT_COOLS_F))
