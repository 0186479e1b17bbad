"""The three gates of a warm-up: what must be warm, and not too hot, for taxi, for the run-up and for take-off.

A gate is the limits of the profile that are named for it: `oil_t_runup_min_f`, `coolant_t_take_off_max_f`, and so on;
where no highest figure is named, the type's own limit holds.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from ..aircraft import Profile
from ..aircraft.lists import Reading
from ..aircraft.phases import RUN_UP as PHASE_RUN_UP
from ..aircraft.phases import START
from ..base.figures import figure
from ..trace.signals import prefix_of

TAXI, RUN_UP, TAKE_OFF = "taxi", "runup", "take_off"
GATES = {TAXI: "taxi", RUN_UP: "the run-up", TAKE_OFF: "take-off"}
_SIGNALS = {"oil_t": "Oil", "cht": "CHT", "coolant_t": "Coolant"}
_SHOWN_AS = {"oil_t": "oil_t_f", "cht": "cht_max_f", "coolant_t": "coolant_t_f"}  # a gate asks the hottest CHT
MET, COLD, HOT, UNKNOWN = "met", "cold", "hot", "unknown"


@dataclass(frozen=True, slots=True, kw_only=True)
class GateRow:
    """One temperature of a gate: figure and limits [°F], `state` met, cold, hot or unknown, by which engine."""

    gate: str
    label: str
    signal: str
    engine: int
    value_f: float | None
    reading: Reading
    state: str

    @property
    def reading_of_engine(self) -> Reading:
        """What it must show, under the name of its own engine's reading."""
        return replace(self.reading, signal=self.signal)


def gate_reading(profile: Profile, gate: str, signal: str) -> Reading | None:
    """Return what a signal (`oil_t`, `cht`, `coolant_t`) must show for a gate, or None where the profile asks nothing."""
    low = profile.limits.get(f"{signal}_{gate}_min_f")
    high = profile.limits.get(f"{signal}_{gate}_max_f")
    if low is None and high is None:
        return None
    high = high or profile.limits.get(f"{signal}_max_f")
    return Reading(
        signal=_SHOWN_AS[signal],
        lowest=None if low is None else low.value,
        highest=None if high is None else high.value,
    )


def gate_rows(profile: Profile, gate: str, readings: Mapping[str, float]) -> list[GateRow]:
    """Return every temperature of a gate, of every engine; `readings` hold `cht_max_f` (see `trace.sample.with_hottest`).
    Temperatures in °F."""
    rows = []
    for number, name in profile.engines:
        prefix = prefix_of(number)
        for signal, label in _SIGNALS.items():
            reading = gate_reading(profile, gate, signal)
            if reading is None:
                continue
            value = readings.get(f"{prefix}{reading.signal}")
            state = UNKNOWN if value is None else MET
            if value is not None and reading.lowest is not None and value < reading.lowest:
                state = COLD
            elif value is not None and reading.highest is not None and value > reading.highest:
                state = HOT
            title = f"{name}: {label if label.isupper() else label.lower()}" if len(profile.engines) > 1 else label
            rows.append(
                GateRow(
                    gate=gate,
                    label=title,
                    signal=f"{prefix}{reading.signal}",
                    engine=number,
                    value_f=value,
                    reading=reading,
                    state=state,
                )
            )
    return rows


def gate_of_phase(profile: Profile, phase_id: str) -> str | None:
    """Return the gate before the next thing done in a phase: taxi while warming up, the run-up, take-off;
    None outside these."""
    kinds = [phase.kind.name for phase in profile.phases]
    place, take_off = profile.place(phase_id), profile.place(profile.take_off.phase)
    run_up = kinds.index(PHASE_RUN_UP) if PHASE_RUN_UP in kinds else take_off
    if place > take_off or START not in kinds or place <= kinds.index(START):
        return None
    if place < run_up:
        return TAXI
    return RUN_UP if place == run_up else TAKE_OFF


def _shown(value_f: float | None) -> str:
    return "?" if value_f is None else figure(value_f, "f")


def not_met(rows: list[GateRow]) -> list[str]:
    """Return in words what keeps a gate shut."""
    said = []
    for row in rows:
        if row.state == COLD:
            said.append(f"{row.label} {_shown(row.value_f)}, at least {_shown(row.reading.lowest)}")
        elif row.state == HOT:
            said.append(f"{row.label} {_shown(row.value_f)}, at most {_shown(row.reading.highest)}")
    return said
