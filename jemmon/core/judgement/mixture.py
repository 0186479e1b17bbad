"""Leaning as it is judged: who peaks first and last, the spread, and on which side of peak the mixture was left."""

from dataclasses import replace

import numpy as np
from scipy.ndimage import gaussian_filter1d

from ..aircraft import Profile
from ..trace import Trace
from .finding import LOOK, UNKNOWN, Finding, Reasons
from .mixture_fit import LeanFit, Peak, fit_leaning

_LEAST_FALL = 0.10  # of fuel flow: less is no leaning
_LEAST_RPM, _ON_GROUND_KT = 1500.0, 35.0
_LONGEST_S = 420.0
_MOVE_INHG, _MOVE_S, _BY_MIXTURE = 0.5, 6.0, 3.0
_RESTED_S, _LEAVES_S, _RESTS, _PLATEAU_S = 45.0, 12.0, 0.03, 14.0
_AT_PEAK = 0.012


def find_leanings(trace: Trace, profile: Profile) -> list[Finding]:
    """Return a `lean` finding for each pull of the mixture at steady power."""
    findings = []
    for start, end in leaning_spans(trace):
        fit = fit_leaning(trace.part(start, end))
        if fit is not None:
            finding = judge_leaning(profile, fit, float(trace.time_s[start]), float(trace.time_s[end - 1]))
            findings.append(replace(finding, measured={**finding.measured, **_set_at(trace, start, end)}))
    return findings


def _set_at(trace: Trace, start: int, end: int) -> dict[str, float | None]:
    """Return altitude, manifold pressure and RPM at which the mixture was set: what has to stay for it to stay right."""
    found: dict[str, float | None] = {}
    for name, signal in (("palt_ft", "palt"), ("map_inhg", "map"), ("rpm", "rpm")):
        values = trace.signal(signal)
        known = np.zeros(0) if values is None else values[max(start, end - 20) : end]
        known = known[np.isfinite(known)]
        found[name] = float(np.median(known)) if known.size else None
    return found


def leaning_spans(trace: Trace) -> list[tuple[int, int]]:
    """Return rows (start, end) of each stretch in which fuel flow was pulled back while manifold pressure held."""
    rpm, flow, pressure = (trace.signal(name) for name in ("rpm", "ff", "map"))
    if rpm is None or flow is None or len(trace) < 20 or not trace.cylinders("egt"):
        return []
    width = max(1.0, 1.5 * trace.rate_hz)
    flow = gaussian_filter1d(np.nan_to_num(flow), width)
    steady = np.nan_to_num(rpm) > _LEAST_RPM
    airspeed = trace.signal("ias")
    if airspeed is not None:  # on the ground a leaned engine taxies, is tried, or burns off its plugs
        steady &= np.nan_to_num(airspeed, nan=100.0) > _ON_GROUND_KT
    if pressure is not None:
        smooth = gaussian_filter1d(np.nan_to_num(pressure, nan=float(np.nanmedian(pressure))), width)
        steady &= ~_throttle_moved(smooth, flow, max(1, round(_MOVE_S * trace.rate_hz)))
    spans = []
    edges = np.flatnonzero(np.diff(np.concatenate([[0], steady.astype(int), [0]])))
    for first, end in zip(edges[::2], edges[1::2], strict=True):
        spans += _pulls(trace.time_s, flow, int(first), int(end))
    return spans


def _throttle_moved(pressure: np.ndarray, flow: np.ndarray, reach: int) -> np.ndarray:
    """Return the rows around which manifold pressure moved by another hand than the mixture's: a throttle moves fuel flow about
    in proportion; a mixture moves it far more than the pressure, which follows the RPM of a propeller on its stop."""
    moved = np.zeros(len(pressure), bool)
    if len(pressure) <= reach:
        return moved
    change = np.abs(pressure[reach:] - pressure[:-reach])
    share = change / np.maximum(pressure[reach:], 1.0)
    flow_share = np.abs(flow[reach:] - flow[:-reach]) / np.maximum(flow[reach:], 0.1)
    by_throttle = (change > _MOVE_INHG) & (flow_share < _BY_MIXTURE * share)
    around = np.convolve(by_throttle, np.ones(reach), mode="full") > 0
    moved[: len(around)] = around
    return moved


