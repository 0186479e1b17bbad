"""A needle that a pilot without data reads out: what it showed, kept with its time and the reading before."""

from dataclasses import dataclass, replace
from typing import ClassVar

from ..aircraft import Profile
from ..base.errors import EventError, checked_number
from ..base.figures import figure
from ..trace.signals import Kind, engine_of, reading_row
from .events import Event, PilotBody, event
from .pilot_events import check_engine
from .state import FlightState, ReadNeedle, with_engine

_OIL_PRESSURE = "oil_p_psi"
_LEANING_GAP_S = 300.0  # EGT figures further apart are not of one leaning (common practice)


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class NeedleRead(PilotBody):
    """One needle, read and typed: its reading's name (`oil_t_f`, `e2_rpm`), in the core's unit."""

    KIND: ClassVar[str] = "needle_read"
    needle: str
    value: float

    def check(self, profile: Profile, state: FlightState) -> None:
        """Refuse a needle that there is not, or a figure that no sensor shows."""
        row = reading_row(self.needle)
        if row is None or row.kind is not Kind.READING:
            raise EventError(f"There is no needle {self.needle!r}.")
        check_engine(profile, engine_of(self.needle)[0])
        checked_number("`value`", self.value, EventError, row.lowest, row.highest)

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Know it, and what it was before; oil pressure that is there stops the clock that waits for it."""
        before = state.read.get(self.needle)
        number, own = engine_of(self.needle)
        row = reading_row(own)
        if row is not None and row.name == "egt":
            state = replace(state, read_egts_f=_egts_f(state, self.needle, self.value, event.at_s))
        now = ReadNeedle(value=self.value, at_s=event.at_s, before=before and replace(before, before=None))
        state = replace(state, read={**state.read, self.needle: now})
        least, clock = profile.find_limit("oil_pressure_min_psi"), state.engine(number).oil_clock
        is_there = own == _OIL_PRESSURE and least is not None and self.value >= least
        if is_there and clock is not None and clock.verdict != "seen":
            told = {"engine": number, "seconds": round(event.at_s - clock.since_s, 2), "typed": True}
            return with_engine(state, "oil_pressure_seen", event.at_s, told)
        return state

    def words(self, profile: Profile) -> str:
        """The needle and its figure."""
        row = reading_row(self.needle)
        title, unit = (row.title, row.unit) if row else (self.needle, "")
        return f"{title}, typed: {figure(self.value, unit)}"


def _egts_f(state: FlightState, needle: str, value_f: float, at_s: float) -> dict[str, tuple[float, ...]]:
    """Return the EGT figures [°F] of the leaning that goes on, with one more; after a long pause another leaning begins."""
    last_s = max((state.read[name].at_s for name in state.read_egts_f), default=float("-inf"))
    before = state.read_egts_f if at_s - last_s <= _LEANING_GAP_S else {}
    return {**before, needle: (*before.get(needle, ()), value_f)}
