"""What CONTRIBUTING.md says of adding an aircraft, a limit, a signal and a start system, done as a newcomer would in a copy of the
application: the rows it names, and nothing else. (A check: test_registry.py.)"""

import json
import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent.parent
LIMIT = '        _row("gearbox_t_max_f", "f", "Gearbox temperature, at most", 100, 300),\n'
SIGNAL = '    _needle("gearbox_t", "Gearbox temperature", "f", _TEMPERATURE_F, most("gearbox_t_max_f"), slack=1.0),\n'
SWITCH = '    _switch("air_start", "Starting air"),\n'


@pytest.fixture
def copy(tmp_path: Path) -> Path:
    """A copy of the package to change, with an aircraft of its own: one file more in the library."""
    left_out = shutil.ignore_patterns("web", "*.nbi", "*.nbc")
    shutil.copytree(ROOT / "jemmon", tmp_path / "jemmon", ignore=left_out)
    write(tmp_path, lambda body: None)
    return tmp_path


def write(copy: Path, change) -> None:
    """Put the new aircraft into the library: another's file under an id, a registration and a name of its own, changed."""
    body = json.loads((ROOT / "jemmon/library/a-trainer.json").read_text())
    body |= {"id": "k-new", "registration": "ZZ-NEW", "name": "Newcomer"}
    change(body)
    (copy / "jemmon/library/k-new.json").write_text(json.dumps(body))


def insert(copy: Path, path: str, before: str, row: str) -> None:
    """Add a row to a table of the copy."""
    file = copy / path
    text = file.read_text()
    assert text.count(before) == 1, "CONTRIBUTING.md names a place that has moved"
    file.write_text(text.replace(before, row + before))


def ask(copy: Path, *command: str) -> str:
    """Run the copy's command line."""
    environment = {**os.environ, "PYTHONPATH": str(copy)}
    ran = subprocess.run(
        [sys.executable, "-m", "jemmon.cli", *command], cwd=copy, env=environment, capture_output=True, text=True
    )
    return ran.stdout + ran.stderr


def judged(copy: Path, header: str, row) -> list[dict]:
    """Return what the copy finds in a minute of trace: `row` gives the cells after the time, second by second."""
    lines = [",".join(str(cell) for cell in (t, *row(t))) for t in range(60)]
    (copy / "trace.csv").write_text("\n".join([f"time_s,{header}", *lines]) + "\n")
    said = ask(copy, "judge", "trace.csv", "--aircraft", "k-new", "--json")
    return json.loads(said)["findings"]


def test_an_aircraft_is_one_file(copy):
    assert ask(copy, "profile", "check", "k-new").startswith("k-new: ")


def test_a_limit_and_a_signal_are_a_row_each_and_are_judged_and_shown(copy):
    def hot_gearbox(body):
        body["limits"]["gearbox_t_max_f"] = {"value": 200, "source": "type", "note": "invented"}
        body["phases"][0]["instruments"].append("gearbox_t_f")

    write(copy, hot_gearbox)
    assert "gearbox_t" in ask(copy, "profile", "check", "k-new"), "without their rows both are refused"
    insert(copy, "jemmon/core/aircraft/limits.py", '        _row("warm_up_min_rpm"', LIMIT)
    insert(copy, "jemmon/core/trace/signals.py", '    _probe("egt", "EGT"),\n', SIGNAL)
    assert ask(copy, "profile", "check", "k-new").startswith("k-new: ")
    found = judged(copy, "rpm,oil_p_psi,gearbox_t_c", lambda t: (1800, 60, 80 if t < 30 else 95))
    (passed,) = [finding for finding in found if finding["kind"] == "exceedance"]
    assert passed["because"].startswith("Gearbox temperature 203 °F for 29 s")


def test_a_start_system_is_a_switch_and_a_section_of_the_profile(copy):
    def by_air(body):
        body["start"] = {**body.get("start", {}), "turned_by": "air_start"}

    write(copy, by_air)
    assert "air_start" in ask(copy, "profile", "check", "k-new")
    insert(copy, "jemmon/core/trace/signals.py", '    _switch("energise", "Energise"),\n', SWITCH)
    assert ask(copy, "profile", "check", "k-new").startswith("k-new: ")
    rpm = [0] * 10 + [120] * 7 + [1100] * 43
    found = judged(copy, "rpm,oil_p_psi,air_start", lambda t: (rpm[t], 50 * (t > 20), int(10 <= t < 17)))
    (start,) = [finding for finding in found if finding["kind"] == "start"]
    assert start["measured"]["cranking_s"] == pytest.approx(7, abs=1)
