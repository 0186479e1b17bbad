"""What is heard of sounds near the edge of what can be told is what was heard of them before: a change here is on purpose."""

import json

import pytest

from tests.corpora.kept_hearing import KEPT, heard_now, names

_SAME_RPM = 0.25  # another build of a library rounds otherwise
BEFORE = json.loads(KEPT.read_text())


def is_same(now: list, before: list) -> bool:
    """Return whether a row is the same but for rounding."""
    if len(now) != len(before):
        return False
    return all(
        abs(one - other) <= _SAME_RPM if isinstance(one, float) and isinstance(other, float) else one == other
        for one, other in zip(now, before, strict=True)
    )


@pytest.mark.parametrize("name", names())
def test_a_sound_is_heard_as_before(name):
    now = heard_now(name)
    for way, rows in BEFORE[name].items():
        assert len(now[way]) == len(rows)
        other = [
            (number, one, old)
            for number, (one, old) in enumerate(zip(now[way], rows, strict=True))
            if not is_same(one, old)
        ]
        assert not other, f"{way}: row, now, before; on purpose: python -m tests.corpora.kept_hearing"
