"""Figures that the pilot types, judged by the same functions as measured ones; a figure that cannot be is asked back."""

import math
from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from ..aircraft import Profile
from ..base.errors import EventError, checked_number
from ..base.figures import difference
from ..trace.finding import LOOK, Finding, Reasons
from .carburettor_heat import judge_heat
from .idle import judge_idle
from .magneto import Side, judge_magnetos

_STOPPED_RPM = 100.0
_ASK_BACK = "Is it {value:g}? An engine in a run-up turns 500 to 3,500 RPM; type it again."


def judge_typed(profile: Profile, body: Mapping[str, Any], at_s: float) -> Finding:
    """Return the finding of a `typed_reading`: `check`, the `engine` (1 where not said) and the figures of it.

    mag_check: `base_rpm`, `left_rpm`, `right_rpm` (either may be missing), `restored_rpm`, `rough` (list of sides).
    carb_heat_check: `base_rpm`, `low_rpm`, `restored_rpm`. idle_check: `idle_rpm`. lean: `peak_egt_f`, `target_egt_f`.

    Raises:
        EventError: a figure is missing, is no number, or cannot be; the aircraft has no such engine.
    """
    engine = body.get("engine", 1)
    if engine not in [number for number, _ in profile.engines]:
        raise EventError(f"The aircraft has no engine {engine!r}.")
    return replace(_judged(profile, body, at_s), engine=int(engine))


def _judged(profile: Profile, body: Mapping[str, Any], at_s: float) -> Finding:
    check = body.get("check")
    if check == "mag_check":
        return _magnetos(profile, body, at_s)
    if check == "carb_heat_check":
        base, low, restored = (_rpm(body, name) for name in ("base_rpm", "low_rpm", "restored_rpm"))
        return judge_heat(profile, at_s, at_s, base, base - low, restored)
    if check == "idle_check":
        idle_rpm = _rpm(body, "idle_rpm", lowest=0)
        return judge_idle(profile, at_s, at_s, idle_rpm, stopped=idle_rpm < _STOPPED_RPM)
    if check == "lean":
        return _lean(body, at_s)
    raise EventError(f"There is no typed check {check!r}; known are mag_check, carb_heat_check, idle_check, lean.")


def _rpm(body: Mapping[str, Any], name: str, lowest: float = 500.0) -> float:
    value = checked_number(f"`{name}`", body.get(name), EventError)
    if not lowest <= value <= 3500:
        raise EventError(_ASK_BACK.format(value=value))
    return value


def _magnetos(profile: Profile, body: Mapping[str, Any], at_s: float) -> Finding:
    base = _rpm(body, "base_rpm")
    restored = _rpm(body, "restored_rpm") if body.get("restored_rpm") is not None else math.nan
    sides = []
    for name in ("left", "right"):
        if body.get(f"{name}_rpm") is not None:
            drop = base - _rpm(body, f"{name}_rpm")
            side = Side(name=name, base_rpm=base, drop_rpm=drop, restored_rpm=restored, start_s=at_s, end_s=at_s)
            sides.append(side)
    if not sides:
        raise EventError("A magneto check needs `left_rpm` or `right_rpm`.")
    rough = dict.fromkeys(body.get("rough", []), True)
    return judge_magnetos(profile, sides, rough)


def _lean(body: Mapping[str, Any], at_s: float) -> Finding:
    peak, target = (checked_number(f"`{name}`", body.get(name), EventError) for name in ("peak_egt_f", "target_egt_f"))
    if not 800 <= peak <= 1800 or target > peak:
        raise EventError(
            f"Peak {peak:g} and target {target:g} °F cannot be: a peak is 800 to 1,800 °F, the target below it."
        )
    offset = peak - target
    reasons = Reasons()
    if offset < 35:
        reasons.add(
            LOOK,
            f"Only {difference(offset, 'f')} rich of peak: near the hottest head.",
            f"Richer to {difference(50, 'f')} or more.",
        )
    verdict, because, then, source = reasons.outcome(
        f"{difference(offset, 'f')} rich of the typed peak.", "common practice"
    )
    measured: dict[str, Any] = {
        "peaks": [],
        "first_to_peak": None,
        "last_to_peak": None,
        "spread_gph": None,
        "side": "rich",
    }
    measured |= {"offset_f": offset, "reference": None, "power_pct": None, "peak_egt_f": peak}
    return Finding(
        kind="lean",
        start_s=at_s,
        end_s=at_s,
        verdict=verdict,
        measured=measured,
        limits={},
        because=because,
        next=then,
        source=source,
    )
