"""Leaning as it is being made: peaks so far, distance and direction to the target, whether the hand is faster than the probe,
the band to avoid; and without an EGT gauge the old way, by RPM. Pure: the last minutes and the state in, plain data out."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from ..aircraft import LeanTarget, Profile
from ..base.figures import difference
from ..base.units import celsius
from ..flight.state import FlightState
from ..judgement.check import Evidence
from ..judgement.exhaust_leaning import exhaust_leaning_now
from ..judgement.mixture import fitted_leanings
from ..judgement.mixture_fit import LeanFit, Peak
from ..power import read_power
from ..power.margin import Band, band_to_avoid, detonation_margin
from ..trace import Trace
from ..trace.masks import has_figures, last_figure

# common practice, but where it says otherwise
_POINTS, _NEWEST = 60, 4
_NEAR_F = 10.0  # common practice: within a band
_PROBE_BEHIND_F, _STEEP_F, _PULLED_OVER_S = 35.0, 900.0, 4.0
_RPM_FALLS, _LOOKED_BACK_S = 15.0, 90.0  # common practice
_MOVED, _BEFORE_SHARE = 0.08, 0.97
_KNOCKS_NEAR = 1.3
_SAME_POWER = 0.08  # of speed and of manifold pressure: what a mixture alone moves (common practice)


@dataclass(frozen=True, slots=True, kw_only=True)
class PeakShown:
    """A cylinder's peak: EGT [°F] and the fuel flow there [US gal/h], or, where none is shown, how long ago it was passed [s]."""

    cylinder: int
    egt_f: float
    ff_gph: float | None = None
    ago_s: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class TargetShown:
    """Where to set the mixture, [°F] from peak."""

    id: str
    name: str
    offset_f: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Margin:
    """How far the charge is from detonation: the ratio of the knock delay to the flame's time, and a word."""

    ratio: float
    say: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LeanWorking:
    """The leaning as it is being made: EGT of each cylinder against fuel flow to draw (against the seconds ago, below 0, where none
    is shown), peaks so far, which way and how far it is to the target [°F], the fuel flows between which this power is not left
    [US gal/h]."""

    say: str
    side: Literal["rich", "lean", "peak", "unknown"] = "unknown"
    offset_f: int | None = None
    to_target_f: int | None = None
    target: TargetShown
    flow_gph: tuple[float, ...] = ()
    ago_s: tuple[float, ...] = ()
    egt_f: Mapping[str, tuple[float | None, ...]]
    peaks: tuple[PeakShown, ...] = ()
    first: int | None = None
    last: int | None = None
    spread_gph: float | None = None
    head_f: float | None = None
    avoid_gph: Band | None = None
    margin: Margin | None = None


def lean_working(evidence: Evidence, state: FlightState) -> LeanWorking | None:
    """Return the leaning of one engine as it is being made, or None before the mixture moves."""
    recent, profile = evidence.trace, evidence.profile
    if not recent.cylinders("egt"):
        return lean_by_rpm(recent, profile)
    if not profile.lean_targets:
        return None
    chosen = state.lean_target or profile.lean_targets[0].id
    target = next((t for t in profile.lean_targets if t.id == chosen), profile.lean_targets[0])
    if not has_figures(recent, "ff"):
        return lean_by_exhausts(evidence, target)
    fitted, flow = evidence.once(fitted_leanings), recent.signal("ff")
    if not fitted or flow is None:
        return None
    start, end, fit = fitted[-1]
    part = recent.part(start, end)
    if end < len(recent):
        fit = _as_it_is_now(recent, end, fit)
    passed = sorted((p for p in fit.peaks if p.passed), key=lambda p: -p.ff_gph)
    everyone = len(passed) == len(fit.peaks)
    rows = _rows_to_draw(flow[start:end]) + start
    working = replace(
        _guidance(fit, passed, target),
        flow_gph=tuple(round(float(v), 2) for v in flow[rows]),
        egt_f={str(c): tuple(_drawn(v) for v in egt[rows]) for c, egt in recent.cylinders("egt").items()},
        peaks=tuple(PeakShown(cylinder=p.cylinder, egt_f=round(p.egt_f), ff_gph=round(p.ff_gph, 2)) for p in passed),
        first=passed[0].cylinder if passed else None,
        last=passed[-1].cylinder if everyone else None,
        spread_gph=round(passed[0].ff_gph - passed[-1].ff_gph, 2) if everyone and len(passed) > 1 else None,
        head_f=_hottest_f(part),
    )
    behind_f = probe_behind_f(part, fit.lag_s)
    if behind_f > _PROBE_BEHIND_F:
        words = f"Slower: you pull faster than the probes follow, they are {difference(behind_f, 'f')} behind"
        working = replace(working, say=words)
    return _with_margin(profile, part, fit, passed, everyone, working)


