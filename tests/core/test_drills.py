"""Drills by four scripted pilots: a good one, a hasty one, one who skips, one who does nothing. What each drill's first sentence
must rest on is written beside its pilots in tests/drills, and was read through by hand."""

import json
import random
import re
from contextlib import suppress
from dataclasses import replace
from datetime import date, timedelta
from pathlib import Path

import numpy as np
import pytest

from jemmon.core.base.errors import CoreError, DrillError, ScriptError
from jemmon.core.bench import Bench
from jemmon.core.bench.faults import BY_NAME
from jemmon.core.drills import SKILLS, PilotScript, draw, fly, score
from jemmon.core.drills.conditions import check_condition, holds
from jemmon.core.drills.debrief import debrief, says_of_step
from jemmon.core.drills.drill import HEALTHY, with_words, words_of
from jemmon.core.drills.flown import FlownDrill, Told
from jemmon.core.drills.pilot import ScriptedHands
from jemmon.core.drills.repeats import progress, repeat_of
from jemmon.core.drills.rules import KINDS as RULES
from jemmon.core.drills.schema import RULE_NEEDS
from jemmon.core.drills.score import WELL_FLOWN
from jemmon.core.drills.stage import Stage
from jemmon.core.judgement.registry import title_of
from jemmon.library.practice import drawn_drill, shipped_drills
from jemmon.library.shipped import shipped_profiles

PROFILES, ALL = shipped_profiles(), shipped_drills()
DRILLS = {name: body for name, body in ALL.items() if "surprise_of" not in body}
SURPRISES = sorted(ALL.keys() - DRILLS.keys())
PILOTS = {name: json.loads((Path("tests/drills") / f"{name}.json").read_text(encoding="utf-8")) for name in DRILLS}
BAD = ("hasty", "skips", "nothing")


def steps_of(name: str, pilot: str, seed: int) -> list[dict]:
    steps = [] if pilot == "nothing" else PILOTS[name][pilot]
    return with_words(steps, words_of(DRILLS[name], seed))


def flown_by(name: str, steps: list[dict], seed: int):
    drill = drawn_drill(ALL[name], seed)
    profile = PROFILES[drill.aircraft]
    return score(drill, fly(drill, profile.bench, PilotScript.from_json(steps), seed), profile)


@pytest.mark.parametrize("name", sorted(DRILLS))
def test_a_drill_by_its_four_pilots(name):
    good = flown_by(name, steps_of(name, "good", 1), 1)
    assert (good.fact, good.total >= 95) == (WELL_FLOWN, True), good
    bad = {pilot: flown_by(name, steps_of(name, pilot, 1), 1) for pilot in BAD}
    assert all(one.total < 90 for one in bad.values()), {pilot: one.total for pilot, one in bad.items()}
    assert bad["nothing"].total <= min(bad["hasty"].total, bad["skips"].total)
    assert {pilot: one.fact for pilot, one in bad.items()} == PILOTS[name]["first"]
    assert all(one.first for one in bad.values())
    assert good.by_skill.keys() == bad["nothing"].by_skill.keys() <= SKILLS.keys()


@pytest.mark.parametrize("name", sorted(DRILLS))
def test_a_good_pilot_is_good_with_another_side_cylinder_and_moment(name):
    assert flown_by(name, steps_of(name, "good", 7), 7).fact == WELL_FLOWN


def test_there_are_thirty_drills_and_more_and_every_fault_of_the_engine_is_in_one():
    assert len(DRILLS) >= 30
    used = set()
    for body in DRILLS.values():
        for choice in range(24):
            drawn = draw(body, choice)
            used |= {step["fault"].removeprefix("e2_") for step in (*drawn.begins, *drawn.happens) if "fault" in step}
    assert {name if name in BY_NAME else re.sub(r"_\d+$", "", name) for name in used} == BY_NAME.keys()


def test_the_same_seed_gives_the_same_score_and_another_one_another_cylinder():
    steps = steps_of("rough-cylinder", "skips", 3)
    assert flown_by("rough-cylinder", steps, 3) == flown_by("rough-cylinder", steps, 3)
    assert len({draw(DRILLS["rough-cylinder"], seed).cause for seed in range(30)}) == 4


