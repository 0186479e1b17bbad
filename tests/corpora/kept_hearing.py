"""What this version hears of a few sounds near the edge of what can be told, so that a later one hears otherwise only on purpose.

The sounds are made anew from their seeds, by tests/strange/sound.py. `python -m tests.corpora.kept_hearing` writes what is heard of
them now into `tests/data/judged/heard.json`; a commit that does so says why.
"""

import json
from pathlib import Path
from typing import Any

import numpy as np

from jemmon.core.hearing.comb import Engine
from jemmon.core.hearing.hear import hear
from jemmon.core.hearing.live import LiveEar
from jemmon.core.hearing.tap import Tap
from tests.strange.sound import RATE_HZ, engine_sound, lagged, wander

KEPT = Path(__file__).parents[1] / "data" / "judged" / "heard.json"
FOUR, SIX = Engine(cylinders=4, blades=2), Engine(cylinders=6, blades=3)
GEARED = Engine(cylinders=4, blades=3, gear=2.43)
LONG_S, _CHUNK = 11, RATE_HZ // 10
_LOST = (88, 89)  # chunks that never came
# engine, noise [dB], (from when [s], RPM), another engine (RPM, how much weaker [dB]) or none, when only wind is heard [s]
_SCENES: dict[
    str, tuple[Engine, float, tuple[tuple[float, float], ...], tuple[float, float] | None, tuple[float, float]]
] = {
    "a drop in noise": (FOUR, 0.0, ((0, 1_800), (5, 1_690), (8, 1_800)), None, (0, 0)),
    "more noise than is sure": (SIX, -5.5, ((0, 1_750), (6, 1_660)), None, (0, 0)),
    "another engine nearly as fast": (FOUR, 15.0, ((0, 1_800), (7, 1_730)), (1_650.0, 5.0), (0, 0)),
    "wind, then two thirds of the speed": (FOUR, 6.0, ((0, 1_800), (5.5, 1_200)), None, (4.6, 6.4)),
    "a short gust of wind": (SIX, 8.0, ((0, 2_300), (6, 2_480)), None, (5.0, 5.7)),
    "power set, geared": (GEARED, 4.0, ((0, 4_000), (4, 4_600), (6, 5_300)), None, (0, 0)),
    "closed to idle": (FOUR, 8.0, ((0, 1_700), (5, 1_050), (8, 820)), None, (0, 0)),
}


def names() -> list[str]:
    """Return what the sounds are called."""
    return list(_SCENES)


def sound_of(name: str) -> tuple[Engine, np.ndarray, float]:
    """Return (the engine, its sound, what its needle shows [RPM] after three seconds)."""
    engine, snr_db, story, other, wind_s = _SCENES[name]
    draw = np.random.default_rng(list(_SCENES).index(name) + 8_800)
    time_s = np.arange(0, LONG_S, 1 / RATE_HZ)
    told = np.array([rpm for _, rpm in story])[np.searchsorted([at for at, _ in story], time_s, "right") - 1]
    rpm = lagged(told, 0.5) + wander(draw, len(time_s))
    samples = engine_sound(draw, rpm, engine.cylinders, engine.blades, engine.gear, snr_db)
    if other is not None:
        beside = engine_sound(draw, np.full(len(time_s), other[0]), 4, 2, 1.0, 30.0)
        samples = samples + beside * np.std(samples) / np.std(beside) * 10 ** (-other[1] / 20)
    is_wind = (time_s >= wind_s[0]) & (time_s < wind_s[1])
    samples = np.where(is_wind, draw.normal(0, np.std(samples), len(time_s)), samples)
    return engine, samples, story[0][1] * 1.01


def heard_now(name: str) -> dict[str, list[Any]]:
    """Return what this version hears of a sound: [RPM, plus-or-minus] of each row afterwards, [RPM, plus-or-minus, why] live."""
    engine, samples, needle_rpm = sound_of(name)
    after = hear(samples, RATE_HZ, engine, (Tap(at_s=3.0, rpm=needle_rpm),))
    return {
        "after": [_pair(rpm, off) for rpm, off in zip(after.rpm, after.plus_minus_rpm, strict=True)],
        "live": list(_live(engine, samples, needle_rpm)),
    }


def _live(engine: Engine, samples: np.ndarray, needle_rpm: float) -> list[list[Any]]:
    ear, heard = LiveEar(engine), []
    for number in range(len(samples) // _CHUNK):
        if number in _LOST:
            continue
        now = ear.take(samples[number * _CHUNK : (number + 1) * _CHUNK], RATE_HZ, number)
        heard.append([*_pair(now.rpm, now.plus_minus_rpm), now.why, round(now.level_db, 1), now.clips])
        if number == 30:
            ear.tap(needle_rpm)
    return heard


def _pair(rpm: float | None, off: float | None) -> list[float | None]:
    return [None if value is None or np.isnan(value) else round(float(value), 1) for value in (rpm, off)]


if __name__ == "__main__":
    KEPT.write_text(json.dumps({name: heard_now(name) for name in names()}, separators=(",", ":")) + "\n")
