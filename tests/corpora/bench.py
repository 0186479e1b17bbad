"""`make bench`: measure what architecture.md asks for, as ratios; print value, bar and ok or missed; exit 1 on a miss.

Writes docs/benchmarks.md. `--seed` moves every corpus, so that anyone can measure on what was never seen; data of
the second maker are measured on that seed and on the next one.
"""

import argparse
import gzip
import io
import math
import tempfile
import time
from concurrent.futures import ProcessPoolExecutor
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
import pandas as pd
from numba import njit

import jemmon
from jemmon.core.bench import Bench, BenchScript, Sensors, run_script
from jemmon.core.flight.events import Event
from jemmon.core.flight.fold import fold
from jemmon.core.judgement.judge import evidence_of, judge
from jemmon.core.live.checks import follow_checks
from jemmon.core.live.leaning import lean_working
from jemmon.core.screen.frame import describe
from jemmon.core.screen.power import choices
from jemmon.core.screen.working import work_out
from jemmon.core.trace import Trace, read_trace_csv, write_trace_csv
from jemmon.core.trace.sample import Sample
from jemmon.demo.flying_group import TRAINER
from jemmon.demo.scripts import Day, flight_script
from jemmon.library.shipped import shipped_profiles
from tests.corpora.big_house import FLIGHTS, answers_ms, event_ms
from tests.corpora.editor_time import key_to_paint_ms
from tests.corpora.leanings import make_leaning, score_leanings
from tests.corpora.leanings import sum_of as leanings_together
from tests.corpora.run_ups import score_run_ups
from tests.corpora.screen_time import sample_to_screen_ms
from tests.corpora.starts import score_starts
from tests.corpora.strange_rows import strange_rows
from tests.corpora.take_offs import stops_told
from tests.corpora.trends import false_alarm, told_before_limit
from tests.corpora.whole_run_ups import score_whole_run_ups, sum_of

PROFILE = shipped_profiles()["a-trainer"]
RUN_UPS, LEANINGS, STARTS, TRENDS, WHOLE = 200, 500, 300, 1000, 1000
PROCESSES = 2
Row = tuple[str, float, str, bool]


def best_of(times: int, work) -> float:
    """Return the shortest time [s] of several."""
    spent = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        spent.append(time.perf_counter() - start)
    return min(spent)


def bench_speed(engines: int, seconds: float) -> float:
    """Return engine-seconds a second, sensors read four times a second."""
    bench = Bench(PROFILE.bench, engines=engines)
    bench.make_running(1800)
    sensors = Sensors(bench, list(range(engines)))

    def fly() -> None:
        for _ in range(int(seconds * 4)):
            bench.advance(0.25)
            sensors.read(0.25)

    fly()
    return engines * seconds / best_of(3, fly)


def judging_ratios() -> tuple[float, float]:
    """Return (reading, all of judging) a two-hour trace (4 Hz, 24 columns, ten findings), each against pandas reading it."""
    day = Day(oat_c=10.0, prime=3, fault="late_timing_left", size=0.2)
    script = [{**step} for step in flight_script(TRAINER, day) if not step.get("end")]
    script[-1] = {**script[-1]}
    script += [{"at": 7200, "end": True}]
    run = run_script(BenchScript.from_json(script), PROFILE.bench)
    names = list(run.shown)[:22]
    columns = {**{k: run.shown[k] for k in names}, "mixture": run.levers["mixture"], "mag": run.levers["mag"]}
    data = write_trace_csv(Trace(run.time_s, columns)).encode()
    with tempfile.NamedTemporaryFile(suffix=".csv") as file:
        file.write(data)
        file.flush()
        path = Path(file.name)
        by_pandas = best_of(9, lambda: pd.read_csv(path))
        reading = best_of(9, lambda: read_trace_csv(path.read_bytes()))
        judging = best_of(9, lambda: judge(read_trace_csv(path.read_bytes()), PROFILE))
    return reading / by_pandas, judging / by_pandas


@njit
def _exponentials(values: np.ndarray) -> float:
    total = 0.0
    for value in values:
        total += math.exp(value)
    return total


