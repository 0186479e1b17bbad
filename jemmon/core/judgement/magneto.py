"""The magneto check judged against the profile: the same for measured and for typed figures, and for sides named later."""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from ..aircraft import Profile
from ..base.errors import EventError
from ..trace.finding import INCOMPLETE, LOOK, STOP, UNKNOWN, WITHIN, Finding, Reasons
from .check import PRACTICE, TYPE, Check, Compared, Evidence, Field, Ripe, Rule, Shown, TrendFigure
from .falls import Fall
from .magneto_sides import Side, every_exhaust_rose, falling_cylinders, measure_sides, sides_in
from .recognition import ONE_CHECK_GAP_S, check_groups, recognise
from .typed_figures import rpm_of

BURN_OFF_TRIES = 2  # common practice
_BURN_OFF_SHARE = 1.11  # of the run-up RPM (common practice: about 2,000 of 1,800)
_MOST_BURN_OFF_RPM = 2_200.0  # common practice
_FAR_FROM_RUN_UP = 3  # bands of the run-up RPM (common practice): the limits hold near it
_OTHER = {"left": "right", "right": "left", "first": "second", "second": "first"}
_SHORT = {"left": "L", "right": "R"}
_OF_UNKNOWN = ("first", "second")
_LOUD = "Stay clear of the propeller: it may be live with the switch off."


def find_magneto_checks(evidence: Evidence) -> list[Finding]:
    """Return the `mag_check` findings of a trace, in order of time. Limits by the type."""
    spans, findings = evidence.once(recognise), []
    for group in check_groups(evidence.trace, spans.magnetos):
        sides = measure_sides(evidence.trace, evidence.profile, group, spans.every)
        if sides:
            findings.append(with_doubt(evidence, _by_habit(evidence.profile, sides), spans.unexplained))
    return findings


def with_doubt(evidence: Evidence, finding: Finding, unexplained: Sequence[Fall]) -> Finding:
    """Return a check that is within as unknown where a drop beside it, beyond the limit, may have been a magneto as well."""
    t, most = evidence.trace.time_s, evidence.profile.limit_of_either("mag_drop_max_rpm")
    beside = [
        fall.depth_rpm
        for fall in unexplained
        if fall.depth_rpm > most
        and t[fall.span.first] - finding.end_s < ONE_CHECK_GAP_S
        and finding.start_s - t[fall.span.last] < ONE_CHECK_GAP_S
    ]
    if finding.verdict != WITHIN or not beside:
        return finding
    because = (
        f"A drop of {max(beside):.0f} RPM beside it is not explained, and may have been a magneto; at most {most:.0f}."
    )
    then = "Check both magnetos again, one after the other."
    return replace(finding, verdict=UNKNOWN, because=because, next=then, source=PRACTICE)


def _by_habit(profile: Profile, sides: Sequence[Side]) -> Finding:
    """Judge a check whose sides the needles do not tell by the pilot's habit, where the profile knows it."""
    first = profile.engine.get("mag_first")
    if first is None or not any(side.name == "first" for side in sides):
        return judge_magnetos(profile, sides)
    names = _names(str(first))
    finding = judge_magnetos(profile, [replace(side, name=names.get(side.name, side.name)) for side in sides])
    return replace(finding, because=f"{finding.because} (Taken as {first} first, by the habit in the profile.)")


def _names(first: str) -> dict[str, str]:
    return {"first": first, "second": _OTHER[first]}


def judge_magnetos(profile: Profile, sides: Sequence[Side], rough: Mapping[str, bool] | None = None) -> Finding:
    """Return the finding of one magneto check: the last figure of each side counts, earlier ones go into `repeats`.
    `rough` is how the engine felt on a side, where the pilot said so. Limits by the type; which plug, common practice."""
    felt = rough or {}
    last, repeats = _last_of_each(sides)
    reasons = Reasons()
    for side in last:
        earlier = sum(s.name == side.name and s.drop_rpm > _highest(profile, side) for s in repeats)
        _judge_side(profile, side, felt.get(side.name), earlier, reasons)
    difference = abs(last[0].drop_rpm - last[1].drop_rpm) if len(last) == 2 else np.nan
    _judge_difference(profile, last, difference, reasons)
    final = max(sides, key=lambda side: side.end_s)
    _judge_restored(profile, final, reasons)
    base = max(last, key=lambda side: side.end_s).base_rpm
    _judge_base(profile, base, reasons)
    drops = ", ".join(f"{_short(profile, side.name)} {_speed(profile, side.drop_rpm)}" for side in last)
    apart = profile.apart_as_read_rpm(last[0].drop_rpm, last[-1].drop_rpm)
    within = f"{drops}{_counted(last[0])}, difference {_speed(profile, apart)}: within limits."
    measured = _measured(last, repeats, base, difference, final.restored_rpm)
    measured["burn_off"] = any(_asks_burn_off(profile, side, felt.get(side.name)) for side in last)
    return Finding.of(
        "mag_check",
        (min(side.start_s for side in sides), final.end_s),
        reasons.outcome(within),
        measured,
        {
            "drop_max_rpm": profile.limit_of_either("mag_drop_max_rpm"),
            "drop_min_rpm": profile.limit_of_either("mag_drop_min_rpm"),
            **({} if is_mixed(profile) else {"difference_max_rpm": profile.limit("mag_difference_max_rpm")}),
            **_own_limits(profile, last),
            "restored_within_rpm": profile.limit("mag_restored_within_rpm"),
        },
    )


