"""One ignition that stops in flight: the engine goes on, a little weaker, and every exhaust rises at once.

A single flame burns later, so more heat leaves through the exhaust; fuel flow stays. A hand that leans moves fuel flow, and one
that turns the switch knows it.
"""

import numpy as np

from ..trace import Trace
from ..trace.finding import LOOK, Finding
from ..trace.lookback import LookBack
from ..trace.masks import filled, runs
from .airborne import airborne
from .check import PRACTICE, Check, Evidence, Ripe, Rule
from .exhausts import working_probes

# common practice (70 to 180 °F steady on one magneto): what is looked at before and lately [s], how far every exhaust rises at
# least, how alike they do, what fuel flow over manifold pressure, that pressure
# (hotter exhaust drives a turbine harder) and speed may do meanwhile, and how long it stays so
_BEFORE_S, _LATELY_S, _STAYS_S = (40.0, 15.0), 6.0, 10.0
_RISES_F, _ALIKE = 50.0, 0.45
_SAME_MIXTURE, _SAME_MAP, _RPM_LEFT = (0.975, 1.04), (0.97, 1.15), (0.92, 1.005)
_LEVER_STILL = 0.02
_LEAST_RPM = 1300.0  # of a direct drive engine: it is not a question of an idle


def find_lost_ignitions(evidence: Evidence) -> list[Finding]:
    """Return an `ignition_lost` finding for each time in the air that every exhaust rose at once and no lever did it. Common
    practice."""
    trace = evidence.trace
    rpm, flow = trace.signal("rpm"), trace.signal("ff")
    probes = working_probes(trace)
    if rpm is None or flow is None or len(probes) < 2 or trace.rate_hz <= 0 or len(trace) < 8:
        return []
    before = LookBack.over(trace.time_s, *_BEFORE_S, needs_s=_BEFORE_S[0])
    lately = LookBack.over(trace.time_s, _LATELY_S, 0.0, needs_s=_BEFORE_S[0])

    def share(values: np.ndarray) -> np.ndarray:
        return lately.mean(values) / np.where((level := before.mean(values)) > 0, level, np.nan)

    rises = np.array([lately.mean(values) - before.mean(values) for values in probes.values()])
    least, most = rises.min(axis=0), rises.max(axis=0)
    risen = (least > _RISES_F) & airborne(evidence)
    if not risen.any():
        return []
    by_itself = (least > _ALIKE * most) & (before.mean(rpm) > _LEAST_RPM * evidence.profile.speed_scale)
    pressure = trace.signal("map")
    air = np.ones(len(trace)) if pressure is None else share(pressure)
    for left, (low, high) in (
        (share(flow) / air, _SAME_MIXTURE),
        (air, _SAME_MAP),
        (share(rpm), _RPM_LEFT),
    ):
        by_itself &= (left > low) & (left < high)
    for lever in ("throttle", "mixture", "prop", "carb_heat"):
        by_itself &= _still(trace, lever)
    by_itself &= _on_both(trace)
    t, findings = trace.time_s, []
    for first, last in runs(risen):
        proven = int(np.searchsorted(t, t[first] + _STAYS_S - 1e-6))  # later the level before is the new one in part
        if proven <= last and by_itself[first : proven + 1].all():
            fall_rpm = float(before.mean(rpm)[first] - lately.mean(rpm)[last])
            findings.append(_finding(trace, least, fall_rpm, first, last))
    return findings


def _still(trace: Trace, name: str) -> np.ndarray:
    """Return the rows (rows,) since before which a lever has stayed; all where the trace does not have it."""
    lever = trace.signal(name)
    if lever is None or not np.isfinite(lever).any():
        return np.ones(len(trace), dtype=bool)
    moved = np.abs(np.diff(filled(lever), prepend=filled(lever)[0])) > _LEVER_STILL / 10
    total = np.concatenate([[0], np.cumsum(moved)])
    back = np.searchsorted(trace.time_s, trace.time_s - _BEFORE_S[0])
    return np.asarray(total[1:] - total[back] == 0)


def _on_both(trace: Trace) -> np.ndarray:
    """Return the rows (rows,) in which no switch says one ignition alone."""
    words = trace.columns.get("mag")
    both = np.ones(len(trace), dtype=bool)
    if words is not None:  # a row without a word says nothing
        both &= np.asarray((words != "L") & (words != "R") & (words != "OFF"), dtype=bool)
    for lane in ("lane_a", "lane_b"):
        switch = trace.signal(lane)
        both &= True if switch is None else filled(switch) > 0.5
    return both


def _finding(trace: Trace, least: np.ndarray, fall_rpm: float, first: int, last: int) -> Finding:
    rise_f = float(np.max(least[first : last + 1]))
    because = (
        f"Every exhaust rose by {{~{rise_f:.0f}|f}} and more at once, fuel flow stayed and no lever moved: one ignition has "
        "likely stopped, or fires late."
    )
    then = "Switch on BOTH? Richer, less power; land as soon as practical. The other ignition is all there is."
    return Finding.of(
        CHECK.kind,
        (float(trace.time_s[first]), float(trace.time_s[last])),
        (LOOK, because, then, PRACTICE),
        {"egt_rise_f": rise_f, "rpm_fall": fall_rpm},
        {},
    )


CHECK = Check(
    kind="ignition_lost",
    title="Ignition in flight",
    place=61,
    find=find_lost_ignitions,
    ripe=Ripe(after_s=0.0),
    measures=f"Every exhaust against {_BEFORE_S[0]:.0f} s before, in the air: all rise by {{~{_RISES_F:.0f}|f}} and more, alike, "
    "fuel flow and manifold pressure stay, speed does not rise, no lever moves.",
    rules=(Rule(LOOK, "every exhaust rose at once and nothing that the pilot does explains it", PRACTICE),),
)
