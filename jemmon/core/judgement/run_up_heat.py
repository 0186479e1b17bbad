"""An engine that grows hot because the run-up takes long. Nothing is said of one that stays cool."""

from collections.abc import Iterator

import numpy as np

from ..aircraft import Profile
from ..base.figures import difference, figure
from ..trace import Trace
from ..trace.finding import LOOK, Finding
from .check import TYPE, Check, Evidence, Ripe, Rule
from .stretches import run_up_spans

_LONG_S, _RISES_F_MIN, _NEAR_ACT_F, _SLOPE_OVER_S = 90.0, 4.0, 15.0, 45.0  # common practice


def find_run_up_heat(evidence: Evidence) -> list[Finding]:
    """Return a `run_up_heat` finding where a run-up took long and the engine grows hot: near its figure to act on, and
    rising. Limits by the type."""
    trace, profile = evidence.trace, evidence.profile
    findings = []
    for first, end in run_up_spans(evidence):
        t, rpm = trace.time_s, trace.signal("rpm")
        seconds = float(t[end - 1] - t[first])
        if seconds < _LONG_S or rpm is None:
            continue
        for name, words, values, act in _hot_signals(trace, profile):
            last = np.arange(first, end)[t[first:end] > t[end - 1] - _SLOPE_OVER_S]
            known = last[np.isfinite(values[last])]
            if known.size < 5:
                continue
            rise = float(np.polyfit(t[known], values[known], 1)[0] * 60)
            value = float(np.median(values[known[-5:]]))
            if value > act - _NEAR_ACT_F and rise > _RISES_F_MIN:
                speed = float(np.nanmedian(rpm[first:end]))
                because = (
                    f"You have been at {speed:,.0f} RPM for {seconds:.0f} s: {words} {figure(value, 'f')}, rising "
                    f"{difference(rise, 'f')} a minute; act at {figure(act, 'f')}."
                )
                reason = (LOOK, because, "Throttle back to about 1,000 RPM, nose into wind, let it cool.", TYPE)
                measured = {"seconds_s": seconds, name: value, "rise_f_per_min": rise}
                findings.append(
                    Finding.of("run_up_heat", (t[first], t[end - 1]), reason, measured, {f"{name}_act": act})
                )
    return findings


def _hot_signals(trace: Trace, profile: Profile) -> Iterator[tuple[str, str, np.ndarray, float]]:
    chts = trace.cylinders("cht")
    act = profile.limits.get("cht_act_f")
    if chts and act is not None:
        yield "cht_max_f", "hottest CHT", np.nanmax(list(chts.values()), axis=0), act.value
    for signal, words in (("oil_t", "oil"), ("coolant_t", "coolant")):
        values, limit = trace.signal(signal), profile.limits.get(f"{signal}_max_f")
        if values is not None and limit is not None:
            yield f"{signal}_f", words, values, limit.value - _NEAR_ACT_F


CHECK = Check(
    kind="run_up_heat",
    title="Temperature",
    place=37,
    find=find_run_up_heat,
    may_use=("cht_act_f", "coolant_t_max_f", "oil_t_max_f"),
    on_card=True,
    ripe=Ripe(),
    measures=f"After {_LONG_S:.0f} s and more at run-up speed: how near the hottest CHT (else coolant, oil) is to the figure to "
    "act on, and how fast it rises.",
    rules=(
        Rule(
            LOOK,
            f"within {difference(_NEAR_ACT_F, 'f')} of it and rising by more than {difference(_RISES_F_MIN, 'f')} a minute",
            TYPE,
        ),
    ),
)
