"""What this version judges of traces that are kept in tests/data/judged, so that a later one judges otherwise only on purpose.

The traces are files, not made anew: the simulated engine may change, they stay. `python -m tests.corpora.kept_judgement` writes
what is judged of them now into `judged.json` and, of traces of another making than the bench, into `strange.json`; a commit that
does so says why. `--traces` makes the traces anew as well.
"""

import argparse
import functools
import gzip
import json
import zipfile
from collections.abc import Iterator
from dataclasses import replace
from math import isfinite
from pathlib import Path
from typing import Any

import numpy as np

from jemmon.core.aircraft import Profile
from jemmon.core.aircraft.phases import CLIMB, CRUISE, DESCENT, TAKE_OFF, WARM_UP
from jemmon.core.flight.fold import fold
from jemmon.core.judgement.falls import weigh
from jemmon.core.judgement.judge import evidence_of, judge
from jemmon.core.live.checks import follow_checks
from jemmon.core.live.following import Following, follow
from jemmon.core.live.leaning import lean_working
from jemmon.core.screen.frame import describe
from jemmon.core.screen.power import choices
from jemmon.core.screen.working import work_out
from jemmon.core.trace import Trace, moments_of, read_trace_csv, write_trace_csv
from jemmon.core.trace.dips import find_dips, rpm_noise
from tests.core.builders import PROFILES, data, events
from tests.corpora.flights import make_flight
from tests.corpora.leanings import make_leaning, profile_of
from tests.corpora.whole_run_ups import make_run_up
from tests.strange import hands
from tests.strange.plain import plain_run_up
from tests.strange.plain_flight import plain_flight

FOLDER = Path(__file__).parents[1] / "data" / "judged"
_STRANGE = FOLDER / "strange.zip"
_RUN_UPS, _LEANINGS = range(900, 918), range(900, 912)
_STRANGE_RUN_UPS, _PLAIN_RUN_UPS, _STRANGE_LEANINGS = range(400, 520), range(400, 460), range(400, 440)
_FAILURES, _STRANGE_FLIGHTS, _PLAIN_FLIGHTS = range(400, 440), range(400, 416), range(400, 408)
_SHOWN_EVERY_S, _LEANED_EVERY_S, _LIVE_S = 20.0, 6.0, 240.0
_STRANGE_LEANED_EVERY_S, _STRANGE_SHOWN_EVERY_S = 60.0, 240.0
_SHOWN_IN = (WARM_UP, TAKE_OFF, CLIMB, CRUISE, DESCENT)
_WORDS = ("because", "next", "say", "headline", "title", "source")


def make_traces() -> None:
    """Fly and write every trace, with the aircraft in its name."""
    FOLDER.mkdir(exist_ok=True)
    made = {f"flight-{name}": _twice_a_second(make_flight(profile)) for name, profile in PROFILES.items()}
    made |= {f"run-up-{seed}-{one.kind}": one.trace for seed in _RUN_UPS if (one := make_run_up(seed))}
    made |= {f"leaning-{seed}-{one.kind}": one.trace for seed in _LEANINGS if (one := make_leaning(seed))}
    for name, trace in made.items():
        (FOLDER / f"{name}.csv.gz").write_bytes(gzip.compress(write_trace_csv(trace).encode(), 9, mtime=0))
    with zipfile.ZipFile(_STRANGE, "w", zipfile.ZIP_DEFLATED, compresslevel=9) as kept_ones:
        for name, trace in _strange_traces():
            kept_ones.writestr(zipfile.ZipInfo(name), write_trace_csv(trace), zipfile.ZIP_DEFLATED)


