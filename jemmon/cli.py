"""The command line. Imports are made where they are needed, to start quickly."""

import json
import os
import subprocess
import sys
from dataclasses import replace
from pathlib import Path
from typing import Any

import click


class _Refused(click.ClickException):
    """One clear line on standard error, exit code 2."""

    exit_code = 2

    def show(self, file: Any = None) -> None:
        click.echo(f"jemmon: {self.message}", err=True)


@click.group()
def main() -> None:
    """Jemmon stands beside the pilot of a piston aircraft."""


def _profile(aircraft: str) -> Any:
    """Return a shipped profile by its id, or the one in a file."""
    from .app.doors import profile_from
    from .core.base.errors import CoreError
    from .library.shipped import shipped_profiles

    known = shipped_profiles()
    if aircraft in known:
        return known[aircraft]
    if not Path(aircraft).is_file():
        raise _Refused(
            f"There is no aircraft {aircraft!r}; known are {', '.join(sorted(known))}, or name a profile's file."
        )
    try:
        return profile_from(_json_file(Path(aircraft)))
    except CoreError as error:
        raise _Refused(f"{aircraft}: {error}") from error


def _json_file(path: Path) -> Any:
    try:
        return json.loads(path.read_text(encoding="utf-8"))
    except OSError as error:
        raise _Refused(f"{path} cannot be read: {error.strerror}") from error
    except UnicodeDecodeError as error:
        raise _Refused(f"{path} is not UTF-8 text.") from error
    except json.JSONDecodeError as error:
        raise _Refused(f"{path} is not JSON: line {error.lineno}, column {error.colno}: {error.msg}") from error


@main.command()
@click.argument("trace", type=click.Path(path_type=Path))
@click.option("--aircraft", required=True, help="A shipped aircraft's id, or a profile's file.")
@click.option("--json", "as_json", is_flag=True, help="Print one JSON object.")
def judge(trace: Path, aircraft: str, as_json: bool) -> None:
    """Say what a recorded trace shows."""
    from .core.base.errors import CoreError
    from .core.judgement.judge import coarse_words
    from .core.judgement.judge import judge as judge_trace
    from .core.trace import read_trace_csv

    profile = _profile(aircraft)
    try:
        data = trace.read_bytes()
    except OSError as error:
        raise _Refused(f"{trace} cannot be read: {error.strerror}") from error
    try:
        read = read_trace_csv(data)
    except CoreError as error:
        raise _Refused(f"{trace}: {error}") from error
    for note in (*read.notes, *coarse_words(read)):
        click.echo(f"note: {note}", err=True)
    findings = [finding.published() for finding in judge_trace(read, profile)]
    if as_json:
        click.echo(json.dumps({"trace": read.summary(), "aircraft": profile.id, "findings": findings}))
        return
    for finding in findings:
        click.echo(f"{finding['start_s']:8.1f} s  {finding['kind']:16} {finding['verdict']:10} {finding['because']}")


@main.command()
@click.option("--aircraft", help="A shipped aircraft's id, or a profile's file.")
@click.option("--script", type=click.Path(path_type=Path), help="The bench script, JSON.")
@click.option("--out", type=click.Path(path_type=Path), help="Where the trace goes.")
@click.option("--truth", type=click.Path(path_type=Path), help="Where the noise-free state goes.")
@click.option("--rate", default=4.0, show_default=True, help="Samples a second.")
@click.option("--seed", default=1, show_default=True, help="The noise's seed.")
@click.option("--list", "list_all", is_flag=True, help="Print each aircraft's levers and faults.")
def bench(
    aircraft: str | None,
    script: Path | None,
    out: Path | None,
    truth: Path | None,
    rate: float,
    seed: int,
    list_all: bool,
) -> None:
    """Run the simulated engine without a screen."""
    from .core.base.errors import CoreError
    from .core.bench import BenchScript, run_script
    from .core.trace import Trace, write_trace_csv

    if list_all:
        _list_bench()
        return
    if not (aircraft and script and out):
        raise _Refused("bench needs --aircraft, --script and --out (or --list).")
    profile = _profile(aircraft)
    if profile.bench is None:
        raise _Refused(f"{aircraft} has no simulated engine yet.")
    try:
        run = run_script(BenchScript.from_json(_json_file(script)), profile.bench, rate, seed)
    except CoreError as error:
        raise _Refused(f"{script}: {error}") from error
    out.write_text(write_trace_csv(Trace(run.time_s, {**run.shown, **run.levers})), encoding="utf-8", newline="")
    if truth:
        truth.write_text(write_trace_csv(Trace(run.time_s, {**run.true, **run.levers})), encoding="utf-8", newline="")


