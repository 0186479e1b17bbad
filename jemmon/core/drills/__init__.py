"""Drills on the simulated engine: a situation, what happens in it, and rules that score what the pilot decided."""

from .drill import Drill, draw, draw_surprise
from .fly import fly
from .pilot import PilotScript
from .schema import DECISIONS, KINDS, SKILLS
from .score import DrillScore, score

__all__ = [
    "DECISIONS",
    "KINDS",
    "SKILLS",
    "Drill",
    "DrillScore",
    "PilotScript",
    "draw",
    "draw_surprise",
    "fly",
    "score",
]
