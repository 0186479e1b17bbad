"""What was heard in a recording, as a page: how much is told, the speed, and what the checks say of it."""

from dataclasses import dataclass

import numpy as np

from ..aircraft import Profile
from ..hearing.ear import engine_of_type
from ..hearing.hear import hear
from ..hearing.tap import Tap
from ..hearing.wav import samples_of
from ..judgement.judge import judge
from ..judgement.registry import heard_kinds, title_of
from ..trace import Trace
from ..trace.finding import Finding
from .aircraft import AircraftLine, aircraft_line


@dataclass(frozen=True, slots=True, kw_only=True)
class HeardCheck:
    """A check that was heard: what it is, its verdict, why, what next, and when in the recording [s]."""

    title: str
    verdict: str
    because: str
    next: str
    at_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class HeardPage:
    """A recording as it was heard: length [s], share that is told [%], why nothing is, RPM at its times [s] with the median
    plus-or-minus [RPM], and the checks in it."""

    aircraft: AircraftLine
    seconds: float
    told_pct: int
    why: str | None
    time_s: tuple[float, ...]
    rpm: tuple[float | None, ...]
    plus_minus_rpm: float | None
    checks: tuple[HeardCheck, ...]


def heard_page(profile: Profile, wav: bytes, tap: Tap) -> HeardPage:
    """Return what is heard in a WAV file with the needle read once. Raises SoundError."""
    samples, rate_hz = samples_of(wav)
    heard = hear(samples, rate_hz, engine_of_type(profile), (tap,))
    is_told = np.isfinite(heard.rpm)
    found: list[Finding] = []
    if is_told.any():
        found = judge(Trace(heard.time_s, {"rpm": heard.rpm}), profile, kinds=heard_kinds(), tell_gaps=False)
    return HeardPage(
        aircraft=aircraft_line(profile),
        seconds=round(len(samples) / rate_hz, 1),
        told_pct=round(100 * float(is_told.mean())) if len(is_told) else 0,
        why=heard.why,
        time_s=tuple(heard.time_s.tolist()),
        rpm=tuple(round(rpm, 1) if known else None for rpm, known in zip(heard.rpm.tolist(), is_told, strict=True)),
        plus_minus_rpm=round(float(np.median(heard.plus_minus_rpm[is_told])), 1) if is_told.any() else None,
        checks=tuple(
            HeardCheck(title=title_of(f.kind), verdict=f.verdict, because=f.because, next=f.next, at_s=f.start_s)
            for f in found
        ),
    )
