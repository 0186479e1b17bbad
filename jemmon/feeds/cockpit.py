"""The levers and switches of a simulated aircraft, in the profile's order."""

from ..core.aircraft import Profile
from ..core.screen.cockpit import Cockpit, Control, ControlKind, EngineName, HandAction, Position
from ..core.trace.signals import SIGNALS, Kind

HELD = ("starter", "energise", "mesh", "primer", "standby_test")
_AS_SWITCH = ("carb_heat",)
_BY_POSITION = ("tank", "blower")  # turned from one place to the next, nothing between
_GATES = {"mixture": "mixture_cutoff_lever", "prop": "lever_feathers_below"}  # below them: cut-off, and feather
_ACTIONS = (
    ("prime_strokes", "Prime", "prime_stroke_g"),
    ("wobble_strokes", "Wobble pump", "wobble_psi"),
    ("turn_blades", "Turn a blade", "lock_oil_per_h"),
)


def cockpit_of(profile: Profile) -> Cockpit:
    """Return the engines, the controls and what a hand does at once (`id` is that of `Bench.act`), or an empty cockpit for a
    profile without a simulated engine."""
    if profile.bench is None:
        return Cockpit()
    bench = profile.bench
    return Cockpit(
        engines=tuple(EngineName(number=number, name=name) for number, name in sorted(profile.engines)),
        controls=tuple(
            _control(name, bench.get("positions", {}).get(name, {}), bench.get(_GATES.get(name, ""), 0))
            for name in bench["levers"]
        ),
        actions=tuple(HandAction(id=name, name=title) for name, title, needs in _ACTIONS if bench.get(needs, 0) > 0),
    )


def _control(name: str, positions: dict[str, float], gate: float) -> Control:
    row = SIGNALS[name]
    return Control(
        id=name,
        name=f"{row.title} (hold)" if name in HELD else row.title,
        kind=_kind(name, row.kind, bool(positions)),
        shared=row.is_shared,
        positions=tuple(Position(name=word, at=at) for word, at in positions.items()),
        gate=gate if gate > 0 else None,
    )


def _kind(name: str, kind: Kind, has_positions: bool) -> ControlKind:
    if kind is Kind.WORD:
        return "mag"
    if name in HELD:
        return "hold"
    if name in _BY_POSITION and has_positions:
        return "positions"
    return "slider" if kind is Kind.LEVER and name not in _AS_SWITCH else "switch"
