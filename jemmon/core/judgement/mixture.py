"""Leaning as it is judged: who peaks first and last, the spread, and on which side of peak the mixture was left."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..aircraft import LeanTarget, Profile
from ..base.errors import EventError, checked_number
from ..base.figures import difference
from ..base.units import celsius
from ..power import read_power
from ..power.schools import refusal
from ..trace import Trace
from ..trace.finding import LOOK, UNKNOWN, WITHIN, Finding, Reasons
from ..trace.masks import has_figures
from .check import PRACTICE, TYPE, Check, Evidence, Field, Ripe, Rule, Shown, TrendFigure
from .exhaust_leaning import ExhaustLeaning, ShownPeak, exhaust_leanings
from .leaning_spans import RISE_ALONE_F, leaning_spans, rise_f
from .mixture_fit import LeanFit, Peak, fit_leaning

# fitted to tests/corpora/leanings.py, seeds 13 to 18, but where it says otherwise
_AT_PEAK, _AT_PEAK_F = 0.012, 2.0  # in fuel flow and in EGT; the second common practice: no needle shows less
_COVERS = 2.0  # sigmas: 95 %
# common practice: an EGT within 25 °F of its peak is at peak; what is less sure than that is not said
_SURE_OF_PEAK_F = 25.0
# of the fuel flow at a peak, which the flow sensor shows late by what nobody knows; fitted to tests/strange, seeds 0 to 199
_FLOW_COVERS, _FLOW_LEFT_GPH = 4.0, 0.04
_POWER_SLACK_PCT = 3.0  # what readings and table leave open (tests/corpora/leanings.py)
_LEAST_PEAK_F, _MOST_PEAK_F = 800.0, 1800.0  # common practice
_RESTS_FOR_S, _RESTS_WITHIN, _SAME_PLACE_F = 8.0, 0.08, 4.0  # common practice
_TOO_NEAR_F = 35.0  # common practice: nearer than that is the hottest CHT at any power

_NOT_PASSED = "No cylinder was seen to pass its peak."
_WHICH_SIDE = "A little richer: EGT that rises says lean of peak, EGT that falls says rich."
_TOO_FAST = "The mixture moved faster than the EGTs follow: how far from peak it is, they do not show."


def find_leanings(evidence: Evidence) -> list[Finding]:
    """Return a `lean` finding for each pull of the mixture at steady power: by fuel flow, else by the exhausts alone. Common
    practice: the leanest peaks first."""
    trace, findings = evidence.trace, []
    if not has_figures(trace, "ff"):
        return [_judge_exhausts(evidence, seen) for seen in evidence.once(exhaust_leanings)]
    for start, end, fit in evidence.once(fitted_leanings):
        if not any(peak.passed for peak in fit.peaks) and rise_f(trace, start, end)[0] < RISE_ALONE_F:
            continue  # less fuel, and the exhausts did not answer
        span_s = (float(trace.time_s[start]), float(trace.time_s[end - 1]))
        findings.append(judge_leaning(evidence.profile, fit, span_s, _set_at(trace, start, end)))
    return findings


def fitted_leanings(evidence: Evidence) -> list[tuple[int, int, LeanFit]]:
    """Return (first row, end row, fit) of each pull of the mixture that has samples enough."""
    trace = evidence.trace
    fitted = [(start, end, fit_leaning(trace.part(start, end))) for start, end in leaning_spans(evidence)]
    return [(start, end, fit) for start, end, fit in fitted if fit is not None]


def _set_at(trace: Trace, start: int, end: int) -> dict[str, float | None]:
    """Return altitude, outside temperature, manifold pressure and RPM at which the mixture was set: what has to stay for it to
    stay right, and what shows its power."""
    found: dict[str, float | None] = {}
    for name, signal in (("palt_ft", "palt"), ("oat_f", "oat"), ("map_inhg", "map"), ("rpm", "rpm")):
        values = trace.signal(signal)
        known = np.zeros(0) if values is None else values[max(start, end - 20) : end]
        known = known[np.isfinite(known)]
        found[name] = float(np.median(known)) if known.size else None
    return found


@dataclass(frozen=True, slots=True)
class _Placed:
    """Where a leaning ended, however it was seen: the peaks as they are told; the first and the last of them, where all were
    passed, and the fuel flow between [US gal/h]; the side, the cylinder it is counted from, how far [°F] and its plus-or-minus;
    whether any peak was passed; the peak that it may be on either side of."""

    peaks: tuple[Mapping[str, Any], ...]
    first: int | None
    last: int | None
    spread_gph: float | None
    side: str
    reference: int | None
    offset_f: float | None
    offset_plus_minus_f: float | None
    was_passed: bool
    either_side_of: ShownPeak | None = None


def judge_leaning(
    profile: Profile, fit: LeanFit, span_s: tuple[float, float], set_at: Mapping[str, float | None]
) -> Finding:
    """Return the `lean` finding of a fit: peaks passed, first and last, spread, on which side by how much it ends, and at which
    power. `set_at` is what `_set_at` found, None where there was no reading. Offsets in °F, fuel flow in gal/h; power by the
    type's limit, the rest common practice."""
    seen = [peak for peak in fit.peaks if peak.passed]
    passed = [] if fit.was_pulled else sorted(seen, key=lambda p: -p.ff_gph)  # no probe has shown them
    everyone = len(passed) == len(fit.peaks) and len(passed) > 1
    side, reference = _place_of(fit, seen)
    placed = _Placed(
        peaks=tuple({"cylinder": p.cylinder, "egt_f": p.egt_f, "ff_gph": p.ff_gph, "at_s": p.at_s} for p in passed),
        first=passed[0].cylinder if passed else None,
        last=passed[-1].cylinder if everyone else None,
        spread_gph=passed[0].ff_gph - passed[-1].ff_gph if everyone else None,
        side=side,
        reference=reference.cylinder if reference else None,
        offset_f=None if reference is None else 0.0 if side == "peak" else fit.offset_f(reference),
        offset_plus_minus_f=None if reference is None else _COVERS * fit.offset_sigma_f(reference),
        was_passed=bool(seen),
    )
    of_flow = {
        "ff_gph": fit.final_gph,
        "ff_plus_minus_gph": max((_FLOW_LEFT_GPH + _FLOW_COVERS * peak.ff_sigma_gph for peak in passed), default=None),
        "lag_s": fit.lag_s,
    }
    return _told(profile, placed, span_s, set_at, of_flow)


