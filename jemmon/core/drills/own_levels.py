"""The simulated engine made as warm as an aircraft's own: EGT and CHT of a held cruise, oil of a warm-up, at the same speed,
pressure, flow and air.

An exhaust probe reads by so much more or less, whatever the engine does (common practice: that is how probes differ). A cylinder
head is warmer than the air by its heat over its cooling, oil warms by its heat over what it holds (both: Newton's law of cooling).
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..base.units import celsius
from ..bench import Bench
from .own_flights import Cruise, WarmUp

# how a lever is found: halvings, how long the engine has for each, twice over since levers move each other (our own choice)
_ROUNDS, _TRIES, _EACH_S = 2, 9, 3.0
_ALIKE_WITHIN = 0.04  # of speed, pressure and flow: further off it is not the same cruise (our own choice)
_STEADY_S = 10.0  # until RPM and flow are steady (common practice)
_LEANEST = 0.2  # of the mixture lever: below it no engine runs
_TURNS = 5  # of the fit: each takes half of what is left and more
_NO_CRUISE = (
    "EGT and CHT in cruise: no flight holds one for two minutes, with airspeed, altitude and flow, "
    "as the simulated engine flies it"
)
_AT_MOST = 1.6  # times a constant, or its inverse: beyond it the flights show another fault than a constant's


Flown = tuple[Cruise, Mapping[str, float]]  # with the levers by which the simulated engine flies it


@dataclass(frozen=True, slots=True, kw_only=True)
class Level:
    """A level [°F] by the flights (median) and by the simulated engine before and after it was fitted, of how many flights."""

    title: str
    shown: float
    before: float
    after: float
    flights: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Levels:
    """What was fitted: constants of the simulated engine by name, the levels, and what no flight shows, in words."""

    constants: Mapping[str, float | tuple[float, ...]]
    levels: tuple[Level, ...]
    missing: tuple[str, ...]


def fit_levels(section: Mapping[str, Any], cruises: Sequence[Cruise], warm_ups: Sequence[WarmUp]) -> Levels:
    """Return one engine's levels fitted to its held cruises and its warm-ups; `section` is the simulated engine's, of a
    single-engined aircraft."""
    constants: dict[str, float | tuple[float, ...]] = {}
    levels: list[Level] = []
    missing = []
    flown = [(one, levers) for one in cruises if (levers := _levers_of(section, one)) is not None]
    if not flown:
        missing.append(_NO_CRUISE)
    for signal, fit in (
        ("cht", _fit_chts),
        ("egt", _fit_exhausts),
    ):  # a cooler cylinder burns no other mixture: CHT first
        shown = [(one, levers) for one, levers in flown if getattr(one, f"{signal}_f")]
        if signal in section["instruments"] and shown:
            made, level = fit({**section, **constants}, shown)
            constants |= made
            levels.append(level)
    if warm_ups:
        made, level = _fit_oil({**section, **constants}, warm_ups)
        constants |= made
        levels.append(level)
    else:
        missing.append("Warm-up: no flight shows the oil of one")
    return Levels(constants=constants, levels=tuple(levels), missing=tuple(missing))


def _is_governed(section: Mapping[str, Any]) -> bool:
    return float(section.get("pitch_rate_per_s", 0)) > 0


def _probes_of(bench: Bench, signal: str) -> np.ndarray:
    places = [i for i, name in enumerate(bench.channels) if name.startswith(signal)]
    return np.asarray(bench.true_readings()[0][places])


def _level(title: str, shown: Sequence[float], before: Sequence[float], after: Sequence[float]) -> Level:
    middle = (round(float(np.median(values)), 1) for values in (shown, before, after))
    return Level(title=title, flights=len(shown), **dict(zip(("shown", "before", "after"), middle, strict=True)))


def _fit_chts(section: Mapping[str, Any], flown: Sequence[Flown]) -> tuple[dict[str, Any], Level]:
    """Return the cooling of the cylinders, all together and the share of each, with the level of their middle."""
    cooling = float(section["head_cooling_w_k"])
    own = np.array(section["head_cooling_share"], dtype=float)
    shares = own
    given: list[list[np.ndarray]] = []
    for turn in range(_TURNS + 1):
        changed = {**section, "head_cooling_w_k": cooling, "head_cooling_share": shares.tolist()}
        given.append([_probes_of(_at_cruise(changed, one, levers), "cht") for one, levers in flown])
        if turn == _TURNS:
            break
        rises = np.array([_rises(one, chts) for (one, _), chts in zip(flown, given[-1], strict=True)])
        ratio = _middle(rises)  # simulated over shown: above 1 where a head cools better than simulated
        middle = float(np.nanmean(ratio))
        cooling = float(np.clip(cooling * middle, *_bounds(section["head_cooling_w_k"])))
        shares = np.clip(shares * np.where(np.isfinite(ratio), ratio / middle, 1.0), own / _AT_MOST, own * _AT_MOST)
    shown = [float(np.mean(list(one.cht_f.values()))) for one, _ in flown]
    before, after = ([float(np.mean(chts)) for chts in given[turn]] for turn in (0, -1))
    made = {"head_cooling_w_k": round(cooling, 3), "head_cooling_share": tuple(round(float(s), 4) for s in shares)}
    return made, _level("CHT in cruise, mean of all", shown, before, after)


def _middle(rows: np.ndarray) -> np.ndarray:
    """Return the median of each column, NaN where a cylinder has no probe."""
    return np.array([np.median(own) if (own := column[np.isfinite(column)]).size else np.nan for column in rows.T])


def _bounds(constant: float) -> tuple[float, float]:
    return constant / _AT_MOST, constant * _AT_MOST


def _rises(cruise: Cruise, chts: np.ndarray) -> list[float]:
    """Return how much warmer than the air each simulated cylinder is, against the flight's; NaN of one without a probe."""
    shown = (cruise.cht_f.get(number + 1, np.nan) - cruise.oat_f for number in range(len(chts)))
    return [float((head - cruise.oat_f) / rise) if rise > 0 else np.nan for head, rise in zip(chts, shown, strict=True)]


