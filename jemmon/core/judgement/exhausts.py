"""How the exhausts move over a stretch: on one magneto they rise, with hot air or under a coarse propeller they fall."""

import numpy as np

from ..trace import Trace
from ..trace.dips import Span


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
