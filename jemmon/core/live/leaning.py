"""Leaning as it is being made: peaks so far, distance and direction to the target, whether the hand is faster than the probe,
the band to avoid; and without an EGT gauge the old way, by RPM. Pure: the last minutes and the state in, plain data out."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from ..aircraft import LeanTarget, Profile
from ..base.figures import difference
from ..flight.fold import FlightState
from ..judgement.mixture import leaning_spans
from ..judgement.mixture_fit import LeanFit, Peak, fit_leaning
from ..power import read_power
from ..power.margin import band_to_avoid, detonation_margin
from ..trace import Trace

_POINTS, _NEWEST = 60, 4
_NEAR_F = 10.0
_PROBE_BEHIND_F, _STEEP_F, _PULLED_OVER_S = 35.0, 900.0, 4.0
_RPM_FALLS, _LOOKED_BACK_S = 15.0, 90.0
_KNOCKS_NEAR = 1.3


def lean_working(recent: Trace, profile: Profile, state: FlightState) -> dict[str, Any] | None:
    """Return the leaning as it is being made: points to draw, peaks so far, distance and direction to the target; None before the
    mixture moves."""
    if not recent.cylinders("egt"):
        return lean_by_rpm(recent, profile)
    spans = leaning_spans(recent)
    flow = recent.signal("ff")
    if not spans or flow is None or not profile.lean_targets:
        return None
    start, end = spans[-1]
    part = recent.part(start, end)
    fit = fit_leaning(part)
    if fit is None:
        return None
    chosen = state.lean_target or profile.lean_targets[0].id
    target = next(t for t in profile.lean_targets if t.id == chosen)
    passed = sorted((p for p in fit.peaks if p.passed), key=lambda p: -p.ff_gph)
    everyone = len(passed) == len(fit.peaks)
    guidance = _guidance(fit, passed, target)
    behind_f = probe_behind_f(part, fit.lag_s)
    if behind_f > _PROBE_BEHIND_F:
        guidance["say"] = f"Slower: you pull faster than the probes follow, they are {difference(behind_f, 'f')} behind"
    every = max(len(part) // _POINTS, 1)
    return {
        "flow_gph": [round(float(v), 2) for v in flow[start:end:every]],
        "egt_f": {
            str(c): [round(float(v), 1) for v in egt[start:end:every]] for c, egt in recent.cylinders("egt").items()
        },
        "peaks": [{"cylinder": p.cylinder, "egt_f": round(p.egt_f), "ff_gph": round(p.ff_gph, 2)} for p in passed],
        "first": passed[0].cylinder if passed else None,
        "last": passed[-1].cylinder if everyone else None,
        "spread_gph": round(passed[0].ff_gph - passed[-1].ff_gph, 2) if everyone and len(passed) > 1 else None,
        "target": {"id": target.id, "name": target.name, "offset_f": target.offset_f},
        "head_f": _hottest_f(part),
        **guidance,
        **_beside(profile, part, fit, passed, everyone, guidance),
    }


def _newest_by_flow(flow: np.ndarray) -> list[np.ndarray]:
    """Return the rows to draw: the newest few of each narrow step of fuel flow, so that a mixture that rests draws no scrawl."""
    width = max(float(np.ptp(flow)) / _POINTS, 1e-6)
    step = ((flow - float(np.min(flow))) / width).astype(int)
    return [np.flatnonzero(step == k)[-_NEWEST:] for k in np.unique(step)]


def probe_behind_f(part: Trace, lag_s: float) -> float:
    """Return how far [°F] the probes are behind where the mixture is, by how fast fuel flow falls now and the probes' lag."""
    flow = part.signal("ff")
    assert flow is not None
    last = (part.time_s > part.time_s[-1] - _PULLED_OVER_S) & np.isfinite(flow)
    if last.sum() < 3:
        return 0.0
    falls = -float(np.polyfit(part.time_s[last] - part.time_s[-1], flow[last], 1)[0]) / float(np.mean(flow[last]))
    return max(falls, 0.0) * lag_s * _STEEP_F


