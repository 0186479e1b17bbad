"""The magneto check: settled RPM on both, on one side, on both again. Measured, then judged against the profile.

`judge_magnetos` is the one judgement, of measured and of typed figures. Left means running on the left magneto alone.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from ..aircraft import Profile
from ..trace import Trace
from ..trace.dips import DipFit, Span, fit_between, own_time
from .finding import INCOMPLETE, LOOK, STOP, UNKNOWN, Finding, Reasons

_ONE_MAGNETO_RISES_F = 15.0
ONE_CHECK_GAP_S = 60.0
_SAME_LEVEL_SIGMAS = 2.0
_LOUD = "Stay clear of the propeller: it may be live with the switch off."


@dataclass(frozen=True, slots=True, kw_only=True)
class Side:
    """One magneto alone: `name` is left, right, first or second. Rises are steady-seeking EGT changes [°F]."""

    name: str
    base_rpm: float
    drop_rpm: float
    restored_rpm: float
    start_s: float
    end_s: float
    egt_rise_f: Mapping[int, float] = field(default_factory=dict)


def measure_sides(trace: Trace, spans: Sequence[tuple[Span, str]], everything: Sequence[Span]) -> list[Side]:
    """Return the measured sides of one check, in order of time. `spans` carry each side's name or ''.

    Levels on both that agree within their noise are taken together, so that a short dwell leans on the longer ones.
    """
    rpm = trace.signal("rpm")
    assert rpm is not None
    fits: list[tuple[Span, str, DipFit]] = []
    for span, name in spans:
        before_s, after_s = own_time(trace.time_s, span, everything)
        early_s = 0.0 if name else None
        fit = fit_between(trace.time_s, rpm, span, before_s, after_s, early_s=early_s)
        if fit is not None:
            fits.append((span, name, fit))
    levels = [(fit.base_rpm, fit.sigma_rpm) for _, _, fit in fits]
    levels += [(fit.restored_rpm, fit.sigma_rpm) for _, _, fit in fits if np.isfinite(fit.restored_rpm)]
    sides = []
    for number, (span, name, fit) in enumerate(fits):
        base = _pooled(fit.base_rpm, fit.sigma_rpm, levels)
        sides.append(
            Side(
                name=name or ("first", "second")[number % 2],
                base_rpm=base,
                drop_rpm=base - (fit.base_rpm - fit.drop_rpm),
                restored_rpm=fit.restored_rpm,
                start_s=float(trace.time_s[span.first]),
                end_s=float(trace.time_s[span.last]),
                egt_rise_f=egt_changes(trace, span),
            )
        )
    return sides


def _pooled(level: float, sigma: float, levels: Sequence[tuple[float, float]]) -> float:
    """Return the mean of the levels that agree with this one, each weighted by how sure it is."""
    near = [(v, s) for v, s in levels if abs(v - level) <= _SAME_LEVEL_SIGMAS * np.hypot(sigma, s)]
    weights = np.array([1 / (s * s + 0.5) for _, s in near])
    return float(np.dot(weights, [v for v, _ in near]) / weights.sum())


def egt_changes(trace: Trace, span: Span) -> dict[int, float]:
    """Return how far each cylinder's EGT [°F] had moved by the end of a span, from its level before."""
    t = trace.time_s
    before = (t >= t[span.first] - 1.3) & (t < t[span.first] - 0.2)  # the last second: it may still fall from before
    end = (t > max(t[span.first], t[span.last] - 1.1)) & (t <= t[span.last] + 0.3)
    changes = {}
    for cylinder, egt in trace.cylinders("egt").items():
        if np.isfinite(egt[before]).any() and np.isfinite(egt[end]).any():
            changes[cylinder] = float(np.nanmean(egt[end]) - np.nanmean(egt[before]))
    return changes


def judge_magnetos(profile: Profile, sides: Sequence[Side], rough: Mapping[str, bool] | None = None) -> Finding:
    """Return the finding of one magneto check: the last figure of each side counts, earlier ones go into `repeats`."""
    last, repeats = _last_of_each(sides)
    reasons = Reasons()
    names = [side.name for side in last]
    for side in last:
        _judge_side(profile, side, bool((rough or {}).get(side.name)), reasons)
    difference = abs(last[0].drop_rpm - last[1].drop_rpm) if len(last) == 2 else np.nan
    if len(last) < 2:
        other = {"left": "right", "right": "left"}.get(names[0], "other")
        reasons.add(INCOMPLETE, f"Only one magneto was checked ({names[0]}).", f"Check the {other} side too.")
    elif difference > profile.limit("mag_difference_max_rpm"):
        limit = profile.limit("mag_difference_max_rpm")
        because = f"The two drops differ by {difference:.0f} RPM; the limit is {limit:.0f}."
        reasons.add(LOOK, because, "Check again; if it stays, ask a mechanic.", "type")
    final = max(sides, key=lambda side: side.end_s)
    _judge_restored(profile, final, last[0].base_rpm, reasons)
    base = max(last, key=lambda side: side.end_s).base_rpm
    _judge_base(profile, base, reasons)
    drops = ", ".join(f"{side.name} {side.drop_rpm:.0f}" for side in last)
    within = f"Drops {drops} RPM, difference {difference:.0f}; both come back and are inside the type's limits."
    verdict, because, then, source = reasons.outcome(within)
    measured: dict[str, object] = {"base_rpm": base}
    for name in ("left", "right") if {"left", "right"} & set(names) else ("first", "second"):
        measured[f"drop_{name}_rpm"] = next((s.drop_rpm for s in last if s.name == name), None)
    measured |= {"difference_rpm": difference, "restored_rpm": final.restored_rpm}
    measured["egt_rise_f"] = {side.name: {str(c): rise for c, rise in side.egt_rise_f.items()} for side in last}
    if repeats:
        measured["repeats"] = [{"side": s.name, "drop_rpm": s.drop_rpm, "at_s": s.start_s} for s in repeats]
    limits = {
        "drop_max_rpm": profile.limit("mag_drop_max_rpm"),
        "drop_min_rpm": profile.limit("mag_drop_min_rpm"),
        "difference_max_rpm": profile.limit("mag_difference_max_rpm"),
        "restored_within_rpm": profile.limit("mag_restored_within_rpm"),
    }
    return Finding(
        kind="mag_check",
        start_s=min(side.start_s for side in sides),
        end_s=final.end_s,
        verdict=verdict,
        measured=measured,
        limits=limits,
        because=because,
        next=then,
        source=source,
    )