def is_mixed(profile: Profile) -> bool:
    """Say whether one side is a magneto and the other electronic: then the difference of the drops means nothing."""
    return profile.engine.get("ignition") == "magneto_and_electronic"


def side_word(profile: Profile, name: str) -> str:
    """Return what the pilot calls running on one side: left, or lane A where the ignition has lanes."""
    if profile.engine.get("ignition") == "lanes":
        return {"left": "lane A", "right": "lane B"}.get(name, name)
    return name


def _short(profile: Profile, name: str) -> str:
    word = side_word(profile, name)
    return _SHORT.get(word, word)


def _speed(profile: Profile, rpm: float, limit_rpm: float | None = None) -> str:
    """Return a difference of speed [RPM] as the type's tachometer says it, a figure of RPM or percent; a decimal more where it
    would read like the limit that it is beyond."""
    full = profile.engine.get("rpm_at_100_pct")
    if full is not None:
        return f"{rpm / full * 100:.1f} %"
    return f"{rpm:.1f}" if limit_rpm is not None and round(rpm) == round(limit_rpm) else f"{rpm:.0f}"


def _counted(side: Side) -> str:
    """Return over how long a drop was counted, where the needle came to stand elsewhere."""
    return "" if side.within_s is None else f" in {side.within_s:.0f} s"


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


def _own_limits(profile: Profile, last: Sequence[Side]) -> dict[str, float]:
    """Return the limit of each side [RPM] where the sides have limits of their own."""
    if not any(profile.has_limit(f"mag_drop_max_{name}_rpm") for name in ("left", "right")):
        return {}
    return {f"drop_max_{side.name}_rpm": _highest(profile, side) for side in last if side.name in ("left", "right")}


def _last_of_each(sides: Sequence[Side]) -> tuple[list[Side], list[Side]]:
    last = {side.name: side for side in sides}
    ordered = [last[name] for name in ("left", "right", "first", "second") if name in last]
    return ordered, [side for side in sides if side not in ordered]


def _highest(profile: Profile, side: Side) -> float:
    return profile.limit_of_side("mag_drop_max_rpm", side.name)


def _is_smooth(side: Side, rough: bool | None) -> bool:
    """Say whether a large drop was smooth: by the pilot's word, else because every exhaust is seen and none fell."""
    return rough is False or (rough is None and len(side.egt_rise_f) > 1 and not falling_cylinders(side))


def _asks_burn_off(profile: Profile, side: Side, rough: bool | None) -> bool:
    """Say whether a side asks for a burn-off: a plug that does not fire, a rough engine, a large drop that may be a plug."""
    if side.quits or not burns_off(profile):
        return False
    return (
        bool(falling_cylinders(side))
        or rough is True
        or (side.drop_rpm > _highest(profile, side) and not _is_smooth(side, rough))
    )


