"""What full power gave in an aircraft's own earlier take-offs: its expectation, where the profile's is not quite its own."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from statistics import median
from typing import Any

from .watch_events import TakeOffMade

READ_KINDS = (TakeOffMade.KIND,)
# our own choice: three take-offs tell a habit from a day, ten are this season's; no more than a gauge's error and an air filter
# explain is taken over, so that an engine that weakens is still told
_LEAST, _LATEST, _MOST_INHG = 3, 10, 1.0


def own_lack_inhg(bodies: Sequence[Mapping[str, Any]]) -> dict[int, float]:
    """Return by how much each engine's full throttle lacks the profile's manifold pressure as a rule [inHg], by number, from the
    bodies of `take_off_made` of earlier flights, oldest first; empty while fewer than three are known."""
    told: dict[int, list[float]] = defaultdict(list)
    for body in bodies:
        for number, lacks in body["lacks_inhg"].items():
            told[int(number)].append(float(lacks))
    return {
        number: min(max(median(lacks[-_LATEST:]), -_MOST_INHG), _MOST_INHG)
        for number, lacks in told.items()
        if len(lacks) >= _LEAST
    }
