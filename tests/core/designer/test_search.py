"""The search: its bounds prune nothing that could win, it is the same for the same seed, and near the best there is."""

from __future__ import annotations

from dataclasses import replace

import pytest

from canopy.designer.lamps import Screen, lamp_kinds, worth_trying
from canopy.designer.search import KINDS, Search
from tests.core.designer.conftest import answering, asked

CLASSES = ("board-100", "bar-30-fruit")


def _small(search: Search) -> Search:
    """The same search over so few choices that all of them can be tried."""
    rows = search.choices
    assert rows is not None
    few = replace(rows, lamps=rows.lamps[:3], vents=rows.vents[:4], flows=(1.0, 1.7), controls=(False,))
    return Search(search.maker, search.limits, choices=replace(few, equips=("today",)))


def test_it_comes_within_three_parts_of_a_hundred_of_the_best_there_is(peppers):
    brute = _small(peppers.search)
    brute.most = len(brute.choices)
    brute.run()
    assert len(brute.tried) >= 30
    quick = _small(peppers.search)
    quick.most = 14
    quick.run()
    assert len(quick.tried) < 0.75 * len(brute.tried)
    for kind in KINDS:
        best, found = (item.score(kind, item.best(kind).figures) for item in (brute, quick))
        assert found <= 1.03 * best, kind


def test_what_a_plan_costs_is_never_less_than_its_bound(peppers):
    search = peppers.search
    for item in search.tried:
        for kind in KINDS:
            assert search._bound(kind, item.choice) <= search.score(kind, item.figures) + 1e-6, (kind, item.choice.key)


def test_the_screen_passes_over_no_lamps_that_would_be_thriftiest(peppers):
    level, household = peppers.search.maker.level, peppers.household
    kinds = lamp_kinds(level, 1.0, classes=("board-65", "board-100", "bar-30", "bar-30-fruit", "strip-18"))
    month = 5.0
    screen = Screen(level, kinds, month)
    for _ in screen.steps():
        pass
    whole = Screen(level, kinds, month)
    whole._hopeless = lambda kind: False
    for _ in whole.steps():
        pass
    assert screen.passed_over > 0
    assert household.spaces == ()

    def least(found, figure):
        return min(figure(item) for item in found if item.serves)

    for figure in (lambda item: item.price, lambda item: item.price + month * item.power_w):
        assert least(screen.found, figure) == pytest.approx(least(whole.found, figure))


def test_sets_worth_trying_are_beaten_by_none(peppers):
    sets = worth_trying(peppers.search.choices.lamps)
    for one in sets:
        for other in sets:
            worse = one.price > other.price and one.power_w > other.power_w and one.evenness < other.evenness
            assert not (worse and other.serves), (one.key, other.key)


def test_the_same_seed_finds_the_same(peppers):
    again = answering(asked(), most=12, helps=False)
    again.run()
    mine, theirs = ([(item.choice.key, item.mended) for item in found.search.tried] for found in (again, peppers))
    assert mine == theirs


def test_it_can_be_stopped_with_an_answer(peppers):
    early = answering(asked(), most=12, helps=False)
    while not (early.search and early.search.working):
        assert early.go_on()
    assert not early.finished
    assert 0 < early.share < 1
    assert early.answers()[0].outcome.weight < 1e-9


def test_an_answer_holds_at_the_full_setting(peppers):
    found = peppers.answers()
    assert 3 <= len(found) <= 5
    for item in found:
        bad = [margin for margin in item.outcome.report.margins if margin.verdict in ("short", "over")]
        assert not [margin for margin in bad if not margin.information], item.name
        assert not [margin for margin in item.outcome.report.margins if margin.danger]


def test_answers_differ_and_say_why(peppers):
    found = peppers.answers()
    assert len({item.key for item in found}) == len(found)
    assert [item.outcome.price for item in found] == sorted(item.outcome.price for item in found)
    assert sorted(kind for item in found for kind in item.kinds) == sorted(KINDS)
    assert all(item.why for item in found)
    quiet = next(item for item in found if "quietest" in item.kinds)
    assert quiet.outcome.noise_dba <= min(item.outcome.noise_dba for item in found) + 3
    least = next(item for item in found if "least-work" in item.kinds)
    assert least.outcome.tending_h_month == min(item.outcome.tending_h_month for item in found)
