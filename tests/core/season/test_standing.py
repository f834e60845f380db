"""How a space stands on a day; sowing, succession and moving on."""

import datetime as dt

import pytest

from canopy.errors import PlanError
from canopy.library import containers, crops
from canopy.plan import Net, Plant, Planting, Shelf, dumps, loads
from canopy.plan.changes import Change
from canopy.plan.edit import add_planting, apply, remove_planting, shifted, with_crop, with_space
from canopy.season import Cast, Sowing, begin_with, cast_of, day_to_show, move_on, sow, standing_of

DAY = dt.date(2026, 3, 1)


def _later(days):
    return DAY + dt.timedelta(days=days)


@pytest.fixture
def dated(small_plan):
    """The closet with one planting of lettuce beside its plants without days."""
    sown = sow(
        small_plan,
        small_plan.spaces[0],
        Sowing(crop=crops()["lettuce-butterhead"], name="Lettuce", starts_on=DAY, count=2),
    )
    return add_planting(small_plan, "box", list(sown.plantings), list(sown.plants))


def test_dated_plants_come_grow_and_go(dated):
    space, cast = dated.spaces[0], cast_of(dated)
    assert len(standing_of(space, _later(-1), cast).plants) == 4
    young, old = (standing_of(space, _later(days), cast).plants[-1] for days in (2, 35))
    assert (young.stage, old.stage) == ("seedling", "vegetative")
    assert young.height_m < old.height_m
    cleared = apply(
        dated, "box", [Change(collection="plantings", part_id="planting-1", values={"cleared_on": "2026-04-01"})]
    )
    gone = standing_of(cleared.spaces[0], dt.date(2026, 4, 1), cast_of(cleared))
    assert (len(gone.plants), len(gone.absent)) == (4, 2)
    assert [plant.number for plant in standing_of(space, _later(2), cast).plants] == [1, 2, 3, 4, 5, 6]


def test_a_tray_every_ten_days_takes_the_place_of_one_that_is_done(small_plan):
    bare = apply(small_plan, "box", [Change(values={"plants": []})])
    space = bare.spaces[0]
    sowing = Sowing(
        crop=crops()["pea-shoots"],
        name="Peas",
        starts_on=DAY,
        count=1,
        times=6,
        every_days=10,
        container=containers()["half-tray"],
    )
    sown = sow(bare, space, sowing)
    assert [item["starts_on"] for item in sown.plantings] == [_later(10 * n).isoformat() for n in range(6)]
    # Pea shoots take at most 4 + 14 days: two trays at a time, each place taken again after 20 days.
    places = [(plant["x_m"], plant["y_m"]) for plant in sown.plants]
    assert places[0] == places[2] == places[4] != places[1] == places[3]
    assert [item["cleared_on"] for item in sown.plantings][:4] == [_later(20 + 10 * n).isoformat() for n in range(4)]
    assert sown.plants[0]["pot_kind"] == "tray"
    plan = add_planting(bare, "box", list(sown.plantings), list(sown.plants))
    for days in range(0, 60, 5):
        here = standing_of(plan.spaces[0], _later(days), cast_of(plan))
        spots = [(p.x_m, p.y_m) for p in here.plants if p.planting]
        assert len(spots) == len(set(spots))
    with pytest.raises(PlanError, match="1 to 60 plantings"):
        sow(small_plan, space, Sowing(crop=crops()["pea-shoots"], name="P", starts_on=DAY, count=1, times=99))


def test_plants_move_on_from_one_space_to_another(dated):
    other = dated.spaces[0].model_copy(
        update={"id": "tent", "name": "Tent", "plants": (), "fixtures": (), "openings": (), "airways": ()}
    )
    plan = loads(dumps(dated.model_copy(update={"spaces": (*dated.spaces, other)})))
    members = [plant.id for plant in plan.spaces[0].plants if plant.planting_id]
    moved = move_on(
        plan, "box", "tent", members, _later(14), container=containers()["pot-13"], crop=crops()["lettuce-butterhead"]
    )
    cast = cast_of(moved)

    def counts(days):
        return [sum(bool(p.planting) for p in standing_of(space, _later(days), cast).plants) for space in moved.spaces]

    assert (counts(13), counts(14), counts(40)) == ([2, 0], [0, 2], [0, 2])
    assert moved.spaces[1].plants[0].pot_volume_l == 1.1
    grown = standing_of(moved.spaces[1], _later(30), cast).plants[0]
    assert grown.stage == "vegetative"
    undated = move_on(plan, "box", "tent", [plan.spaces[0].plants[0].id], DAY)
    assert [len(space.plants) for space in undated.spaces] == [5, 1]
    for bad in ("box", "attic"):
        with pytest.raises(PlanError, match="choose another space"):
            move_on(plan, "box", bad, members, DAY)
    with pytest.raises(PlanError, match="no longer here"):
        move_on(plan, "box", "tent", ["nobody"], DAY)


def test_plants_without_days_can_begin_to_follow_them(small_plan):
    ids = [plant.id for plant in small_plan.spaces[0].plants]
    planting = Planting(id="now", name="Now", crop_id="lettuce-butterhead", starts_on=DAY, first_stage="vegetative")
    plan = begin_with(small_plan, "box", ids, planting)
    here = standing_of(plan.spaces[0], DAY, cast_of(plan))
    assert {plant.stage for plant in here.plants} == {"vegetative"}
    assert here.plants[0].height_m == pytest.approx(crops()["lettuce-butterhead"].stages[0].height_m)
    assert remove_planting(plan, "now").spaces[0].plants == ()


