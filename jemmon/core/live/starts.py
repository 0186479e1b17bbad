"""The start as it is made: what each engine's needles say of it, as events, and the advice for the one that is coming."""

from collections.abc import Mapping, Sequence

from ..aircraft import Profile
from ..base.atmosphere import density_altitude_ft
from ..flight.events import Event
from ..flight.state import FlightState, starting_engine
from ..start.advice import StartAdvice, advise_start, attempt_of
from ..start.attempts import Attempt
from ..start.following import StartWatch, starter_draws, watch_start
from ..start.words import not_set
from ..trace.sample import Sample, outside_c, with_hottest
from .needles import as_events


def follow_starts(
    flight_id: str, profile: Profile, state: FlightState, watches: Mapping[int, StartWatch], now: Sample
) -> tuple[dict[int, StartWatch], list[Event]]:
    """Return (what to remember for the next sample, by engine; the events of this one): the starter turned, it fired,
    it died, oil pressure, the alternators."""
    after, events = {}, []
    draws = starter_draws(state.engines.values(), now.levers)
    for number, _ in profile.engines:
        watch = watches.get(number, StartWatch())
        after[number], made = watch_start(
            profile, state.engine(number), watch, now.of_engine(number), bus_is_drawn=draws
        )
        events += as_events(flight_id, now.at_s, [(kind, {**body, "engine": number}) for kind, body in made])
    return after, events


def start_advice(
    profile: Profile, state: FlightState, now: Sample | None, history: Sequence[Attempt]
) -> StartAdvice | None:
    """Return the advice for the start that is coming, or None where every engine runs or nothing shows the temperature."""
    number = starting_engine(profile, state)
    engine = state.engine(number)
    if engine.runs:
        return None
    readings = with_hottest(now.of_engine(number).readings) if now else {}
    here_c = outside_c(readings)
    here_c = state.known.get("oat_c") if here_c is None else here_c
    if here_c is None:
        return None
    return advise_start(
        profile,
        float(here_c),
        history,
        oil_t_f=readings.get("oil_t_f"),
        cht_f=readings.get("cht_max_f", readings.get("coolant_t_f")),
        stood_h=state.known.get("stood_h"),
        density_altitude_ft=_density_altitude_ft(state, readings, float(here_c)),
        now=[attempt_of(body) for body in engine.tries if "strokes" in body],
        last=engine.tries[-1] if engine.tries else None,
        not_set=not_set(profile, now.of_engine(number).known) if now else (),
    )


def _density_altitude_ft(state: FlightState, readings: Mapping[str, float], here_c: float) -> float | None:
    known = state.known.get("density_altitude_ft")
    if known is not None or "palt_ft" not in readings:
        return None if known is None else float(known)
    return density_altitude_ft(readings["palt_ft"], here_c)