def _fit_exhausts(section: Mapping[str, Any], flown: Sequence[Flown]) -> tuple[dict[str, Any], Level]:
    """Return by how much each exhaust probe reads more or less, with the level of their middle."""
    given = [_probes_of(_at_cruise(section, *one), "egt") for one in flown]
    apart = np.array(
        [
            [one.egt_f.get(number + 1, np.nan) - exhaust for number, exhaust in enumerate(exhausts)]
            for (one, _), exhausts in zip(flown, given, strict=True)
        ]
    )
    own = np.nan_to_num(_middle(apart))
    biases = tuple(round(float(bias), 1) for bias in np.asarray(section["egt_probe_bias"], dtype=float) + own)
    fitted = [_probes_of(_at_cruise({**section, "egt_probe_bias": biases}, *one), "egt") for one in flown]
    shown = [float(np.mean(list(one.egt_f.values()))) for one, _ in flown]
    before, after = ([float(np.mean(exhausts)) for exhausts in rows] for rows in (given, fitted))
    return {"egt_probe_bias": biases}, _level("EGT in cruise, mean of all", shown, before, after)


def _fit_oil(section: Mapping[str, Any], warm_ups: Sequence[WarmUp]) -> tuple[dict[str, Any], Level]:
    """Return how much heat the oil takes to warm, with the level of its end."""
    holds = float(section["oil_heat_capacity_j_k"])
    given: list[list[float]] = []
    for turn in range(_TURNS + 1):
        given.append([_oil_after({**section, "oil_heat_capacity_j_k": holds}, one) for one in warm_ups])
        if turn == _TURNS:
            break
        rises = [(end - one.from_f) / (one.to_f - one.from_f) for end, one in zip(given[-1], warm_ups, strict=True)]
        holds = float(np.clip(holds * np.median(rises), *_bounds(section["oil_heat_capacity_j_k"])))
    level = _level("Oil at the end of the warm-up", [one.to_f for one in warm_ups], given[0], given[-1])
    return {"oil_heat_capacity_j_k": round(holds, 1)}, level


