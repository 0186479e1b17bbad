"""What an aircraft's own flights show of one engine: how warm it ran in a cruise that was held, and how its oil warmed up."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..trace import Trace

# how long a cruise is held, the longest that there is; over which its needles are read off, and where it is looked for (our own
# choice: CHT needs five minutes to settle, and what has not settled is flown again from where it began)
_HELD_S, _READ_OVER_S, _LOOKED_EVERY_S = (600.0, 300.0, 120.0), 20.0, 20.0
# within which it counts as held (common practice: what a pilot calls steady)
_WITHIN = {"rpm": 40.0, "map": 0.8, "ff": 0.8, "palt": 300.0, "ias": 15.0}
_NEEDLES = ("rpm", "ff", "palt", "ias", "oat", "map")
_SHUT = 0.0
_FLIES_FROM_KT = 50.0
_LEAST_WARM_UP_S, _LEAST_OIL_RISE_F = 90.0, 15.0
_FIRES_S = 30.0  # after the first fire oil does not warm yet (common practice)


@dataclass(frozen=True, slots=True, kw_only=True)
class Cruise:
    """One engine in a cruise that was held for so long [s]: speed [RPM], manifold pressure [inHg] where it is read, flow
    [US gal/h], air [ft, °F, kt], each cylinder's EGT and CHT [°F] by its number at its end, its CHT where it
    began, and its cowl flaps (0 to 1; shut where no lever shows them, as a cruise is flown: common practice)."""

    held_s: float
    cowl_flaps: float
    cht_from_f: Mapping[int, float]

    rpm: float
    map_inhg: float | None
    ff_gph: float
    palt_ft: float
    oat_f: float
    ias_kt: float
    egt_f: Mapping[int, float]
    cht_f: Mapping[int, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class WarmUp:
    """The oil of one engine from soon after its first fire to its first high power [°F], how long that took [s], at which speed
    [RPM], and the air [°F]."""

    from_f: float
    to_f: float
    seconds: float
    rpm: float
    oat_f: float


def find_cruise(trace: Trace) -> Cruise | None:
    """Return the longest cruise of one engine's trace, of two minutes at least, and of those the last; None where there is none, or
    no airspeed, altitude, temperature or flow to fly it again by."""
    signals = {name: trace.signal(name) for name in _NEEDLES}
    if any(values is None for name, values in signals.items() if name != "map"):
        return None
    known = {name: values for name, values in signals.items() if values is not None}
    t = trace.time_s
    for held_s in _HELD_S:
        for end_s in np.arange(t[-1], t[0] + held_s, -_LOOKED_EVERY_S):
            first, last = np.searchsorted(t, [end_s - held_s, end_s]).tolist()
            if _is_held({name: values[first:last] for name, values in known.items()}):
                return _read_off(trace.part(first, last))
    return None


def _is_held(held: Mapping[str, np.ndarray]) -> bool:
    if any(not np.isfinite(values).any() for values in held.values()):
        return False
    widths = {name: np.subtract(*np.nanpercentile(held[name], (95, 5))) for name in _WITHIN if name in held}
    return float(np.nanmedian(held["ias"])) >= _FLIES_FROM_KT and all(widths[name] <= _WITHIN[name] for name in widths)


def _read_off(held: Trace) -> Cruise:
    t = held.time_s
    begin = held.part(0, int(np.searchsorted(t, t[0] + _READ_OVER_S)))
    end = held.part(int(np.searchsorted(t, t[-1] - _READ_OVER_S)), len(held))
    flaps = end.signal("cowl_flaps")
    read = {name: float(np.nanmedian(values)) for name in _NEEDLES if (values := end.signal(name)) is not None}
    return Cruise(
        held_s=float(t[-1] - t[0]),
        cowl_flaps=_SHUT if flaps is None else float(np.nanmedian(flaps)),
        rpm=read["rpm"],
        map_inhg=read.get("map"),
        ff_gph=read["ff"],
        palt_ft=read["palt"],
        oat_f=read["oat"],
        ias_kt=read["ias"],
        egt_f=_each(end, "egt"),
        cht_f=_each(end, "cht"),
        cht_from_f=_each(begin, "cht"),
    )


def _each(part: Trace, signal: str) -> dict[int, float]:
    return {number: float(np.nanmedian(values)) for number, values in part.cylinders(signal).items()}


def find_warm_up(trace: Trace, findings: Sequence[Mapping[str, Any]]) -> WarmUp | None:
    """Return the warm-up that a flight's findings tell of, as one engine's trace shows it; None where the oil was warm already, or
    no needle shows it."""
    oil, rpm, outside = (trace.signal(name) for name in ("oil_t", "rpm", "oat"))
    told = next((row for row in findings if row["kind"] == "warm_up"), None)
    if told is None or oil is None or rpm is None or outside is None:
        return None
    rows = np.flatnonzero((trace.time_s >= told["start_s"] + _FIRES_S) & (trace.time_s <= told["end_s"] - 5.0))
    rows = rows[np.isfinite(oil[rows]) & np.isfinite(rpm[rows])]
    if not rows.size or not np.isfinite(outside[rows]).any():
        return None
    found = WarmUp(
        from_f=float(np.median(oil[rows[:5]])),
        to_f=float(np.median(oil[rows[-5:]])),
        seconds=float(trace.time_s[rows[-1]] - trace.time_s[rows[0]]),
        rpm=float(np.mean(rpm[rows])),
        oat_f=float(np.nanmedian(outside[rows])),
    )
    long_enough = found.seconds >= _LEAST_WARM_UP_S and found.to_f - found.from_f >= _LEAST_OIL_RISE_F
    return found if long_enough else None