def _pulls(t: np.ndarray, flow: np.ndarray, first: int, end: int) -> list[tuple[int, int]]:
    """Split one steady stretch into pulls: from the rich plateau before each fall until the next rich plateau."""
    spans = []
    while end - first >= 12:
        part = flow[first:end]
        highest = np.maximum.accumulate(part)
        fallen = np.flatnonzero(part < (1 - _LEAST_FALL) * highest)
        if fallen.size == 0:
            break
        begun = int(fallen[0])
        plateau = np.flatnonzero(part[:begun] > 0.985 * highest[begun])
        start = max(int(plateau[-1]) if plateau.size else 0, 0)
        start = int(np.searchsorted(t[first:end], t[first + start] - 6.0))
        stop = int(np.searchsorted(t[first:end], t[first + begun] + _LONGEST_S))
        rich_again = np.flatnonzero(part[begun:stop] > 0.97 * highest[begun])
        if rich_again.size:
            stop = begun + int(rich_again[0])
            stop = _where_it_ends(t[first:end], part, begun, stop)
        spans.append((first + start, first + stop))
        first += max(stop, 1)
    return spans


def _where_it_ends(t: np.ndarray, flow: np.ndarray, begun: int, rich: int) -> int:
    """Return the row up to which a pull belongs together that came back to the rich plateau at row `rich`: a mixture that
    rested for long before was the one flown with; else the plateau itself is where it was left."""
    rested = np.ptp(flow[(t > t[rich] - _RESTED_S - _LEAVES_S) & (t < t[rich] - _LEAVES_S)]) < _RESTS * flow[rich]
    if t[rich] - t[begun] > _RESTED_S + _LEAVES_S and rested:
        return int(np.searchsorted(t, t[rich] - _LEAVES_S))
    stays = np.flatnonzero((t > t[rich]) & (flow < 0.95 * flow[rich]))
    until = min(t[rich] + _PLATEAU_S, t[stays[0]] if stays.size else np.inf)
    return int(np.searchsorted(t, until))


def judge_leaning(profile: Profile, fit: LeanFit, start_s: float, end_s: float) -> Finding:
    """Return the `lean` finding: peaks passed, first and last, spread, and on which side by how much it ends."""
    passed = [peak for peak in fit.peaks if peak.passed]
    first = max(passed, key=lambda p: p.ff_gph) if passed else None
    last = min(passed, key=lambda p: p.ff_gph) if passed else None
    everyone = len(passed) == len(fit.peaks)
    side, reference = _side(fit, passed)
    offset = None if reference is None or side == "peak" else fit.offset_f(reference)
    measured = {
        "peaks": [
            {"cylinder": p.cylinder, "egt_f": p.egt_f, "ff_gph": p.ff_gph, "at_s": p.at_s}
            for p in sorted(passed, key=lambda p: -p.ff_gph)
        ],
        "first_to_peak": first.cylinder if first else None,
        "last_to_peak": last.cylinder if last and everyone and len(passed) > 1 else None,
        "spread_gph": first.ff_gph - last.ff_gph if first and last and everyone and len(passed) > 1 else None,
        "side": side,
        "offset_f": 0.0 if side == "peak" else offset,
        "reference": reference.cylinder if reference else None,
        "power_pct": None,
        "ff_gph": fit.final_gph,
        "lag_s": fit.lag_s,
    }
    reasons = Reasons()
    if first is None or reference is None or offset is None and side != "peak":
        reasons.add(
            UNKNOWN, "No cylinder was seen to pass its peak.", "Lean on slowly until the EGT falls, then richer."
        )
        offset = offset or 0.0
    else:
        offset = offset or 0.0
        _judge_place(side, offset, reasons)
    name = reference.cylinder if reference else 0
    within = f"{offset:.0f} °F {side} of peak on cylinder {name}, the {'first' if side == 'rich' else 'last'} to peak."
    return Finding.of(
        "lean",
        (start_s, end_s),
        reasons.outcome(within, "common practice"),
        measured,
        {"power_max_pct": profile.limit("lean_power_max_pct")} if "lean_power_max_pct" in profile.limits else {},
    )


def _judge_place(side: str, offset_f: float, reasons: Reasons) -> None:
    if side == "peak":
        because = "The mixture stands at peak EGT on some cylinders."
        reasons.add(LOOK, because, "Richer to your target, or allowed only at low power by your handbook.")
    elif side == "rich" and offset_f < 35:
        because = f"Only {offset_f:.0f} °F rich of peak: near the hottest cylinder head."
        reasons.add(LOOK, because, "Richer to 50 °F or more rich of peak.")


def _side(fit: LeanFit, passed: list[Peak]) -> tuple[str, Peak | None]:
    """Return the side of peak at the end and the cylinder that it is counted from."""
    if not passed:
        return "unknown", None
    first = max(passed, key=lambda p: p.ff_gph)
    last = min(fit.peaks, key=lambda p: p.ff_gph)
    if fit.final_gph > first.ff_gph * (1 + _AT_PEAK):
        return "rich", first
    if last.passed and fit.final_gph < last.ff_gph * (1 - _AT_PEAK):
        return "lean", last
    return "peak", first
