"""Figures that the pilot types, judged by the same checks as measured ones."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from ..aircraft import Profile
from ..base.errors import EventError
from ..base.names import check_known
from ..trace.finding import Finding
from .registry import checks, typed_finding

_ABOVE_RPM, _ABOVE_OTHER = 25.0, 0.5  # what a gust or a parallax explains (common practice)


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


def check_typed(profile: Profile, body: Mapping[str, Any]) -> None:
    """Look at typed figures beside each other before they are taken: what is missing, and what cannot be together. The error names
    the field by its title, its place by its name.

    Raises:
        EventError: a figure is missing, or is above the one that it falls from by more than a gust. Common practice: nothing
        that is checked in a run-up makes an engine faster.
    """
    check = checks().get(str(body.get("check")))
    fields = {field.name: field for field in check.fields} if check else {}
    for field in fields.values():
        value = body.get(field.name)
        if value is None and field.kind == "figure" and not field.is_optional:
            raise EventError(f"{field.title}: type it first.", field.name)
        base = body.get(field.drop_from) if field.drop_from else None
        if not (_is_figure(value) and _is_figure(base)):
            continue
        above = _ABOVE_RPM * profile.speed_scale if field.unit == "rpm" else _ABOVE_OTHER
        if float(value) > float(base) + above:  # type: ignore[arg-type]
            whole = fields[str(field.drop_from)].title
            raise EventError(
                f"{field.title} {value:,g} is above {whole} {base:,g}: RPM does not rise there. Which of the two is mistyped?",
                field.name,
            )


def _is_figure(value: object) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool)
