"""One run against another, with honest statistics; a comparison planned ahead."""

import numpy as np
import pytest
from scipy.stats import ttest_ind

from canopy.errors import QuantityError
from canopy.evaluate.space import evaluate_space
from canopy.review.comparison import (
    compare_plants,
    detectable,
    plants_needed,
    power_of,
    settings_that_differ,
    shuffled,
)
from canopy.review.harvest import runs_of


@pytest.mark.parametrize(("one", "two"), [([1.0], [2.0]), ([1.0, 1.1], [2.0, 2.1]), ([1.0, 1.1, 1.2], [2.0, 2.1])])
def test_two_pots_prove_little_and_it_says_so(one, two):
    found = compare_plants(one, two)
    assert found.chance is None
    assert "prove nothing" in found.words


def test_a_clear_difference_is_likely_real_and_a_small_one_is_not():
    one, two = [1.0, 1.2, 0.9, 1.1, 1.0], [0.7, 0.8, 0.65, 0.75, 0.7]
    clear = compare_plants(one, two)
    assert clear.chance == pytest.approx(ttest_ind(one, two, equal_var=False).pvalue)
    assert "likely real" in clear.words
    assert clear.more == pytest.approx(1.04 / 0.72 - 1)
    small = compare_plants([1.0, 1.3, 0.8, 1.1], [1.0, 0.9, 1.2, 1.1])
    assert "nothing is proven" in small.words
    assert "on a side one sees" in small.words
    same = compare_plants([1.0] * 3, [1.0] * 3)
    assert same.chance == 1.0


def test_a_group_needs_a_plant():
    with pytest.raises(QuantityError, match="at least one plant"):
        compare_plants([], [1.0])


@pytest.mark.parametrize(("difference", "scatter"), [(0.2, 0.25), (0.3, 0.25), (0.1, 0.2)])
def test_how_many_plants_it_takes(difference, scatter):
    """By hand: about 16 (scatter/difference)² on each side (Lehr 1992); and by chance, tried out."""
    count = plants_needed(difference, scatter)
    assert count == pytest.approx(16 * (scatter / difference) ** 2, abs=2.5)
    assert power_of(count, difference, scatter) >= 0.8 > power_of(count - 1, difference, scatter)
    chance = np.random.default_rng(4)
    one = 1 + difference + scatter * chance.standard_normal((3000, count))
    two = 1 + scatter * chance.standard_normal((3000, count))
    assert (ttest_ind(one, two, axis=1).pvalue < 0.05).mean() == pytest.approx(0.8, abs=0.035)


def test_the_smallest_difference_and_the_impossible_ones():
    assert plants_needed(0.01) is None
    assert power_of(5, detectable(5, 0.25), 0.25) == pytest.approx(0.8, abs=0.001)
    for wrong in ((0.0, 0.25), (0.2, 0.0)):
        with pytest.raises(QuantityError, match="both over 0 %"):
            plants_needed(*wrong)


def test_places_are_dealt_out_by_lot_and_fairly():
    places = [(0.2 * i, 0.3 * j) for j in range(4) for i in range(5)]
    dealt = shuffled(places, ("A", "B"), 7)
    assert dealt == shuffled(places, ("A", "B"), 7)
    assert {dealt.count("A"), dealt.count("B")} == {10}
    assert dealt != shuffled(places, ("A", "B"), 8)
    # Of many deals no place is a group's own.
    deals = [shuffled(places, ("A", "B"), seed) for seed in range(200)]
    shares = [sum(deal[k] == "A" for deal in deals) / 200 for k in range(20)]
    assert min(shares) > 0.35
    assert max(shares) < 0.65
    with pytest.raises(QuantityError, match="two groups"):
        shuffled(places, ("A",), 1)


def test_settings_that_differed_are_told(demo_plan):
    day = demo_plan.date
    spaces = [demo_plan.space(key) for key in ("berry-tent", "hall-closet")]
    tent, closet = (evaluate_space(demo_plan, space, day=day, follow=True) for space in spaces)
    one, two = runs_of(tent, [], day)[0], runs_of(closet, [], day)[0]
    found = settings_that_differ((tent, one), (closet, two))
    assert "light on it" in [item.name for item in found]
    assert settings_that_differ((tent, one), (tent, one)) == ()
