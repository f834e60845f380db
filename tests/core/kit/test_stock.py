"""What is owned is not bought again, over all spaces; old lamps come before new ones; prices in other money."""

import pytest

from canopy.design.change import Remedy
from canopy.design.light.choose import best_choices, choices_for, try_choice
from canopy.design.light.from_stock import swaps_for
from canopy.design.preview import preview
from canopy.errors import PlanError
from canopy.kit import kit_of
from canopy.library import fixtures
from canopy.light.photometry import ppf
from canopy.plan import dumps, loads
from canopy.plan.changes import Add, Change, Remove
from canopy.plan.edit import apply
from canopy.plan.owned import free_of
from canopy.plan.stock import StockItem, alike
from tests.core.kit.test_kit_and_build import _named, _report

BOARD = "LED board, 150 W class"


def _owning(plan, *items):
    stock = tuple(StockItem.model_validate({"id": f"stock-{n}", **item}) for n, item in enumerate(items, 1))
    return loads(dumps(plan.model_copy(update={"stock": stock})))


def _lamp(class_id, number=1):
    spec = fixtures()[class_id].spec
    return {"kind": "lamp", "name": spec.name, "number": number, "lamp": spec}


def test_one_of_two_lamps_is_owned_and_one_is_bought(demo_plan):
    plan = _owning(demo_plan, _lamp("board-150"))
    bare, kit = kit_of([_report(demo_plan)]), kit_of([_report(plan)])
    line = _named(kit, BOARD)
    assert (line.number, line.owned, line.to_get) == (2, 1, 1)
    assert kit.cost().low == pytest.approx(bare.cost().low - line.price.low)
    assert kit.cost().high == pytest.approx(bare.cost().high - line.price.high)


def test_a_thing_goes_to_the_first_space_that_asks_and_only_once(demo_plan):
    like = next(line for line in kit_of([_report(demo_plan)]).lines if line.name.startswith("Thermometer"))
    item = {"kind": "sensor", "name": like.name, "number": 2}
    plan = _owning(demo_plan, item)
    kit = kit_of([_report(plan, space.id) for space in plan.spaces])
    owned = [line.owned for line in kit.lines if line.like == like.like]
    assert owned == [1, 1, *[0] * (len(plan.spaces) - 2)]


def test_lamps_of_a_space_before_are_not_given_twice(demo_plan):
    spec = demo_plan.space("hall-closet").fixtures[0].spec
    count = sum(1 for space in demo_plan.spaces[:1] for lamp in space.fixtures if lamp.spec.name == spec.name)
    plan = _owning(demo_plan, {"kind": "lamp", "name": spec.name, "number": count + 1, "lamp": spec})
    line = _named(kit_of([_report(plan, "hall-closet")]), spec.name)
    assert line.owned == 1


def test_sizes_tell_pots_apart_and_case_does_not():
    assert alike("pot", "Round pot", "3 L") != alike("pot", "Round pot", "5 L")
    assert alike("lamp", "Old  Board") == alike("lamp", "old board")


def test_what_is_free_is_what_hangs_nowhere(demo_plan):
    plan = _owning(demo_plan, _lamp("board-150", 5), _lamp("t5-4x24"))
    free = free_of(plan)
    hung = sum(1 for space in plan.spaces for lamp in space.fixtures if lamp.spec.name == BOARD)
    assert free[alike("lamp", BOARD)] == 5 - hung
    assert free[alike("lamp", fixtures()["t5-4x24"].spec.name)] == 1


def test_an_old_lamp_is_proposed_at_the_light_of_what_it_replaces(demo_plan):
    plan = _owning(demo_plan, _lamp("board-240", 2))
    tent = plan.space("berry-tent")
    (swap,) = [item for item in swaps_for(plan, tent) if item.lamps[0].spec.name == BOARD]
    assert len(swap.lamps) == 2
    assert swap.light_share == pytest.approx(1.0, abs=0.01)
    old, new = tent.fixtures[0], fixtures()["board-240"].spec
    dim = swap.changes[0].values["dim"]
    assert dim == pytest.approx(ppf(old.spec) * old.dim / ppf(new), abs=0.006)
    report = _report(plan)
    moved = preview(report, Remedy(label=swap.label, changes=swap.changes))
    ppfd = [item for item in moved if item.before and item.before.id.startswith("light.ppfd")]
    assert not any(item.worse for item in ppfd)
    after = apply(plan, "berry-tent", swap.changes).space("berry-tent")
    assert {lamp.spec.name for lamp in after.fixtures} >= {new.name}


def test_lamps_that_are_owned_or_too_weak_or_no_grow_lights_are_no_swap(demo_plan):
    assert swaps_for(demo_plan, demo_plan.space("berry-tent")) == ()
    weak = _owning(demo_plan, _lamp("strip-10"), _lamp("uv-tube-24"))
    assert [swap for swap in swaps_for(weak, weak.space("berry-tent")) if swap.lamps[0].spec.name == BOARD] == []
    owned = _owning(demo_plan, _lamp("board-150", 2), _lamp("board-240", 2))
    assert [swap for swap in swaps_for(owned, owned.space("berry-tent")) if swap.lamps[0].spec.name == BOARD] == []


def test_where_lamps_are_chosen_the_owned_come_first_among_equals(demo_plan):
    plan = _owning(demo_plan, _lamp("board-150", 2))
    here = _report(plan).here
    rows = choices_for(here, plan.stock)
    mine = [row for row in rows if row.owned]
    assert [row.count for row in mine] == [1, 2]
    bought = next(row for row in rows if row.class_id == "board-150" and row.count == 2)
    ranked = best_choices([try_choice(here, bought), try_choice(here, mine[1])])
    assert ranked[0].owned


def test_stock_is_the_household_s_and_changes_in_small_acts(demo_plan):
    part = {"id": "new", "kind": "fan", "name": "Old fan", "number": 1}
    plan = apply(demo_plan, None, [Add(collection="stock", parts=(part,), prefix="stock")])
    (item,) = plan.stock
    plan = apply(plan, None, [Change(collection="stock", part_id=item.id, values={"number": 3})])
    assert plan.stock[0].number == 3
    assert loads(dumps(plan)) == plan
    assert apply(plan, None, [Remove(collection="stock", part_ids=(item.id,))]).stock == ()
    with pytest.raises(PlanError):
        apply(plan, None, [Change(collection="stock", part_id=item.id, values={"number": 0})])


@pytest.mark.parametrize(("currency", "rate", "factor"), [("EUR", None, 1), ("USD", None, 1), ("CHF", 0.94, 0.94)])
def test_prices_are_read_in_the_household_s_money(demo_plan, currency, rate, factor):
    site = demo_plan.site.model_copy(update={"currency": currency, "euro_rate": rate})
    there = kit_of([_report(demo_plan.model_copy(update={"site": site}))])
    assert there.cost().high == pytest.approx(factor * kit_of([_report(demo_plan)]).cost().high)


def test_without_a_rate_no_price_of_the_library_counts(demo_plan):
    site = demo_plan.site.model_copy(update={"currency": "JPY"})
    kit = kit_of([_report(demo_plan.model_copy(update={"site": site}))])
    assert kit.cost().high == 0
    assert len(kit.unpriced) == len(kit.lines)
