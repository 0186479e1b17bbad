"""Which drills come back: what was missed returns soon, what was flown well after longer and longer (spaced repetition)."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

_WELL, _HALF = 85, 60  # of 100; our own choice
_FIRST_DAYS, _LONGEST_DAYS = 3, 60  # doubled by each good flight in a row (common practice of spaced repetition)


@dataclass(frozen=True, slots=True, kw_only=True)
class Repeat:
    """When a drill comes back: the day, whether that is today or was before, and its last score, 0 to 100."""

    due: date
    is_due: bool
    last: int
    best: int
    times: int


def repeat_of(flown: Sequence[tuple[date, int]], today: date) -> Repeat | None:
    """Return when a drill comes back that was flown on these days with these scores (0 to 100), oldest first; None where it never
    was."""
    if not flown:
        return None
    day, last = flown[-1]
    if last < _HALF:
        days = 0
    elif last < _WELL:
        days = 1
    else:
        in_a_row = 0
        for _, value in reversed(flown):
            if value < _WELL:
                break
            in_a_row += 1
        days = min(_FIRST_DAYS * 2 ** (in_a_row - 1), _LONGEST_DAYS)
    due = day + timedelta(days=days)
    return Repeat(due=due, is_due=due <= today, last=last, best=max(value for _, value in flown), times=len(flown))


@dataclass(frozen=True, slots=True, kw_only=True)
class Progress:
    """One skill over the drills that were flown lately: the mean of its last scores, 0 to 100, and how many they are."""

    skill: str
    title: str
    mean: int
    of: int


def progress(skills: Sequence[dict[str, int]], titles: dict[str, str], last: int = 10) -> tuple[Progress, ...]:
    """Return how each skill was flown in the last drills that asked for it; `skills` are the scores (0 to 100) of each flight,
    oldest first."""
    found = []
    for skill, title in titles.items():
        own = [one[skill] for one in skills if skill in one][-last:]
        if own:
            found.append(Progress(skill=skill, title=title, mean=round(sum(own) / len(own)), of=len(own)))
    return tuple(found)