@pytest.mark.parametrize("name", sorted(DRILLS))
def test_a_drill_names_what_its_aircraft_has(name):
    drill = draw(DRILLS[name], 1)
    profile = PROFILES[drill.aircraft]
    assert drill.phase in {phase.id for phase in profile.phases}
    assert not drill.cause or drill.cause in drill.causes
    assert not drill.check or title_of(drill.check) != drill.check, "no page of the method"
    assert drill.aim
    assert drill.title


def test_what_a_drill_asks_for_is_on_the_screen_and_a_surprise_tells_nothing_by_it():
    assert "fp_psi" in draw(DRILLS["engine-pump"], 1).needles
    assert draw(DRILLS["no-oil-pressure"], 1).needles == ("oil_p_psi", "rpm"), "what its rules read"
    assert len({drawn_drill(ALL["surprise-fast-cruise"], seed).needles for seed in range(30)}) == 1


@pytest.mark.parametrize("name", sorted(name for name in DRILLS if draw(DRILLS[name], 1).settle_s > 0))
def test_a_drill_with_a_running_engine_begins_with_one_that_runs_well(name):
    drill = draw(DRILLS[name], 1)
    flown = fly(replace(drill, length_s=5.0, happens=()), PROFILES[drill.aircraft].bench, PilotScript.from_json([]), 1)
    speed = flown.columns.get("rpm", flown.columns.get("rpm_pct"))
    assert speed[0] > (20 if "rpm_pct" in flown.columns else 500)
    assert flown.columns["ff_gph"][0] > 0.3
    assert flown.columns.get("fp_psi", np.array([9.0]))[0] > 0.3


@pytest.mark.parametrize("name", SURPRISES)
def test_in_one_of_four_surprises_nothing_happens_and_to_say_so_is_right(name):
    drawn = {seed: drawn_drill(ALL[name], seed) for seed in range(200)}
    quiet = [seed for seed, drill in drawn.items() if drill.cause == HEALTHY and not drill.happens]
    assert 30 <= len(quiet) <= 70  # 50 expected; binomial, beyond three sigma
    assert len({drill.cause for drill in drawn.values()}) > 2
    assert len({drill.title for drill in drawn.values()}) == 1, "its title tells nothing"
    assert len({tuple(drill.causes) for drill in drawn.values()}) == 1, "what may be named tells nothing"
    calm = [{"at": 20, "say": HEALTHY}, {"at": 21, "decide": "go_on"}, {"at": 22, "end": True}]
    assert flown_by(name, calm, quiet[0]).total == 100
    assert flown_by(name, [{"at": 20, "decide": "land_soon"}, {"at": 21, "end": True}], quiet[0]).total == 0


