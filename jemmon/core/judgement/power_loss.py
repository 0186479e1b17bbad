"""Power that goes in flight and was not taken away by the pilot: seen on fuel flow, exhausts, speed and manifold pressure at once.

A throttle that closes takes manifold pressure, fuel flow and exhausts down together; a mixture moves fuel flow alone, slowly. What
neither explains is told within seconds, with what it likely is. Without throttle and manifold pressure it is a question, and so is
what a mixture that was pulled at once, and that no lever shows, would look like.
"""

from dataclasses import dataclass

import numpy as np

from ..aircraft import Profile
from ..base.figures import figure
from ..trace import Trace
from ..trace.finding import LOOK, STOP, Finding
from ..trace.lookback import LookBack
from ..trace.masks import filled, has_figures
from .airborne import airborne
from .check import PRACTICE, Check, Evidence, Ripe, Rule
from .power_seen import (
    EGT_COOLS_F,
    EGT_FALLS_F,
    FLOW_LEFT,
    FUEL,
    ICE,
    IGNITION,
    MECHANICAL,
    PRESSURE_GONE,
    RPM_LEFT,
    UNKNOWN,
    PowerSeen,
    is_still,
    power_seen,
    range_lately,
)
from .rotor_loss import rotor_flies, rotor_losses, rotor_lost_by

# common practice, tried on tests/strange, seeds 0 to 199: what is looked at before [s], how much is left of what it was
_BEFORE_S, _SAME_EVENT_S, _LEAST_BEFORE = (14.0, 4.0), 120.0, 3
_FLOW_GONE, _RPM_LEFT_ALONE = 0.5, 0.88
# common practice: exhausts of an engine at half its speed are some 400 °F cooler, throttle and mixture as they were
_EGT_BY_SPEED_F = 800.0
# common practice: full rich is rarely more than 250 °F below peak, a charge that does not burn is far below
_EGT_DIES_F = 300.0
# common practice: from the throttle closed to the ground, and how long an engine that was well is seen to idle there [s]
_LANDS_WITHIN_S, _IDLES_S, _IDLES_RPM = 180.0, 30.0, 400.0
_LEAST_RPM = 1300.0  # common practice: of a direct-drive engine that gives power
_LEAST_FLOW_GPH_HP = 0.02  # of rated power: a quarter of what full power burns (common practice: 0.45 lb/hp/h)
# ice comes over minutes, under a throttle that stays: manifold pressure that the air outside does not explain
_ICE_BACK_S, _ICE_MAP_LEFT, _ICE_RPM_LEFT, _ICE_CLIMBS_FT = 60.0, 0.93, 0.97, 150.0
_ICE_RPM_MORE = 1.03  # common practice: a governor holds its speed within two or three in a hundred
_MAP_RISES, _FLOW_STAYS = 1.1, 0.84
# common practice: far lean of peak a fixed pitch has lost a tenth of its speed (a governor holds it), and the exhausts are no
# cooler than rich ones, but passed their peak within so many seconds; how long such a question stays open [s]
_LEANED_RPM_LEFT, _GOVERNED_RPM_LEFT, _LEANED_EGT_F, _ANSWERS_WITHIN_S, _ASKS_FOR_S = 0.86, 0.96, 150.0, 6.0, 20.0
# what is seen, and what comes first (common practice)
_LOST = ("Power is lost, and no lever took it", "Fly the aircraft first: speed.")
_LOST_BY_ROTOR = ("Power is lost: the engine no longer drives the rotor", "Collective down at once.")
_SAY = {
    FUEL: "Likely: the fuel does not come",
    IGNITION: "Likely: the charge is not lit",
    ICE: "Likely: ice in the carburettor",
    MECHANICAL: "Likely: the engine itself",
    UNKNOWN: "The cause is not clear",
}


@dataclass(frozen=True, slots=True)
class _Rows:
    """The rows (rows,) in which power is lost, those in which no hand can have taken it, and those in which ice has."""

    lost: np.ndarray
    certain: np.ndarray
    ice: np.ndarray


