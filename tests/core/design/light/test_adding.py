"""More lamps beside those that hang: how many, where, and three sets of different price."""

import datetime as dt
from dataclasses import replace

import pytest

from canopy.design.light.adding import Offer, more_of, offers_for, three_of, try_offer, unmet_with
from canopy.design.light.choose import bill_of
from canopy.design.light.proposal import Tried
from canopy.design.start.answers import Answers
from canopy.design.start.space import begin_space
from canopy.evaluate.light.lighting import lighting
from canopy.library import Window, fixtures
from canopy.light.spectra import leaning
from canopy.plan import Circuit, Plan, Tariff
from canopy.plan.edit import add_space, apply
from canopy.season import standing_of

DAY = dt.date(2026, 3, 14)


@pytest.fixture(scope="module")
def dim_rack():
    answers = Answers(
        space_id="rack",
        name="Rack",
        kind="closet",
        width_m=1.2,
        depth_m=0.6,
        height_m=1.2,
        crop_id="basil-sweet",
        count=8,
        lamp_class_id="bar-30",
        lamp_count=1,
        circuit_id="c",
    )
    circuit = Circuit(id="c", name="C", rule_set_id="eu-16", mains_v=230, breaker_a=16)
    plan = Plan(name="P", date=DAY, circuits=(circuit,), tariff=Tariff(price_per_kwh=0.5))
    return add_space(plan, begin_space(answers))


@pytest.fixture(scope="module")
def tried(dim_rack):
    here = standing_of(dim_rack.spaces[0], DAY)
    return [try_offer(here, offer) for offer in offers_for(here)]


def test_offers_are_more_of_what_hangs_and_others_that_give_what_is_missing(dim_rack):
    found = offers_for(standing_of(dim_rack.spaces[0], DAY))
    own = [offer.count for offer in found if offer.class_id == "bar-30"]
    assert own == [1, 2, 3, 4]
    assert {"bar-30-leaf", "bar-30-fruit", "bar-60-leaf", "bar-60-fruit"} & {offer.class_id for offer in found}
    prices = [offer.price.low + offer.price.high for offer in found]
    assert prices == sorted(prices)


def test_three_sets_of_different_price_stand_side_by_side(dim_rack, tried):
    three = three_of(tried)
    assert len(three) == 3
    prices = [(offer.price.low + offer.price.high) / 2 for offer in three]
    assert prices == sorted(prices)
    assert len(set(prices)) > 1
    best = min(offer.tried.miss for offer in tried if offer.tried)
    assert min(offer.tried.miss for offer in three) <= best + 0.05


def test_done_a_set_gives_what_it_promised(dim_rack, tried):
    here = standing_of(dim_rack.spaces[0], DAY)
    offer = max((item for item in tried if item.tried), key=lambda item: item.tried.covered)
    plan = apply(dim_rack, "rack", offer.proposal.changes)
    after = standing_of(plan.spaces[0], DAY)
    assert len(plan.spaces[0].fixtures) == 1 + offer.count
    light = lighting(after, with_map=False).plants
    inside = [item.plant.want.dli_mol_m2_d.low * 0.95 <= item.dli_mol_m2_d for item in light]
    assert sum(inside) / len(inside) >= offer.tried.covered - 0.13
    assert unmet_with(here, offer.proposal) == () or offer.tried.covered < 1


def test_so_many_more_of_a_class_are_placed_apart(dim_rack):
    offer = more_of(standing_of(dim_rack.spaces[0], DAY), "bar-30", 3)
    plan = apply(dim_rack, "rack", offer.proposal.changes)
    places = {(lamp.x_m, lamp.y_m) for lamp in plan.spaces[0].fixtures}
    assert len(places) == 4
    assert "Hang 3 more" in offer.proposal.label.say()
    assert more_of(standing_of(dim_rack.spaces[0], DAY), "no-such-lamp", 1) is None


def test_nothing_is_offered_where_no_plant_is_short(small_plan):
    assert offers_for(standing_of(small_plan.spaces[0], DAY)) == ()
    empty = small_plan.spaces[0].model_copy(update={"fixtures": ()})
    assert offers_for(standing_of(empty, DAY)) == ()


def test_the_bill_counts_what_is_drawn_more(dim_rack):
    here = standing_of(dim_rack.spaces[0], DAY)
    hours = dim_rack.spaces[0].fixtures[0].hours
    bill = bill_of(dim_rack, here, 100.0, beside=True)
    # 100 W for so many hours, a twelfth of a year, at 0.50.
    assert bill.cost_per_month == pytest.approx(0.1 * hours * 365.25 / 12 * 0.5, rel=0.02)
    assert bill.load_w - bill_of(dim_rack, here, 0.0, beside=True).load_w == pytest.approx(100)
    assert bill.fits


def test_the_cheapest_the_best_and_the_thriftiest_are_picked():
    spec = fixtures()["bar-30"].spec

    def offer(count, price, miss, power):
        made = Tried(value=float(count), miss=miss, covered=0.5, evenness=0.7, power_w=power)
        return Offer(class_id="x", spec=spec, count=count, price=Window(low=price, high=price), tried=made)

    row = [offer(1, 30, 2.0, 30), offer(2, 60, 0.5, 60), offer(3, 90, 0.0, 90), offer(4, 120, 0.0, 70)]
    assert [item.count for item in three_of(row)] == [1, 3, 4]
    assert [item.count for item in three_of(row[:3])] == [1, 2, 3]
    assert three_of([replace(item, tried=None) for item in row]) == ()


def test_bars_for_leaf_and_for_fruit_differ_in_colour():
    assert leaning(fixtures()["bar-60-leaf"].spec) == "leaf"
    assert leaning(fixtures()["bar-60-fruit"].spec) == "fruit"
    assert leaning(fixtures()["bar-60"].spec) == "both"
