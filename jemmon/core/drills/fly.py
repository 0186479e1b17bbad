"""A drill flown by a scripted pilot without a screen: the same engine, needles and rules as with one."""

from collections.abc import Mapping
from typing import Any

from ..base.errors import ScriptError
from ..bench import Bench, Sensors
from ..bench.script import apply_step
from .drill import Drill
from .flown import TELLS, FlownDrill, Told, of_rows
from .pilot import PilotScript, ScriptedHands
from .schema import DECISIONS
from .stage import Stage, actions_of

_RATE_HZ = 4.0  # as the flight screen's needles are kept
_PIECES = 2  # how often between two rows hands may move: eight times a second


def fly(drill: Drill, section: Mapping[str, Any], script: PilotScript, seed: int = 1) -> FlownDrill:
    """Fly a drill on the engine of a profile's `bench` section and return what the needles showed; the same seed gives the same
    flight. It ends with the drill's length, or where the script ends it.

        Raises:
            ScriptError: the script names a lever, a cause or a decision that there is not. DrillError: the drill does.
    """
    _check_words(drill, script)
    bench = Bench(section)
    stage, hands = Stage(drill, bench), ScriptedHands(script)
    sensors = Sensors(bench, [seed])
    told: list[Told] = []
    done = dict.fromkeys(actions_of(bench), 0.0)
    rows, times = [{**_values(bench, sensors, 0.0), **done, TELLS: 0.0}], [0.0]
    stage.play(0.0, rows[0])
    step_s = 1.0 / _RATE_HZ / _PIECES
    for row in range(int(drill.length_s * _RATE_HZ) + 1):
        ends = False
        for piece in range(_PIECES):
            now_s = row / _RATE_HZ + piece * step_s
            for step in hands.due(now_s, rows[-1]):
                ends = _do(bench, step, now_s, told) or ends
                for name in done.keys() & step.get("set", {}).keys():
                    done[name] += float(step["set"][name])
            bench.advance(step_s)
        times.append((row + 1) / _RATE_HZ)
        rows.append({**_values(bench, sensors, 1.0 / _RATE_HZ), **done, TELLS: float(stage.tells)})
        stage.play(times[-1], rows[-1])
        if ends:
            break
    return of_rows(times, rows, told, stage.happened)


def _values(bench: Bench, sensors: Sensors, dt_s: float) -> dict[str, Any]:
    shown = sensors.read(dt_s)[0]
    return {**dict(zip(bench.channels, map(float, shown), strict=True)), **bench.lever_positions()}


def _do(bench: Bench, step: Mapping[str, Any], now_s: float, told: list[Told]) -> bool:
    """Do one step of a pilot; say whether it ends the drill."""
    apply_step(bench, {key: step[key] for key in ("set", "ramp_s") if key in step}, {})
    told += [Told(now_s, kind, step[kind]) for kind in ("say", "decide") if kind in step]
    return bool(step.get("end"))


def _check_words(drill: Drill, script: PilotScript) -> None:
    for number, step in enumerate(script.steps, 1):
        for kind, known in (("say", drill.causes), ("decide", DECISIONS)):
            if kind in step and step[kind] not in known:
                raise ScriptError(
                    f"Step {number}: no {step[kind]!r} to {kind}; known are {', '.join(known) or 'none'}."
                )
