"""Harvest and money: what came of each planting, for its ground, light, power and cost."""

import datetime as dt

import pytest

from canopy.evaluate.space import evaluate_space
from canopy.library.yields import yields
from canopy.logs.entries import Entry
from canopy.review.harvest import reaped, runs_of

DAY = dt.date(2026, 4, 20)


def taken(day, plants=(), **data):
    at = dt.datetime.combine(day, dt.time(9), dt.UTC)
    key = f"harvest-{day}-{len(plants)}-{sum(map(len, plants)):03d}"
    return Entry(key=key, space_id="berry-tent", kind="harvest", at=at, data=data, plants=plants)


@pytest.fixture(scope="module")
def report(demo_plan):
    return evaluate_space(demo_plan, demo_plan.space("berry-tent"), day=DAY)


def of(runs, name):
    return next(run for run in runs if name in run.planting.name)


def test_a_harvest_counts_for_the_plants_it_names(report):
    berries = [p.id for p in report.space.plants if "strawberr" in p.crop_id]
    rows = [taken(DAY, tuple(berries[:2]), weight_kg=0.3, count=20, quality=4), taken(DAY, ("gone",), weight_kg=9.0)]
    found = reaped(rows, berries)
    assert (found.kg, found.pieces, found.times, found.quality) == (0.3, 20, 1, 4.0)
    half = reaped([taken(DAY, (berries[0], "another"), weight_kg=0.4)], berries)
    assert half.kg == pytest.approx(0.2)
    struck = taken(DAY, tuple(berries), weight_kg=5.0).model_copy(update={"struck": True})
    assert reaped([struck], berries).times == 0


def test_figures_of_a_run_agree_with_each_other(report):
    runs = runs_of(report, [taken(DAY - dt.timedelta(days=3), weight_kg=0.5)], DAY)
    assert sum(run.reaped.kg for run in runs) == pytest.approx(0.5)
    run = max(runs, key=lambda item: item.reaped.kg)
    assert run.per_m2 == pytest.approx(run.reaped.kg / run.ground_m2)
    assert run.g_mol == pytest.approx(1000 * run.reaped.kg / run.light_mol)
    assert run.kwh_kg == pytest.approx(run.kwh / run.reaped.kg)
    assert run.cost_kg * run.reaped.kg == pytest.approx(run.cost)
    # What the space draws in those days, shared out by ground.
    kwh_d = sum(load.energy_kwh_d for load in report.running.loads)
    assert sum(item.kwh / item.days for item in runs) == pytest.approx(kwh_d, rel=1e-6)


def test_an_unnamed_harvest_is_of_what_is_ready(report):
    """Beans that were sown later are not credited with berries picked before they bore."""
    early = min(run.planting.starts_on for run in runs_of(report, [], DAY)) + dt.timedelta(days=1)
    runs = runs_of(report, [taken(early, weight_kg=0.2)], DAY)
    assert sum(run.reaped.kg for run in runs) == pytest.approx(0.2)


def test_seeds_shop_and_losses(demo_plan, report):
    first = runs_of(report, [], DAY)[0].planting
    typed = first.model_copy(update={"sown": 40, "spent": 12.5, "shop_price": 9.0})
    plan = demo_plan.model_copy(
        update={"plantings": tuple(typed if p.id == first.id else p for p in demo_plan.plantings)}
    )
    there = evaluate_space(plan, plan.space("berry-tent"), day=DAY)
    mine = tuple(p.id for p in there.space.plants if p.planting_id == first.id)
    run = next(r for r in runs_of(there, [taken(DAY, mine, weight_kg=2.0)], DAY) if r.planting.id == first.id)
    assert run.lost == 40 - run.living
    assert run.cost == pytest.approx(run.power_cost + 12.5)
    assert run.saved == pytest.approx(18.0 - run.cost)
    bare = runs_of(report, [], DAY)[0]
    assert (bare.lost, bare.saved, bare.cost_kg, bare.g_mol) == (None, None, None, None)


def test_what_can_be_expected_is_typed_or_follows_the_light(demo_plan, report):
    run = runs_of(report, [], DAY)[0]
    low, high = run.expected_kg
    window = yields()[run.group].g_mol
    assert (low, high) == pytest.approx((window.low * run.light_mol / 1000, window.high * run.light_mol / 1000))
    typed = run.planting.model_copy(update={"yield_amount": 3.0, "yield_unit": "kg"})
    plan = demo_plan.model_copy(
        update={"plantings": tuple(typed if p.id == typed.id else p for p in demo_plan.plantings)}
    )
    again = runs_of(evaluate_space(plan, plan.space("berry-tent"), day=DAY), [], DAY)
    assert next(r for r in again if r.planting.id == typed.id).expected_kg == (3.0, 3.0)