def _judge_exhausts(evidence: Evidence, seen: ExhaustLeaning) -> Finding:
    """Return the `lean` finding of a leaning that only the exhausts show: no fuel flow, and so no spread."""
    trace, everyone = evidence.trace, len(seen.peaks) == seen.probes and seen.probes > 1
    reference = seen.reference
    is_placed = reference is not None and seen.side != "unknown"
    rows = [p for p in seen.peaks if p.sigma_f < np.inf]
    placed = _Placed(
        peaks=tuple({"cylinder": p.cylinder, "egt_f": p.egt_f, "ff_gph": None, "at_s": p.at_s} for p in rows),
        first=seen.peaks[0].cylinder if seen.peaks else None,
        last=seen.peaks[-1].cylinder if everyone else None,
        spread_gph=None,
        side=seen.side,
        reference=reference.cylinder if reference and is_placed else None,
        offset_f=None if reference is None or not is_placed else 0.0 if seen.side == "peak" else reference.below_f,
        offset_plus_minus_f=_COVERS * reference.sigma_f if reference and is_placed else None,
        was_passed=bool(seen.peaks),
        either_side_of=reference if not is_placed else None,
    )
    span_s = (float(trace.time_s[seen.start]), float(trace.time_s[seen.end - 1]))
    nothing = {"ff_gph": None, "ff_plus_minus_gph": None, "lag_s": None}
    return _told(evidence.profile, placed, span_s, _set_at(trace, seen.start, seen.end), nothing)


def _told(
    profile: Profile,
    placed: _Placed,
    span_s: tuple[float, float],
    set_at: Mapping[str, float | None],
    of_flow: Mapping[str, float | None],
) -> Finding:
    """Return the finding of a leaning that ended there."""
    side, offset_f = placed.side, placed.offset_f
    power = _power_pct(profile, set_at, of_flow["ff_gph"], side, None if side == "peak" else offset_f)
    measured = {
        "peaks": list(placed.peaks),
        "first_to_peak": placed.first,
        "last_to_peak": placed.last,
        "spread_gph": placed.spread_gph,
        "side": side,
        "offset_f": offset_f,
        "offset_plus_minus_f": placed.offset_plus_minus_f,
        "reference": placed.reference,
        "power_pct": power,
        **of_flow,
        **set_at,
    }
    reasons = Reasons()
    if not placed.was_passed:
        reasons.add(UNKNOWN, _NOT_PASSED, "Lean on slowly until the EGT falls, then richer.")
    elif placed.either_side_of is not None:
        below = (
            f"{difference(placed.either_side_of.below_f, 'f')} below peak on cylinder {placed.either_side_of.cylinder}"
        )
        reasons.add(UNKNOWN, f"{below}; on which side of it, EGT alone does not show.", _WHICH_SIDE)
    elif placed.reference is None:
        reasons.add(UNKNOWN, _TOO_FAST, "Richer until the EGT falls, then lean slowly past the peaks.")
    else:
        _judge_place(profile, side, offset_f or 0.0, power, placed.spread_gph, reasons)
    return Finding.of(
        "lean",
        span_s,
        reasons.outcome(_place(side, offset_f or 0.0, placed.reference, power), "common practice"),
        measured,
        {"power_max_pct": profile.limit("lean_power_max_pct")} if "lean_power_max_pct" in profile.limits else {},
    )


