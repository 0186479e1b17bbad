"""A tap at the needle: what it showed, and when."""

from dataclasses import dataclass

from .wav import SoundError

_LEAST_RPM, _MOST_RPM = 300.0, 7_000.0  # of a piston engine's crank (common practice)


@dataclass(frozen=True, slots=True, kw_only=True)
class Tap:
    """The needle at a moment: flight time or file time [s], and what it showed [RPM]."""

    at_s: float
    rpm: float


def tap_from(text: str) -> Tap:
    """Return a tap from `SECONDS:RPM`. Raises SoundError for what is not one.

    >>> tap_from("4.5:1800")
    Tap(at_s=4.5, rpm=1800.0)
    """
    try:
        at_s, rpm = (float(part) for part in text.split(":"))
    except ValueError as error:
        raise SoundError(f"A tap is SECONDS:RPM, as 4.5:1800, not {text[:40]!r}.") from error
    if not (0 <= at_s < 86_400 and _LEAST_RPM <= rpm <= _MOST_RPM):
        raise SoundError(f"The tap {text[:40]!r} is out of range: 0 s or later, 300 to 7,000 RPM.")
    return Tap(at_s=at_s, rpm=rpm)