def _list_bench() -> None:
    from .core.bench import ACTIONS, FAULTS, fault_names, lever_names
    from .library.shipped import shipped_profiles

    for profile in shipped_profiles().values():
        if profile.bench is None:
            continue
        click.echo(f"{profile.id}\n  levers: {', '.join([*lever_names(profile.bench), *ACTIONS])}\n  faults:")
        for name in fault_names(int(profile.engine["cylinders"])):
            kind = name.rsplit("_", 1)[0] if name.rsplit("_", 1)[-1].isdigit() else name
            click.echo(f"    {name}: {FAULTS[kind]} (size 0.5)")


@main.command()
@click.argument("drill", required=False)
@click.option("--list", "list_all", is_flag=True, help="Print one line a drill.")
@click.option("--pilot", type=click.Path(path_type=Path), help="The pilot's script, JSON; an empty list does nothing.")
@click.option("--score", "scored", is_flag=True, help="Print the score as one JSON object.")
@click.option("--seed", default=1, show_default=True, help="Draws what varies, and the noise of the needles.")
def drill(drill: str | None, list_all: bool, pilot: Path | None, scored: bool, seed: int) -> None:
    """Fly a drill on the simulated engine without a screen, and score it."""
    from .core.base.errors import CoreError
    from .core.drills import PilotScript, fly, score
    from .library.practice import drawn_drill, shipped_drills

    known = shipped_drills()
    if list_all:
        for body in known.values():
            click.echo(f"{body['id']}: {body['kind']}, level {body['level']}: {body['title']}. {body['aim']}")
        return
    if not (drill and pilot):
        raise _Refused("drill needs an ID and --pilot SCRIPT.json (or --list).")
    if drill not in known and not Path(drill).is_file():
        raise _Refused(f"There is no drill {drill!r}; `jemmon drill --list` names them, or name a drill's file.")
    body = known[drill] if drill in known else _json_file(Path(drill))
    script = _json_file(pilot)
    try:
        drawn = drawn_drill(body, seed)
        profile = _profile(drawn.aircraft)
        if profile.bench is None:
            raise _Refused(f"{profile.id} has no simulated engine.")
        found = score(drawn, fly(drawn, profile.bench, PilotScript.from_json(script), seed), profile)
    except CoreError as error:
        raise _Refused(f"{drill}, {pilot}: {error}") from error
    if scored:
        click.echo(json.dumps(found.published(seed), ensure_ascii=False))
        return
    click.echo(found.first)
    for rule in found.rules:
        click.echo(f"  {round(100 * rule.share):3d} %  {rule.fact.replace('_', ' ')}")


@main.command()
@click.option("--port", default=8400, show_default=True)
@click.option("--database", type=click.Path(path_type=Path), default=Path("data/jemmon.db"), show_default=True)
@click.option("--fast", is_flag=True, help="Allow 60 times real time (for tests).")
@click.option("--max-upload-mb", default=100, show_default=True, help="A larger trace file is refused.")
@click.option("--oat", default=15.0, show_default=True, help="Outside temperature at the simulated field, °C.")
@click.option("--weather-url", default="http://127.0.0.1:8410", show_default=True, help="Where METARs are asked for.")
@click.option(
    "--frame-s",
    type=click.FloatRange(0.02, 2.0),
    default=0.08,
    show_default=True,
    help="Least time between two frames, s.",
)
def serve(
    port: int, database: Path, fast: bool, max_upload_mb: int, oat: float, weather_url: str, frame_s: float
) -> None:
    """Start the application on 127.0.0.1."""
    from .app.settings import Settings

    speeds = (1, 4, 10, 60) if fast else (1, 4, 10)
    settings = Settings(database=database, most_upload_bytes=max_upload_mb * 1_000_000, speeds=speeds, oat_c=oat)
    _serve(replace(settings, weather_url=weather_url, frame_s=frame_s), port)


@main.command()
@click.option("--port", default=8410, show_default=True)
@click.option("--mode", type=click.Choice(["ok", "slow", "nonsense"]), default="ok", show_default=True)
def weather(port: int, mode: str) -> None:
    """Run the small simulated weather service on 127.0.0.1."""
    from .demo.weather_service import serve_weather

    try:
        serve_weather(port, mode)
    except OSError as error:
        raise _Refused(f"Port {port} cannot be taken: {error.strerror}; name another with --port.") from error


