"""Traces that were kept with what 0.2.0 judged of them are judged the same: whoever changes a judgement does so on purpose, writes
the file anew (`python -m tests.corpora.kept_judgement`) and says why in the commit."""

import json
from typing import Any

import pytest

from tests.corpora.kept_judgement import FOLDER, judged_now, names, strange, strange_now

BEFORE = json.loads((FOLDER / "judged.json").read_text(encoding="utf-8"))
STRANGE_BEFORE = json.loads((FOLDER / "strange.json").read_text(encoding="utf-8"))


def differences(before: Any, now: Any, place: str = "") -> list[str]:
    """Return what differs, by its place; figures may differ by what arithmetic of another machine makes."""
    if isinstance(before, dict) and isinstance(now, dict):
        both = sorted({*before, *now})
        return [line for name in both for line in differences(before.get(name), now.get(name), f"{place}.{name}")]
    if isinstance(before, list) and isinstance(now, list) and len(before) == len(now):
        pairs = enumerate(zip(before, now, strict=True))
        return [line for number, (a, b) in pairs for line in differences(a, b, f"{place}[{number}]")]
    if isinstance(before, float) and isinstance(now, int | float):
        return [] if abs(before - now) <= 0.05 + 0.002 * abs(before) else [f"{place}: {before} before, {now} now"]
    return [] if before == now else [f"{place}: {before!r:.120} before, {now!r:.120} now"]


def test_every_kept_trace_has_its_judgement():
    assert names() == sorted(BEFORE)
    assert sorted(strange()) == sorted(STRANGE_BEFORE)


@pytest.mark.parametrize("name", sorted(BEFORE))
def test_it_is_judged_as_before(name):
    changed = differences(BEFORE[name], json.loads(json.dumps(judged_now(name))))
    assert not changed, "\n".join(changed[:12])


@pytest.mark.parametrize("name", sorted(STRANGE_BEFORE))
def test_one_of_another_making_is_judged_as_before(name):
    changed = differences(STRANGE_BEFORE[name], json.loads(json.dumps(strange_now(name))), name)
    assert not changed, "\n".join(changed[:12])
