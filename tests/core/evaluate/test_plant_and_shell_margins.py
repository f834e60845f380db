"""Crowding, pots, roots, what comes too near the lamp; load, spill, cold floor."""

import datetime as dt
from math import pi

import pytest

from canopy.evaluate import evaluate_space
from canopy.evaluate.crops.margins import plants_that_fit
from canopy.evaluate.crops.outlook import first_touch
from canopy.evaluate.shell.margins import mat_w_m2, root_zone_c
from canopy.library import crops
from canopy.plan import Ground, HungItem, Planting, Room, Shelf
from canopy.plan.changes import Change
from canopy.plan.edit import add_planting, apply
from canopy.season import Sowing, cast_of, sow, standing_of
from tests.conftest import mending

DAY = dt.date(2026, 3, 1)


def _report(plan, day=None, **values):
    changed = apply(plan, plan.spaces[0].id, [Change(values=values)]) if values else plan
    return evaluate_space(changed, changed.spaces[0], day=day, with_map=False)


def _plants(plan, **values):
    return [plant.model_dump(mode="json") | values for plant in plan.spaces[0].plants]


def test_crowding_worked_by_hand(small_plan):
    margin = _report(small_plan).margin("crops.crowding.floor")
    # Four heads 24 cm wide on 0.9 of 0.8 × 0.6 m.
    cover = 4 * pi * 0.24**2 / 4 / (0.9 * 0.48)
    assert dict(margin.there.amounts)["cover"].value == pytest.approx(100 * cover)
    assert margin.verdict == "good"
    assert "room for 8" in margin.why.say()
    assert plants_that_fit(crops()["lettuce-butterhead"], 0.432) == 8
    many = [p | {"id": f"{p['id']}-{n}"} for n in range(4) for p in _plants(small_plan)]
    assert _report(small_plan, plants=many).margin("crops.crowding.floor").verdict == "over"


def test_each_shelf_is_crowded_by_itself(small_plan):
    shelf = Shelf(id="s", name="Board", z_m=0.5, width_m=0.8, depth_m=0.6, load_limit_kg=4).model_dump(mode="json")
    plants = _plants(small_plan)
    plants[0]["base_m"] = plants[1]["base_m"] = 0.5
    report = _report(small_plan, shelves=[shelf], plants=plants)
    assert len(report.margin("crops.crowding.floor").parts) == 2
    assert len(report.margin("crops.crowding.s").parts) == 2
    # Two pots of 1.75 L peat mix at 0.68 kg/L with their leaves stand on what bears 4 kg.
    load = report.margin("space.shelf.s")
    assert dict(load.there.amounts)["there"].value == pytest.approx(
        2 * (1.75 * 0.68 + 0.785 * 0.24**2 * 0.16 * 6 * 2.8 / 2), rel=1e-3
    )
    assert load.verdict == "good"


def test_pots_in_each_other_s_way_are_named(small_plan):
    plants = _plants(small_plan, pot_width_m=0.15)
    plants[1] |= {"x_m": plants[0]["x_m"] + 0.1, "y_m": plants[0]["y_m"]}
    margin = _report(small_plan, plants=plants).margin("crops.overlap")
    assert margin.verdict == "short"
    assert set(margin.parts) == {"plant-1", "plant-2"}
    assert "Plant 1 and plant 2 stand 4 cm into each other" in margin.why.say().replace("\u00a0", " ")
    assert _report(small_plan).margin("crops.overlap") is None


@pytest.mark.parametrize(("volume", "verdict"), [(0.5, "short"), (1.1, "tight"), (2.0, "good")])
def test_roots_want_room(small_plan, volume, verdict):
    # Lettuce: 1 to 2.5 L.
    margin = _report(small_plan, plants=_plants(small_plan, pot_volume_l=volume)).margin(
        "crops.roots.lettuce-butterhead"
    )
    assert margin.verdict == verdict


