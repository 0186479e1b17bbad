"""The drills that ship with Jemmon: every file in the folder `drills`."""

import functools
import json
from pathlib import Path
from typing import Any

from ..core.drills import Drill, draw, draw_surprise

FOLDER = Path(__file__).parent / "drills"


@functools.cache
def _read_once() -> dict[str, dict[str, Any]]:
    bodies = [json.loads(path.read_text(encoding="utf-8")) for path in sorted(FOLDER.glob("*.json"))]
    return {body["id"]: body for body in bodies}


def shipped_drills() -> dict[str, dict[str, Any]]:
    """Return the shipped drills by id, each as its file's JSON; they are read once."""
    return dict(_read_once())


def drawn_drill(body: object, seed: int) -> Drill:
    """Return a drill or a surprise as a seed draws it, from its file's JSON. Raises DrillError."""
    if isinstance(body, dict) and "surprise_of" in body:
        return draw_surprise(body, _read_once(), seed)
    return draw(body, seed)