def asks_burn_off(finding: Mapping[str, Any]) -> bool:
    """Say whether a kept `mag_check` asks for a burn-off; those kept before it was a fact of its own, by their figures."""
    measured = finding["measured"]
    if "burn_off" in measured:
        return bool(measured["burn_off"])
    drops = [measured.get(f"drop_{name}_rpm") for name in _OTHER]
    most = finding["limits"].get("drop_max_rpm", math.inf)
    return bool(measured.get("suspect_plugs")) or any(drop is not None and drop > most for drop in drops)


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
        _judge_large(profile, side, rough, earlier, reasons)
    elif drop < least and _is_held(profile, side):
        because = f"RPM stayed on {name} while every EGT rose: the governor holds it, and hides the drop."
        reasons.add(UNKNOWN, because, "Propeller full fine (or pitch locked), below the governing speed; check again.")
    elif drop < least:
        other = side_word(profile, _OTHER[side.name])
        part = other if other.startswith("lane") else f"{other} magneto"
        because = (
            f"No drop on {name} ({_speed(profile, max(drop, 0.0))}): the {part} is not going off, "
            "or the timing is advanced."
        )
        reasons.add(STOP, because, f"{_LOUD} Ground check at idle, then a mechanic.")
    elif rough:
        because = f"The engine ran rough on {name}."
        reasons.add(LOOK, because, _burn_off(profile, earlier))


def _judge_large(profile: Profile, side: Side, rough: bool | None, earlier: int, reasons: Reasons) -> None:
    """Say what a large drop means: rough is a plug, smooth is timing or mixture; where nobody knows, both."""
    highest = _highest(profile, side)
    name, drop = side_word(profile, side.name), _speed(profile, side.drop_rpm, highest)
    figure = f"Drop on {name} {drop}{_counted(side)}; at most {_speed(profile, highest)}"
    if rough or falling_cylinders(side):
        reasons.add(
            STOP, f"{figure}, and rough: a fouled or dead plug on that side.", _burn_off(profile, earlier), TYPE
        )
    elif _is_smooth(side, rough):
        then = "Correct the mixture and check again. The same again: late timing on that side; do not fly, a mechanic."
        reasons.add(STOP, f"{figure}, and smooth: late timing there, or the mixture too rich or lean.", then, TYPE)
    else:
        then = f"Rough: {_burn_off(profile, earlier)} Smooth: correct the mixture, check again."
        reasons.add(STOP, f"{figure}.", then, TYPE)


def _burn_off(profile: Profile, earlier: int) -> str:
    """Return what to do about a fouled plug, by how often it was tried."""
    if not burns_off(profile):
        return "This type has no burn-off: do not fly; a mechanic."
    if earlier >= BURN_OFF_TRIES:
        return f"Burnt off {earlier} times and still not right: do not fly; a mechanic."
    rpm = burn_off_rpm(profile)
    return f"Burn off: about {rpm:,.0f} RPM, lean, half a minute, then check again. Still above: do not fly."


def burns_off(profile: Profile) -> bool:
    """Say whether a fouled plug of this type is burnt off: by its own figure; else not for rotors, lanes, detents and automatic
    mixtures, nor where its run-up asks for more than 2,200 RPM (common practice)."""
    if profile.find_limit("burn_off_rpm") is not None:
        return True
    if profile.engine["propeller"] == "rotor" or profile.engine.get("ignition") == "lanes":
        return False
    if profile.power_section.get("mixture") in ("detents", "automatic"):
        return False
    run_up = profile.find_limit("runup_rpm")
    return run_up is not None and round(run_up * _BURN_OFF_SHARE, -2) <= _MOST_BURN_OFF_RPM


def burn_off_rpm(profile: Profile) -> float:
    """Return the speed of a burn-off [RPM]: the profile's, else a ninth above the run-up (common practice: about 2,000).

    Raises:
        ProfileError: the profile has neither.
    """
    own = profile.find_limit("burn_off_rpm")
    return round(profile.limit("runup_rpm") * _BURN_OFF_SHARE, -2) if own is None else own


def _is_held(profile: Profile, side: Side) -> bool:
    """Say whether a governor hid the drop: the exhausts tell that one magneto was off, the speed does not."""
    return profile.engine["propeller"] in ("constant_speed", "automatic") and every_exhaust_rose(side)


def _judge_difference(profile: Profile, last: Sequence[Side], difference_rpm: float, reasons: Reasons) -> None:
    if len(last) < 2:
        other = side_word(profile, {"left": "right", "right": "left"}.get(last[0].name, "other"))
        because = f"Only one side was checked ({side_word(profile, last[0].name)})."
        then = f"Check the {other} side too"
        then += ", back on both before it: two sides at once look like one." if last[0].name in _OF_UNKNOWN else "."
        reasons.add(INCOMPLETE, because, then)
        return
    if is_mixed(profile):
        return  # one side electronic: unequal drops are normal, each has its own limit (common practice)
    limit = profile.limit("mag_difference_max_rpm")
    if difference_rpm > limit and not any(side.quits for side in last):
        apart = _speed(profile, difference_rpm, limit)
        because = f"The drops differ by {apart}; at most {_speed(profile, limit)}."
        reasons.add(LOOK, because, "Check again; if it stays, ask a mechanic.", TYPE)