def test_of_all_surprises_a_quarter_is_quiet():
    drawn = [drawn_drill(ALL[name], seed) for name in SURPRISES for seed in range(1000, 1000 + 900 // len(SURPRISES))]
    assert 0.20 < np.mean([drill.cause == HEALTHY for drill in drawn]) < 0.30  # beyond three sigma


def test_who_ends_a_drill_before_anything_happened_has_noticed_nothing():
    early = [{"at": 1, "say": "alternator"}, {"at": 2, "decide": "taxi_back"}, {"at": 3, "set": {"throttle": 0.1}}]
    found = flown_by("no-charge", [*early, {"at": 4, "end": True}], 1)
    assert (found.cue_s, found.by_skill["notice"], found.fact) == (None, 0, "seen_late")


def test_who_names_every_cause_has_named_the_last():
    steps = [{"at": 10 + n, "say": cause} for n, cause in enumerate(["magneto", "plug", "healthy"])]
    assert flown_by("dead-magneto", steps, 1).by_skill["cause"] == 0
    assert flown_by("dead-magneto", [*steps, {"at": 20, "say": "magneto"}], 1).by_skill["cause"] == 100


@pytest.mark.parametrize(("moment_s", "share"), [(31.9, 1.0), (45.1, 0.0)])
def test_in_time_counts_from_the_moment_when_it_could_be_seen(moment_s, share):
    """The engine without oil pressure: the clock runs from its first fire, whenever that is: 32 s whole, 45 s nothing."""
    begins = [{"at": 2, "set": {"starter": True}}, {"when": {"of": "rpm", "above": 505}, "set": {"starter": False}}]
    found = flown_by("no-oil-pressure", [*begins, {"after_s": moment_s - 0.5, "set": {"mixture": 0.0}}], 1)
    own = next(rule for rule in found.rules if rule.fact == "seen_late")
    assert own.share == pytest.approx(share, abs=0.15)


def test_how_late_it_was_noticed_counts_from_the_moment_when_it_could_be_seen():
    found = flown_by("engine-pump", [{"at": 40, "set": {"pump": True}}, {"at": 50, "end": True}], 1)
    assert [one.after_s for one in found.noticed] == [pytest.approx(40 - found.cue_s, abs=0.6)]
    assert 10 < found.cue_s < 35


def columns(**named) -> FlownDrill:
    rows = len(next(iter(named.values())))
    return FlownDrill(np.arange(rows) / 4, {name: np.asarray(column) for name, column in named.items()}, (), ())


@pytest.mark.parametrize(
    ("condition", "expected"),
    [
        ({"of": "rpm", "above": 1000}, [False, False, True]),
        ({"of": "rpm", "above": 999}, [False, True, True]),
        ({"of": "rpm", "below": 1000}, [True, False, False]),
        ({"of": "rpm", "above": 900, "below": 1001}, [False, True, False]),
        ({"of": "mag", "is": "L"}, [False, True, False]),
        ({"not": {"of": "mag", "is": "L"}}, [True, False, True]),
        ({"all": [{"of": "mag", "is": "L"}, {"of": "rpm", "above": 1000}]}, [False, False, False]),
        ({"any": [{"of": "mag", "is": "L"}, {"of": "rpm", "above": 1000}]}, [False, True, True]),
        ({"say": "plug"}, [False, False, False]),
    ],
)
def test_conditions_read_columns_and_moments_alike(condition, expected):
    rows = {"rpm": [800.0, 1000.0, 1200.0], "mag": np.array(["BOTH", "L", "BOTH"], dtype=object)}
    check_condition(condition, "here")
    assert np.broadcast_to(holds(condition, columns(**rows).values()), 3).tolist() == expected
    for row, value in enumerate(expected):
        assert bool(holds(condition, {name: column[row] for name, column in rows.items()})) is value


def test_a_word_counts_until_the_next_of_its_kind():
    flown = FlownDrill(
        np.arange(5.0), {}, (Told(1, "say", "plug"), Told(2, "decide", "go_on"), Told(3, "say", "oil")), ()
    )
    values = flown.values()
    assert values["said:plug"].tolist() == [0, 1, 1, 0, 0]
    assert values["said:*"].tolist() == [0, 1, 1, 1, 1]
    assert values["decided:go_on"].tolist() == [0, 0, 1, 1, 1]


def test_a_last_word_counts_though_no_needle_was_kept_after_it():
    flown = FlownDrill(np.arange(3.0), {}, (Told(2.4, "decide", "go_on"),), ())
    assert flown.values()["decided:go_on"].tolist() == [0, 0, 1]


def done_at(steps: list[dict], rpm: list[float]) -> list[tuple[int, str]]:
    hands = ScriptedHands(PilotScript.from_json(steps))
    return [(at_s, step["say"]) for at_s, value in enumerate(rpm) for step in hands.due(at_s, {"rpm": value})]


def test_a_scripted_pilot_waits_and_goes_on():
    waits = {"when": {"of": "rpm", "above": 900}, "within_s": 2, "say": "seen"}
    then = {"after_s": 1, "say": "then"}
    assert done_at([waits, then], [0, 950, 0, 0]) == [(1, "seen"), (2, "then")]
    assert done_at([waits, then], [0, 0, 0, 950]) == [(3, "then")], "left out after two seconds"
    assert done_at([{"at": 3, "say": "b"}, {"at": 1, "say": "a"}], [0] * 5) == [(1, "a"), (3, "b")]


@pytest.mark.parametrize(
    ("steps", "says"),
    [
        ({}, "list of steps"),
        ([{"set": {}}], "Step 1 needs one of"),
        ([{"at": 1, "when": {"of": "rpm", "above": 1}}], "Step 1 needs one of"),
        ([{"at": 1, "fault": "dead_alternator"}], "the drill sets faults"),
        ([{"at": -1}], "must be at least 0"),
        ([{"when": {"of": "rpm"}}], "no above, below or is"),
        ([{"at": 1, "say": "gremlins"}], "no 'gremlins' to say"),
        ([{"at": 1, "set": {"flaps": 1}}], "no lever 'flaps'"),
        ([{"when": {"of": "torque_nm", "above": 1}}], "no signal and no lever 'torque_nm'"),
        ([{"when": {"of": "mag", "above": 1}}], "'mag' has places, no figures"),
        ([{"at": 1, "set": {"mixture": None}}], "cannot be set to None"),
        ([{"at": 1, "set": {"mixture": [1]}}], "cannot be set to [1]"),
    ],
)
def test_a_script_that_a_pilot_cannot_do_is_refused_in_words(steps, says):
    with pytest.raises(ScriptError, match=re.escape(says)):
        flown_by("dead-magneto", steps, 1)


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"rules": []}, "rules: [] should be non-empty"),
        ({"level": 4}, "level: 4 is not one of [1, 2, 3]"),
        ({"length_s": 2}, "length_s: 2 is less than the minimum of 5"),
        ({"speed": 1}, "'speed' was unexpected"),
        ({"cause": "gremlins"}, "not among those"),
        ({"decisions": ["panic"]}, "decisions.0: 'panic' is not one of"),
        ({"happens": [{"fault": "dead_alternator"}]}, "happens.0"),
        (
            {"rules": [{"fact": "a", "rule": "luck", "skill": "order", "instead": "x"}]},
            "rules.0.rule: 'luck' is not one of",
        ),
        (
            {"rules": [{"fact": "a", "rule": "done", "skill": "speed", "instead": "x", "what": {"say": "*"}}]},
            "rules.0.skill: 'speed' is not one of",
        ),
        (
            {"rules": [{"fact": "a", "rule": "within", "skill": "stop", "instead": "x", "what": {}}]},
            "'good_s' is a required",
        ),
        ({"cue": {"of": "rpm"}}, "no above, below or is"),
        ({"cue": {"say": 3}}, "hold a word"),
    ],
)
def test_a_drill_that_is_not_one_is_refused_in_words(change, says):
    with pytest.raises(DrillError, match=re.escape(says)):
        draw({**DRILLS["no-charge"], **change}, 1)


