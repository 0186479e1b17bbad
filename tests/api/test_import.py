"""Traces read in: what Jemmon itself exports can always be read in again, whatever it shows."""

import pytest

from jemmon.core.bench import BenchScript, lever_names, run_script
from jemmon.core.trace import Trace, write_trace_csv
from jemmon.library.shipped import shipped_profiles

PROFILES = shipped_profiles()
RUNNING = {
    "master": True,
    "mixture": 1.0,
    "throttle": 0.15,
    "mag": "BOTH",
    "lane_a": True,
    "lane_b": True,
    "pump": True,
}


def trace_with_a_start(aircraft: str) -> bytes:
    """A trace of this aircraft in which every engine comes to life from rest, with what its levers did."""
    bench = PROFILES[aircraft].bench
    levers = {name: RUNNING[own] for name in lever_names(bench) if (own := name.removeprefix("e2_")) in RUNNING}
    steps = [
        {"at": 0, "engine": {"soak_h": 14}, "set": levers},
        {"at": 20, "engine": {"running": True}},
        {"at": 90, "end": True},
    ]
    run = run_script(BenchScript.from_json(steps), bench, 1.0)
    return write_trace_csv(Trace(run.time_s, {**run.shown, **run.levers})).encode()


def read_in(client, data: bytes, aircraft: str):
    return client.post(f"/api/import?aircraft={aircraft}&name=x.csv", data=data, headers={"Content-Type": "text/csv"})


@pytest.mark.parametrize("aircraft", sorted(PROFILES))
def test_a_trace_with_a_start_is_read_in_and_keeps_finding_and_start(client, aircraft):
    """Findings and starts were numbered alike, so that the first start was taken for the first finding."""
    answer = read_in(client, trace_with_a_start(aircraft), aircraft)
    assert answer.status_code == 201, answer.json
    kinds = {row["kind"] for row in client.get(f"/api/flights/{answer.json['id']}").json["timeline"]}
    assert {"finding", "engine_fired"} <= kinds


def test_the_export_of_an_earlier_version_is_read_in(client):
    """Its run-up has both magnetos, carburettor heat and a start."""
    with open("tests/data/flight-trace-export.csv", "rb") as kept:
        answer = read_in(client, kept.read(), "a-trainer")
    assert answer.status_code == 201, answer.json
    findings = client.get(f"/api/flights/{answer.json['id']}").json["findings"]
    assert {"start", "mag_check", "carb_heat_check"} <= {finding["kind"] for finding in findings}