def find_power_losses(evidence: Evidence) -> list[Finding]:
    """Return a `power_loss` finding for each time in the air that power went and no lever took it away. Common practice."""
    trace, profile = evidence.trace, evidence.profile
    rpm = trace.signal("rpm")
    if rpm is None or len(trace) < 2 * _LEAST_BEFORE:
        return []
    knows_nothing = not (has_figures(trace, "throttle") or has_figures(trace, "map"))
    needed = 3 if knows_nothing or trace.rate_hz < 2 * 0.99 else 2
    from_s, to_s = _before_s(needed / trace.rate_hz, 1 / trace.rate_hz)
    seen = power_seen(trace, rpm, LookBack.over(trace.time_s, from_s, to_s, needs_s=to_s), from_s)
    is_rotor = profile.engine["propeller"] == "rotor"
    shows = _of_rotor(evidence, seen, from_s) if is_rotor else _of_propeller(evidence, seen, rpm)
    findings: list[Finding] = []
    held, sure = _in_rows(shows.lost, needed), _in_rows(shows.certain, needed) | shows.ice
    row = 0
    for row_of_loss in np.flatnonzero(held | shows.ice).tolist():
        if row_of_loss < row:
            continue
        told, is_question = _becomes_sure(trace.time_s, sure, row_of_loss), False
        if told is None:
            if knows_nothing and _answered_by_landing(evidence, rpm, row_of_loss):
                row = row_of_loss + 1
                continue
            told, is_question = row_of_loss, True
        last = min(told + needed, len(trace)) - 1
        cause = ICE if not held[told] else (rotor_lost_by if is_rotor else _cause)(seen, told, last)
        findings.append(_finding(evidence, seen, (row_of_loss, told, last), cause, is_question))
        row = int(np.searchsorted(trace.time_s, trace.time_s[row_of_loss] + _SAME_EVENT_S))
    return findings


def _of_propeller(evidence: Evidence, seen: PowerSeen, rpm: np.ndarray) -> _Rows:
    trace, profile = evidence.trace, evidence.profile
    flies = airborne(evidence) & (seen.before.mean(rpm) > _LEAST_RPM * profile.speed_scale)
    if (flow := trace.signal("ff")) is not None:
        rated_hp = float(profile.engine.get("rated_power_hp") or 0.0)
        flies &= ~(seen.before.mean(flow) < _LEAST_FLOW_GPH_HP * rated_hp)
    lost = _lost(seen, profile) & flies
    knows_nothing = seen.still is None and seen.map_share is None
    certain = np.zeros(len(trace), dtype=bool) if knows_nothing else lost & ~_as_leaned(evidence, seen)
    return _Rows(lost, certain, _iced(trace, rpm, profile) & flies)


def _of_rotor(evidence: Evidence, seen: PowerSeen, from_s: float) -> _Rows:
    lost, certain = rotor_losses(evidence, seen, from_s)
    flies = rotor_flies(evidence)
    return _Rows(lost & flies, certain & flies, np.zeros(len(flies), dtype=bool))


def _in_rows(lost: np.ndarray, needed: int) -> np.ndarray:
    """Return the rows (rows,) from which on so many rows together show a loss."""
    held = lost.copy()
    for later in range(1, needed):
        held[:-later] &= lost[later:]
        held[-later:] = False
    return held


def _becomes_sure(t: np.ndarray, sure: np.ndarray, row: int) -> int | None:
    """Return the row at which a loss that is seen from `row` on is certain, None where it stays a question."""
    later = np.flatnonzero(sure[row : np.searchsorted(t, t[row] + _ASKS_FOR_S, side="right")])
    return row + int(later[0]) if later.size else None


def _as_leaned(evidence: Evidence, seen: PowerSeen) -> np.ndarray:
    """Return the rows (rows,) that would look the same under a hand that pulled the mixture far lean, where no lever shows that
    none did: less fuel for the same air, a speed and exhausts that far lean of peak still gives."""
    trace = evidence.trace
    if has_figures(trace, "mixture"):
        return np.zeros(len(trace), dtype=bool)
    is_fixed = evidence.profile.engine["propeller"] == "fixed_pitch"
    leaned = seen.rpm > (_LEANED_RPM_LEFT if is_fixed else _GOVERNED_RPM_LEFT) * seen.slower_air
    if seen.flow is not None:
        leaned &= seen.flow > _FLOW_GONE
    if seen.as_mixed is not None:
        leaned &= ~seen.as_mixed
    if seen.egt_f is not None:
        leaned &= seen.egt_f > -_LEANED_EGT_F
        if seen.less_air is not None:
            answered = range_lately(trace, np.abs(filled(seen.egt_f)), _ANSWERS_WITHIN_S)[1] > EGT_COOLS_F
            leaned &= answered | ~seen.less_air
    if seen.fuel_pressure is not None:
        leaned &= seen.fuel_pressure > PRESSURE_GONE
    return np.asarray(leaned)