@pytest.mark.parametrize(
    ("flown", "days", "is_due"),
    [
        ([59], 0, True),
        ([60], 0, False),
        ([60], 1, True),
        ([84], 1, True),
        ([85], 2, False),
        ([85], 3, True),
        ([85, 85], 5, False),
        ([85, 85], 6, True),
        ([40, 90, 90, 90], 12, True),
        ([90, 90, 40], 0, True),
        ([100] * 9, 59, False),
        ([100] * 9, 60, True),
    ],
)
def test_what_was_missed_comes_back_soon_and_what_was_flown_well_later_and_later(flown, days, is_due):
    day = date(2026, 3, 1)
    found = repeat_of([(day, value) for value in flown], day + timedelta(days=days))
    assert (found.is_due, found.last, found.best, found.times) == (is_due, flown[-1], max(flown), len(flown))


def test_a_drill_never_flown_does_not_come_back_and_skills_count_the_last_ten():
    assert repeat_of([], date(2026, 3, 1)) is None
    skills = [{"cause": 0}] * 5 + [{"cause": 100, "stop": 40}] * 10
    found = {
        one.skill: (one.mean, one.of) for one in progress(skills, {"cause": "Cause", "stop": "Stop", "order": "Order"})
    }
    assert found == {"cause": (100, 10), "stop": (40, 10)}


def test_what_happened_before_a_restart_does_not_happen_again():
    drill = draw(DRILLS["find-the-control"], 1)
    bench = Bench(PROFILES[drill.aircraft].bench)
    stage = Stage(drill, bench, happened=[0, 1])
    stage.play(79.0, {})
    assert [one.place for one in stage.happened] == [2, 3]