def exponentials_s() -> float:
    """Return the time [s] of a compiled loop of a million exponentials: a machine's measure for the bench's own speed."""
    values = np.linspace(-1.0, 1.0, 1_000_000)
    _exponentials(values)
    return best_of(5, lambda: _exponentials(values))


def script_sizes() -> list[Row]:
    """Return the gzipped size of all scripts that the first page and the flight screen may fetch."""
    assets = Path(jemmon.__file__).parent / "web" / "assets"
    rows = []
    for page, unwanted in (("first page", ("FlightView", "Record")), ("flight screen", ("Aircraft", "Record"))):
        files = [p for p in assets.glob("*.js") if not p.name.startswith(unwanted)]
        size = sum(len(gzip.compress(p.read_bytes(), 9)) for p in files)
        rows.append((f"scripts of the {page}, gzip -9", size / 1000, "< 300 kB", size < 300_000))
    return rows


def run_up_rows(seed: int) -> list[Row]:
    """Judge the run-up corpora at 1 and 4 Hz, with the switch known and from the needles alone."""
    rows: list[Row] = []
    for rate_hz, within_rpm, share in ((1.0, 6, 0.97), (4.0, 5, 0.98)):
        for levers in (True, False):
            score = score_run_ups(PROFILE, range(seed * 10_000, seed * 10_000 + RUN_UPS), rate_hz, levers)
            name = f"run-ups {rate_hz:.0f} Hz, {'levers known' if levers else 'needles alone'}"
            rows.append((f"{name}: missed", score.missed, "0", score.missed == 0))
            rows.append((f"{name}: false", score.false, "0", score.false == 0))
            good = score.within(within_rpm)
            rows.append((f"{name}: within {within_rpm} RPM", good, f">= {share}", good >= share))
            if rate_hz == 1:
                worst = float(np.abs(score.errors_rpm).max())
                rows.append((f"{name}: worst", worst, "<= 15 RPM", worst <= 15))
    return rows


