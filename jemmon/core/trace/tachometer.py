"""How RPM is shown: what of it is noise, gusts and rounding."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from .dips import Span, gust_rpm, rounding_rpm, rpm_noise

_NOISE_NEAR_S = 60.0


@dataclass(frozen=True, slots=True)
class Tachometer:
    """How RPM is shown: noise of a row, what wanders by gusts, the step it is rounded to [all RPM]."""

    noise_rpm: float
    gusts_rpm: float
    step_rpm: float

    @classmethod
    def seen_in(cls, time_s: np.ndarray, rpm: np.ndarray, spans: Sequence[Span]) -> "Tachometer":
        """Return what the rows near the falls show of it, those away from them."""
        if spans:  # of hours of flight only minutes matter here
            first = int(np.searchsorted(time_s, min(time_s[span.first] for span in spans) - _NOISE_NEAR_S))
            end = int(np.searchsorted(time_s, max(time_s[span.last] for span in spans) + _NOISE_NEAR_S))
            spans = [Span(span.first - first, span.last - first) for span in spans]
            time_s, rpm = time_s[first:end], rpm[first:end]
        step = rounding_rpm(rpm)
        noise = max(rpm_noise(rpm, spans), 1.0, step / np.sqrt(12) if step else 0.0)
        return cls(noise, gust_rpm(time_s, rpm, spans, noise), step)

    @property
    def stuck_rpm(self) -> float:
        """What rounding leaves in the difference of two levels [RPM, sigma]: all of it on a calm engine, nothing where noise moves
        the needle over its steps (Widrow's condition)."""
        if not self.step_rpm:
            return 0.0
        moves = np.hypot(np.sqrt(max(self.noise_rpm**2 - self.step_rpm**2 / 12, 0.0)), self.gusts_rpm)
        return float(self.step_rpm / np.sqrt(6) * np.exp(-2 * (np.pi * moves / self.step_rpm) ** 2))