def _as_it_is_now(recent: Trace, end: int, fit: LeanFit) -> LeanFit:
    """Return a fit that ended before now, counted from the fuel flow [US gal/h] of now: a hand that takes its time is still
    told the way. With another speed or manifold pressure since, the peaks lie elsewhere and the fit stays as it ended."""
    was, now = recent.part(max(end - _NEWEST, 0), end), recent.part(len(recent) - _NEWEST, len(recent))
    for name in ("rpm", "map"):
        before, after = last_figure(was, name), last_figure(now, name)
        if before and after and abs(after / before - 1) > _SAME_POWER:
            return fit
    flow = last_figure(now, "ff")
    return (
        fit if flow is None else replace(fit, final_gph=flow, peaks=tuple(replace(p, lower_f=0.0) for p in fit.peaks))
    )


def _drawn(value: float) -> float | None:
    return round(float(value), 1) if np.isfinite(value) else None


def _rows_to_draw(flow: np.ndarray) -> np.ndarray:
    """Return the rows to draw in order of time: the newest few of each narrow step of fuel flow, so that a mixture that rests
    draws no scrawl."""
    known = np.flatnonzero(np.isfinite(flow))
    if not known.size:
        return known
    width = max(float(np.ptp(flow[known])) / _POINTS, 1e-6)
    step = ((flow[known] - float(np.min(flow[known]))) / width).astype(int)
    return np.sort(np.concatenate([known[np.flatnonzero(step == k)[-_NEWEST:]] for k in np.unique(step)]))


def probe_behind_f(part: Trace, lag_s: float) -> float:
    """Return how far [°F] the probes are behind where the mixture is, by how fast fuel flow falls now and the probes' lag."""
    flow = part.signal("ff")
    assert flow is not None
    last = (part.time_s > part.time_s[-1] - _PULLED_OVER_S) & np.isfinite(flow)
    if last.sum() < 3:
        return 0.0
    falls = -float(np.polyfit(part.time_s[last] - part.time_s[-1], flow[last], 1)[0]) / float(np.mean(flow[last]))
    return max(falls, 0.0) * lag_s * _STEEP_F


def _guidance(fit: LeanFit, passed: list[Peak], target: LeanTarget) -> LeanWorking:
    """Return what to do next, where the mixture is and how far it is to the target: counted from the first to peak on the rich
    side, from the last on the lean side."""
    shown = TargetShown(id=target.id, name=target.name, offset_f=target.offset_f)
    if not passed:
        return LeanWorking(say="Lean on, slowly", target=shown, egt_f={})
    first, last, everyone = passed[0], passed[-1], len(passed) == len(fit.peaks)
    is_rich = fit.final_gph > first.ff_gph
    is_past_last = everyone and fit.final_gph < last.ff_gph
    at_now = fit.offset_f(last if is_past_last else first)
    side: Literal["rich", "lean"] = "rich" if is_rich else "lean"
    say, to_go = (_to_lean if target.side == "lean" else _to_rich)(target, at_now, is_rich, everyone, is_past_last)
    return LeanWorking(
        say=say, side=side, offset_f=round(at_now), to_target_f=round(abs(to_go)), target=shown, egt_f={}
    )


def _to_lean(
    target: LeanTarget, at_now_f: float, is_rich: bool, everyone: bool, is_past_last: bool
) -> tuple[str, float]:
    """Return (what to do, [°F] to go) to a target lean of the last peak."""
    if not is_past_last:
        say = "Leaner, past the last peak" if everyone else "Lean on until the last has peaked"
        return say, target.offset_f + (at_now_f if is_rich else 0.0)
    to_go = target.offset_f - at_now_f
    if abs(to_go) <= _NEAR_F:
        return "At the target", to_go
    return ("Leaner" if to_go > 0 else "Richer"), to_go


def _to_rich(
    target: LeanTarget, at_now_f: float, is_rich: bool, everyone: bool, is_past_last: bool
) -> tuple[str, float]:
    """Return (what to do, [°F] to go) to a target rich of the first peak."""
    to_go = target.offset_f - at_now_f if is_rich else target.offset_f + at_now_f
    if is_rich and abs(to_go) <= _NEAR_F:
        return "At the target", to_go
    return ("Richer" if to_go > 0 else "Leaner"), to_go