def _judge_restored(profile: Profile, final: Side, reasons: Reasons) -> None:
    band = profile.limit("mag_restored_within_rpm")
    if not np.isfinite(final.restored_rpm):
        name = side_word(profile, final.name)
        reasons.add(INCOMPLETE, f"Not seen back on both after {name}.", "Back to both; wait until RPM is steady.")
    elif abs(final.restored_rpm - final.base_rpm) > band:
        gap = final.restored_rpm - final.base_rpm
        because = f"Back on both, RPM is {gap:+.0f} from before; within {band:.0f}."
        reasons.add(LOOK, because, "Set the run-up RPM and check again.", TYPE)


def _judge_base(profile: Profile, base_rpm: float, reasons: Reasons) -> None:
    wanted, band = profile.limit("runup_rpm"), profile.limit("runup_band_rpm")
    if abs(base_rpm - wanted) > _FAR_FROM_RUN_UP * band:
        because = f"The check was made at {base_rpm:.0f} RPM; the limits hold for about {wanted:.0f}."
        reasons.add(LOOK, because, f"Set about {wanted:.0f} RPM and check again.", TYPE)


def with_sides_named(profile: Profile, finding: Mapping[str, Any], first: str) -> dict[str, Any]:
    """Return a kept `mag_check` judged again with its first and second side called by name: `first` is left or right."""
    names = _names(first)
    measured = finding["measured"]
    sides = sides_in(profile, measured, finding["start_s"], finding["end_s"], names)
    if not sides:  # a drop that may have been either check has no sides to name
        return dict(finding)
    judged = judge_magnetos(profile, sides).to_json()
    if measured.get("repeats"):
        repeats = [{**row, "side": names.get(row["side"], row["side"])} for row in measured["repeats"]]
        judged["measured"]["repeats"] = repeats
    return {**finding, **{name: judged[name] for name in ("verdict", "measured", "because", "next", "source")}}


def unnamed(findings: Iterable[Mapping[str, Any]], engine: int | None = None) -> Mapping[str, Any] | None:
    """Return the latest kept `mag_check` (of one engine, or of any) if its sides are not known, else None."""
    own = [f for f in findings if f["kind"] == CHECK.kind and engine in (None, f.get("engine", 1))]
    if not own or "drop_first_rpm" not in own[-1]["measured"]:
        return None
    return own[-1] if own[-1]["measured"].get("egt_rise_f") else None  # a single drop may have been either check


def _judge_typed(profile: Profile, body: Mapping[str, Any], at_s: float) -> Finding:
    """Return the finding of typed figures: `base_rpm`, `left_rpm`, `right_rpm` (either may be missing), `restored_rpm`, `rough`
    (the sides on which it ran rough).

    Raises:
        EventError: no side, or a figure that no engine shows.
    """
    base = rpm_of(profile, body, "base_rpm")
    restored = rpm_of(profile, body, "restored_rpm") if body.get("restored_rpm") is not None else math.nan
    sides = [
        Side(
            name=name,
            base_rpm=base,
            drop_rpm=base - rpm_of(profile, body, f"{name}_rpm"),
            restored_rpm=restored,
            start_s=at_s,
            end_s=at_s,
        )
        for name in ("left", "right")
        if body.get(f"{name}_rpm") is not None
    ]
    if not sides:
        raise EventError("A magneto check needs `left_rpm` or `right_rpm`.")
    return judge_magnetos(profile, sides, dict.fromkeys(body.get("rough") or [], True))


def drop_at_run_up(measured: Mapping[str, Any], profile: Profile) -> float:
    """Return what a drop is multiplied with to be that at the type's run-up RPM, in proportion (common practice: a lost share
    of torque loses a share of RPM)."""
    wanted, base = profile.find_limit("runup_rpm"), measured.get("base_rpm")
    return wanted / base if wanted and base else 1.0


