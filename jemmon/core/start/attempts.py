"""One attempt to start, as it is kept and learned from."""

from dataclasses import dataclass

FIRED, TOO_LITTLE, TOO_MUCH = "fired", "too_little", "too_much"


@dataclass(frozen=True, slots=True, kw_only=True)
class Attempt:
    """One attempt to start: how warm the metal was (outside, where no head reading) [°C], the prime put in before it in
    the unit of the type, what came of it; where known, throttle, mixture and pump (0 to 1), seconds cranked."""

    metal_c: float
    strokes: float
    outcome: str
    throttle: float | None = None
    mixture: float | None = None
    pump: float | None = None
    cranking_s: float | None = None
