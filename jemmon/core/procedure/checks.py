"""Whether an event about lists can be taken, with a message that says what is wrong and what there is."""

import math
from collections.abc import Mapping
from typing import Any

from ..aircraft import Profile
from ..aircraft.lists import STYLES
from ..base.errors import EventError, checked_number
from .progress import SET_ASIDE

_NEEDS_ITEM = ("item_done", "item_set_aside", "item_taken_up", "item_measured", "timer_started", "counted")
_FACT_NAMES = ("start", "night", "first_of_day", "stood_h")


def check_list_event(profile: Profile, kind: str, body: Mapping[str, Any]) -> None:
    """Raise EventError unless this event about items or lists can be taken."""
    if kind in _NEEDS_ITEM:
        name = body.get("item")
        if not isinstance(name, str):
            raise EventError(f"Event {kind!r} needs `item` as text.")
        if name not in profile.items:
            raise EventError(f"The profile has no item {name[:60]!r}.")
        _check_item_event(profile, kind, name, body)
    if kind in ("flow_done", "list_done", "list_style"):
        known = [one.id for phase in profile.phases for one in phase.lists]
        if body.get("list") not in known:
            raise EventError(f"The profile has no list {str(body.get('list'))[:60]!r}.")
        if kind == "list_style" and body.get("style") not in STYLES:
            raise EventError(f"A list is read in one of these ways: {', '.join(STYLES)}.")
    if kind == "fact":
        _check_fact(body)


def _check_item_event(profile: Profile, kind: str, name: str, body: Mapping[str, Any]) -> None:
    item = profile.items[name]
    if kind == "item_done" and "shown" in body and not _is_reading(body["shown"]):
        raise EventError("`shown` is the reading that was on the screen: a number, or a word of 40 characters at most.")
    if kind == "item_set_aside":
        if body.get("how") not in SET_ASIDE:
            raise EventError(f"An item is set aside as one of {', '.join(SET_ASIDE)}.")
        reason = body.get("reason")
        if not isinstance(reason, str) or not reason.strip() or len(reason) > 200:
            raise EventError("An item that is set aside needs a `reason`, in 200 characters at most.")
    if kind == "item_measured":
        if item.measure is None:
            raise EventError(f"Item {name!r} has nothing to measure.")
        checked_number("`value`", body.get("value"), EventError, -1_000, 20_000)
    if kind == "timer_started" and item.hold_s is None:
        raise EventError(f"Item {name!r} has no time to hold.")
    if kind == "counted":
        if item.count_to is None:
            raise EventError(f"Item {name!r} has nothing to count.")
        checked_number("`by`", body.get("by", 1), EventError, -60, 60)


def _is_reading(value: object) -> bool:
    if isinstance(value, str):
        return len(value) <= 40
    return isinstance(value, int | float) and not isinstance(value, bool) and math.isfinite(value)


def _check_fact(body: Mapping[str, Any]) -> None:
    name, value = body.get("name"), body.get("value")
    if name not in _FACT_NAMES:
        raise EventError(f"A fact is one of {', '.join(_FACT_NAMES)}.")
    if name == "start" and value not in ("cold", "hot", "flooded"):
        raise EventError("A start is cold, hot or flooded.")
    if name in ("night", "first_of_day") and not isinstance(value, bool):
        raise EventError(f"The fact {name!r} is true or false.")
    if name == "stood_h":
        checked_number("`value`", value, EventError, 0, 100_000)
