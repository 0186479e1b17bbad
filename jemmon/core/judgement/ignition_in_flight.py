"""One ignition that stops in flight: the engine goes on, a little weaker, and every exhaust rises at once.

A single flame burns later, so more heat leaves through the exhaust; fuel flow stays. A hand that leans moves fuel flow, and one
that turns the switch knows it.
"""

from dataclasses import dataclass

import numpy as np

from ..trace import Trace
from ..trace.finding import LOOK, Finding
from ..trace.masks import filled, runs
from .airborne import airborne
from .check import PRACTICE, Check, Evidence, Ripe, Rule
from .exhausts import working_probes

# common practice (70 to 180 °F steady on one magneto): what is looked at before and lately [s], how far every exhaust rises at
# least, how alike they do, what fuel flow over manifold pressure, that pressure
# (hotter exhaust drives a turbine harder) and speed may do meanwhile, and how long it stays so
_BEFORE_S, _LATELY_S, _STAYS_S = (40.0, 15.0), 6.0, 10.0
_RISES_F, _ALIKE = 50.0, 0.45
_SAME_MIXTURE, _SAME_MAP, _RPM_LEFT = (0.96, 1.04), (0.97, 1.15), (0.92, 1.005)
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
    windows = _Windows.of(trace.time_s)
    rises = np.array([windows.lately(values) - windows.before(values) for values in probes.values()])
    least, most = rises.min(axis=0), rises.max(axis=0)
    risen = (least > _RISES_F) & airborne(evidence)
    by_itself = (least > _ALIKE * most) & (windows.before(rpm) > _LEAST_RPM * evidence.profile.speed_scale)
    pressure = trace.signal("map")
    air = np.ones(len(trace)) if pressure is None else windows.share(pressure)
    for share, (low, high) in (
        (windows.share(flow) / air, _SAME_MIXTURE),
        (air, _SAME_MAP),
        (windows.share(rpm), _RPM_LEFT),
    ):
        by_itself &= (share > low) & (share < high)
    for lever in ("throttle", "mixture", "prop", "carb_heat"):
        by_itself &= _still(trace, lever)
    by_itself &= _on_both(trace)
    t, findings = trace.time_s, []
    for first, last in runs(risen):
        proven = int(np.searchsorted(t, t[first] + _STAYS_S - 1e-6))  # later the level before is the new one in part
        if proven <= last and by_itself[first : proven + 1].all():
            fall_rpm = float(windows.before(rpm)[first] - windows.lately(rpm)[last])
            findings.append(_finding(trace, least, fall_rpm, first, last))
    return findings


@dataclass(frozen=True, slots=True)
class _Windows:
    """Where the stretches before and lately of each row begin and end (rows,), and which rows have seen enough."""

    rows: tuple[tuple[np.ndarray, np.ndarray], tuple[np.ndarray, np.ndarray]]
    is_old: np.ndarray

    @classmethod
    def of(cls, t: np.ndarray) -> "_Windows":
        """Return the windows of a record with these times [s]."""
        far, near, lately = (np.searchsorted(t, t - back_s) for back_s in (*_BEFORE_S, _LATELY_S))
        here = np.arange(len(t)) + 1
        return cls(((far, np.maximum(near, far)), (lately, here)), t - t[0] >= _BEFORE_S[0])

    def _mean(self, values: np.ndarray, which: int) -> np.ndarray:
        total = np.concatenate([[0.0], np.cumsum(filled(values))])
        first, end = self.rows[which]
        mean = (total[end] - total[first]) / np.maximum(end - first, 1)
        return np.where(self.is_old & (end > first), mean, np.nan)

    def before(self, values: np.ndarray) -> np.ndarray:
        """Return the level of half a minute before each row, NaN where the record is too young."""
        return self._mean(values, 0)

    def lately(self, values: np.ndarray) -> np.ndarray:
        """Return the level of the last seconds."""
        return self._mean(values, 1)

    def share(self, values: np.ndarray) -> np.ndarray:
        """Return what is left lately of the level before."""
        before = self.before(values)
        return np.asarray(self.lately(values) / np.where(before > 0, before, np.nan))


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