def test_a_net_holds_plants_and_spreads_them(small_plan):
    space = small_plan.spaces[0]
    low = space.model_copy(update={"net": Net(z_m=0.2)})
    free, held = (standing_of(s, DAY).plants[0] for s in (space, low))
    assert held.netted
    assert held.top_m == pytest.approx(0.2)
    assert free.spread_m < held.spread_m <= 1.6 * free.spread_m
    high = space.model_copy(update={"net": Net(z_m=1.2)})
    assert not standing_of(high, DAY).plants[0].netted


@pytest.mark.parametrize(
    ("habit", "top", "bottom", "facing"),
    [
        ("stand", 0.5, 0.2, (0, 0, 1)),
        ("pole", 0.5, 0.2, (0, 0, 1)),
        ("hang", 0.23, 0, (0, 0, 1)),
        ("outward", 0.3, 0.1, (0, 1, 0)),
    ],
)
def test_how_a_plant_grows_decides_where_its_leaves_are(small_plan, habit, top, bottom, facing):
    plant = Plant(
        id="a",
        crop_id="tatsoi",
        stage="vegetative",
        x_m=0.3,
        y_m=0.1,
        base_m=0.1,
        pot_height_m=0.1,
        height_m=0.3,
        spread_m=0.2,
        habit=habit,
        facing_deg=90,
    )
    (grown,) = standing_of(small_plan.spaces[0].model_copy(update={"plants": (plant,)}), DAY).plants
    assert (grown.top_m, grown.bottom_m) == (pytest.approx(top), pytest.approx(bottom))
    assert grown.facing == pytest.approx(facing)
    assert grown.y_m == pytest.approx(0.25 if habit == "outward" else 0.1)


def test_own_crops_travel_in_the_plan_and_are_grown(small_plan):
    mine = crops()["tatsoi"].model_copy(update={"id": "own-tatsoi", "name": "My tatsoi"})
    plan = with_crop(small_plan, mine)
    plant = small_plan.spaces[0].plants[0].model_dump(mode="json") | {"id": "own", "crop_id": "own-tatsoi"}
    plan = loads(dumps(apply(plan, "box", [Change(values={"plants": [plant]})])))
    assert standing_of(plan.spaces[0], DAY, cast_of(plan)).plants[0].crop.name == "My tatsoi"
    for change, words in (
        ({"id": "tatsoi"}, "is a crop of the library"),
        ({"name": "Tatsoi"}, "is the name of a crop of the library"),
    ):
        with pytest.raises(PlanError, match=words):
            with_crop(small_plan, mine.model_copy(update=change))


def test_a_space_comes_back_with_its_plantings_and_own_crops(small_plan, dated):
    mine = crops()["tatsoi"].model_copy(update={"id": "own-tatsoi", "name": "My tatsoi"})
    own = dated.spaces[0].plants[0].model_dump(mode="json") | {"crop_id": "own-tatsoi"}
    others = [plant.model_dump(mode="json") for plant in dated.spaces[0].plants[1:]]
    kept = apply(with_crop(dated, mine), "box", [Change(values={"plants": [own, *others]})])
    sown = kept.plantings[0].id
    now = remove_planting(dated, sown)
    back = with_space(now, kept, "box")
    assert back.spaces == kept.spaces
    assert [item.id for item in back.plantings] == [sown]
    assert [crop.id for crop in back.crops] == ["own-tatsoi"]
    assert back.serial >= max(now.serial, kept.serial)
    # What the plan still has stays as it is today.
    later = now.model_copy(update={"plantings": (kept.plantings[0].model_copy(update={"name": "Renamed"}),)})
    assert [item.name for item in with_space(later, kept, "box").plantings] == ["Renamed"]
    away = kept.model_copy(update={"spaces": (kept.spaces[0].model_copy(update={"room_id": "cellar"}),)})
    assert with_space(now, away, "box").spaces[0].room_id == now.spaces[0].room_id
    with pytest.raises(PlanError, match="no space"):
        with_space(now, kept.model_copy(update={"spaces": ()}), "box")


def test_an_example_can_be_moved_to_another_day(demo_plan):
    by = dt.timedelta(days=100)
    later = shifted(demo_plan, by)
    assert later.date == demo_plan.date + by
    assert later.plantings[0].starts_on == demo_plan.plantings[0].starts_on + by
    assert shifted(later, -by) == demo_plan


@pytest.mark.parametrize(
    ("today", "shown"), [("2026-03-20", "2026-03-20"), ("2020-01-01", "2026-03-14"), ("2031-01-01", "2026-03-14")]
)
def test_today_is_shown_while_something_grows(demo_plan, today, shown):
    assert day_to_show(demo_plan, dt.date.fromisoformat(today)) == dt.date.fromisoformat(shown)


def test_a_plan_without_days_keeps_its_own(small_plan):
    assert day_to_show(small_plan, dt.date(2030, 5, 5)) == small_plan.date
    assert Cast().plantings == {}
    shelf = Shelf(id="s", name="S", z_m=0.5, width_m=0.5, depth_m=0.5)
    sown = sow(
        small_plan,
        small_plan.spaces[0].model_copy(update={"shelves": (shelf,)}),
        Sowing(crop=crops()["tatsoi"], name="T", starts_on=DAY, count=3),
        "s",
    )
    assert {plant["base_m"] for plant in sown.plants} == {0.5}
