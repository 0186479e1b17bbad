"""The magneto check: settled RPM on both, on one side, on both again. Measured, then judged against the profile.

`judge_magnetos` is the one judgement, of measured and of typed figures. Left means running on the left magneto alone.
"""

import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from ..aircraft import Profile
from ..trace import Trace
from ..trace.dips import DipFit, Span, fit_between, own_time
from ..trace.finding import INCOMPLETE, LOOK, STOP, UNKNOWN, Finding, Reasons

_ONE_MAGNETO_RISES_F = 15.0
_FALLS_F = 22.0
_QUITS_BELOW = 0.45
_FAR_FROM_MODEL_RPM = 20.0
_ROTOR_WITHIN_S = 2.0  # common practice: the fall of a helicopter's RPM is that within two seconds
_OF_UNKNOWN = ("first", "second")
BURN_OFF_TRIES = 2
_OTHER = {"left": "right", "right": "left", "first": "second", "second": "first"}
ONE_CHECK_GAP_S = 60.0
_SAME_LEVEL_SIGMAS, _CREEPS_RPM_S, _CREEPS_AT_MOST_RPM = 2.0, 0.25, 25.0
# the plus-or-minus of a drop: what its fit does not know, and what gusts leave in any settled level
_COVERS, _GUSTS_RPM = 2.1, 1.3
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
    uncertainty_rpm: float = math.nan
    quits: bool = False


def measure_sides(
    trace: Trace, profile: Profile, spans: Sequence[tuple[Span, str]], everything: Sequence[Span]
) -> list[Side]:
    """Return the measured sides of one check, in order of time. `spans` carry each side's name or ''.

    Levels on both that agree within their noise are taken together, so that a short dwell leans on the longer ones.
    """
    rpm = trace.signal("rpm")
    assert rpm is not None
    is_rotor = profile.engine["propeller"] == "rotor"
    fits: list[tuple[Span, str, DipFit]] = []
    quitting: list[Side] = []
    for number, (span, name) in enumerate(spans):
        if _quits(rpm, span):
            quitting.append(_quit_side(trace, rpm, span, name or _OF_UNKNOWN[number % 2]))
            continue
        before_s, after_s = own_time(trace.time_s, span, everything)
        early_s = 0.0 if name else None
        fit = fit_between(trace.time_s, rpm, span, before_s, after_s, early_s=early_s, lag_scale=profile.lag_scale)
        if fit is not None:
            fits.append((span, name, fit))
    levels = [(fit.base_rpm, fit.sigma_rpm, fit.start_s) for _, _, fit in fits]
    levels += [(fit.restored_rpm, fit.sigma_rpm, fit.end_s) for _, _, fit in fits if np.isfinite(fit.restored_rpm)]
    sides = []
    for number, (span, name, fit) in enumerate(fits):
        base = _level_on_both(fit, levels)
        drop = base - (fit.base_rpm - fit.drop_rpm)
        if is_rotor:
            drop = _fallen_in_time(trace.time_s, rpm, fit, base, drop * fit.fallen_after(_ROTOR_WITHIN_S))
        sides.append(
            Side(
                name=name or _OF_UNKNOWN[number % 2],
                base_rpm=base,
                drop_rpm=drop,
                restored_rpm=fit.restored_rpm,
                start_s=float(trace.time_s[span.first]),
                end_s=float(trace.time_s[span.last]),
                egt_rise_f=egt_changes(trace, span),
                uncertainty_rpm=_COVERS * float(np.hypot(fit.sigma_rpm, _GUSTS_RPM)),
            )
        )
    return sorted([*sides, *quitting], key=lambda side: side.start_s)


def _fallen_in_time(t: np.ndarray, rpm: np.ndarray, fit: DipFit, base_rpm: float, modelled_rpm: float) -> float:
    """Return the fall of a helicopter's RPM within two seconds: as modelled, unless the needle stood elsewhere by far then
    (an engine that loses too much lets the rotor go, and falls in its own way)."""
    there = (np.abs(t - fit.start_s - _ROTOR_WITHIN_S) < 0.6) & (t <= fit.end_s) & np.isfinite(rpm)
    if not there.any():
        return modelled_rpm
    read = base_rpm - float(np.mean(rpm[there]))
    return read if abs(read - modelled_rpm) > _FAR_FROM_MODEL_RPM else modelled_rpm


