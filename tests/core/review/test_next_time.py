"""What a run teaches for the next time, each change with its reason from the log."""

import datetime as dt
from dataclasses import replace

import pytest

from canopy.evaluate.space import evaluate_space
from canopy.logs.entries import Entry
from canopy.plan.edit import apply
from canopy.review.harvest import Reaped, runs_of
from canopy.review.next_time import next_time
from canopy.season import cast_of, harvest, spans

DAY = dt.date(2026, 4, 20)


@pytest.fixture(scope="module")
def report(demo_plan):
    return evaluate_space(demo_plan, demo_plan.space("berry-tent"), day=DAY)


@pytest.fixture(scope="module")
def run(report):
    return next(r for r in runs_of(report, [], DAY) if "trawberr" in r.planting.name)


def told(report, run):
    crop = cast_of(report.plan).crops[run.planting.crop_id]
    return harvest(spans(run.planting, crop), crop).likely


@pytest.mark.parametrize("off", [-9, 12])
def test_a_first_harvest_on_another_day_moves_the_stage_that_leads_to_it(report, run, off):
    first = told(report, run) + dt.timedelta(days=off)
    picked = replace(run, reaped=Reaped(kg=0.1, times=1, first=first, last=first))
    (item,) = next_time(report, picked, [], DAY)
    assert item.key == "days"
    assert f"{abs(off)} days {'later' if off > 0 else 'sooner'}" in item.why.say()
    plan = apply(report.plan, "berry-tent", item.changes)
    crop = cast_of(plan).crops[run.planting.crop_id]
    moved = harvest(spans(plan.planting(run.planting.id), crop), crop).likely
    assert abs((moved - first).days) <= 2


def test_a_harvest_near_its_day_teaches_nothing(report, run):
    first = told(report, run) + dt.timedelta(days=1)
    assert next_time(report, replace(run, reaped=Reaped(kg=0.1, times=1, first=first, last=first)), [], DAY) == ()


def test_what_came_is_expected_once_it_is_over(report, run):
    typed = run.planting.model_copy(update={"yield_amount": 3.0})
    first = told(report, run)
    came = replace(run, planting=typed, reaped=Reaped(kg=1.2, times=4, first=first, last=DAY))
    assert next_time(report, came, [], DAY) == ()
    (item,) = next_time(report, replace(came, over=True), [], DAY)
    assert item.changes[0].values == {"yield_amount": 1.2}
    assert next_time(report, replace(came, over=True, reaped=replace(came.reaped, kg=2.8)), [], DAY) == ()


def test_more_is_sown_where_some_did_not_come_up(report, run):
    sown = run.planting.model_copy(update={"sown": 20})
    (item,) = next_time(report, replace(run, planting=sown, living=15), [], DAY)
    assert item.what.say() == "Sow 27 for 20 plants"
    assert item.changes == ()


def test_thirst_is_as_it_was_watered(report, run):
    def water(days_ago, litres):
        at = dt.datetime.combine(DAY - dt.timedelta(days=days_ago), dt.time(8), dt.UTC)
        return Entry(key=f"water-{days_ago:04d}", space_id="berry-tent", kind="water", at=at, data={"litres": litres})

    rows = [water(days, 9.0) for days in (10, 8, 6, 4, 2)]
    (item,) = next_time(report, run, rows, DAY)
    assert item.key == "water"
    assert item.changes[0].values == {"feed.uptake_l_d": 4.5}
    assert next_time(report, run, rows[:3], DAY) == ()
