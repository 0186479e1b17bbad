"""What is told of whole flights of a making without physics, and what is told that was not there."""

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, field

import numpy as np

from jemmon.core.judgement.judge import judge
from jemmon.core.trace.finding import Finding
from tests.core.builders import PROFILES
from tests.strange.plain_flight import PlainFlight, plain_flight

NOT_DONE = ("carb_heat_check", "prop_cycle", "feather_check", "mixture_check", "shutdown_check")
_SLOW_S = 3.0  # rows that far apart hold a magneto side of 4 s in one of them: "two drops" is all that can be said


@dataclass
class FlightScore:
    """Counts: what was there, what was told of it as it was, and what was told that was not."""

    flights: int = 0
    starts: int = 0
    starts_right: int = 0
    run_ups: int = 0
    run_ups_told: int = 0
    drops: int = 0
    drops_near: int = 0
    leanings: int = 0
    leanings_told: int = 0
    sides_wrong: int = 0
    sides_unknown: int = 0
    offsets_f: list[tuple[float, float]] = field(default_factory=list)
    overs: int = 0
    overs_told: int = 0
    questions: int = 0
    false: Counter = field(default_factory=Counter)
    notes: list[str] = field(default_factory=list)

    def within(self, most_f: float) -> float:
        """Return the share of offsets off by at most so much [°F]."""
        return float(np.mean([abs(error_f) <= most_f for error_f, _ in self.offsets_f]))

    def covered(self) -> float:
        """Return the share of offsets that their plus-or-minus covers."""
        return float(np.mean([abs(error_f) <= plus_minus_f for error_f, plus_minus_f in self.offsets_f]))


def score_flights(seeds: Iterable[int]) -> FlightScore:
    """Judge plain flights."""
    score = FlightScore()
    for seed in seeds:
        flight = plain_flight(seed)
        compare(flight, judge(flight.trace, PROFILES[flight.aircraft], tell_gaps=False), seed, score)
    return score


def compare(flight: PlainFlight, found: list[Finding], seed: int, score: FlightScore) -> None:
    """Add one flight to the score."""
    score.flights += 1
    columns = " ".join(n for n in ("map", "ff", "ias", "palt", "egt1") if flight.trace.signal(n) is not None)
    about = f"{seed} {flight.aircraft} {flight.row_s} s {columns}"

    def of(kind: str) -> list[Finding]:
        return [finding for finding in found if finding.kind == kind]

    def false(finding: Finding) -> None:
        score.false[finding.kind] += 1
        score.notes.append(f"{about}: {finding.kind} {finding.start_s:.0f}-{finding.end_s:.0f} {finding.because}")

    _compare_start(flight, of("start"), score)
    _compare_magnetos(flight, of("mag_check"), of("unexplained_drop"), about, score)
    _compare_leaning(flight, of("lean"), about, score)
    for finding in of("mag_check"):
        if not (finding.start_s < flight.magnetos_s[1] and finding.end_s > flight.magnetos_s[0]):
            false(finding)
    for finding in of("power_check"):
        if abs(finding.start_s - flight.full_power_s) > 15 or finding.verdict == "stop":
            false(finding)
    for finding in of("idle_check"):
        if finding.verdict != "within":
            false(finding)
    for kind in NOT_DONE:
        for finding in of(kind):
            false(finding)
    for finding in of("power_loss"):  # a throttle that closes, which nothing shows, is a question
        score.questions += finding.verdict == "look"
        if finding.verdict != "look":
            false(finding)
    score.overs += len(flight.over)
    for finding in of("exceedance"):
        is_true = any(
            over.signal == finding.measured["signal"]
            and over.cylinder == finding.measured["cylinder"]
            and abs(finding.measured["seconds_s"] - (over.to_s - over.from_s)) <= 2 * flight.row_s
            for over in flight.over
        )
        score.overs_told += is_true
        if not is_true:
            false(finding)


def _compare_start(flight: PlainFlight, found: list[Finding], score: FlightScore) -> None:
    if flight.fired_s is None:
        return
    score.starts += 1
    truth = {
        "first_fire_s": flight.fired_s,
        "cranking_s": flight.cranking_s,
        "oil_pressure_s": flight.oil_pressure_s,
    }
    score.starts_right += len(found) == 1 and all(
        found[0].measured[name] is not None and abs(found[0].measured[name] - value) <= 1.5 * flight.row_s + 0.5
        for name, value in truth.items()
    )


def _compare_magnetos(
    flight: PlainFlight, checks: list[Finding], unexplained: list[Finding], about: str, score: FlightScore
) -> None:
    if flight.row_s >= _SLOW_S:
        return
    score.run_ups += 1
    score.run_ups_told += bool(checks or unexplained)
    names = ("drop_first_rpm", "drop_second_rpm", "drop_left_rpm", "drop_right_rpm")
    told = sorted(
        finding.measured[name]
        for finding in checks[:1]
        for name in names
        if np.isfinite(finding.measured.get(name) or np.nan)
    )
    score.drops += 2
    near = sum(abs(a - b) <= 12 for a, b in zip(told, sorted(flight.drops_rpm), strict=False)) if len(told) == 2 else 0
    score.drops_near += near
    if near < 2:
        score.notes.append(f"{about}: drops {[round(d) for d in flight.drops_rpm]}, told {[round(d) for d in told]}")


def _compare_leaning(flight: PlainFlight, found: list[Finding], about: str, score: FlightScore) -> None:
    if not flight.has_exhausts:
        return
    score.leanings += 1
    there = [f for f in found if f.start_s < flight.lean_s[1] and f.end_s > flight.lean_s[0]]
    score.false["lean"] += len(found) - len(there)
    score.leanings_told += bool(there)
    if not there:
        score.notes.append(f"{about}: leaning {flight.side} not told")
        return
    said = there[-1].measured
    score.sides_unknown += said["side"] in ("unknown", "peak")
    if said["side"] in ("rich", "lean") and said["side"] != flight.side:
        score.sides_wrong += 1
        score.notes.append(f"{about}: {flight.side} told {said['side']}")
    elif said["offset_f"] and said["reference"]:
        error_f = said["offset_f"] - flight.offsets_f[said["reference"] - 1]
        score.offsets_f.append((error_f, said["offset_plus_minus_f"]))
        if abs(error_f) > 15:
            score.notes.append(f"{about}: {flight.side} {error_f:+.0f} °F of {said['offset_f']:.0f}")
