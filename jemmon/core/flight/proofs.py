"""What a flight has proven before take-off power, and by what: a finding, a clock, a gate or a typed figure of each engine. Only
"within" proves; a tap counts where no data tell, as the pilot's word. A STOP that stands is said again."""

from collections.abc import Mapping
from typing import Any

from ..aircraft import Item, Profile
from ..aircraft.profile import Need
from ..judgement.registry import checks, title_of
from ..procedure.progress import applies
from ..trace.finding import STOP, WITHIN
from ..trace.signals import prefix_of
from .state import FlightState, KeptFinding

_OIL = "oil_pressure"


def unproven(profile: Profile, state: FlightState, known: Mapping[str, Any]) -> tuple[str, ...]:
    """Return in words what must be proven before take-off and is not; on a twin with the engine where it is one of two. `known` are
    readings in core units and levers."""
    missing = ((need, _missing_on(profile, state, known, need)) for need in profile.take_off.needs)
    return tuple(_words(profile, need, engines) for need, engines in missing if engines)


def open_stops(state: FlightState) -> tuple[KeptFinding, ...]:
    """Return the findings that say STOP and that no later one of the same thing and engine has taken back."""
    last: dict[tuple[Any, ...], KeptFinding] = {}
    for finding in state.findings:
        check = checks().get(finding["kind"])
        apart = tuple(str(finding["measured"].get(name)) for name in check.told_apart_by) if check else ()
        last[finding["kind"], finding.get("engine", 1), apart] = finding
    return tuple(finding for finding in last.values() if finding["verdict"] == STOP)


def stop_words(profile: Profile, state: FlightState) -> tuple[str, ...]:
    """Return each open STOP in a line: the engine of a twin, what was checked, why."""
    names = dict(profile.engines)
    return tuple(
        f"{profile.whose(names.get(finding.get('engine', 1), ''))}{title_of(finding['kind'])}: {finding['because']}"
        for finding in open_stops(state)
    )


def stop_of_item(state: FlightState, item: Item) -> KeptFinding | None:
    """Return the STOP that stands against the check of an item, or None."""
    latest = state.latest_finding(item.check, item.engine or None) if item.check else None
    return latest if latest is not None and latest["verdict"] == STOP else None


def _words(profile: Profile, need: Need, engines: list[str]) -> str:
    return need.say if len(engines) == len(profile.engines) else f"{need.say} ({', '.join(engines).lower()})"


def _missing_on(profile: Profile, state: FlightState, known: Mapping[str, Any], need: Need) -> list[str]:
    """Return the names of the engines on which a need is not proven."""
    kind, _, name = need.proof.partition(":")
    if kind == "item":
        item = profile.items.get(name)
        if item is None or not applies(item.only_if, state.known) or _item_is_proven(state, known, item):
            return []
        return [one for _, one in profile.engines]  # an item of one engine says so itself
    if kind == _OIL:
        return [one for number, one in profile.engines if not _oil_is_proven(profile, state, known, number)]
    return [one for number, one in profile.engines if not _is_within(state, name, number)]


def _is_within(state: FlightState, kind: str, engine: int) -> bool:
    latest = state.latest_finding(kind, engine)
    return latest is not None and latest["verdict"] == WITHIN


def _item_is_proven(state: FlightState, known: Mapping[str, Any], item: Item) -> bool:
    if item.check is not None and (latest := state.latest_finding(item.check, item.engine or None)) is not None:
        return bool(latest["verdict"] == WITHIN)
    if item.reading is not None and (held := item.reading.worst(known)[2]) is not None:
        return held  # where data tell, they count, whatever was tapped
    return item.id in state.done


def _oil_is_proven(profile: Profile, state: FlightState, known: Mapping[str, Any], engine: int) -> bool:
    clock = state.engine(engine).oil_clock
    if clock is not None and clock.verdict == "seen":
        return True
    shown, least = known.get(f"{prefix_of(engine)}oil_p_psi"), profile.find_limit("oil_pressure_min_psi")
    if shown is not None and least is not None:
        return float(shown) >= least
    tapped = [item.split("@") for item in state.done]
    return any(name == _OIL and (not own or own == [str(engine)]) for name, *own in tapped)