def _quits(rpm: np.ndarray, span: Span) -> bool:
    """Say whether the engine dies on one side: it loses far more than any plug costs."""
    before = rpm[max(span.first - 3, 0) : max(span.first, 1)]
    return bool(np.nanmin(rpm[span.first : span.last + 1]) < _QUITS_BELOW * np.nanmean(before))


def _quit_side(trace: Trace, rpm: np.ndarray, span: Span, name: str) -> Side:
    base = float(np.nanmean(rpm[max(span.first - 4, 0) : max(span.first, 1)]))
    t = trace.time_s
    after = (t > t[span.last] + 3.0) & (t < t[span.last] + 6.0)
    return Side(
        name=name,
        base_rpm=base,
        drop_rpm=np.nan,
        restored_rpm=float(np.nanmean(rpm[after])) if after.any() else np.nan,
        start_s=float(t[span.first]),
        end_s=float(t[span.last]),
        quits=True,
    )


def _level_on_both(fit: DipFit, levels: Sequence[tuple[float, float, float]]) -> float:
    """Return RPM on both magnetos during a dip: between the levels before and after it, for a throttle that creeps."""
    before = _pooled(fit.base_rpm, fit.sigma_rpm, fit.start_s, levels)
    if not np.isfinite(fit.restored_rpm) or abs(fit.restored_rpm - fit.base_rpm) > _CREEPS_AT_MOST_RPM:
        return before
    return (before + _pooled(fit.restored_rpm, fit.sigma_rpm, fit.end_s, levels)) / 2


def _pooled(level: float, sigma: float, at_s: float, levels: Sequence[tuple[float, float, float]]) -> float:
    """Return the mean of the levels (RPM, sigma, time) that agree with this one, each weighted by how sure it is and how
    near in time: a throttle creeps."""
    near = [(v, s, t) for v, s, t in levels if abs(v - level) <= _SAME_LEVEL_SIGMAS * np.hypot(sigma, s)]
    weights = np.array([1 / (s * s + 0.5 + (_CREEPS_RPM_S * (t - at_s)) ** 2) for _, s, t in near])
    return float(np.dot(weights, [v for v, _, _ in near]) / weights.sum())


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
    """Return the finding of one magneto check: the last figure of each side counts, earlier ones go into `repeats`.
    `rough` tells how the engine felt on a side, where the pilot said so."""
    last, repeats = _last_of_each(sides)
    reasons = Reasons()
    for side in last:
        earlier = sum(s.name == side.name and s.drop_rpm > _highest(profile, side) for s in repeats)
        _judge_side(profile, side, (rough or {}).get(side.name), earlier, reasons)
    difference = abs(last[0].drop_rpm - last[1].drop_rpm) if len(last) == 2 else np.nan
    _judge_difference(profile, last, difference, reasons)
    final = max(sides, key=lambda side: side.end_s)
    _judge_restored(profile, final, last[0].base_rpm, reasons)
    base = max(last, key=lambda side: side.end_s).base_rpm
    _judge_base(profile, base, reasons)
    drops = ", ".join(f"{side_word(profile, side.name)} {speed_words(profile, side.drop_rpm)}" for side in last)
    apart = speed_words(profile, difference)
    within = f"Drops: {drops}, difference {apart}; it comes back, all inside the type's limits."
    return Finding.of(
        "mag_check",
        (min(side.start_s for side in sides), final.end_s),
        reasons.outcome(within),
        _measured(last, repeats, base, difference, final.restored_rpm),
        {
            "drop_max_rpm": profile.limit("mag_drop_max_rpm"),
            "drop_min_rpm": profile.limit("mag_drop_min_rpm"),
            "difference_max_rpm": profile.limit("mag_difference_max_rpm"),
            "restored_within_rpm": profile.limit("mag_restored_within_rpm"),
        },
    )


def side_word(profile: Profile, name: str) -> str:
    """Return what the pilot calls running on one side: left, or lane A where the ignition has lanes."""
    if profile.engine.get("ignition") == "lanes":
        return {"left": "lane A", "right": "lane B"}.get(name, name)
    return name


