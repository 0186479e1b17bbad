"""What the screen shows of power: percent by table and flow, the rating's clock, the steps to a wanted power, refused targets."""

from collections.abc import Mapping
from dataclasses import dataclass

from ..aircraft import Profile
from ..flight.state import FlightState
from ..live.ratings import RatingClock, figures, limit_of_the_day, power_of, rating_clock
from ..power.schools import MixtureAdvice, mixture_advice, refusal
from ..power.wanted import PowerChoice, WantedPower, power_choices, wanted_steps
from ..trace.sample import Sample, outside_c


@dataclass(frozen=True, slots=True, kw_only=True)
class EnginePower:
    """Percent of rated power of one engine."""

    name: str
    pct: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class PowerNow:
    """Power as it can be known now, in percent of rated; by table, by fuel flow, the one to go by, and what follows."""

    by_table_pct: float | None
    by_flow_pct: float | None
    best_pct: float | None
    disagree: bool
    say: str
    engines: tuple[EnginePower, ...]
    clock: RatingClock | None
    limit_inhg: float | None
    mixture: MixtureAdvice | None
    wanted: WantedPower | None
    refused: Mapping[str, str]


def describe_power(profile: Profile, state: FlightState, now: Sample | None, now_s: float) -> PowerNow | None:
    """Return what the screen shows of power, or None where nothing shows it or the type has no table. Of two engines each has
    its percentage; the steps and the rest go by the first, what is refused by the stronger. Flight time `now_s` [s]."""
    here = figures(profile, now)
    if here is None or now is None or profile.power is None or not state.engine_runs:
        return None
    each = {number: power_of(profile, state, now, number) for number, _ in sorted(profile.engines)}
    lever, lean = now.levers.get("mixture"), state.latest_finding("lean", 1)
    spread = lean["measured"].get("spread_gph") if lean else None
    strongest = max((one.best_pct for one in each.values() if one.best_pct is not None), default=None)
    wanted = state.power_wanted
    return PowerNow(
        by_table_pct=_rounded(each[1].by_table_pct),
        by_flow_pct=_rounded(each[1].by_flow_pct),
        best_pct=_rounded(each[1].best_pct),
        disagree=each[1].disagree,
        say=each[1].say,
        engines=tuple(
            EnginePower(name=name, pct=_rounded(each[number].best_pct)) for number, name in sorted(profile.engines)
        ),
        clock=rating_clock(profile, state, now_s),
        limit_inhg=limit_of_the_day(profile, now),
        mixture=mixture_advice(profile, *here, None if lever is None else float(lever)),
        wanted=wanted_steps(profile, wanted, *here, state.lean_for_cruise) if wanted else None,
        refused={t.id: why for t in profile.lean_targets if (why := refusal(profile, t, strongest, spread))},
    )


def _rounded(value: float | None) -> float | None:
    return None if value is None else round(value, 1)


def choices(profile: Profile, state: FlightState, now: Sample | None) -> tuple[PowerChoice, ...]:
    """Return the powers that may be asked for here; sums that take their time, for every few seconds."""
    if now is None or profile.power is None or not state.engine_runs:
        return ()
    target = state.lean_target or (profile.lean_targets[0].id if profile.lean_targets else None)
    return power_choices(profile, now.readings.get("palt_ft", 0.0), outside_c(now.readings), target)