def _with_margin(
    profile: Profile, part: Trace, fit: LeanFit, passed: list[Peak], everyone: bool, working: LeanWorking
) -> LeanWorking:
    """Return the working with the detonation margin as a word and the fuel flows between which this power is not left."""
    rpm, pressure = last_figure(part, "rpm"), last_figure(part, "map")
    if rpm is None or pressure is None or not passed:
        return working
    oat_f, palt_ft = last_figure(part, "oat"), last_figure(part, "palt")
    side = working.side if working.side in ("rich", "lean") else "rich"
    near = detonation_margin(profile, rpm, pressure, oat_f, _hottest_f(part), side, working.offset_f or 0.0)
    oat_c = None if oat_f is None else celsius(oat_f)
    band = band_to_avoid(read_power(profile, rpm, pressure, palt_ft or 0.0, oat_c).best_pct)
    avoid = None
    if band is not None:
        lean_end = fit.flow_gph(passed[-1], band[1], "lean") if everyone else min(p.ff_gph for p in passed)
        rich_end = fit.flow_gph(passed[0], band[0], "rich")
        avoid = Band(lean_end=round(lean_end, 2), rich_end=round(rich_end, 2))
    say = "small: richer or less power" if near < 1 else "small" if near < _KNOCKS_NEAR else "good"
    return replace(working, avoid_gph=avoid, margin=Margin(ratio=round(near, 1), say=say))


def _hottest_f(part: Trace) -> float | None:
    chts = [h for h in (last_figure(part, f"cht{c}") for c in part.cylinders("cht")) if h is not None]
    return max(chts, default=None)


def lean_by_exhausts(evidence: Evidence, target: LeanTarget) -> LeanWorking | None:
    """Return the leaning of a box that shows no fuel flow: what passed its peak, and how far below it the exhausts are now. The
    side is told once every peak was passed there and back; until then the way is the one that the hand was asked to go."""
    recent, seen = evidence.trace, exhaust_leaning_now(evidence)
    if seen is None:
        return None
    first, everyone = (seen.peaks[0] if seen.peaks else None), len(seen.peaks) == seen.probes
    last = seen.peaks[-1] if everyone else None
    shown = TargetShown(id=target.id, name=target.name, offset_f=target.offset_f)
    to_go = below_f = None
    if first is None:
        say = "Lean on, slowly"
    elif seen.reference is None:
        say = "Slower, over the peaks once more: you pull faster than the probes follow"
    elif target.side == "lean":
        say = "Lean on until the last has peaked"
        if last is not None and seen.side != "rich":
            below_f, to_go = last.below_f, target.offset_f - last.below_f
            say = _near_or(to_go, "Leaner", "Richer")
    elif first.passes % 2:
        say = f"Cylinder {first.cylinder} has peaked: richer, over its peak again"
        below_f = first.below_f
    else:
        below_f, to_go = first.below_f, target.offset_f - first.below_f
        say = _near_or(to_go, "Richer", "Leaner")
    t = recent.time_s[seen.start :] - recent.time_s[-1]
    rows = np.unique(np.linspace(0, len(t) - 1, min(len(t), _POINTS)).astype(int))
    return LeanWorking(
        say=say,
        side=seen.side,
        offset_f=None if below_f is None else round(below_f),
        to_target_f=None if to_go is None else round(abs(to_go)),
        target=shown,
        ago_s=tuple(round(float(v), 1) for v in t[rows]),
        egt_f={str(c): tuple(_drawn(v) for v in egt[seen.start :][rows]) for c, egt in recent.cylinders("egt").items()},
        peaks=tuple(
            PeakShown(cylinder=p.cylinder, egt_f=round(p.egt_f), ago_s=round(p.at_s - float(recent.time_s[-1]), 1))
            for p in seen.peaks
        ),
        first=first.cylinder if first else None,
        last=last.cylinder if last else None,
        head_f=_hottest_f(recent),
    )


def _near_or(to_go_f: float, further: str, back: str) -> str:
    return "At the target" if abs(to_go_f) <= _NEAR_F else further if to_go_f > 0 else back


def lean_by_rpm(recent: Trace, profile: Profile) -> LeanWorking | None:
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
    target = TargetShown(id="by_rpm", name="by RPM and ear", offset_f=0.0)
    return LeanWorking(say=say, target=target, egt_f={}, head_f=_hottest_f(recent))


def _mixture_moved(recent: Trace) -> float | None:
    """Return since when the mixture is moved: by its lever or by fuel flow; None where neither shows it."""
    look = recent.time_s > recent.time_s[-1] - _LOOKED_BACK_S
    for name in ("mixture", "ff"):
        values = recent.signal(name)
        if values is None or not np.isfinite(values[look]).any():
            continue
        part, times = np.nan_to_num(values[look]), recent.time_s[look]
        if part.max() - part[-1] > _MOVED * part.max():
            return float(times[int(np.argmax(part > _BEFORE_SHARE * part.max()))])
    return None