def _answered_by_landing(evidence: Evidence, rpm: np.ndarray, row: int) -> bool:
    """Say whether a record shows that the power was taken away to land: on the ground within minutes, the engine idling there. A
    running flight does not know that yet, and asks."""
    t, firing = evidence.trace.time_s, evidence.profile.find_limit("rpm_firing_min") or _IDLES_RPM
    on_ground = np.flatnonzero(~airborne(evidence)[row:])
    if not on_ground.size or t[row + on_ground[0]] - t[row] > _LANDS_WITHIN_S:
        return False
    landed_s = t[row + on_ground[0]]
    idles = rpm[(t >= landed_s) & (t < landed_s + _IDLES_S) & np.isfinite(rpm)]
    return bool(t[-1] >= landed_s + _IDLES_S and idles.size and idles.min() > firing)


def _before_s(looked_at_s: float, row_s: float) -> tuple[float, float]:
    """Return from and to how many seconds before a row it is held against what was: still before the loss when the last of the rows
    that must show it comes, and some rows long however slow they are."""
    to_s = max(_BEFORE_S[1], looked_at_s)
    return max(_BEFORE_S[0], to_s + _LEAST_BEFORE * row_s), to_s


def _lost(seen: PowerSeen, profile: Profile) -> np.ndarray:
    """Return the rows in which power is gone and neither throttle nor mixture explains it."""
    nothing = np.zeros(len(seen.rpm), dtype=bool)
    kept = seen.still if seen.still is not None else seen.map_kept if seen.map_kept is not None else nothing
    long_kept = seen.long_still if seen.long_still is not None else seen.map_long_kept
    long_kept = nothing if long_kept is None else long_kept
    is_fixed = profile.engine["propeller"] == "fixed_pitch"
    with_the_air = seen.slower_air * (1.0 if seen.map_share is None else np.minimum(seen.map_share, 1.0))
    slowed = seen.rpm < RPM_LEFT * with_the_air  # a throttle that begins to close moves both
    # a propeller that slows with the air, as on the landing roll and in no gust, takes fuel and heat with it
    by_air = np.where(seen.slower_air < RPM_LEFT, np.clip(np.maximum(seen.rpm, seen.slower_air), 0.0, 1.0), 1.0)
    egt_f = None if seen.egt_f is None else seen.egt_f + _EGT_BY_SPEED_F * (1.0 - by_air)
    cooled = nothing if egt_f is None else egt_f < -EGT_COOLS_F
    cold = nothing if egt_f is None else egt_f < -EGT_FALLS_F
    lost = nothing.copy()
    if seen.flow is not None:
        pressed = nothing if seen.fuel_pressure is None else seen.fuel_pressure < PRESSURE_GONE
        as_mixed = nothing if seen.as_mixed is None else seen.as_mixed
        lost |= (seen.flow < _FLOW_GONE * by_air) & kept
        lost |= (seen.flow < FLOW_LEFT * by_air) & long_kept & (slowed | cooled | pressed)
        lost |= cold & long_kept & as_mixed
        lost |= slowed & long_kept & as_mixed & is_fixed
        lost |= seen.less_air & long_kept if seen.less_air is not None else nothing
    else:
        lost |= slowed & long_kept & is_fixed
        if seen.egt_f is not None:
            lost |= ((seen.egt_f < -_EGT_DIES_F / 2) & slowed | (seen.egt_f < -_EGT_DIES_F)) & kept
    if seen.still is None and seen.map_share is None and is_fixed:
        lost |= (seen.rpm < _RPM_LEFT_ALONE) & (cold | (seen.egt_f is None))
    return np.asarray(lost)


def _iced(trace: Trace, rpm: np.ndarray, profile: Profile) -> np.ndarray:
    """Return the rows in which manifold pressure has sunk for a minute under a throttle that stayed, at an altitude that does not
    explain it."""
    pressure, throttle, altitude = (trace.signal(name) for name in ("map", "throttle", "palt"))
    t = trace.time_s
    if pressure is None or throttle is None or not profile.has_limit("carb_heat_drop_max_rpm"):
        return np.zeros(len(t), dtype=bool)
    back = np.searchsorted(t, t - _ICE_BACK_S)
    early, late = np.searchsorted(t, t[back] + 4.0), np.searchsorted(t, t - 3.0)
    rows = np.arange(len(t)) + 1
    iced = (t - t[back] >= 0.5 * _ICE_BACK_S) & is_still(trace, throttle, _ICE_BACK_S)
    if altitude is not None:
        iced &= filled(altitude) - filled(altitude)[back] < _ICE_CLIMBS_FT
    is_known = np.ones(len(t), dtype=bool)
    lately, earlier = LookBack(late, rows, is_known), LookBack(back, np.maximum(early, back + 1), is_known)
    iced &= lately.mean(pressure) < _ICE_MAP_LEFT * earlier.mean(pressure)
    # a fixed pitch slows with its pressure; a propeller that was put forward draws it down by itself
    most = _ICE_RPM_LEFT if profile.engine["propeller"] == "fixed_pitch" else _ICE_RPM_MORE
    iced &= lately.mean(rpm) < most * earlier.mean(rpm)
    return np.asarray(iced)