def _strange_traces() -> Iterator[tuple[str, Trace]]:
    """Yield traces of another making than the bench, with the aircraft in the name."""
    for kind, make, seeds in (
        ("run-up", hands.run_up, _STRANGE_RUN_UPS),
        ("leaning", hands.leaning, _STRANGE_LEANINGS),
        ("failure", hands.failure, _FAILURES),
        ("flight", hands.flight, _STRANGE_FLIGHTS),
    ):
        for seed in seeds:
            story = make(seed)
            yield f"{kind}-{seed}-{story.kind}", story.trace
    for seed in _PLAIN_RUN_UPS:
        run_up = plain_run_up(seed)
        yield f"run-up-plain-{seed}-{run_up.aircraft}", run_up.trace
    for seed in _PLAIN_FLIGHTS:
        flight = plain_flight(seed)
        yield f"flight-plain-{seed}-{flight.aircraft}", flight.trace


def _twice_a_second(trace: Trace) -> Trace:
    step = max(round(trace.rate_hz / 2), 1)
    return Trace(trace.time_s[::step], {name: values[::step] for name, values in trace.columns.items()})


def names() -> list[str]:
    """Return the names of the kept traces."""
    return sorted(path.name.removesuffix(".csv.gz") for path in FOLDER.glob("*.csv.gz"))


def kept(name: str) -> tuple[Profile, Trace]:
    """Return (the aircraft, the trace) of a kept trace."""
    kind, _, rest = name.partition("-")
    aircraft = next(one for one in PROFILES if rest.endswith(one))
    trace = read_trace_csv(gzip.decompress((FOLDER / f"{name}.csv.gz").read_bytes()))
    return profile_of(aircraft) if kind == "leaning" else PROFILES[aircraft], trace


def judged_now(name: str) -> dict[str, Any]:
    """Return what this version finds in a kept trace, and what it shows live while it is played: figures and verdicts, no words."""
    profile, trace = kept(name)
    told = {"findings": [_facts(data(finding)) for finding in judge(trace, profile)]}
    if name.startswith("leaning"):
        return {**told, "leaning": list(_leaning(profile, trace))}
    return {**told, "followed": list(_followed(profile, trace)), "shown": list(_shown(profile, trace))}


@functools.cache
def strange() -> dict[str, tuple[Profile, Trace]]:
    """Return (the aircraft, the trace) of each kept trace of another making."""
    with zipfile.ZipFile(_STRANGE) as kept_ones:
        traces = {name: read_trace_csv(kept_ones.read(name)) for name in kept_ones.namelist()}
    return {
        name: (next(PROFILES[one] for one in PROFILES if name.endswith(one)), trace) for name, trace in traces.items()
    }


def strange_now(name: str) -> dict[str, Any]:
    """Return what this version finds in a kept trace of another making, what each of its falls looks like, and what is told and
    shown live."""
    profile, trace = strange()[name]
    told = {"findings": [_facts(data(finding)) for finding in judge(trace, profile)]}
    if name.startswith("run-up"):
        return {**told, "weighed": list(_weighed(profile, trace))}
    if name.startswith("leaning"):
        return {**told, "leaning": list(_leaning(profile, trace, _STRANGE_LEANED_EVERY_S))}
    followed = {**told, "followed": list(_followed(profile, trace))}
    if name.startswith("flight"):
        return {**followed, "shown": list(_shown(profile, trace, _STRANGE_SHOWN_EVERY_S))}
    return followed


def _weighed(profile: Profile, trace: Trace) -> Iterator[Any]:
    """Yield what speaks for each cause of each fall."""
    rpm = trace.signal("rpm")
    if rpm is None:
        return
    shown = np.isfinite(rpm)
    filled = np.interp(trace.time_s, trace.time_s[shown], rpm[shown])
    dips = find_dips(trace.time_s, filled)
    noise_rpm = rpm_noise(filled, dips)
    for dip in dips:
        yield _facts(data(weigh(trace, profile, filled, dip, noise_rpm)))


def _facts(value: Any) -> Any:
    """Return plain data without its words."""
    if isinstance(value, dict):
        return {name: _facts(part) for name, part in value.items() if name not in _WORDS}
    if isinstance(value, list | tuple):
        return [_facts(part) for part in value]
    if isinstance(value, float):
        return round(value, 2) if isfinite(value) else None
    return value


