"""What a few cells of garbage change in what is told of engines that we did not simulate: nothing should.

One reading of each trace shows, in one row of 250, what boxes write for what they did not read, or what a radio does to a
sender. No truth is needed: the clean trace's own verdicts are what is asked for.
"""

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, field

import numpy as np

from jemmon.core.judgement.judge import judge
from jemmon.core.trace import Trace
from tests.core.builders import PROFILES
from tests.strange.hands import Story, failure, flight, leaning, run_up

MAKERS = (run_up, leaning, flight, failure)
# of fuel pressure every row counts (`formats.md`); what is left is whatever a needle of the engine or the air shows
READINGS = ("rpm", "map_inhg", "ff_gph", "egt", "oil_p_psi", "oil_t_f", "palt_ft", "ias_kt")
SHARE = 0.004


@dataclass
class GarbageScore:
    """Counts: traces, and those of which something else is told than of the clean one."""

    traces: int = 0
    changed: int = 0
    notes: list[str] = field(default_factory=list)


def score_garbage(seeds: Iterable[int]) -> GarbageScore:
    """Judge each trace clean and with garbage in one reading."""
    score = GarbageScore()
    for seed in seeds:
        story = MAKERS[seed % len(MAKERS)](seed)
        about, dirty = with_garbage(story, seed)
        clean, told = _told(story.trace, story), _told(dirty, story)
        score.traces += 1
        score.changed += clean != told
        if clean != told:
            score.notes.append(
                f"{seed} {story.kind} rows {story.panel.row_s} {about}: {told - clean}, not {clean - told}"
            )
    return score


def with_garbage(story: Story, seed: int) -> tuple[str, Trace]:
    """Return what was done to one reading of a trace, and the trace; all its cylinders in the same rows."""
    draw, trace = np.random.default_rng([seed, 9]), story.trace
    shown = [name for name in READINGS if any(column.startswith(name) for column in trace.columns)]
    name, form = str(draw.choice(shown)), str(draw.choice(["0", "-1", "9999", "x10", "x1.25"]))
    rows = np.flatnonzero(draw.random(len(trace)) < SHARE)
    columns = dict(trace.columns)
    for column in [one for one in columns if one.startswith(name)]:
        values = np.array(columns[column], dtype=float)
        values[rows] = values[rows] * float(form[1:]) if form.startswith("x") else float(form)
        columns[column] = values
    return f"{name} {form}", Trace(trace.time_s, columns)


def _told(trace: Trace, story: Story) -> Counter[tuple[str, str, str]]:
    found = judge(trace, PROFILES[story.kind], tell_gaps=False)
    return Counter((one.kind, one.verdict, str(one.measured.get("side", ""))) for one in found)