_DROPS = ("drop_left_rpm", "drop_right_rpm", "drop_first_rpm", "drop_second_rpm")
_MOST = ("drop_max_rpm",)
_MOST_LEFT, _MOST_RIGHT = ("drop_max_left_rpm", *_MOST), ("drop_max_right_rpm", *_MOST)
CHECK = Check(
    kind="mag_check",
    title="Magnetos",
    place=30,
    find=find_magneto_checks,
    is_of=lambda profile: True,
    needs=(
        *("runup_rpm", "runup_band_rpm", "mag_drop_max_rpm", "mag_drop_min_rpm", "mag_difference_max_rpm"),
        "mag_restored_within_rpm",
    ),
    may_use=(
        *("mag_drop_max_left_rpm", "mag_drop_max_right_rpm", "mag_drop_min_left_rpm", "mag_drop_min_right_rpm"),
        "burn_off_rpm",
    ),
    ripe=Ripe(after_s=1.2, follows_rpm=True),
    on_card=True,
    by_ear=True,
    must_be_judged=True,
    is_traced=True,
    not_needed_by=lambda profile: ("mag_difference_max_rpm",) if is_mixed(profile) else (),
    trends=(
        TrendFigure(
            id="drop_left",
            title="Left magneto drop",
            side="left",
            unit="rpm",
            measured="drop_left_rpm",
            limit="mag_drop_max_rpm",
            scale=drop_at_run_up,
        ),
        TrendFigure(
            id="drop_right",
            title="Right magneto drop",
            side="right",
            unit="rpm",
            measured="drop_right_rpm",
            limit="mag_drop_max_rpm",
            scale=drop_at_run_up,
        ),
        TrendFigure(
            id="difference",
            title="Difference of the drops",
            unit="rpm",
            measured="difference_rpm",
            limit="mag_difference_max_rpm",
            scale=drop_at_run_up,
        ),
    ),
    compared=(
        Compared(measured="base_rpm", title="RPM on both magnetos", apart=40.0),
        Compared(measured="difference_rpm", title="Difference of the drops", apart=30.0),
    ),
    fields=(
        Field(name="base_rpm", title="Both"),
        Field(name="left_rpm", title="Left, lowest", is_optional=True, drop_from="base_rpm"),
        Field(name="right_rpm", title="Right, lowest", is_optional=True, drop_from="base_rpm"),
        Field(name="restored_rpm", title="Both again", is_optional=True),
        Field(name="rough", title="Rough on", unit="", kind="sides", is_optional=True),
    ),
    judge_typed=_judge_typed,
    shows=(
        Shown(measured="drop_left_rpm", title="Left drop", plus_minus="drop_left_plus_minus_rpm", most=_MOST_LEFT),
        Shown(measured="drop_right_rpm", title="Right drop", plus_minus="drop_right_plus_minus_rpm", most=_MOST_RIGHT),
        Shown(measured="drop_first_rpm", title="First drop", plus_minus="drop_first_plus_minus_rpm", most=_MOST),
        Shown(measured="drop_second_rpm", title="Second drop", plus_minus="drop_second_plus_minus_rpm", most=_MOST),
        Shown(measured="difference_rpm", title="Difference", between=_DROPS, most=("difference_max_rpm",)),
        Shown(measured="restored_rpm", title="Back at"),
        Shown(measured="base_rpm", title="From"),
    ),
    measures="A drop is the settled RPM on both before it, minus the settled RPM on one side; before, drop and return are "
    "fitted at once with the engine's own lag, so that nobody need wait for it. The plus-or-minus is what the fit leaves open "
    "and the gusts; it covers the truth in more than nine of ten (docs/benchmarks.md). The switch names the sides; without "
    "it they are first and second until a tap names them. A second or less on one side is a slip, no check.",
    rules=(
        Rule(WITHIN, "both drops and their difference inside the limits, and back on both", TYPE),
        Rule(
            STOP,
            "a drop beyond its limit. Rough, or one EGT falls: a plug on that side. Smooth: late timing, or mixture",
            TYPE,
        ),
        Rule(
            STOP,
            "no drop on one side: the other magneto is not going off, and may be live with the switch off: "
            "stay clear of the propeller",
            PRACTICE,
        ),
        Rule(STOP, "RPM below 45 % of before: the engine quits on that side", PRACTICE),
        Rule(
            LOOK,
            "one EGT falls while the others rise: the plug of that cylinder on that side. One that neither "
            "rises nor falls ran on this side alone before: its other plug",
            PRACTICE,
        ),
        Rule(LOOK, "rough by the pilot's word", PRACTICE),
        Rule(LOOK, "the two drops differ by more than the limit", TYPE),
        Rule(LOOK, "back on both, RPM is not what it was; or the check was made far from the type's speed", TYPE),
        Rule(INCOMPLETE, "one side only, or not seen back on both", PRACTICE),
        Rule(UNKNOWN, "RPM stays and every EGT rises: a governor holds RPM and hides the drop", PRACTICE),
    ),
)