def _guidance(fit: LeanFit, passed: list[Peak], target: LeanTarget) -> dict[str, Any]:
    """Return what to do next, where the mixture stands and how far it is to the target: counted from the first to peak on the rich
    side, from the last on the lean side."""
    if not passed:
        return {"say": "Lean on, slowly", "offset_f": None, "to_target_f": None, "side": "unknown"}
    first, last = passed[0], passed[-1]
    everyone = len(passed) == len(fit.peaks)
    if fit.final_gph > first.ff_gph:
        side, at_now = "rich", fit.offset_f(first)
    else:
        side, at_now = "lean", fit.offset_f(last if everyone and fit.final_gph < last.ff_gph else first)
    if target.side == "lean":
        if not everyone or (side == "lean" and fit.final_gph >= last.ff_gph) or side == "rich":
            say = "Lean on until the last has peaked" if not everyone else "Leaner, past the last peak"
            to_go = target.offset_f + at_now if side == "rich" else target.offset_f
            return {"say": say, "offset_f": round(at_now), "to_target_f": round(abs(to_go)), "side": side}
        to_go = target.offset_f - at_now
        say = "At the target" if abs(to_go) <= _NEAR_F else "Leaner" if to_go > 0 else "Richer"
        return {"say": say, "offset_f": round(at_now), "to_target_f": round(abs(to_go)), "side": side}
    to_go = target.offset_f - at_now if side == "rich" else target.offset_f + at_now
    say = "At the target" if side == "rich" and abs(to_go) <= _NEAR_F else "Richer" if to_go > 0 else "Leaner"
    return {"say": say, "offset_f": round(at_now), "to_target_f": round(abs(to_go)), "side": side}


def _beside(
    profile: Profile, part: Trace, fit: LeanFit, passed: list[Peak], everyone: bool, guidance: Mapping[str, Any]
) -> dict[str, Any]:
    """Return the detonation margin as a word and the fuel flows between which this power is not left."""
    rpm, pressure = (_last(part, name) for name in ("rpm", "map"))
    if rpm is None or pressure is None or not passed:
        return {"avoid_gph": None, "margin": None}
    oat_f, height = _last(part, "oat"), _last(part, "palt")
    side = guidance["side"] if guidance["side"] in ("rich", "lean") else "rich"
    near = detonation_margin(profile, rpm, pressure, oat_f, _hottest_f(part), side, guidance["offset_f"] or 0.0)
    oat_c = None if oat_f is None else (oat_f - 32) / 1.8
    band = band_to_avoid(read_power(profile, rpm, pressure, height or 0.0, oat_c).best_pct)
    avoid = None
    if band is not None:
        lean_end = fit.flow_gph(passed[-1], band[1], "lean") if everyone else min(p.ff_gph for p in passed)
        avoid = [round(lean_end, 2), round(fit.flow_gph(passed[0], band[0], "rich"), 2)]
    say = "small: richer or less power" if near < 1 else "small" if near < _KNOCKS_NEAR else "good"
    return {"avoid_gph": avoid, "margin": {"ratio": round(near, 1), "say": say}}


def _hottest_f(part: Trace) -> float | None:
    heads = [h for h in (_last(part, f"cht{c}") for c in part.cylinders("cht")) if h is not None]
    return max(heads, default=None)


def _last(part: Trace, signal: str) -> float | None:
    values = part.signal(signal)
    known = np.zeros(0) if values is None else values[np.isfinite(values)]
    return float(np.median(known[-8:])) if known.size else None


def lean_by_rpm(recent: Trace, profile: Profile) -> dict[str, Any] | None:
    """Return the leaning of an aircraft without an EGT gauge: with a fixed pitch the highest RPM, then a little richer; under a
    governor until it runs rough, then richer until smooth (common practice)."""
    rpm = recent.signal("rpm")
    moved = _mixture_moved(recent)
    if rpm is None or moved is None:
        return None
    since = recent.time_s >= moved
    smooth = np.convolve(rpm[since], np.ones(5) / 5, mode="valid") if since.sum() >= 5 else rpm[since]
    highest, here = float(np.max(smooth)), float(smooth[-1])
    if profile.engine["propeller"] != "fixed_pitch":
        say = "Lean on until it just runs rough, then richer until smooth"
    elif here < highest - _RPM_FALLS:
        say = f"Past the highest RPM, {highest:,.0f}: richer until it is back, then a little more"
    else:
        say = "Lean on, slowly, to the highest RPM"
    return {
        "flow_gph": [],
        "egt_f": {},
        "peaks": [],
        "first": None,
        "last": None,
        "spread_gph": None,
        "target": {"id": "by_rpm", "name": "by RPM and ear", "offset_f": 0.0},
        "say": say,
        "offset_f": None,
        "to_target_f": None,
        "side": "unknown",
        "head_f": _hottest_f(recent),
        "avoid_gph": None,
        "margin": None,
    }


def _mixture_moved(recent: Trace) -> float | None:
    """Return since when the mixture is moved: by its lever or by fuel flow; None where neither shows it."""
    look = recent.time_s > recent.time_s[-1] - _LOOKED_BACK_S
    for name in ("mixture", "ff"):
        values = recent.signal(name)
        if values is None or not np.isfinite(values[look]).any():
            continue
        part, times = np.nan_to_num(values[look]), recent.time_s[look]
        if part.max() - part[-1] > 0.08 * part.max():
            return float(times[int(np.argmax(part > 0.97 * part.max()))])
    return None
