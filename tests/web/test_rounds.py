"""What a run that went better teaches: lamps as they were; runs that are over keep their light and power."""

import datetime as dt
import re

import pytest
from django.utils import timezone

from canopy.evaluate.space import evaluate_space
from canopy.logs.entries import Entry
from canopy.plan.changes import Change
from canopy.plan.edit import apply
from canopy.review.as_then import as_then
from canopy.review.comparison import Setting, causes
from canopy.review.harvest import last_day, middle_day, runs_of
from canopy_web.logbook.entries import write
from canopy_web.planning import actions
from canopy_web.planning.demo import BARS_RAISED, LOW_BARS_M, ROUNDS, bars_low, grown_before, round_plants
from canopy_web.planning.models import GrowPlan
from canopy_web.planning.store import state_on, state_to_plan, to_plan

DAY = dt.date(2026, 3, 14)


@pytest.fixture(scope="module")
def before(demo_plan):
    return grown_before(demo_plan)


def test_lamps_go_back_to_where_they_hung(before):
    low = bars_low(before)
    changes = as_then(before.space("hall-closet"), low.space("hall-closet"))
    again = apply(before, "hall-closet", changes)
    assert again.space("hall-closet").fixtures == low.space("hall-closet").fixtures
    assert as_then(low.space("hall-closet"), low.space("hall-closet")) == ()


def test_what_a_lamp_is_and_how_old_it_is_stays(before):
    closet = before.space("hall-closet")
    older = tuple(lamp.model_copy(update={"ageing": 0.8, "dim": 0.5}) for lamp in closet.fixtures[:1])
    changes = as_then(closet, closet.model_copy(update={"fixtures": older}))
    assert [change.values for change in changes] == [{"dim": 0.5}]


def named(*names):
    return [Setting(name=name, one=None, two=None) for name in names]


@pytest.mark.parametrize(
    ("names", "count"),
    [
        ((), 0),
        (("days", "ground for each"), 0),
        (("light on it", "daily light, mol/m²"), 1),
        (("daily light, mol/m²", "hours of light", "air by day"), 2),
        (("humidity by day", "VPD by day", "room for roots"), 2),
    ],
)
def test_one_cause_counts_once(names, count):
    assert causes(named(*names)) == count


@pytest.mark.parametrize("number", [0, 1])
def test_a_run_that_is_over_keeps_its_light_and_power(before, number):
    key, _, began, cleared = ROUNDS[number]
    planting = before.planting(key)
    assert last_day(planting, DAY) == DAY - dt.timedelta(days=cleared + 1)
    middle = middle_day(planting, DAY)
    assert planting.starts_on < middle < planting.cleared_on
    closet = before.space("hall-closet")
    now = evaluate_space(before, closet, day=DAY)
    bare = next(run for run in runs_of(now, [], DAY) if run.planting.id == key)
    # Today's report does not know it: nothing is made up, and no cost of a kilogram is told.
    assert (bare.lit, bare.light_mol, bare.kwh, bare.cost_kg) == (False, 0, 0, None)
    look = evaluate_space(before, closet, day=middle)
    run = next(run for run in runs_of(now, [], DAY, {key: look}) if run.planting.id == key)
    assert run.lit
    assert run.over
    assert run.days == began - cleared
    assert run.living == 4
    mine = [light for light in look.lighting.plants if light.plant.plant.planting_id == key]
    assert run.light_mol == pytest.approx(run.days * sum(p.plant.ground_m2 * p.dli_mol_m2_d for p in mine))
    whole = sum(light.plant.ground_m2 for light in look.lighting.plants)
    share = sum(light.plant.ground_m2 for light in mine) / whole
    assert run.kwh == pytest.approx(run.days * share * sum(load.energy_kwh_d for load in look.running.loads))


def test_bars_nearer_give_more_light(before):
    key = ROUNDS[0][0]
    middle = middle_day(before.planting(key), DAY)

    def light(plan):
        found = evaluate_space(plan, plan.space("hall-closet"), day=middle).lighting.plants
        mine = [item.ppfd_umol_m2_s for item in found if item.plant.plant.planting_id == key]
        return sum(mine) / len(mine)

    assert light(bars_low(before)) > 1.7 * light(before)


