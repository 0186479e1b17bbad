"""Figures that the pilot types, judged by the same checks as measured ones."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from ..aircraft import Profile
from ..base.errors import EventError
from ..base.names import check_known
from ..trace.finding import Finding
from .registry import checks, typed_finding


def judge_typed(profile: Profile, body: Mapping[str, Any], at_s: float) -> Finding:
    """Return the finding of a `typed_reading`: `check`, the `engine` (1 where not said) and the figures of it, as the check's
    fields name them.

    Raises:
        EventError: there is no such typed check or engine; a figure is missing, is not a number, or is out of range.
    """
    engine = body.get("engine", 1)
    if isinstance(engine, bool) or engine not in [number for number, _ in profile.engines]:
        raise EventError(f"The aircraft has no engine {engine!r}.")
    known = {kind: check for kind, check in checks().items() if check.judge_typed is not None}
    kind = body.get("check")
    check_known("`check`", kind if isinstance(kind, str) else repr(kind), known, EventError)
    check = known[str(kind)]
    allowed = {"check", "engine", *(field.name for field in check.fields)}
    if unknown := sorted(body.keys() - allowed):
        raise EventError(
            f"A typed {check.title.lower()} has no `{unknown[0][:60]}`; known are {', '.join(sorted(allowed))}."
        )
    rough = body.get("rough")
    if rough is not None and (
        not isinstance(rough, list | tuple) or any(side not in ("left", "right") for side in rough)
    ):
        raise EventError("`rough` must be a list of left and right.")
    return replace(typed_finding(profile, check, body, at_s), engine=int(engine))
