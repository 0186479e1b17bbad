"""Full throttle on healthy engines, standing, on any day: what the take-off watch says of them."""

from collections.abc import Mapping

import numpy as np

from jemmon.core.bench import Bench, Sensors
from jemmon.core.flight.events import Event
from jemmon.core.flight.fold import fold
from jemmon.core.live.take_off import TakeOffWatch, follow_take_off, take_off_watch
from jemmon.core.trace import Trace
from jemmon.core.trace.sample import Sample
from jemmon.library.shipped import shipped_profiles

PROFILES = shipped_profiles()
HEIGHTS_FT, DAYS_C = (0, 2_000, 4_000, 6_000), (-10, 15, 35)
STANDING = [
    kind for kind, one in PROFILES.items() if one.engine["propeller"] != "rotor"
]  # a rotor takes off by its collective


def full_power(
    kind: str, palt_ft: float, oat_c: float, short_inhg: float = 0.0, own_lack_inhg: float = 0.0, seed: int = 7
) -> tuple[TakeOffWatch | None, Mapping[str, float] | None]:
    """What the take-off watch says of a healthy engine at full throttle, standing; its manifold pressure shown so much short."""
    profile = PROFILES[kind]
    bench = Bench(profile.bench)
    bench.set_air(palt_ft=palt_ft, oat_c=oat_c)
    bench.make_running(1500)
    for name in bench.lever_names:
        if name.endswith("mixture"):
            bench.set_lever(name, 1.0 if palt_ft < 3_000 else 0.75)  # set for altitude
        if name.endswith("prop") or name == "alternator":
            bench.set_lever(name, 1.0)
        if name.endswith("throttle"):
            bench.set_lever(name, 0.3)
    bench.advance(60)
    sensors, rows = Sensors(bench, [seed]), []
    for name in bench.lever_names:
        if name.endswith("throttle"):
            bench.set_lever(name, 1.0, ramp_s=2.0)
    for _ in range(40):
        bench.advance(0.25)
        rows.append(sensors.read(0.25)[0].copy())
    shown = dict(zip(bench.channels, np.array(rows).T, strict=True))
    for name in ("map_inhg", "e2_map_inhg"):
        if name in shown:
            shown[name] = shown[name] - short_inhg
    t = np.arange(40) * 0.25
    body = {"phase": profile.take_off.phase}
    events = [("phase_entered", body), *(("engine_fired", {"limit_s": 30.0, "engine": n}) for n, _ in profile.engines)]
    state = fold(profile, [Event(id=str(n), kind=kind, at_s=0, body=b, seq=n) for n, (kind, b) in enumerate(events, 1)])
    trace = Trace(t, {**shown, "throttle": np.minimum(t / 2, 1.0)})
    readings = {name: float(values[-1]) for name, values in shown.items()}
    now = Sample(at_s=float(t[-1]), readings=readings, levers={})
    watch = take_off_watch(profile, state, trace, now, {n: own_lack_inhg for n, _ in profile.engines})
    made = follow_take_off("f", profile, now, watch)
    return watch, (made[0].body["lacks_inhg"] if made else None)


def stops_told(seed: int) -> tuple[int, int, int]:
    """Return (healthy take-offs, how many of them were told to stop, how many were not told with 3 inHg short) over all types,
    heights and temperatures."""
    days = [(kind, palt_ft, oat_c) for kind in STANDING for palt_ft in HEIGHTS_FT for oat_c in DAYS_C]
    false = missed = 0
    for number, (kind, palt_ft, oat_c) in enumerate(days):
        healthy, _ = full_power(kind, palt_ft, oat_c, seed=seed + number)
        false += healthy is None or healthy.stop is not None
        short, _ = full_power(kind, palt_ft, oat_c, 3.0, seed=seed + number)
        missed += short is None or short.stop is None
    return len(days), false, missed
