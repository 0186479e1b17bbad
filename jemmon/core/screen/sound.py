"""What the simulated engine sounds like: frequencies and how strong they are, for the browser to play. Nothing is judged by it."""

from dataclasses import dataclass

from ..aircraft import Profile
from ..trace.sample import Sample, speed_of
from ..trace.signals import of_engine

_FULL_INHG, _IDLE_INHG = 29.0, 11.0  # of an engine without a blower (common practice); above it is as loud
_TURNS_FROM_RPM = 30.0


@dataclass(frozen=True, slots=True, kw_only=True)
class EngineSound:
    """One engine as it sounds: its firing, its blades and its half turns in Hz, its load and its roughness from 0 to 1; whether one
    side alone fires."""

    firing_hz: float
    blade_hz: float
    half_hz: float
    load: float
    rough: float
    on_one_side: bool


def sounds(profile: Profile, now: Sample | None) -> tuple[EngineSound, ...]:
    """Return the engines that turn as they sound now: cylinders x RPM / 120 for four strokes, blades x propeller RPM / 60
    (arithmetic)."""
    if now is None:
        return ()
    found = []
    for number, _ in sorted(profile.engines):
        speed = speed_of(of_engine(now.readings, number))
        if speed is None:
            continue
        speed *= float(profile.engine.get("rpm_at_100_pct", 100.0)) / 100.0
        if speed < _TURNS_FROM_RPM:
            continue
        pressure = of_engine(now.readings, number).get("map_inhg", _IDLE_INHG)
        side = of_engine(now.levers, number).get("mag")
        found.append(
            EngineSound(
                firing_hz=round(speed * int(profile.engine["cylinders"]) / 120, 2),
                blade_hz=round(speed / profile.start.gear_ratio * profile.start.blades / 60, 2),
                half_hz=round(speed / 120, 2),
                load=round(min(max((pressure - _IDLE_INHG) / (_FULL_INHG - _IDLE_INHG), 0.0), 1.0), 2),
                rough=round(min(now.readings.get("roughness", 0.0), 1.0), 2),
                on_one_side=side in ("L", "R"),
            )
        )
    return tuple(found)
