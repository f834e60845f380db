"""What pictures from above say of a plan: cover, spreads and leaf area beside those of their day."""

import datetime as dt
from math import exp, pi

import pytest

from canopy.evaluate import evaluate_space
from canopy.pictures.measured import Reading
from canopy.pictures.spread import Seen
from canopy.plan import dumps, loads
from canopy.plan.correction import Correction
from canopy.plan.edit import apply
from canopy.plan.learnt import lapsed, stamp
from canopy.review.pictured import leaf_areas, planned_cover, spread_changes, spreads, stems
from canopy.review.quantity import told_of
from canopy.season import cast_of, standing_of

DAY = dt.date(2026, 3, 14)


@pytest.fixture(scope="module")
def tent(demo_plan):
    return demo_plan.space("berry-tent")


@pytest.fixture(scope="module")
def here(demo_plan, tent):
    return standing_of(tent, DAY, cast_of(demo_plan))


def seen(plant, spread=1.0, lai=None, touching=False):
    return Seen(
        id=plant.id,
        spread_m=spread * plant.spread_m,
        leaf_m2=0.01,
        touching=touching,
        lai=lai,
        lai_error=lai and 0.2 * lai,
    )


def reading(*plants):
    return Reading(cover=0.3, standard_error=0.01, how="green", plants=plants)


def test_planned_cover_of_discs_that_lie_apart_is_their_sum(demo_plan, here, tent):
    first, second = here.plants[0], here.plants[2]
    alone = here.__class__(space=here.space, day=here.day, plants=(first, second))
    ground = tent.size.width_m * tent.size.depth_m
    sum_of = sum(pi * p.spread_m**2 / 4 * (1 - exp(-p.crop.extinction * p.lai)) for p in (first, second))
    assert planned_cover(alone) == pytest.approx(sum_of / ground, rel=0.03)
    # Twice the same plant covers more than once, less than twice.
    once, twice = (planned_cover(here.__class__(space=here.space, day=DAY, plants=(first,) * n)) for n in (1, 2))
    assert once < twice < 2 * once
    assert planned_cover(here.__class__(space=here.space, day=DAY, plants=())) == 0


def test_stems_are_of_plants_that_stand_free(demo_plan, here):
    assert {stem.id for stem in stems(here)} == {
        p.id for p in here.plants if p.plant.habit == "stand" and p.tray_m is None
    }
    shelf = demo_plan.space("hall-closet")
    assert all(item.spread_m > 0 for item in stems(standing_of(shelf, DAY, cast_of(demo_plan))))


@pytest.mark.parametrize(
    ("factor", "touching", "follows"),
    [(1.3, False, 1), (0.7, False, 1), (1.02, False, 0), (0.7, True, 0), (1.3, True, 1)],
)
def test_a_spread_is_followed_where_it_differs(here, factor, touching, follows):
    found = spreads(here, reading(seen(here.plants[0], factor, touching=touching)))
    changes = spread_changes(found, DAY)
    assert len(changes) == follows
    if follows:
        assert changes[0].values["spread_m"] == pytest.approx(factor * here.plants[0].spread_m, abs=1e-4)


def test_following_spreads_moves_the_curve_through_what_was_seen(demo_plan, tent, here):
    plant = here.plants[0]
    changes = spread_changes(spreads(here, reading(seen(plant, 1.4))), DAY)
    space = apply(demo_plan, tent.id, changes).space(tent.id)
    again = standing_of(space, DAY, cast_of(demo_plan)).by_id[plant.id]
    assert again.spread_m == pytest.approx(1.4 * plant.spread_m, rel=1e-3)
    assert again.height_m == pytest.approx(plant.height_m, rel=1e-3)
    # The picture of an older day changes nothing that was looked at since.
    later = standing_of(space, DAY, cast_of(demo_plan))
    old = DAY - dt.timedelta(days=3)
    assert spread_changes(spreads(later, reading(seen(later.by_id[plant.id], 1.4))), old) == ()


def test_leaf_area_of_a_planting_is_the_mean_of_its_plants(here):
    mates = [p for p in here.plants if p.plant.planting_id == here.plants[0].plant.planting_id]
    (found,) = leaf_areas(here, reading(*(seen(p, lai=1.5 * p.lai) for p in mates)), DAY)
    assert found.factor == pytest.approx(1.5)
    assert found.computed == pytest.approx(mates[0].lai)
    assert found.grade == "rough"
    assert found.basis == "picture"
    # One common doubt does not average out over many plants.
    assert found.standard_error == pytest.approx(0.2 * 1.5, rel=0.01)


@pytest.mark.parametrize(("lai", "touching"), [(None, False), (2.0, True)])
def test_leaves_that_hide_each_other_tell_nothing(here, lai, touching):
    (found,) = leaf_areas(here, reading(seen(here.plants[0], lai=lai, touching=touching)), DAY)
    assert found.grade == "unknown"


def test_leaf_area_that_is_followed_counts_everywhere_and_lapses(demo_plan, tent, here):
    planting = here.plants[0].plant.planting_id
    item = Correction(
        id="learnt-1",
        subject="leaf-area",
        target=planting,
        factor=1.5,
        standard_error=0.3,
        found_on=DAY,
        basis="picture",
        of=stamp(tent, "leaf-area", planting),
    )
    space = tent.model_copy(update={"learnt": (item,)})
    plan = demo_plan.model_copy(update={"spaces": tuple(space if s.id == space.id else s for s in demo_plan.spaces)})
    assert loads(dumps(plan)).space("berry-tent").learnt == (item,)
    after = standing_of(space, DAY, cast_of(plan)).by_id
    for plant in here.plants:
        times = 1.5 if plant.plant.planting_id == planting else 1.0
        assert after[plant.id].lai == pytest.approx(times * plant.lai)
    before, follows = (evaluate_space(p, p.space("berry-tent"), day=DAY, follow=True) for p in (demo_plan, plan))
    assert follows.climate.mean("given_g_h", day=True) > 1.05 * before.climate.mean("given_g_h", day=True)
    told = told_of(plan, space, follows, "leaf-area", planting)
    assert told.value == pytest.approx(here.plants[0].lai)
    # A day before it was found nothing of it is known.
    early = standing_of(space, DAY - dt.timedelta(days=1), cast_of(plan)).plants[0]
    assert early.leafier == 1.0
    # Measured again, the factor is on what the plan says without it.
    mates = [p for p in after.values() if p.plant.planting_id == planting]
    again = leaf_areas(standing_of(space, DAY, cast_of(plan)), reading(*(seen(p, lai=p.lai) for p in mates)), DAY)
    assert again[0].factor == pytest.approx(1.5)
    other = tuple(p.model_copy(update={"crop_id": "basil"}) if p.planting_id == planting else p for p in space.plants)
    assert lapsed(space.model_copy(update={"plants": other}), item)