def _power_pct(
    profile: Profile, set_at: Mapping[str, float | None], flow_gph: float | None, side: str, offset_f: float | None
) -> float | None:
    """Return percent of rated power at the end of the leaning, or None where the readings or the type do not tell it."""
    rpm, pressure, palt_ft, oat_f = (set_at[name] for name in ("rpm", "map_inhg", "palt_ft", "oat_f"))
    if rpm is None or pressure is None or palt_ft is None or profile.power is None:
        return None
    oat_c = None if oat_f is None else celsius(oat_f)
    return read_power(profile, rpm, pressure, palt_ft, oat_c, flow_gph, side, offset_f).best_pct


def _place(side: str, offset_f: float, reference: int | None, power_pct: float | None) -> str:
    """Return where the mixture was left, in words."""
    at = "" if power_pct is None else f" at {power_pct:.0f} % power"
    if side == "peak":
        return f"At peak EGT on some cylinders{at}."
    which = "first" if side == "rich" else "last"
    return f"{difference(offset_f, 'f')} {side} of peak on cylinder {reference or 0}, the {which} to peak{at}."


def _judge_place(
    profile: Profile, side: str, offset_f: float, power_pct: float | None, spread_gph: float | None, reasons: Reasons
) -> None:
    """Hold the place against what the power, the type and the evenness of the cylinders allow: the same rules that refuse a
    target before it is flown."""
    target = LeanTarget(id="here", name="here", side=side, offset_f=offset_f, source="common practice")
    against = refusal(profile, target, power_pct, spread_gph, _POWER_SLACK_PCT)
    if against is not None:
        limit = profile.limits.get("lean_power_max_pct")
        by_type = limit is not None and side != "peak" and (power_pct or 0.0) > limit.value + _POWER_SLACK_PCT
        reasons.add(LOOK, against, "Richer, or less power.", limit.source if limit and by_type else "common practice")
    elif side == "peak" and power_pct is None:
        because = "The mixture is at peak EGT on some cylinders."
        reasons.add(LOOK, because, "Richer to your target, or allowed only at low power by your handbook.")
    elif side == "rich" and offset_f < _TOO_NEAR_F:
        because = f"Only {difference(offset_f, 'f')} rich of peak: near the hottest CHT."
        reasons.add(LOOK, because, f"Richer to {difference(50, 'f')} or more rich of peak.")


def _place_of(fit: LeanFit, seen: list[Peak]) -> tuple[str, Peak | None]:
    """Return (side, the cylinder that it is counted from) as far as the exhausts show it: no cylinder where the mixture was pulled
    faster than they follow, and no side either where it seems at peak."""
    side, reference = _side(fit, seen)
    is_sure = not fit.was_pulled
    if side == "peak" and reference is not None:
        is_sure = is_sure and _COVERS * fit.offset_sigma_f(reference) <= _SURE_OF_PEAK_F
    if is_sure:
        return side, reference
    return ("unknown" if side == "peak" else side), None


def _side(fit: LeanFit, passed: list[Peak]) -> tuple[str, Peak | None]:
    """Return the side of peak at the end and the cylinder that it is counted from."""
    if not passed:
        return "unknown", None
    first = max(passed, key=lambda p: p.ff_gph)
    last = min(fit.peaks, key=lambda p: p.ff_gph)
    if fit.final_gph > first.ff_gph * (1 + _AT_PEAK) and fit.offset_f(first) > _AT_PEAK_F:
        return "rich", first
    if last.passed and fit.final_gph < last.ff_gph * (1 - _AT_PEAK) and fit.offset_f(last) > _AT_PEAK_F:
        return "lean", last
    return "peak", first


