"""A finding: what was measured, its limit, a word, why, and what to do. docs/formats.md fixes the names."""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any

from ..base.figures import plain

WITHIN, LOOK, STOP, INCOMPLETE, UNKNOWN = "within", "look", "stop", "incomplete", "unknown"
RANK = {WITHIN: 0, UNKNOWN: 1, INCOMPLETE: 2, LOOK: 3, STOP: 4}


def gravest(verdicts: Iterable[str]) -> str | None:
    """Return the verdict that counts most, or None of none."""
    return max(verdicts, key=lambda verdict: RANK[verdict], default=None)


MECHANIC = "Within limits is no permission to fly: the flight manual and you decide."


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """One judgement. `measured` and `limits` map names that end in their unit to figures (NaN or None: not measured).

    `verdict` is within, look, stop, incomplete or unknown; `source` is `type`, `published: ...` or `common practice`.
    """

    kind: str
    start_s: float
    end_s: float
    verdict: str
    measured: Mapping[str, Any]
    limits: Mapping[str, float]
    because: str
    next: str
    source: str
    engine: int = 1

    @classmethod
    def of(
        cls,
        kind: str,
        span_s: tuple[float, float],
        outcome: tuple[str, str, str, str],
        measured: Mapping[str, Any],
        limits: Mapping[str, float],
    ) -> "Finding":
        """Return the finding of (start, end) seconds with what `Reasons.outcome` gave."""
        verdict, because, then, source = outcome
        start_s, end_s = float(span_s[0]), float(span_s[1])
        return cls(
            kind=kind,
            start_s=start_s,
            end_s=end_s,
            verdict=verdict,
            measured=measured,
            limits=limits,
            because=because,
            next=then,
            source=source,
        )

    def to_json(self) -> dict[str, Any]:
        """Return plain data: figures rounded to what can be read, None where not measured; the figures in its sentences as
        `say` writes them, so that they are read in the pilot's unit."""
        return {
            "kind": self.kind,
            "engine": self.engine,
            "start_s": _plain(self.start_s),
            "end_s": _plain(self.end_s),
            "verdict": self.verdict,
            "measured": _plain(dict(self.measured)),
            "limits": _plain(dict(self.limits)),
            "because": self.because,
            "next": self.next,
            "source": self.source,
        }

    def published(self) -> dict[str, Any]:
        """Return `to_json` with its sentences in words, for those who read it outside the application (docs/formats.md)."""
        return self.to_json() | {"because": plain(self.because), "next": plain(self.next)}


def _plain(value: Any) -> Any:
    if isinstance(value, Mapping):
        return {str(key): _plain(part) for key, part in value.items()}
    if isinstance(value, list | tuple):
        return [_plain(part) for part in value]
    if isinstance(value, bool) or value is None or isinstance(value, str | int):
        return value
    number = float(value)
    return round(number, 3) if math.isfinite(number) else None


@dataclass(slots=True)
class Reasons:
    """Gathers what speaks against `within`; the gravest gives verdict, reason and next step."""

    _rows: list[tuple[str, str, str, str]] = field(default_factory=list)

    def add(self, verdict: str, because: str, then: str, source: str = "common practice") -> None:
        """Add one reason with its next step and the source of the limit that it rests on."""
        self._rows.append((verdict, because, then, source))

    def outcome(self, within: str, source: str = "type") -> tuple[str, str, str, str]:
        """Return (verdict, because, next, source): the gravest first, or `within` with the usual reminder."""
        if not self._rows:
            return WITHIN, within, MECHANIC, source
        rows = sorted(self._rows, key=lambda row: -RANK[row[0]])
        verdict, because, then, source = rows[0]
        others = [row[1] for row in rows[1:]]
        return verdict, " ".join([because, *others]), then, source
