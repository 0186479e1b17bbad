"""What the samples say of the engine: one module per kind of finding. Live and recorded judgement are the same code."""

from ..trace.finding import Finding
from .judge import KINDS, judge

__all__ = ["KINDS", "Finding", "judge"]