def _at_cruise(section: Mapping[str, Any], cruise: Cruise, levers: Mapping[str, float]) -> Bench:
    """Return the simulated engine at the end of a cruise that began as its flight did, its levers where they are said to be."""
    bench = _in_cruise(section, cruise)
    for name, value in levers.items():
        bench.set_lever(name, value)
    bench.advance(_STEADY_S)
    for number, cht_f in cruise.cht_from_f.items():
        bench.state["head_k"][:, number - 1] = (cht_f + 459.67) / 1.8
    bench.advance(cruise.held_s)
    return bench


def _in_cruise(section: Mapping[str, Any], cruise: Cruise) -> Bench:
    bench = Bench(section)
    bench.set_air(palt_ft=cruise.palt_ft, oat_c=celsius(cruise.oat_f), ias_kt=cruise.ias_kt)
    bench.make_running(cruise.rpm)
    for name, value in (("prop", 0.7), ("throttle", 0.6), ("cowl_flaps", cruise.cowl_flaps)):
        if name in bench.lever_names:
            bench.set_lever(name, value)
    return bench


def _levers_of(section: Mapping[str, Any], cruise: Cruise) -> dict[str, float] | None:
    """Return how the levers of the simulated engine are set in a cruise: moved until its needles show the same. None where they
    never do: another engine, or another air, than that of the flight."""
    bench = _in_cruise(section, cruise)
    wanted = [("throttle", "rpm", cruise.rpm, 0.0)]
    if _is_governed(section):
        if cruise.map_inhg is None:
            return None
        wanted = [("prop", "rpm", cruise.rpm, 0.1), ("throttle", "map_inhg", cruise.map_inhg, 0.0)]
    if "mixture" in bench.lever_names:
        wanted.append(("mixture", "ff_gph", cruise.ff_gph, _LEANEST))
    for _ in range(_ROUNDS):
        for lever, channel, figure, least in wanted:
            _search(bench, lever, channel, figure, least)
    if any(abs(_shown(bench, channel) / figure - 1) > _ALIKE_WITHIN for _, channel, figure, _ in wanted):
        return None
    return {lever: float(bench.levers[lever][0]) for lever, *_ in wanted}


def _shown(bench: Bench, channel: str) -> float:
    return float(bench.true_readings()[0][bench.channels.index(channel)])


def _search(bench: Bench, lever: str, channel: str, figure: float, least: float) -> None:
    """Move a lever to where a needle shows a figure; every one of them rises with its lever."""
    low, high = least, 1.0
    for _ in range(_TRIES):
        middle = (low + high) / 2
        bench.set_lever(lever, middle)
        bench.advance(_EACH_S)
        low, high = (middle, high) if _shown(bench, channel) < figure else (low, middle)


def _oil_after(section: Mapping[str, Any], warm_up: WarmUp) -> float:
    """Return the oil temperature [°F] that the simulated engine has after a warm-up from the same oil, at the same speed."""
    bench = Bench(section)
    bench.set_air(oat_c=celsius(warm_up.oat_f))
    bench.make_running(warm_up.rpm, oil_t_f=warm_up.from_f)
    if "prop" in bench.lever_names:
        bench.set_lever("prop", 1.0)
    _search(bench, "throttle", "rpm", warm_up.rpm, 0.0)
    bench.state["oil_k"] = bench.state["head_k"] = (warm_up.from_f + 459.67) / 1.8
    bench.advance(warm_up.seconds)
    return _shown(bench, "oil_t_f")