@pytest.fixture
def okra(small_plan):
    """Okra sown under a lamp in a closet of 1.6 m: it will reach it."""
    bare = apply(small_plan, "box", [Change(values={"plants": []})])
    sown = sow(bare, bare.spaces[0], Sowing(crop=crops()["okra"], name="Okra", starts_on=DAY, count=1))
    return add_planting(bare, "box", list(sown.plantings), list(sown.plants))


def test_when_it_will_touch_the_light(okra):
    here, cast = standing_of(okra.spaces[0], DAY, cast_of(okra)), cast_of(okra)
    lamp = okra.spaces[0].fixtures[0]
    touch = first_touch(here, cast)
    assert touch.limit_m == pytest.approx(lamp.z_m - lamp.spec.min_distance_m)

    def top(day):
        return standing_of(okra.spaces[0], day, cast).plants[0].top_m

    assert top(touch.day) > touch.limit_m >= top(touch.day - dt.timedelta(days=1))
    margin = _report(okra, day=touch.day - dt.timedelta(days=10)).margin("crops.touch")
    assert margin.verdict == "tight"
    assert margin.there.say().startswith("10 days")
    assert _report(okra, day=touch.day + dt.timedelta(days=3)).margin("crops.touch").verdict == "short"


def test_the_remedy_raises_the_lamp_or_holds_the_plants(okra):
    touch = first_touch(standing_of(okra.spaces[0], DAY, cast_of(okra)), cast_of(okra))
    soon = touch.day - dt.timedelta(days=3)
    raise_it = mending(okra, okra.spaces[0], "crops.touch", soon)
    assert raise_it.label.text.startswith("Hang the lamp")
    mended = apply(okra, "box", raise_it.changes)
    assert first_touch(standing_of(mended.spaces[0], soon, cast_of(mended)), cast_of(mended)) is None
    low = apply(
        okra,
        "box",
        [
            Change(
                values={
                    "size.height_m": round(okra.spaces[0].fixtures[0].z_m + 0.12, 3),
                    "openings": [],
                    "airways": [],
                    "stirrers": [],
                }
            )
        ],
    )
    hold = mending(low, low.spaces[0], "crops.touch", soon)
    assert hold.label.text.startswith("Hold Okra at")
    held = apply(low, "box", hold.changes)
    assert first_touch(standing_of(held.spaces[0], soon, cast_of(held)), cast_of(held)) is None
    assert mending(held, held.spaces[0], "crops.touch", soon) is None


def test_what_outgrows_the_space_is_a_margin_not_an_error(okra):
    low = apply(
        okra,
        "box",
        [Change(values={"size.height_m": 1.2, "fixtures": [], "openings": [], "airways": [], "stirrers": []})],
    )
    assert _report(low, day=DAY).margin("crops.outgrown") is None
    assert _report(low, day=DAY + dt.timedelta(days=120)).margin("crops.outgrown").verdict == "short"


def test_hung_load_is_summed_and_judged(small_plan):
    lamp = small_plan.spaces[0].fixtures[0].spec.weight_kg
    hung = [HungItem(id="h", name="Rail", weight_kg=6).model_dump(mode="json")]
    report = _report(small_plan, hung=hung, load_limit_kg=12)
    parts = {step.meaning: step.amount.value for step in report.margin("space.load").working.steps}
    assert parts["Rail"] == 6
    assert any(value == lamp for value in parts.values())
    assert sum(parts.values()) == pytest.approx(dict(report.margin("space.load").there.amounts)["there"].value)
    assert _report(small_plan, hung=hung, load_limit_kg=5).margin("space.load").verdict == "over"
    unknown = _report(small_plan, hung=hung).margin("space.load")
    assert not unknown.information
    assert "air.hung" not in parts


@pytest.mark.parametrize(("lip", "verdict"), [(0.0, "short"), (0.02, "short"), (0.045, "tight"), (0.06, "good")])
def test_a_spill_is_held_against_the_lip(small_plan, lip, verdict):
    # 0.8 × 0.6 m: each centimetre of lip holds 4.8 L; the reservoir has 20 L.
    values = {"feed.way": "solution", "feed.reservoir_l": 20, "ground.lip_m": lip}
    assert _report(small_plan, **values).margin("space.spill").verdict == verdict


