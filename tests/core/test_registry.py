"""A new check is one module: put beside the others it is in judging, live, card, trends, pad, titles, method page and schema."""

import json
import sys
from pathlib import Path

import numpy as np
import pytest

from jemmon.core import judgement
from jemmon.core.aircraft import profile_from_json
from jemmon.core.base.errors import ProfileError
from jemmon.core.flight.fold import fold
from jemmon.core.judgement.judge import evidence_of, judge
from jemmon.core.judgement.method import methods
from jemmon.core.judgement.registry import check_names, checks, not_judged, profile_schema, title_of
from jemmon.core.judgement.trend import FlownFindings, trend_rows
from jemmon.core.live.checks import follow_checks
from jemmon.core.screen.cards import summarise
from jemmon.core.trace import Trace
from tests.core.builders import PROFILES, changed, events, find_item, screen_of
from tests.corpora.kept_judgement import FOLDER

A = PROFILES["a-trainer"]
MODULE = '''"""A check that only this test knows: the bus at run-up speed."""

from ..trace.finding import LOOK, Finding, Reasons
from .check import TYPE, Check, Evidence, Field, Ripe, Rule, Shown, TrendFigure


def find(evidence):
    trace = evidence.trace
    volts = trace.signal("volts")
    if volts is None:
        return []
    figure, least = float(volts.min()), evidence.profile.limit("volts_charging_min_v")
    reasons = Reasons()
    if figure < least:
        reasons.add(LOOK, f"The bus fell to {figure:.1f} V.", "Look at the alternator.")
    limits = {"volts_charging_min_v": least}
    span = (trace.time_s[0], trace.time_s[-1])
    return [Finding.of("bus_check", span, reasons.outcome("The bus held."), {"lowest_v": figure}, limits)]


def typed(profile, figures, at_s):
    reasons = Reasons()
    return Finding.of("bus_check", (at_s, at_s), reasons.outcome("Read off."), {"lowest_v": figures["lowest_v"]}, {})


CHECK = Check(
    kind="bus_check",
    title="Bus held",
    place=55,
    find=find,
    measures="The lowest bus voltage.",
    rules=(Rule(LOOK, "below the charging figure", TYPE),),
    needs=("volts_charging_min_v",),
    ripe=Ripe(after_s=0.0),
    on_card=True,
    is_traced=True,
    shows=(Shown(measured="lowest_v", title="Lowest", unit="v"),),
    trends=(TrendFigure(id="bus", title="Lowest bus", unit="v", measured="lowest_v", limit="volts_charging_min_v", is_low=True),),
    fields=(Field(name="lowest_v", title="Lowest", unit="v"),),
    judge_typed=typed,
)
'''


@pytest.fixture
def bus_check(tmp_path: Path, monkeypatch):
    (tmp_path / "bus_check_of_a_test.py").write_text(MODULE)
    monkeypatch.setattr(judgement, "__path__", [*judgement.__path__, str(tmp_path)])
    checks.cache_clear()
    yield checks()["bus_check"]
    checks.cache_clear()
    sys.modules.pop("jemmon.core.judgement.bus_check_of_a_test", None)


def flown(volts: float) -> Trace:
    t = np.arange(0, 60, 0.5)
    return Trace(t, {"rpm": np.full(len(t), 1800.0), "volts_v": np.full(len(t), volts)})


def test_it_is_judged_from_a_record_and_live(bus_check):
    least = A.limit("volts_charging_min_v")
    for volts, verdict in ((least + 0.05, "within"), (least - 0.05, "look")):
        (finding,) = judge(flown(volts), A, ("bus_check",))
        assert finding.verdict == verdict
        made = follow_checks("f", A, fold(A, []), evidence_of(flown(volts), A, {}))
        assert [e.body["verdict"] for e in made if e.body["kind"] == "bus_check"] == [verdict]


def test_it_is_on_the_card_in_the_trends_and_on_the_page(bus_check):
    body = judge(flown(24.0), A, ("bus_check",))[0].to_json()
    state = fold(A, events(("phase_entered", {"phase": "run_up"}), ("finding", body)))
    card = summarise(A, state)
    assert [(row.title, row.verdict) for row in card.rows] == [("Bus held", "look")]
    (row,) = trend_rows(A, [FlownFindings(flight=f"f{k}", day="2026-01-01", findings=[body]) for k in range(3)])
    assert (row.title, row.limit) == ("Lowest bus", A.limit("volts_charging_min_v"))
    (page,) = [method for method in methods(A) if method.kind == "bus_check"]
    assert page.measured == "The lowest bus voltage."
    assert [limit.name for limit in page.limits] == ["volts_charging_min_v"]


def test_an_item_may_ask_for_it_and_the_pad_for_its_figures(bus_check):
    asking = changed("a-trainer", lambda body: find_item(body, "day").update(check="bus_check", manual="bus_check"))
    check_names(asking)
    typed = ("typed_reading", {"check": "bus_check", "lowest_v": 27.5})
    shown = screen_of(asking, fold(asking, events(typed)), None, 5.0)["item"]
    assert (shown["check_title"], [field["title"] for field in shown["fields"]]) == ("Bus held", ["Lowest"])
    assert [(f["title"], f["value"], f["unit"]) for f in shown["finding"]["figures"]] == [("Lowest", 27.5, "v")]


def test_its_title_and_its_name_are_known(bus_check):
    assert title_of("bus_check") == "Bus held"
    checks_of_item = str(profile_schema())
    assert "bus_check" in checks_of_item


def test_without_its_limit_it_is_unknown_and_the_profile_says_so(bus_check):
    def without(body):
        del body["limits"]["volts_charging_min_v"]
        find_item(body, "brakes")["check"] = "bus_check"

    bare = changed("a-trainer", without)
    (finding,) = judge(flown(27.5), bare, ("bus_check",))
    assert finding.verdict == "unknown"
    assert "volts_charging_min_v" in finding.because
    assert "Bus held" in [row.title for row in not_judged(bare)]


def test_without_the_module_nothing_of_it_is_left():
    assert "bus_check" not in checks()
    asking = changed("a-trainer", lambda body: find_item(body, "day").update(check="mag_chek"))
    with pytest.raises(ProfileError, match="did you mean 'mag_check'"):
        check_names(asking)
    assert profile_from_json(dict(A.body)).id == "a-trainer"


def test_every_limit_that_a_figure_is_drawn_against_is_one_that_its_findings_name():
    """By the findings of the kept traces; what one side has of its own is the mixed ignition's."""
    kept = json.loads((FOLDER / "judged.json").read_text(encoding="utf-8"))
    named: dict[str, set[str]] = {}
    for judged in kept.values():
        for finding in judged["findings"]:
            named.setdefault(finding["kind"], set()).update(finding["limits"])
    drawn = 0
    for check in checks().values():
        for row in check.shows:
            for limit in (*row.most, *row.least):
                drawn += 1
                assert limit in named[check.kind] or "_left_" in limit or "_right_" in limit, (check.kind, limit)
    assert drawn > 10
