"""Drills on the simulated engine: a situation, what happens in it, and rules that score what the pilot decided."""

from .drill import DECISIONS, KINDS, SKILLS, Drill, draw, draw_surprise
from .fly import fly
from .pilot import PilotScript
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