def speed_words(profile: Profile, rpm: float) -> str:
    """Return a difference of speed as the type's tachometer says it: RPM, or percent."""
    full = profile.engine.get("rpm_at_100_pct")
    return f"{rpm:.0f} RPM" if full is None else f"{rpm / full * 100:.1f} %"


def _measured(
    last: Sequence[Side], repeats: Sequence[Side], base_rpm: float, difference_rpm: float, restored_rpm: float
) -> dict[str, object]:
    measured: dict[str, object] = {"base_rpm": base_rpm}
    known = {"left", "right"} & {side.name for side in last}
    for name in ("left", "right") if known else ("first", "second"):
        side = next((s for s in last if s.name == name), None)
        measured[f"drop_{name}_rpm"] = None if side is None else side.drop_rpm
        measured[f"drop_{name}_plus_minus_rpm"] = None if side is None else side.uncertainty_rpm
    measured |= {"difference_rpm": difference_rpm, "restored_rpm": restored_rpm}
    measured["egt_rise_f"] = {side.name: {str(c): rise for c, rise in side.egt_rise_f.items()} for side in last}
    measured["suspect_plugs"] = [f"{cylinder} {side.name}" for side in last for cylinder in falling_cylinders(side)]
    if repeats:
        measured["repeats"] = [{"side": s.name, "drop_rpm": s.drop_rpm, "at_s": s.start_s} for s in repeats]
    return measured


def _last_of_each(sides: Sequence[Side]) -> tuple[list[Side], list[Side]]:
    last = {side.name: side for side in sides}
    ordered = [last[name] for name in ("left", "right", "first", "second") if name in last]
    return ordered, [side for side in sides if side not in ordered]


def _highest(profile: Profile, side: Side) -> float:
    return profile.limit_of_side("mag_drop_max_rpm", side.name)


def falling_cylinders(side: Side) -> list[int]:
    """Return the cylinders whose EGT fell while the others rose: their plug on that side is not firing. One that neither
    rises nor falls ran on this side's plug alone before: it is the other side's plug that is dead."""
    rises = side.egt_rise_f
    if len(rises) < 2 or max(rises.values()) < 0.5 * _ONE_MAGNETO_RISES_F:
        return []
    return [c for c, rise in rises.items() if rise < -_FALLS_F]


def _judge_side(profile: Profile, side: Side, rough: bool | None, earlier: int, reasons: Reasons) -> None:
    name, drop = side_word(profile, side.name), side.drop_rpm
    highest, least = _highest(profile, side), profile.limit_of_side("mag_drop_min_rpm", side.name)
    if side.quits:
        because = f"The engine quits on {name}: that side is dead."
        reasons.add(STOP, because, "Throttle closed before you go back to both: it can backfire. Then a mechanic.")
        return
    falling = falling_cylinders(side)
    if falling:
        which = ", ".join(map(str, falling))
        because = f"On {name} the EGT of cylinder {which} fell while the others rose: its {name} plug is not firing."
        reasons.add(STOP if drop > highest else LOOK, because, _burn_off(profile, earlier))
    if drop > highest:
        _judge_large(profile, side, rough, earlier, bool(falling), reasons)
    elif drop < least and _is_held(profile, side):
        because = f"RPM stayed on {name} while every EGT rose: the governor holds it, and hides the drop."
        reasons.add(UNKNOWN, because, "Propeller full fine (or pitch locked), below the governing speed; check again.")
    elif drop < least:
        other = side_word(profile, _OTHER[side.name])
        part = "lane" if other.startswith("lane") else f"{other} magneto"
        because = (
            f"No drop on {name} ({speed_words(profile, max(drop, 0.0))}): the {part.replace('lane', other)} is not going off, "
            "or the timing is advanced."
        )
        reasons.add(STOP, because, f"{_LOUD} Ground check at idle, then a mechanic.")
    elif rough:
        because = f"The engine ran rough on {name}."
        reasons.add(LOOK, because, _burn_off(profile, earlier))