def test_a_pot_on_a_cold_floor_worked_by_hand(small_plan):
    assert root_zone_c(Ground(), 18, 8, "concrete") == pytest.approx((8 * 18 + 9 * 8) / 17)
    # 2 cm of foam at 0.035 W/mK in series with concrete.
    u = 1 / (1 / 9 + 0.02 / 0.035)
    assert root_zone_c(Ground(insulation_m=0.02), 18, 8, "concrete") == pytest.approx((8 * 18 + u * 8) / (8 + u))
    assert root_zone_c(Ground(), 15, 15, "concrete") == pytest.approx(15)
    garage = Room(id="room", name="Garage", floor="concrete", night_c=16)
    small_plan = small_plan.model_copy(update={"rooms": (garage,)})
    cold = {"ground.below_c": 6}
    assert _report(small_plan, **cold).margin("space.floor").verdict == "short"
    mat = [
        {"id": "m", "spec": {"name": "Mat", "kind": "mat", "power_w": 30}, "schedule": {"kind": "daily", "hours": 12}}
    ]
    # Half its time on, over a quarter more than the ground of the pots on the floor.
    report = _report(small_plan, **cold, devices=mat)
    pots = sum(0.785 * (p.plant.pot_width_m or max(0.06, 1.1 * p.plant.pot_height_m)) ** 2 for p in report.here.plants)
    power, flux = mat_w_m2(report.space, report.here.plants)
    assert (power, flux) == (pytest.approx(15), pytest.approx(15 / max(1.25 * pots, 0.02), rel=1e-3))
    warm = (8 * 16 + 9 * 6 + flux) / 17
    floor = report.margin("space.floor")
    assert dict(floor.there.amounts)["there"].value == pytest.approx(warm)
    assert "of mats" in floor.why.say()
    # A mat of a tenth of that does not turn the verdict by being there.
    faint = [{"id": "m", "spec": {"name": "Mat", "kind": "mat", "power_w": 0.1}}]
    assert _report(small_plan, **cold, devices=faint).margin("space.floor").verdict == "short"
    assert _report(small_plan, **{"ground.below_c": 19}).margin("space.floor").verdict == "good"


def test_lamps_on_other_levels_are_left_out(small_plan):
    shelf = Shelf(id="s", name="Board", z_m=1.4, width_m=0.8, depth_m=0.6).model_dump(mode="json")
    plants = _plants(small_plan)
    plants[0]["base_m"] = 1.4
    plants[0]["pot_height_m"], plants[0]["height_m"] = 0.05, 0.1
    report = _report(small_plan, shelves=[shelf], plants=plants)
    assert report.margin("light.clearance").verdict == "good"
    assert plants[0]["id"] not in report.margin("light.headroom").parts
    assert dict(report.margin("light.headroom").there.amounts)["there"].value == pytest.approx(1.38)


def test_a_planting_s_harvest_is_told_with_its_range(small_plan):
    planting = Planting(id="l", name="Salad", crop_id="lettuce-butterhead", starts_on=DAY).model_dump(mode="json")
    plant = _plants(small_plan, planting_id="l", stage=None, height_m=None, spread_m=None)[0]
    plan = add_planting(apply(small_plan, "box", [Change(values={"plants": []})]), "box", [planting], [plant])
    note = _report(plan, day=DAY).margin("crops.harvest.planting-1")
    assert note.information
    # 43 and 53 days after sowing, by (20 − 7) / (22.6 − 7): 36 and 44.
    assert note.there.say() == "6 Apr 2026 to 14 Apr 2026"
    lamps = plan.spaces[0].fixtures
    dim = apply(plan, "box", [Change(collection="fixtures", part_id=lamp.id, values={"dim": 0.1}) for lamp in lamps])
    assert "(rough)" in _report(dim, day=DAY).margin("crops.harvest.planting-1").why.say()
