"""The method page says how each verdict is made: nothing that is judged may be missing from it, whatever the run-up."""

import pytest

from jemmon.core.judgement.judge import judge
from jemmon.core.judgement.method import methods
from jemmon.core.judgement.registry import checks
from jemmon.library.shipped import shipped_profiles
from tests.corpora.leanings import make_leaning
from tests.corpora.whole_run_ups import make_run_up

DESCRIBED = {method.kind: {rule.verdict for rule in method.rules} for method in methods()}


def test_every_kind_that_is_looked_for_has_its_method():
    assert set(checks()) <= set(DESCRIBED)
    assert len(methods()) == len(DESCRIBED)


def test_every_verdict_of_random_faulty_run_ups_and_leanings_is_described():
    made = [make_run_up(seed) for seed in range(41_000, 41_008)]
    made += [make_leaning(seed) for seed in range(41_000, 41_003)]
    given = {(f.kind, f.verdict) for one in made for f in judge(one.trace, one.profile)}
    assert len(given) > 12
    assert [pair for pair in sorted(given) if pair[1] not in DESCRIBED[pair[0]]] == []


@pytest.mark.parametrize("name", shipped_profiles())
def test_the_limits_on_the_page_are_those_of_the_aircraft(name):
    profile = shipped_profiles()[name]
    shown = [limit for method in methods(profile) for limit in method.limits]
    for limit in shown:
        own = profile.limits[limit.name]
        assert (limit.value, limit.source, limit.note) == (own.value, own.source, own.note)
    assert {"oil_pressure_min_psi", "oil_pressure_time_s"} <= {limit.name for limit in shown}


def test_a_drop_limit_is_shown_where_the_type_has_one_and_nothing_without_a_profile():
    (magnetos,) = [method for method in methods(shipped_profiles()["a-trainer"]) if method.kind == "mag_check"]
    assert "mag_drop_max_rpm" in [limit.name for limit in magnetos.limits]
    assert all(method.limits == () for method in methods())