def _judge_large(
    profile: Profile, side: Side, rough: bool | None, earlier: int, is_named: bool, reasons: Reasons
) -> None:
    """Say what a large drop means: rough is a plug, smooth is timing or mixture; where nobody knows, both."""
    name, drop = side_word(profile, side.name), speed_words(profile, side.drop_rpm)
    figure = f"The drop on {name} is {drop}; the limit is {speed_words(profile, _highest(profile, side))}"
    is_smooth = rough is False or (rough is None and len(side.egt_rise_f) > 1 and not is_named)
    if rough or is_named:
        reasons.add(
            STOP, f"{figure}, and rough: a fouled or dead plug on that side.", _burn_off(profile, earlier), "type"
        )
    elif is_smooth:
        then = "Mend the mixture and check again. The same again: late timing on that side; do not fly, a mechanic."
        reasons.add(STOP, f"{figure}, and smooth: late timing there, or the mixture too rich or lean.", then, "type")
    else:
        then = f"Rough: {_burn_off(profile, earlier)} Smooth: mend the mixture, check again."
        reasons.add(STOP, f"{figure}.", then, "type")


def _burn_off(profile: Profile, earlier: int) -> str:
    """Return what to do about a fouled plug, by how often it was tried."""
    if earlier >= BURN_OFF_TRIES:
        return f"Burnt off {earlier} times and still not right: do not fly; a mechanic."
    rpm = burn_off_rpm(profile)
    return f"Burn off: about {rpm:,.0f} RPM, lean, half a minute, then check again. Still above: do not fly."


def burn_off_rpm(profile: Profile) -> float:
    """Return the speed of a burn-off: the profile's, else a ninth above the run-up (common practice: about 2,000)."""
    own = profile.limits.get("burn_off_rpm")
    return own.value if own else round(profile.limit("runup_rpm") * 1.11, -2)


def _is_held(profile: Profile, side: Side) -> bool:
    """Say whether a governor hid the drop: the exhausts tell that one magneto was off, the speed does not."""
    governed = profile.engine["propeller"] in ("constant_speed", "automatic")
    return governed and bool(side.egt_rise_f) and min(side.egt_rise_f.values()) > _ONE_MAGNETO_RISES_F


def _judge_difference(profile: Profile, last: Sequence[Side], difference_rpm: float, reasons: Reasons) -> None:
    if len(last) < 2:
        other = side_word(profile, {"left": "right", "right": "left"}.get(last[0].name, "other"))
        because = f"Only one side was checked ({side_word(profile, last[0].name)})."
        reasons.add(INCOMPLETE, because, f"Check the {other} side too.")
        return
    limit = profile.limit("mag_difference_max_rpm")
    quits = any(side.quits for side in last)
    if difference_rpm > limit and not quits:
        because = (
            f"The two drops differ by {speed_words(profile, difference_rpm)}; "
            f"the limit is {speed_words(profile, limit)}."
        )
        reasons.add(LOOK, because, "Check again; if it stays, ask a mechanic.", "type")


def _judge_restored(profile: Profile, final: Side, base_rpm: float, reasons: Reasons) -> None:
    band = profile.limit("mag_restored_within_rpm")
    if not np.isfinite(final.restored_rpm):
        name = side_word(profile, final.name)
        reasons.add(INCOMPLETE, f"Not seen back on both after {name}.", "Back to both, and let it settle.")
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


def name_sides(body: Mapping[str, Any], first: str) -> dict[str, Any]:
    """Return a finding's JSON with its first and second side called by name: `first` is left or right. For a pilot who
    says which it was, or whose habit the profile knows."""
    names = {"first": first, "second": _OTHER[first]}

    def named(text: str) -> str:
        return re.sub(r"\b(first|second)\b", lambda match: names[match[1]], text)

    measured = {}
    for key, value in body["measured"].items():
        if key == "egt_rise_f":
            value = {names.get(side, side): rises for side, rises in value.items()}
        elif key == "suspect_plugs":
            value = [named(plug) for plug in value]
        elif key == "repeats":
            value = [{**row, "side": names.get(row["side"], row["side"])} for row in value]
        measured[named(key.replace("_", " ")).replace(" ", "_")] = value
    return {**body, "measured": measured, "because": named(body["because"]), "next": named(body["next"])}