def test_the_debrief_tells_what_was_true_done_and_right_in_order_of_time():
    drill = draw(DRILLS["engine-pump"], 1)
    profile = PROFILES[drill.aircraft]
    steps = PilotScript.from_json(
        [{"at": 100, "set": {"pump": True}}, {"at": 101, "say": "fuel"}, {"at": 110, "end": True}]
    )
    found, scored = debrief(drill, fly(drill, profile.bench, steps, 1), profile)
    told = {kind: [line.says for line in found.lines if line.kind == kind] for kind in ("true", "done", "method")}
    assert told["true"] == ["The pump that the engine drives gives half its pressure."]
    assert told["done"] == ["Fuel pump: on", "Named: The tank is empty"]
    assert found.first in told["method"]
    assert [line.at_s for line in found.lines] == sorted(line.at_s for line in found.lines)
    assert found.again_s == pytest.approx(scored.cue_s - 15)
    assert found.cause == "The engine's own pump"


@pytest.mark.parametrize(
    ("moves", "told"),
    [
        ([(40, 0.90)], ["Mixture: 85 → 90 %"]),
        ([(40, 0.90), (41, 0.80)], ["Mixture: 85 → 80 %"]),  # within a second and a half it is one move
        ([(40, 0.90), (42, 0.80)], ["Mixture: 85 → 90 %", "Mixture: 90 → 80 %"]),
        ([(40, 0.82)], []),  # a twenty-fifth of the travel is a nudge
        ([(40, 0.80)], ["Mixture: 85 → 80 %"]),
    ],
)
def test_the_debrief_tells_a_levers_whole_moves(moves, told):
    drill = draw(DRILLS["engine-pump"], 1)
    profile = PROFILES[drill.aircraft]
    steps = [{"at": at_s, "set": {"mixture": lever}} for at_s, lever in moves]
    script = PilotScript.from_json([*steps, {"at": 60, "end": True}])
    found, _ = debrief(drill, fly(drill, profile.bench, script, 1), profile)
    done = [line for line in found.lines if line.kind == "done"]
    assert [line.says for line in done] == told
    assert not done or done[0].at_s == pytest.approx(40, abs=0.3)


@pytest.mark.parametrize(
    ("step", "says"),
    [
        ({"fault": "dead_plug_left_3"}, "The left plug of cylinder 3 misses every second spark."),
        ({"fault": "e2_dead_alternator_2"}, "The second alternator gives half its current."),
        ({"tell": "Go around."}, "Go around."),
        ({"set": {"governor": False}}, "Something changes by itself."),
    ],
)
def test_a_step_is_told_in_words(step, says):
    assert says_of_step(step) == says


def test_every_kind_of_rule_that_a_drill_may_name_is_scored():
    assert RULE_NEEDS.keys() == RULES.keys()


JUNK = (None, "x", -1, [], {}, [1], True, 1e99)


def places(value, path=()):
    """Yield the place of every part of plain data."""
    yield path
    rows = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for key, part in rows:
        yield from places(part, (*path, key))


def with_junk(body: dict, path: tuple, junk) -> dict:
    made = json.loads(json.dumps({**body, **({} if "surprise_of" in body else {"length_s": 5, "settle_s": 0})}))
    part = made
    for key in path[:-1]:
        part = part[key]
    part[path[-1]] = junk
    return made


@pytest.mark.parametrize("name", ["no-charge", "twin-rolling", "tank-run-dry", "lean-at-peak", "surprise-run-up"])
def test_whatever_is_wrong_with_a_drill_is_said_and_never_a_crash(name):
    chance = random.Random(name)
    for path in [one for one in places(ALL[name]) if one]:
        body = with_junk(ALL[name], path, chance.choice(JUNK))
        with suppress(CoreError):  # any other error is a crash, and fails here
            drill = drawn_drill(body, 1)
            profile = PROFILES.get(drill.aircraft)
            if profile is not None and drill.length_s <= 60:
                score(drill, fly(drill, profile.bench, PilotScript.from_json([]), 1), profile)