def whole_run_up_rows(seed: int) -> list[Row]:
    """Judge whole run-ups of six kinds of aircraft, with faults, traps and missing channels; two processes at once."""
    first = seed * 100_000
    parts = [range(first + k * WHOLE // PROCESSES, first + (k + 1) * WHOLE // PROCESSES) for k in range(PROCESSES)]
    with ProcessPoolExecutor(PROCESSES) as pool:
        score = sum_of(list(pool.map(score_whole_run_ups, parts)))
    found, false = score.found / score.done, score.false / score.run_ups
    easy, hard, covered = score.within(True, 5), score.within(False, 8), float(np.mean(score.covered))
    told, wrong = score.told / score.due, score.wrongly_told / score.healthy
    plugs = score.plugs_named / score.plugs
    name = f"{score.run_ups} whole run-ups"
    return [
        (f"{name}: checks found (of {score.done})", found, ">= 0.99", found >= 0.99),
        (f"{name}: false checks a run-up", false, "<= 0.005", false <= 0.005),
        (f"{name}: drops within 5 RPM, 2 Hz and 3 s or more", easy, ">= 0.95", easy >= 0.95),
        (f"{name}: drops within 8 RPM, else", hard, ">= 0.95", hard >= 0.95),
        (f"{name}: plus-or-minus covers the truth", covered, ">= 0.93", covered >= 0.93),
        (f"{name}: faults told (of {score.due})", told, ">= 0.97", told >= 0.97),
        (f"{name}: healthy engines told wrongly (of {score.healthy})", wrong, "<= 0.01", wrong <= 0.01),
        (f"{name}: plug named (of {score.plugs})", plugs, ">= 0.95", plugs >= 0.95),
    ]


def leaning_rows(seed: int) -> list[Row]:
    """Judge leanings of six kinds."""
    first = seed * 100_000
    parts = [
        range(first + k * LEANINGS // PROCESSES, first + (k + 1) * LEANINGS // PROCESSES) for k in range(PROCESSES)
    ]
    with ProcessPoolExecutor(PROCESSES) as pool:
        score = leanings_together(list(pool.map(score_leanings, parts)))
    name = f"{score.leanings} leanings"
    named, offset = float(np.mean(score.named)), float(np.mean(np.abs(score.offsets_f) <= 8))
    unknown, power = score.sides_unknown / score.leanings, float(np.mean(np.abs(score.powers_pct) <= 3))
    rows: list[Row] = []
    for easy, about, most_f, most_gph in ((True, "good data", 5, 0.1), (False, "else", 12, 0.2)):
        egt, flow = score.egt_within(easy, most_f), score.flow_within(easy, most_gph)
        rows.append((f"{name}, {about}: peak EGT within {most_f} °F", egt, ">= 0.95", egt >= 0.95))
        rows.append((f"{name}, {about}: fuel flow at peak within {most_gph} gal/h", flow, ">= 0.95", flow >= 0.95))
    return [
        *rows,
        (f"{name}: first and last to peak named", named, ">= 0.97", named >= 0.97),
        (f"{name}: wrong side", score.sides_wrong, "0", score.sides_wrong == 0),
        (f"{name}: side unknown", unknown, "<= 0.02", unknown <= 0.02),
        (f"{name}: final offset within 8 °F", offset, ">= 0.95", offset >= 0.95),
        (f"{name}: power at the end within 3 %", power, ">= 0.95", power >= 0.95),
    ]


def start_rows(seed: int) -> list[Row]:
    """Start engines that want 0.6 to 1.8 times their book, by the advice and by the book alone."""
    advised, book = score_starts(PROFILE, range(seed * 10_000, seed * 10_000 + STARTS))
    first, two, alone = (float(np.mean(x)) for x in (advised.first, advised.within_two, book.first))
    limit_s = PROFILE.limit("starter_on_max_s")
    return [
        ("starts by the advice: at the first attempt", first, ">= 0.9", first >= 0.9),
        ("starts by the advice: within two", two, ">= 0.99", two >= 0.99),
        ("starts by the book alone: at the first attempt", alone, f"<= {first - 0.1:.3g}", first >= alone + 0.1),
        ("starts: longest cranking, s", advised.cranked_s, f"<= {limit_s:.0f}", advised.cranked_s <= limit_s),
    ]


def trend_rows(seed: int) -> list[Row]:
    """Follow figures that grow towards their limit, and figures that stay."""
    told = float(np.mean([told_before_limit(s) for s in range(seed * 10_000, seed * 10_000 + TRENDS)]))
    alarms = float(np.mean([false_alarm(s) for s in range(seed * 10_000 + 5_000, seed * 10_000 + 5_000 + TRENDS)]))
    return [
        ("trends: wear told before its limit", told, ">= 0.97", told >= 0.97),
        ("trends: alarms on steady engines, 60 flights each", alarms, "< 0.01", alarms < 0.01),
    ]


def take_off_rows(seed: int) -> list[Row]:
    """Watch take-offs of healthy engines, and of such that give three inches less."""
    count, false, missed = stops_told(seed * 1_000)
    return [
        (f"{count} take-offs of healthy engines: told to stop", false, "0", false == 0),
        (f"{count} take-offs 3 inHg short: not told", missed, "0", missed == 0),
    ]


def editor_row() -> Row:
    """How much longer a letter takes in the editor of a profile of 5,000 items than in one of ten."""
    small, large = key_to_paint_ms(10), key_to_paint_ms(5_000)
    print(f"key to paint: {small:.1f} ms with ten items, {large:.1f} ms with 5,000")
    return ("key to paint in the editor, 5,000 items against ten", large / small, "<= 3", large <= 3 * small)


def screen_row() -> Row:
    """Measure the way of a sample to the screen."""
    delays = sample_to_screen_ms()
    late = float(np.quantile(delays, 0.95))
    return (f"sample to screen, ms at 95 % ({len(delays)} samples)", late, "< 150", late < 150 and len(delays) > 50)


def house_rows() -> list[Row]:
    """Measure the answers of a server that has kept a great deal."""
    rows: list[Row] = []
    for name, spent in answers_ms().items():
        most = 300 if name.startswith(("trends", "starts")) else 150
        rows.append((f"{name}, {FLIGHTS:,} flights kept, ms", spent, f"< {most}", spent < most))
    first, last = event_ms()
    rows.append(("an event confirmed at the beginning of a flight, ms at 95 %", first, "< 5", first < 5))
    rows.append(("an event confirmed after 3,000 others, ms at 95 %", last, "< 5", last < 5))
    return rows


def live_cost() -> float:
    """Return the share of one core that live guidance takes while the mixture is pulled: all that is worked out once a second, and
    the frame ten times."""
    leaning = next(one for seed in range(1, 200, 6) if (one := make_leaning(seed)).trace.rate_hz == 4.0)
    profile, trace = leaning.profile, leaning.trace
    body: dict = {"phase": "cruise"}
    state = fold(
        profile,
        [
            Event(id="1", kind="phase_entered", at_s=0, body=body, seq=1),
            Event(id="2", kind="engine_fired", at_s=0, body={"limit_s": 30.0}, seq=2),
        ],
    )
    readings = {name: float(values[-1]) for name, values in trace.columns.items()}
    now = Sample(at_s=float(trace.time_s[-1]), readings=readings, levers={})
    seconds = iter(range(1, 100))

    def one_second() -> None:
        second = next(seconds)
        recent = trace.part(0, len(trace) - second)  # each second has new samples: nothing is remembered
        evidence = evidence_of(recent, profile, {})
        follow_checks("f", profile, state, evidence)
        lean_working(evidence[1], state)
        asked = choices(profile, state, now) if second % 4 == 0 else ()
        worked = work_out(profile, state, recent, evidence, now, asked)
        for _ in range(10):
            describe(profile, state, now, now.at_s, worked=worked)

    one_second()  # what is loaded once is no part of each second
    start = time.perf_counter()
    for _ in range(8):
        one_second()
    return (time.perf_counter() - start) / 8


def main() -> int:
    """Measure, print, write docs/benchmarks.md; return 1 if a bar was missed."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--seed", type=int, default=1)
    seed = parser.parse_args().seed
    single, batch, loop_s = bench_speed(1, 60), bench_speed(256, 10), exponentials_s()
    reading, judging = judging_ratios()
    rows: list[Row] = [
        ("one engine against real time", single, ">= 1200", single >= 1200),
        ("batch of 256, engine-seconds a second", batch, ">= 6000", batch >= 6000),
        ("a million exponentials, ms", loop_s * 1000, "", True),
        ("one engine, engine-seconds in the time of a million exponentials", single * loop_s, "", True),
        ("batch of 256, engine-seconds in the time of a million exponentials", batch * loop_s, "", True),
        ("reading two hours against pandas reading them", reading, "<= 1.5", reading <= 1.5),
        ("reading and judging two hours against pandas reading them", judging, "<= 4", judging <= 4),
        *script_sizes(),
        *house_rows(),
        screen_row(),
        editor_row(),
        ("live guidance while leaning, share of one core", live := live_cost(), "< 0.1", live < 0.1),
        *run_up_rows(seed),
        *whole_run_up_rows(seed),
        *leaning_rows(seed),
        *strange_rows(seed),
        *strange_rows(seed + 1),
        *start_rows(seed),
        *trend_rows(seed),
        *take_off_rows(seed),
    ]
    out = io.StringIO()
    out.write(
        f"# Benchmarks\n\nMade by `make bench SEED={seed}` on {datetime.now(UTC):%Y-%m-%d}, strange data by seeds "
    )
    out.write(f"{seed} and {seed + 1}.\n\n")
    out.write("| what | value | bar | |\n|---|---|---|---|\n")
    for what, value, bar, is_met in rows:
        line = f"| {what} | {value:.4g} | {bar} | {'ok' if is_met else 'missed'} |"
        print(line)
        out.write(line + "\n")
    Path("docs/benchmarks.md").write_text(out.getvalue(), encoding="utf-8")
    return 0 if all(row[3] for row in rows) else 1


if __name__ == "__main__":
    raise SystemExit(main())