def _judge_typed(profile: Profile, body: Mapping[str, Any], at_s: float) -> Finding:
    """Return the finding of typed figures `peak_egt_f` and `target_egt_f`: rich of the peak that was read.

    Raises:
        EventError: a figure is missing, is not a number, or is out of range.
    """
    peak, target = (checked_number(f"`{name}`", body.get(name), EventError) for name in ("peak_egt_f", "target_egt_f"))
    if not _LEAST_PEAK_F <= peak <= _MOST_PEAK_F or target > peak:
        raise EventError(
            "These are not a peak and a target: a peak must be a usual exhaust gas temperature, and the target must be below it."
        )
    offset, reasons = peak - target, Reasons()
    if offset < _TOO_NEAR_F:
        because = f"Only {difference(offset, 'f')} rich of peak: near the hottest CHT."
        reasons.add(LOOK, because, f"Richer to {difference(50, 'f')} or more.")
    nothing = dict.fromkeys(("first_to_peak", "last_to_peak", "spread_gph", "reference", "power_pct"))
    measured: dict[str, Any] = {**nothing, "peaks": [], "side": "rich", "offset_f": offset, "peak_egt_f": peak}
    outcome = reasons.outcome(f"{difference(offset, 'f')} rich of the typed peak.", PRACTICE)
    return Finding.of(CHECK.kind, (at_s, at_s), outcome, measured, {})


def _is_ripe(finding: Finding, recent: Trace) -> bool:
    """Say whether the mixture rests where the finding places it: fuel flow has hardly moved for some seconds."""
    flow = recent.signal("ff")
    last = recent.time_s > recent.time_s[-1] - _RESTS_FOR_S
    if not has_figures(recent, "ff"):
        return bool(finding.measured["side"] != "unknown")  # by the exhausts alone it is told when it rests
    rests = flow is not None and bool(np.ptp(flow[last]) < _RESTS_WITHIN * np.median(flow[last]))
    return finding.measured["side"] != "unknown" and rests


def _same_place(told: Mapping[str, Any], now: Mapping[str, Any]) -> bool:
    """Say whether two kept measurements place the mixture alike: a nudge moves it more than that."""
    apart = abs((told["offset_f"] or 0.0) - (now["offset_f"] or 0.0))
    return bool(told["side"] == now["side"] and apart < _SAME_PLACE_F)


CHECK = Check(
    kind="lean",
    title="Leaning",
    place=70,
    find=find_leanings,
    may_use=("lean_power_max_pct", "lean_spread_max_gph"),
    ripe=Ripe(after_s=_RESTS_FOR_S, is_ripe=_is_ripe),
    is_traced=True,
    same_place=_same_place,
    trends=(
        TrendFigure(
            id="spread",
            title="Fuel flow between first and last peak",
            unit="gph",
            measured="spread_gph",
            limit="lean_spread_max_gph",
        ),
    ),
    fields=(
        Field(name="peak_egt_f", title="Peak EGT", unit="f"),
        Field(name="target_egt_f", title="Set to", unit="f", drop_from="peak_egt_f"),
    ),
    judge_typed=_judge_typed,
    shows=(Shown(measured="spread_gph", title="Spread", unit="gph"),),
    measures="The EGT of every cylinder is fitted against fuel flow at once, each with a peak of its own, all with one lag of "
    "the probe. The first to peak is the leanest cylinder: rich of peak counts from it, lean of peak from the last. Where the "
    "mixture ends is read from the last seconds of fuel flow. Without fuel flow the exhausts alone are read: past every peak and "
    "back again is rich, and the lag of the probe is put back from how sharp the top is.",
    rules=(
        Rule(WITHIN, "the mixture rests where its power allows it", TYPE),
        Rule(
            LOOK,
            f"at peak above 65 % power, or lean of it above what the type allows (else 75 %), {_POWER_SLACK_PCT:.0f} % granted",
            TYPE,
        ),
        Rule(
            LOOK,
            f"less than {difference(75, 'f')} rich of peak above that power, or less than {difference(_TOO_NEAR_F, 'f')} at any: "
            "the hottest CHT",
            PRACTICE,
        ),
        Rule(LOOK, f"lean of peak with cylinders that peak more than {difference(0.5, 'gph')} apart", PRACTICE),
        Rule(LOOK, "at peak, and the power is not known", PRACTICE),
        Rule(UNKNOWN, "no cylinder was seen to pass its peak", PRACTICE),
        Rule(UNKNOWN, "without fuel flow, past the peaks once: that may be lean, or have turned at the peak", PRACTICE),
        Rule(
            UNKNOWN,
            f"at peak, and the figure is not sure to {difference(_SURE_OF_PEAK_F, 'f')}, or the mixture was pulled faster than a "
            "probe follows",
            PRACTICE,
        ),
    ),
)