@main.command()
@click.option("--aircraft", default="a-trainer", show_default=True, help="An aircraft with a simulated engine.")
@click.option("--port", default=8420, show_default=True)
@click.option("--script", type=click.Path(path_type=Path), help="A bench script; without one, a whole demo flight.")
@click.option("--speed", default=1.0, show_default=True, help="So many times real time.")
def device(aircraft: str, port: int, script: Path | None, speed: float) -> None:
    """Run the simulated engine instrument: JSON Lines over TCP on 127.0.0.1."""
    from .core.base.errors import CoreError
    from .demo.device import serve_device

    found = _profile(aircraft)
    if found.bench is None:
        raise _Refused(f"{found.id} has no simulated engine yet; take a-trainer.")
    try:
        serve_device(found, port, _json_file(script) if script else None, speed)
    except CoreError as error:
        raise _Refused(f"{script}: {error}") from error
    except OSError as error:
        raise _Refused(f"Port {port} cannot be taken: {error.strerror}; name another with --port.") from error


@main.group("profile")
def profile_group() -> None:
    """Aircraft profiles: check, export in canonical form, print the schema."""


@profile_group.command()
@click.argument("aircraft")
def check(aircraft: str) -> None:
    """Say whether a profile is complete and consistent."""
    found = _profile(aircraft)
    lists = sum(len(phase.lists) for phase in found.phases)
    click.echo(
        f"{found.id}: {len(found.limits)} limits, {lists} lists, {len(found.items)} items; content {found.content_hash}"
    )


@profile_group.command()
@click.argument("aircraft")
def export(aircraft: str) -> None:
    """Print a profile as JSON in canonical form."""
    from .core.aircraft.profile import canonical_json

    click.echo(canonical_json(_profile(aircraft).body), nl=False)


@profile_group.command("import")
@click.argument("file")
@click.option(
    "--into", "into", help="The file is a list as text (Markdown or plain): put it into this aircraft's profile."
)
@click.option("--database", type=click.Path(path_type=Path), default=Path("data/jemmon.db"), show_default=True)
def import_(file: str, into: str | None, database: Path) -> None:
    """Read a profile, or the lists of one as text, into a database; the application knows it at its next start."""
    from datetime import UTC, datetime

    from .store.aircraft import put_aircraft

    kept = _opened(database)
    found = _profile(file) if into is None else _with_lists(Path(file), into, kept)
    with kept.writing() as db:
        put_aircraft(db, found, datetime.now(UTC).isoformat(timespec="seconds"))
    kept.close()
    click.echo(f"{found.id} is read in; content {found.content_hash}")


def _with_lists(path: Path, aircraft: str, database: Any) -> Any:
    """Return an aircraft's profile, the one in the database where it has one, with the lists of a text in the place of its own."""
    from .app.doors import profile_from
    from .core.aircraft.list_text import KEPT, KNOWN, OWN, lists_from_text
    from .core.base.errors import CoreError
    from .library.shipped import item_library
    from .store.aircraft import imported_aircraft

    with database.reading() as db:
        profile = next((one for one in imported_aircraft(db) if one.id == aircraft), None) or _profile(aircraft)
    try:
        made = lists_from_text(path.read_text(encoding="utf-8"), profile.body, item_library())
        found = profile_from(made.body)
    except OSError as error:
        raise _Refused(f"{path} cannot be read: {error.strerror}") from error
    except UnicodeDecodeError as error:
        raise _Refused(f"{path} is not UTF-8 text.") from error
    except CoreError as error:
        raise _Refused(f"{path}: {error}") from error
    counts = f"{made.count(KEPT)} as they were, {made.count(KNOWN)} from the library, {made.count(OWN)} of your own"
    click.echo(f"{len(made.found)} items: {counts}.")
    return found


@main.command()
@click.argument("aircraft")
@click.option("--size", type=click.Choice(["A5", "A6", "knee", "A4-folded"]), default="A5", show_default=True)
@click.option("--large", is_flag=True, help="In large print.")
@click.option("--night", is_flag=True, help="Red on black.")
@click.option("--pdf", "file", type=click.Path(path_type=Path), required=True, help="Where the PDF goes.")
def card(aircraft: str, size: str, large: bool, night: bool, file: Path) -> None:
    """Write an aircraft's card for paper: lists, run-up blanks, prime and power, emergency on the back."""
    from datetime import date

    from .app.paper import CardAsked, card_pdf

    asked = CardAsked(size=size, large=large, night=night, day=date.today().isoformat())
    try:
        file.write_bytes(card_pdf(_profile(aircraft), asked))
    except OSError as error:
        raise _Refused(f"{file} cannot be written: {error.strerror}") from error
    click.echo(f"{file} is written.")


