"""Profiles of earlier formats in the words of today. The body that was kept, and its hash, stay as they were.

Format 1 had one list a phase; formats 1 and 2 had phases without a kind, amounts of prime called strokes, and limits of any
name; formats 1 to 3 had no items from a library and no units of their own. A limit that nothing reads any more, or whose name has
no row, is set aside with a word and never refused.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from .limits import GONE, LIMITS
from .phases import kind_of_old_id

FORMAT = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class Upgraded:
    """A profile's JSON in the present format, the figures of limits that were set aside (lists may still name them), and a
    sentence for each."""

    body: Any
    aside: Mapping[str, float]
    words: tuple[str, ...]


def upgraded(body: object) -> Upgraded:
    """Return a profile of any format in the words of the present one; what is not a profile comes back as it is."""
    if not isinstance(body, dict) or body.get("format") == FORMAT:
        return Upgraded(body=body, aside={}, words=())
    body = _from_format_3(_from_format_2(_from_format_1(_with_amounts(body))))
    limits = body.get("limits")
    if body.get("format") != FORMAT or not isinstance(limits, dict):
        return Upgraded(body=body, aside={}, words=())
    away = {name: row for name, row in limits.items() if name not in LIMITS}
    kept = {name: row for name, row in limits.items() if name in LIMITS}
    words = tuple(f"{name}: {GONE.get(str(name), 'no judgement reads a limit of this name')}." for name in away)
    figures = {str(name): float(row["value"]) for name, row in away.items() if _has_figure(row)}
    return Upgraded(body={**body, "limits": kept}, aside=figures, words=words)


def _has_figure(row: object) -> bool:
    value = row.get("value") if isinstance(row, dict) else None
    return isinstance(value, int | float) and not isinstance(value, bool)


def _with_amounts(body: dict[str, Any]) -> dict[str, Any]:
    """Return a profile whose amounts of prime are called so: they were strokes once."""
    if not isinstance(body.get("prime"), list):
        return body
    rows = [
        {("amount" if name == "strokes" else name): value for name, value in row.items()}
        if isinstance(row, dict)
        else row
        for row in body["prime"]
    ]
    return {**body, "prime": rows}


def _from_format_1(body: dict[str, Any]) -> dict[str, Any]:
    if body.get("format") != 1 or not isinstance(body.get("phases"), list):
        return body
    phases = [
        {
            **{name: value for name, value in phase.items() if name != "items"},
            "lists": [{"id": phase["id"], "title": phase["title"], "items": phase["items"]}],
        }
        for phase in body["phases"]
        if isinstance(phase, dict) and {"id", "title", "items"} <= phase.keys()
    ]
    if not phases:
        return body
    added = {
        "delays": {"killer_s": 600, "briefing_s": 600},
        "take_off": {"phase": phases[-1]["id"], "when": [{"of": "throttle", "above": 0.85}], "needs": []},
        "briefing": {"kind": "single", "climb_kt": 70, "glide_kt": 65, "turn_back_ft": 1000},
    }
    return {**added, **body, "format": 2, "phases": phases}


def _from_format_2(body: dict[str, Any]) -> dict[str, Any]:
    if body.get("format") != 2 or not isinstance(body.get("phases"), list):
        return body
    phases = [
        {"kind": kind_of_old_id(str(phase.get("id"))), **phase} if isinstance(phase, dict) else phase
        for phase in body["phases"]
    ]
    return {**body, "format": 3, "phases": phases}


def _from_format_3(body: dict[str, Any]) -> dict[str, Any]:
    """Return a profile of format 3 in format 4, which only adds: items known to the library, units of gauges."""
    return {**body, "format": FORMAT} if body.get("format") == 3 else body