def _cause(seen: PowerSeen, first: int, last: int) -> str:
    """Return what the readings say of the cause."""

    def least(values: np.ndarray | None) -> float:
        return np.nan if values is None else float(np.nanmin(values[first : last + 1]))

    flow, pressure, fuel, egt = least(seen.flow), least(seen.map_share), least(seen.fuel_pressure), least(seen.egt_f)
    if fuel < PRESSURE_GONE or flow < _FLOW_GONE:
        return FUEL
    air = (pressure if np.isfinite(pressure) else 1.0) * float(seen.rpm[last])
    unburnt = egt < -EGT_FALLS_F or (egt < -EGT_COOLS_F and flow > _FLOW_STAYS)
    if flow > 0.9 * air and unburnt and not pressure > _MAP_RISES:
        return IGNITION
    if flow < FLOW_LEFT and egt < -EGT_FALLS_F and flow < 0.8 * air:
        return FUEL
    if np.isfinite(egt) and egt > -EGT_FALLS_F / 2 and (float(seen.rpm[last]) < RPM_LEFT or pressure > 1.02):
        return MECHANICAL
    return UNKNOWN


def _finding(evidence: Evidence, seen: PowerSeen, rows: tuple[int, int, int], cause: str, is_question: bool) -> Finding:
    """Return the finding of a loss: `rows` are where it began, from where on it is told, and the last that shows it."""
    trace, full_rpm = evidence.trace, evidence.profile.engine.get("rpm_at_100_pct")
    t, (began, row, last) = trace.time_s, rows
    shown = []
    for name, share in (("ff", seen.flow), ("map", seen.map_share), ("rpm", seen.rpm)):
        values = trace.signal(name)
        if values is not None and share is not None and np.isfinite(share[last]) and share[last] < RPM_LEFT:
            before = float(seen.before.mean(values)[last])
            words = {"ff": "fuel flow", "map": "manifold pressure", "rpm": "RPM"}[name]
            unit = {"ff": "gph", "map": "inhg", "rpm": "rpm"}[name]
            now = float(values[last])
            if name == "rpm" and full_rpm:  # told as its tachometer shows it
                before, now, unit = (before / full_rpm * 100, now / full_rpm * 100, "pct")
            shown.append(f"{words} {figure(before, unit)} to {figure(now, unit)}")
    if seen.egt_f is not None and seen.egt_f[last] < -EGT_COOLS_F:
        shown.append("the exhausts cool")
    what = ", ".join(shown) or "power is down"
    span_s = (float(t[row]), float(t[last]))
    measured = {"cause": cause, "at_s": float(t[began]), "is_question": is_question}
    lost, first = _LOST_BY_ROTOR if evidence.profile.engine["propeller"] == "rotor" else _LOST
    if is_question:
        because = f"Power is down: was it you? {what[0].upper()}{what[1:]}."
        then = f"If not: {first[0].lower()}{first[1:]} Then the card."
        return Finding.of(CHECK.kind, span_s, (LOOK, because, then, PRACTICE), measured, {})
    because = f"{lost}: {what}. {_SAY[cause]}."
    return Finding.of(CHECK.kind, span_s, (STOP, because, f"{first} Then the card.", PRACTICE), measured, {})


CHECK = Check(
    kind="power_loss",
    title="Power loss",
    place=60,
    find=find_power_losses,
    ripe=Ripe(),
    told_apart_by=("is_question",),
    measures="Fuel flow, manifold pressure, speed, fuel pressure and the middle exhaust, each against some seconds before, in the "
    "air. A throttle takes all of them down together, a propeller pulled far back speed and flow, airspeed that falls the speed. "
    "What they do not explain is told after two rows at 2 Hz or faster, after three else. The cause is named from which of them "
    "went first. Of a helicopter: an engine whose needle leaves the rotor's, with no throttle closed.",
    rules=(
        Rule(STOP, "power is gone in the air and neither throttle nor manifold pressure explains it", PRACTICE),
        Rule(LOOK, "speed and exhausts fell, and nothing shows the throttle: a question", PRACTICE),
        Rule(
            LOOK,
            "no lever shows the mixture, and a hand that pulled it far lean would look the same: a question",
            PRACTICE,
        ),
    ),
)