@profile_group.command("lists")
@click.argument("aircraft")
@click.option("--markdown", is_flag=True, default=True, help="As Markdown (there is no other form).")
def lists_of(aircraft: str, markdown: bool) -> None:
    """Print an aircraft's lists as Markdown, to be changed and read in again."""
    from .core.aircraft.list_text import lists_as_text

    click.echo(lists_as_text(_profile(aircraft).body), nl=False)


@profile_group.command()
def schema() -> None:
    """Print the JSON Schema (draft 2020-12) of a profile."""
    from .core.judgement.registry import profile_schema

    click.echo(json.dumps(profile_schema(), indent=2))


@main.command()
def openapi() -> None:
    """Print the OpenAPI description of the web interface."""
    from .api import create_app  # noqa: F401  (its routes register themselves)
    from .api.contract import openapi_text

    click.echo(openapi_text(), nl=False)


@main.command()
def method() -> None:
    """Print how each verdict is made, as docs/method.md has it."""
    from .core.judgement.method import method_text

    click.echo(method_text(), nl=False)


@main.command()
@click.option("--port", default=8400, show_default=True)
@click.option("--fresh", is_flag=True, help="Make the demo database anew.")
@click.option("--database", type=click.Path(path_type=Path), default=Path("data/demo.db"), show_default=True)
@click.option(
    "--device", "with_device", is_flag=True, help="Run the simulated engine instrument too, and listen there."
)
def demo(port: int, fresh: bool, database: Path, with_device: bool) -> None:
    """Start the application with demo data and a simulated engine ready to start."""
    from .app.settings import Settings
    from .demo.flying_group import build_demo
    from .library.shipped import shipped_profiles
    from .store.settings import DeviceAddress, set_device_address

    if fresh:
        _begin_anew(database)
    kept = _opened(database)
    build_demo(kept, shipped_profiles(), only=5)
    children = [[sys.executable, "-m", "jemmon.cli", "demo-flights", "--database", str(database)]]
    children += [[sys.executable, "-m", "jemmon.cli", "weather", "--port", str(service_port := _free_port(8410))]]
    if with_device:
        device_port = _free_port(8420)
        children.append([sys.executable, "-m", "jemmon.cli", "device", "--port", str(device_port)])
        with kept.writing() as db:
            set_device_address(db, DeviceAddress(host="127.0.0.1", port=device_port))
        click.echo(f"The simulated instrument is on port {device_port}: choose “Begin with an instrument”.")
    kept.close()
    click.echo(f"The demo's flights are in {database}; those that are missing are flown on the bench meanwhile.")
    running = [subprocess.Popen(command) for command in children]
    try:
        _serve(Settings(database=database, weather_url=f"http://127.0.0.1:{service_port}"), port)
    finally:
        for child in running:
            child.terminate()


@main.command("hear")
@click.argument("wav", type=click.Path(path_type=Path))
@click.option("--aircraft", help="Its cylinders, blades and gear.")
@click.option("--blades", type=click.IntRange(1, 8))
@click.option("--cylinders", type=click.IntRange(1, 28))
@click.option(
    "--gear",
    type=click.FloatRange(0.5, 6.0),
    default=1.0,
    show_default=True,
    help="Crank turns to one of the propeller.",
)
@click.option("--tap", "taps", multiple=True, help="SECONDS:RPM, what the needle showed then.")
@click.option("--out", type=click.Path(path_type=Path), help="Where the trace goes; else it is printed.")
@click.option("--json", "as_json", is_flag=True)
def hear_(
    wav: Path,
    aircraft: str | None,
    blades: int | None,
    cylinders: int | None,
    gear: float,
    taps: tuple[str, ...],
    out: Path | None,
    as_json: bool,
) -> None:
    """Tell RPM by ear from a WAV: `time_s,rpm,rpm_plus_minus,heard` at 4 Hz, rpm empty where it is unsure."""
    from .core.base.errors import CoreError
    from .core.hearing.hear import hear
    from .core.hearing.rows import as_csv, as_rows
    from .core.hearing.tap import tap_from
    from .core.hearing.wav import samples_of

    try:
        engine = _heard_engine(aircraft, cylinders, blades, gear)
        samples, rate_hz = samples_of(_few_bytes(wav))
        heard = hear(samples, rate_hz, engine, tuple(tap_from(tap) for tap in taps))
    except OSError as error:
        raise _Refused(f"{wav} cannot be read: {error.strerror}") from error
    except CoreError as error:
        raise _Refused(str(error)) from error
    if heard.why:
        click.echo(heard.why, err=True)
    text = json.dumps({"why": heard.why, "rows": as_rows(heard)}) if as_json else as_csv(heard)
    if out is None:
        click.echo(text, nl=as_json)
        return
    try:
        out.write_text(text, encoding="utf-8")
    except OSError as error:
        raise _Refused(f"{out} cannot be written: {error.strerror}") from error