@pytest.fixture
def visitor(client, db):
    user = actions.open_demo()
    client.force_login(user)
    row = user.plans.select_related("head").get()
    for key, plants, grams in _weighed_of(row):
        write(
            row,
            Entry(key=key, space_id="hall-closet", kind="harvest", at=_cut(row, key), plants=plants, data=grams),
            user,
        )
    return client, row


def _weighed_of(row):
    for number, (key, *_) in enumerate(ROUNDS):
        for plant, grams in zip(round_plants(number), ((43, 37, 45, 39), (19, 16, 21, 17))[number], strict=True):
            yield f"{key}-{plant}", (plant,), {"weight_kg": grams / 1000}


def fresh(row):
    return GrowPlan.objects.select_related("head").get(pk=row.pk)


def _cut(row, key):
    cleared = next(cleared for name, _, _, cleared in ROUNDS if key.startswith(name))
    return timezone.now() - dt.timedelta(days=cleared + 1)


def test_the_plan_of_a_day_is_the_state_that_held_then(visitor):
    _, row = visitor
    zone, today = timezone.get_current_timezone(), timezone.localdate()
    raised = today - dt.timedelta(days=BARS_RAISED)
    heights = [
        state_to_plan(state_on(row, day, zone)).space("hall-closet").fixtures[0].z_m
        for day in (raised - dt.timedelta(days=1), raised, today)
    ]
    assert heights == [LOW_BARS_M, 1.52, 1.52]
    assert state_on(row, today - dt.timedelta(days=400), zone) is None
    # A visitor undoes only what they did themselves; what was taken back held on no day.
    assert actions.undo(row) is None
    lower = Change(collection="fixtures", part_id="lamp-1", values={"z_m": 1.2})
    actions.change_space(row, "hall-closet", [lower], "Hung it lower")
    assert state_to_plan(state_on(fresh(row), today, zone)).space("hall-closet").fixtures[0].z_m == 1.2
    actions.undo(row)
    assert state_to_plan(state_on(fresh(row), today, zone)).space("hall-closet").fixtures[0].z_m == 1.52


def test_the_two_rounds_say_what_to_do(visitor):
    client, row = visitor
    at = f"/plans/{row.pk}/spaces/hall-closet/review/"
    page = client.get(f"{at}?tab=runs").content.decode()
    chosen = re.findall(r'value="(hall-closet:[\w-]+)" selected', page)
    assert chosen == ["hall-closet:tatsoi-b", "hall-closet:tatsoi-a"]
    shown = " ".join(client.get(f"{at}runs/", {"one": chosen[0], "two": chosen[1]}).content.decode().split())
    assert "18 g a plant against 41 g" in shown
    assert "likely real" in shown
    assert "things differed at once" not in shown
    assert "Lamps as in Tatsoi, two rounds ago" in shown
    offered = client.get(f"{at}runs/back/", {"key": chosen[1]}, headers={"HX-Request": "true"}).content.decode()
    assert "Hang and switch the lamps as in Tatsoi, two rounds ago" in offered
    client.post(f"{at}runs/back/?key=x", {"key": chosen[1]}, headers={"HX-Request": "true"})
    row.refresh_from_db()
    plan = to_plan(GrowPlan.objects.select_related("head").get(pk=row.pk))
    assert plan.space("hall-closet").fixtures[0].z_m == LOW_BARS_M
    assert client.get(f"{at}runs/back/", {"key": "berry-tent:berries"}).status_code == 404


def test_each_round_has_its_page_and_its_money(visitor):
    client, row = visitor
    at = f"/plans/{row.pk}/spaces/hall-closet/review/"
    page = " ".join(client.get(f"{at}?tab=harvest").content.decode().split())
    assert "4 of 6 stood" in page
    assert "not known" not in page
    sheet = client.get(f"{at}run/tatsoi-a/report/").content.decode()
    assert "Tatsoi, two rounds ago" in sheet
    assert re.search(r"Light on it", sheet, re.IGNORECASE)
