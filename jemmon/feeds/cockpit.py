"""The levers and switches of a simulated aircraft as a screen lays them out: what kind each is, and its own words."""

from typing import Any

from ..core.aircraft import Profile
from ..core.bench.layout import FRACTION, LEVERS, MAG

_NAMES = {
    "throttle": "Throttle",
    "prop": "Propeller",
    "mixture": "Mixture",
    "carb_heat": "Carb heat",
    "cowl_flaps": "Cowl flaps",
    "collective": "Collective",
    "mag": "Magnetos",
    "lane_a": "Lane A",
    "lane_b": "Lane B",
    "master": "Master",
    "starter": "Starter (hold)",
    "energise": "Energise (hold)",
    "mesh": "Mesh (hold)",
    "primer": "Primer (hold)",
    "alternator": "Alternator",
    "pump": "Fuel pump",
    "backup_pump": "Backup pump",
    "ground_power": "Ground power",
    "crossfeed": "Crossfeed",
    "clutch": "Clutch",
    "governor": "Governor",
    "blower": "Blower",
    "tank": "Fuel tank",
}
HELD = ("starter", "energise", "mesh", "primer")
_AS_SWITCH = ("carb_heat",)
_BY_POSITION = ("tank", "blower")  # turned from one place to the next, nothing between


def describe_cockpit(profile: Profile) -> dict[str, Any]:
    """Return the engines, the controls in the profile's order (`kind` slider, switch, hold, mag or positions; `shared` by both
    engines) and the actions of a hand (`id` is that of `Bench.act`), or empty lists without a simulated engine."""
    if profile.bench is None:
        return {"engines": [], "controls": [], "actions": []}
    controls = []
    for name in profile.bench["levers"]:
        lever = LEVERS[name]
        kind = "mag" if lever.kind == MAG else "hold" if name in HELD else "switch"
        if lever.kind == FRACTION and name not in _AS_SWITCH:
            kind = "slider"
        positions = profile.bench.get("positions", {}).get(name, {})
        if name in _BY_POSITION and positions:
            kind = "positions"
        row = {"id": name, "name": _NAMES[name], "kind": kind, "shared": lever.shared}
        controls.append({**row, "positions": [{"name": word, "at": at} for word, at in positions.items()]})
    actions = []
    if profile.bench["prime_stroke_g"] > 0:
        actions.append({"id": "prime_strokes", "name": "Prime"})
    if profile.bench.get("wobble_psi", 0) > 0:
        actions.append({"id": "wobble_strokes", "name": "Wobble pump"})
    if profile.bench.get("lock_oil_per_h", 0) > 0:
        actions.append({"id": "turn_blades", "name": "Turn a blade"})
    engines = [{"number": number, "name": name} for number, name in sorted(profile.engines)]
    return {"engines": engines, "controls": controls, "actions": actions}