def _heard_engine(aircraft: str | None, cylinders: int | None, blades: int | None, gear: float) -> Any:
    """Return what makes the sound: an aircraft's engine, or the cylinders and blades that were named."""
    from .core.hearing.comb import Engine
    from .core.hearing.ear import engine_of_type

    if aircraft is not None:
        return engine_of_type(_profile(aircraft))
    if cylinders is None or blades is None:
        raise _Refused("Name the aircraft with --aircraft, or its --cylinders and --blades.")
    return Engine(cylinders=cylinders, blades=blades, gear=gear)


def _few_bytes(wav: Path) -> bytes:
    """Return what a sound file holds, a byte more than is read at most: the reader says so."""
    from .core.hearing.wav import MOST_BYTES

    with wav.open("rb") as file:
        return file.read(MOST_BYTES + 1)


@main.command("demo-flights", hidden=True)
@click.option("--database", type=click.Path(path_type=Path), required=True)
def demo_flights(database: Path) -> None:
    """Fly the demo flights that are still missing, beside the application that shows them."""
    from .demo.flying_group import build_demo
    from .library.shipped import shipped_profiles

    os.nice(10)
    kept = _opened(database)
    build_demo(kept, shipped_profiles())
    kept.close()


def _opened(database: Path) -> Any:
    from .store.database import Database, DatabaseUnusable

    try:
        return Database(database)
    except DatabaseUnusable as error:
        raise _Refused(str(error)) from error


def _begin_anew(database: Path) -> None:
    """Delete exactly the demo's database; one with flights that are not the demo's is moved aside, and said so."""
    from datetime import datetime

    from .demo.flying_group import is_demo
    from .store.database import DatabaseUnusable
    from .store.lock import DatabaseInUse, DatabaseLock

    try:
        DatabaseLock(database).release()
    except (DatabaseInUse, DatabaseUnusable) as error:
        raise _Refused(str(error)) from error
    own = [database, *(database.with_name(f"{database.name}{end}") for end in ("-wal", "-shm", ".lock"))]
    if database.exists() and not is_demo(database):
        aside = database.with_name(f"{database.stem}.kept-{datetime.now():%Y%m%d-%H%M%S}{database.suffix}")
        for path in own[:3]:
            if path.exists():
                path.rename(aside.with_name(aside.name + path.name.removeprefix(database.name)))
        click.echo(f"{database} holds flights that are not the demo's: it is kept as {aside}.")
    for path in own:
        path.unlink(missing_ok=True)


def _serve(settings: Any, port: int) -> None:
    from .api import create_app
    from .app.serving import configure_logging, serve_app
    from .store.database import DatabaseUnusable
    from .store.lock import DatabaseInUse

    chosen = _free_port(port)
    if chosen != port:
        click.echo(f"Port {port} is taken; taking {chosen}.")
    log = configure_logging(settings.database)
    _warm()  # so that the first flight does not wait for it
    try:
        app = create_app(settings)
    except (DatabaseUnusable, DatabaseInUse) as error:
        raise _Refused(str(error)) from error
    app.extensions["hangar"].lock.say(f"process {os.getpid()}, http://127.0.0.1:{chosen}")
    click.echo(f"Jemmon is at http://127.0.0.1:{chosen} (stop with Ctrl+C); its log is {log}")
    sys.stdout.flush()
    serve_app(app, chosen, settings.most_upload_bytes, app.extensions["streams"].stop)
    app.extensions["hangar"].close()
    click.echo("Jemmon has stopped; everything is kept.")


def _free_port(port: int) -> int:
    from .app.serving import free_port

    found = free_port(port)
    if found is None:
        raise _Refused(f"Ports {port} to {port + 19} are all taken; name another with --port.")
    return found


@main.command()
def warm() -> None:
    """Compile the simulated engine, so that nobody waits for it later."""
    _warm()
    click.echo("The simulated engine is compiled.")


@main.command()
def lists() -> None:
    """Print what the shipped lists hold, by phase and kind (docs/lists.md)."""
    from .library.counted import lists_page
    from .library.shipped import shipped_profiles

    click.echo(lists_page(shipped_profiles()), nl=False)


def _warm() -> None:
    from .core.bench import Bench, Sensors
    from .library.shipped import shipped_profiles

    for profile in shipped_profiles().values():
        if profile.bench is not None:
            engine = Bench(profile.bench)
            engine.advance(0.1)
            engine.true_readings()
            Sensors(engine, [1]).read(0.1)


if __name__ == "__main__":
    main()