def _followed(profile: Profile, trace: Trace) -> Iterator[list[Any]]:
    """Yield the events that following makes of the samples, sample by sample."""
    state, following = fold(profile, []), Following()
    made: list[Any] = []
    for moment in moments_of(trace, range(len(trace))):
        following, found = follow("f", profile, state, following, moment)
        if found:
            made += found
            state = fold(profile, [replace(event, seq=number) for number, event in enumerate(made, 1)])
            yield from ([round(event.at_s, 1), event.kind, _facts(dict(event.body))] for event in found)


def _rows(trace: Trace, every_s: float) -> list[int]:
    step = max(round(every_s * trace.rate_hz), 1)
    return list(range(step, len(trace), step))


def _shown(profile: Profile, trace: Trace, every_s: float = _SHOWN_EVERY_S) -> Iterator[list[Any]]:
    """Yield what is worked out live every few seconds, as if each flying phase were going on; what is not shown is left out."""
    phases = [phase for phase in profile.phases if profile.kind_of(phase.id).name in _SHOWN_IN]
    for number, row in enumerate(_rows(trace, every_s)):
        phase = phases[number % len(phases)]
        recent = trace.part(max(row - round(_LIVE_S * trace.rate_hz), 0), row + 1)
        now = next(iter(moments_of(trace, [row])))
        fired = ("engine_fired", {"limit_s": 30.0})
        state = fold(profile, events(("phase_entered", {"phase": phase.id}), fired))
        evidence = evidence_of(recent, profile, {})
        ripe = [event.body["kind"] for event in follow_checks("f", profile, state, evidence)]
        asked = choices(profile, state, now) if number % 5 == 0 else ()
        worked = work_out(profile, state, recent, evidence, now, asked)
        frame = describe(profile, state, now, now.at_s, worked=worked)
        beside = {
            "power": data(frame.power),
            "power_warnings": len(frame.power_warnings),
            "gates": data(frame.gates),
            "not_ok": {one.id: one.state for one in frame.instruments if one.state not in ("ok", "none")},
            "notices": data(frame.notices),
            "oil_clock": data(frame.oil_clock),
        }
        yield [round(now.at_s, 1), phase.id, ripe, _facts(_without_empty({**data(worked), **beside}))]


def _leaning(profile: Profile, trace: Trace, every_s: float = _LEANED_EVERY_S) -> Iterator[list[Any]]:
    """Yield what a pilot who leans sees every few seconds."""
    phase = next(phase.id for phase in profile.phases if profile.kind_of(phase.id).name == CRUISE)
    wanted = [("lean_target", {"target": profile.lean_targets[0].id})] if profile.lean_targets else []
    state = fold(profile, events(("phase_entered", {"phase": phase}), *wanted))
    for row in _rows(trace, every_s):
        evidence = evidence_of(trace.part(0, row + 1), profile, {})
        yield [round(float(trace.time_s[row]), 1), _facts(_without_empty(data(lean_working(evidence[1], state))))]


def _without_empty(value: Any) -> Any:
    if isinstance(value, dict):
        return {name: _without_empty(part) for name, part in value.items() if part not in (None, [], {}, ())}
    return value


def main() -> None:
    """Write what is judged now."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--traces", action="store_true", help="make the traces anew as well")
    if parser.parse_args().traces:
        make_traces()
    for file, told in (
        ("judged.json", {name: judged_now(name) for name in names()}),
        ("strange.json", {name: strange_now(name) for name in strange()}),
    ):
        text = ",\n".join(f" {json.dumps(name)}: {_lines(one)}" for name, one in told.items())
        (FOLDER / file).write_text(f"{{\n{text}\n}}\n", encoding="utf-8")


def _lines(told: dict[str, list[Any]]) -> str:
    """Return the JSON of one trace with a row a line, so that a difference is one line."""
    parts = [
        f'  "{part}": [\n' + ",\n".join(f"   {json.dumps(row)}" for row in rows) + "\n  ]"
        for part, rows in told.items()
    ]
    return "{\n" + ",\n".join(parts) + "\n }"


if __name__ == "__main__":
    main()