def _last_of_each(sides: Sequence[Side]) -> tuple[list[Side], list[Side]]:
    last = {side.name: side for side in sides}
    ordered = [last[name] for name in ("left", "right", "first", "second") if name in last]
    return ordered, [side for side in sides if side not in ordered]


def _judge_side(profile: Profile, side: Side, rough: bool, reasons: Reasons) -> None:
    name, drop = side.name, side.drop_rpm
    highest, least = profile.limit("mag_drop_max_rpm"), profile.limit("mag_drop_min_rpm")
    falling = [c for c, rise in side.egt_rise_f.items() if rise < -profile.limit("egt_fall_dead_plug_f")]
    rising = [c for c, rise in side.egt_rise_f.items() if rise > 0]
    if falling and rising:
        which = ", ".join(map(str, falling))
        because = f"On {name} the EGT of cylinder {which} fell while the others rose: its {name} plug is not firing."
        reasons.add(STOP if drop > highest else LOOK, because, "Burn off, check again; if it stays, do not fly.")
    if drop > highest:
        feel = " and rough: a fouled or dead plug on that side" if rough or falling else ""
        because = f"The drop on {name} is {drop:.0f} RPM{feel}; the limit is {highest:.0f}."
        then = "Burn off: about 2,000 RPM, lean, half a minute, then check again. Still above: do not fly."
        reasons.add(STOP, because, then, "type")
    elif drop < least and _is_held(profile, side):
        because = f"RPM stayed on {name} while every EGT rose: the governor holds it, and hides the drop."
        reasons.add(UNKNOWN, because, "Propeller full fine (or pitch locked), below the governing speed; check again.")
    elif drop < least:
        other = {"left": "right", "right": "left", "first": "second", "second": "first"}[name]
        because = (
            f"No drop on {name} ({drop:.0f} RPM): the {other} magneto is not going off, or the timing is advanced."
        )
        reasons.add(STOP, because, f"{_LOUD} Ground check at idle, then a mechanic.")
    elif rough:
        because = f"The engine ran rough on {name}."
        reasons.add(LOOK, because, "Burn off: about 2,000 RPM, lean, half a minute, then check again.")


def _is_held(profile: Profile, side: Side) -> bool:
    """Say whether a governor hid the drop: the exhausts tell that one magneto was off, the speed does not."""
    governed = profile.engine["propeller"] in ("constant_speed", "automatic")
    return governed and bool(side.egt_rise_f) and min(side.egt_rise_f.values()) > _ONE_MAGNETO_RISES_F


def _judge_restored(profile: Profile, final: Side, base_rpm: float, reasons: Reasons) -> None:
    band = profile.limit("mag_restored_within_rpm")
    if not np.isfinite(final.restored_rpm):
        reasons.add(INCOMPLETE, f"Not seen back on both after {final.name}.", "Back to both, and let it settle.")
    elif abs(final.restored_rpm - final.base_rpm) > band:
        gap = final.restored_rpm - final.base_rpm
        because = f"Back on both, RPM stands {gap:+.0f} from before; the band is {band:.0f}."
        reasons.add(LOOK, because, "Set the run-up RPM and check again.")


def _judge_base(profile: Profile, base_rpm: float, reasons: Reasons) -> None:
    wanted, band = profile.limit("runup_rpm"), profile.limit("runup_band_rpm")
    if abs(base_rpm - wanted) > 3 * band:
        because = f"The check was made at {base_rpm:.0f} RPM; the limits hold for about {wanted:.0f}."
        reasons.add(LOOK, because, f"Set about {wanted:.0f} RPM and check again.", "type")


def ambiguous_dip(profile: Profile, side: Side) -> Finding:
    """Return the finding of one fall that no channel explains: a magneto, or carburettor heat."""
    return Finding(
        kind="mag_check",
        start_s=side.start_s,
        end_s=side.end_s,
        verdict=UNKNOWN,
        measured={
            "base_rpm": side.base_rpm,
            "drop_first_rpm": side.drop_rpm,
            "drop_second_rpm": None,
            "difference_rpm": None,
            "restored_rpm": side.restored_rpm,
            "egt_rise_f": {},
        },
        limits={"drop_max_rpm": profile.limit("mag_drop_max_rpm")},
        because="One fall of RPM was seen; without EGT, manifold pressure or lever positions it may be either check.",
        next="Check both magnetos, one after the other.",
        source="common practice",
    )
