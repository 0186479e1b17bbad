"""All cylinders of every engine at once: what each shows, which head is hottest, which exhaust is furthest from the others."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from statistics import median

from ..aircraft import Profile
from ..base.figures import difference, figure
from ..trace.sample import Sample
from ..trace.signals import cylinder_of, of_engine

_BURNS_FROM_F = 500.0  # common practice: the hottest exhaust of an engine that runs is above it


@dataclass(frozen=True, slots=True, kw_only=True)
class Cylinder:
    """One cylinder: exhaust gas and cylinder-head temperature [°F]; `egt_apart_f` is its exhaust's distance from the middle of the
    others, positive where it is hotter."""

    number: int
    egt_f: float | None
    cht_f: float | None
    egt_apart_f: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class EngineCylinders:
    """The cylinders of one engine; `name` is empty where there is one engine. `hottest` has the highest CHT, `odd` the exhaust
    furthest from the others; `say` names both in words. `cht_act_f` is where the type asks for something to be done [°F]."""

    engine: int
    name: str
    cylinders: tuple[Cylinder, ...]
    hottest: int | None
    odd: int | None
    cht_act_f: float | None
    say: str


def describe_cylinders(profile: Profile, now: Sample | None) -> tuple[EngineCylinders, ...]:
    """Return every engine with readings of single cylinders; empty where no probe is read."""
    if now is None:
        return ()
    several = len(profile.engines) > 1
    engines = ((number, name if several else "") for number, name in profile.engines)
    found = (_engine(profile, number, name, of_engine(now.readings, number or 1)) for number, name in engines)
    told = tuple(engine for engine in found if engine.cylinders)
    if len(told) != 2:
        return told
    return tuple(replace(own, say=f"{own.say} {_against(own, other)}".strip()) for own, other in (told, told[::-1]))


def _against(own: EngineCylinders, other: EngineCylinders) -> str:
    """Return one engine's highest CHT and middle EGT against the other's, in words; nothing where either does not run."""
    if own.hottest is None or other.hottest is None:
        return ""
    rows = []
    for title, values in (("Highest CHT", _highest_cht), ("middle EGT", _middle_egt)):
        mine, theirs = values(own), values(other)
        if mine is not None and theirs is not None:
            apart = round(mine - theirs)
            way = f"{difference(abs(apart), 'f')} {'above' if apart > 0 else 'below'}" if apart else "the same as"
            rows.append(f"{title} {way} the other engine's")
    return f"{'; '.join(rows)}." if rows else ""


def _highest_cht(engine: EngineCylinders) -> float | None:
    return max((one.cht_f for one in engine.cylinders if one.cht_f is not None), default=None)


def _middle_egt(engine: EngineCylinders) -> float | None:
    known = [one.egt_f for one in engine.cylinders if one.egt_f is not None]
    return median(known) if known else None


def _engine(profile: Profile, number: int, name: str, readings: Mapping[str, float]) -> EngineCylinders:
    egts, chts = _by_cylinder(readings, "egt"), _by_cylinder(readings, "cht")
    runs = not egts or max(egts.values()) > _BURNS_FROM_F  # of a cold engine neither figure means anything
    apart = {one: _apart(one, egts) if runs else None for one in egts}
    rows = tuple(
        Cylinder(number=one, egt_f=egts.get(one), cht_f=chts.get(one), egt_apart_f=apart.get(one))
        for one in sorted({*egts, *chts})
    )
    hottest = max(chts, key=lambda one: chts[one], default=None) if runs else None
    known = {one: value for one, value in apart.items() if value is not None}
    odd = max(known, key=lambda one: abs(known[one]), default=None)
    said = [] if runs else ["No exhaust is hot: the engine does not run."]
    if hottest is not None:
        said.append(f"Highest CHT: cylinder {hottest}, {figure(chts[hottest], 'f')}.")
    if odd is not None:
        way = "above" if known[odd] > 0 else "below"
        said.append(f"EGT furthest from the others: cylinder {odd}, {difference(abs(known[odd]), 'f')} {way}.")
    act = profile.find_limit("cht_act_f")
    return EngineCylinders(
        engine=number, name=name, cylinders=rows, hottest=hottest, odd=odd, cht_act_f=act, say=" ".join(said)
    )


def _by_cylinder(readings: Mapping[str, float], signal: str) -> dict[int, float]:
    found: dict[int, float] = {}
    for name, value in readings.items():
        own, cylinder = cylinder_of(name.rpartition("_")[0])
        if own == signal and cylinder is not None:
            found[cylinder] = value
    return found


def _apart(one: int, egts: Mapping[int, float]) -> float | None:
    """Return how far one exhaust is from the middle of the others [°F]; with fewer than two others there is no middle."""
    others = [value for other, value in egts.items() if other != one]
    return round(egts[one] - median(others), 1) if len(others) > 1 else None
