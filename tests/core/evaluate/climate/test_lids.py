"""Lids, cloches and jars as airs of their own; open water and wet moss."""

import pytest

from canopy.climate.simulate import simulate
from canopy.design.remedies import remedy_for
from canopy.errors import PlanError
from canopy.evaluate.climate.building import system_of
from canopy.evaluate.climate.contents import pots_of, under_lids, wetted
from canopy.evaluate.climate.days import simulated
from canopy.evaluate.climate.rehearsal.faults import possible
from canopy.evaluate.climate.rehearsal.limits import limits_of
from canopy.evaluate.climate.rehearsal.rehearsed import rehearse
from canopy.evaluate.kept import report_of
from canopy.plan.edit import add_parts, apply
from canopy.plan.furnishing import Lid, WetSurface
from tests.core.evaluate.climate.test_building import stands, with_space


def with_lid(plan, open_share=0.02, space_id="hall-closet"):
    """The closet with a lid over its first plant."""
    space = plan.space(space_id)
    plant = space.plants[0]
    lid = Lid(
        id="lid",
        name="Small dome",
        x_m=max(0.0, plant.x_m - 0.1),
        y_m=max(0.0, plant.y_m - 0.1),
        z_m=plant.base_m,
        width_m=0.2,
        depth_m=0.2,
        height_m=0.3,
        open_share=open_share,
    )
    return with_space(plan, space.model_copy(update={"lids": (lid,)}))


def followed(plan, space_id="hall-closet"):
    here, light = stands(plan, plan.space(space_id))
    return here, simulated(plan, here, light)


def test_under_a_lid_it_is_damper_and_the_wider_it_is_open_the_less(demo_plan):
    damp, carbon = [], []
    for share in (0.0, 0.05, 0.6):
        here, found = followed(with_lid(demo_plan, share))
        plant = here.space.plants[0].id
        assert found.under[plant] == "hall-closet/lid"
        air = found.around_plant(plant)
        damp.append(air.mean("rh_pct", day=True))
        carbon.append(air.mean("co2_ppm", day=True))
    assert damp[0] > damp[1] > damp[2] > found.mean("rh_pct", day=True) - 1
    assert damp[0] > 90
    # Shut, the leaves eat what CO2 there is.
    assert carbon[0] < carbon[2]


def test_books_close_and_all_light_ends_once(demo_plan):
    plan = with_lid(demo_plan)
    here, light = stands(plan, plan.space("hall-closet"))
    system = system_of(plan, here, light).system
    days = simulate(system)
    assert max(days.closure.heat, days.closure.water, days.closure.co2) < 1e-9
    bare_here, bare_light = stands(demo_plan, demo_plan.space("hall-closet"))
    without = system_of(demo_plan, bare_here, bare_light).system

    def heat(found):
        return sum(group.gives.heat_w for group in found.groups if group.id.startswith("lamps-hall-closet"))

    assert heat(system) == pytest.approx(heat(without), rel=1e-6)
    ground = sum(box.leaves.ground_m2 for box in system.enclosures if box.leaves and box.id.startswith("hall-closet"))
    assert ground <= sum(box.leaves.ground_m2 for box in without.enclosures if box.id == "hall-closet") * 1.001


def test_a_plant_is_judged_by_the_air_under_its_lid(demo_plan):
    plan = with_lid(demo_plan, 0.0)
    report = report_of(plan, plan.space("hall-closet"), follow=True)
    margin = report.margin("climate.rh")
    assert margin.verdict == "over"
    assert "under Small dome" in margin.why.say()
    assert plan.space("hall-closet").plants[0].id in margin.parts
    before = report_of(demo_plan, demo_plan.space("hall-closet"), follow=True).margin("climate.rh")
    assert before.there.say() != margin.there.say()


def test_a_plant_stands_under_the_first_lid_that_covers_its_stem(demo_plan):
    plan = with_lid(demo_plan)
    space = plan.space("hall-closet")
    twice = with_space(
        plan, space.model_copy(update={"lids": (*space.lids, space.lids[0].model_copy(update={"id": "b"}))})
    )
    here, _ = stands(twice, twice.space("hall-closet"))
    assert [lid.id for lid, _ in under_lids(here)] == ["lid"]
    assert not Lid(id="x", name="x", width_m=0.2, depth_m=0.2, height_m=0.2).covers(0.1, 0.1, 0.5)


def test_a_lid_that_reaches_through_a_wall_is_refused(demo_plan):
    part = Lid(id="new", name="Too wide", width_m=9.0, depth_m=0.2, height_m=0.2).model_dump(mode="json")
    with pytest.raises(PlanError, match="this lid reaches to 900 cm"):
        add_parts(demo_plan, "hall-closet", "lids", [part])


@pytest.mark.parametrize("kind", ["water", "moss"])
def test_open_water_and_wet_moss_dampen_the_air_by_their_area(demo_plan, kind):
    damp = []
    for area in (0.0, 0.2, 0.8):
        space = demo_plan.space("sideboard")
        wet = (WetSurface(id="w", name="W", kind=kind, area_m2=area),) if area else ()
        plan = with_space(demo_plan, space.model_copy(update={"wet": wet}))
        _, found = followed(plan, "sideboard")
        damp.append(found.mean("rh_pct", day=False))
    assert damp[0] < damp[1] < damp[2]
    assert found.days.closure.water < 1e-9


def test_what_is_wet_counts_by_area(demo_plan):
    here, _ = stands(demo_plan, demo_plan.space("sideboard"))

    pots = pots_of(here)
    space = here.space.model_copy(update={"wet": (WetSurface(id="w", name="W", area_m2=0.5),)})
    found = wetted(pots, space)
    assert found.area_m2 == pytest.approx(pots.area_m2 + 0.5)
    assert found.wet * found.area_m2 == pytest.approx(pots.wet * pots.area_m2 + 0.5)


def test_what_is_too_damp_under_a_lid_is_mended_by_opening_it(demo_plan):
    plan = with_lid(demo_plan, 0.0)
    report = report_of(plan, plan.space("hall-closet"), follow=True)
    found = remedy_for(report, "climate.rh")
    assert found.label.say().startswith("Open Small dome to")
    after = apply(plan, "hall-closet", found.changes)
    held = report_of(after, after.space("hall-closet"), follow=True).margin("climate.rh")
    assert held.verdict in ("good", "tight")


def test_where_no_lid_warms_what_is_under_it_a_heater_does(demo_plan):
    tropical = demo_plan.space("fern-case").plants[4]
    cold = [room.model_copy(update={"day_c": 9.0, "night_c": 8.0}) for room in demo_plan.rooms]
    plan = demo_plan.model_copy(update={"rooms": tuple(cold)})
    space = plan.space("hall-closet")
    grown = {"stage": tropical.stage or "vegetative", "height_m": 0.1, "spread_m": 0.1, "planting_id": None}
    covered = space.plants[0].model_copy(update={"crop_id": tropical.crop_id, **grown})
    plan = with_lid(with_space(plan, space.model_copy(update={"plants": (covered, *space.plants[1:])})))
    report = report_of(plan, plan.space("hall-closet"), follow=True)
    assert report.margin("climate.air-night").parts[0] == covered.id
    found = remedy_for(report, "climate.air-night")
    assert found.changes[0].parts[0]["spec"]["kind"] == "heater"
    after = apply(plan, "hall-closet", found.changes)
    held = report_of(after, after.space("hall-closet"), follow=True).margin("climate.air-night")
    assert held.verdict in ("good", "tight")


def test_in_trouble_a_plant_under_a_lid_has_limits_of_its_own(demo_plan):
    plan = with_lid(demo_plan, 0.1)
    report = report_of(plan, plan.space("hall-closet"))
    limits = limits_of(report.here)
    mine = [limit for limit in limits if "under Small dome" in limit.who]
    assert {limit.figure for limit in mine} == {"air_c", "rh_pct", "root_c"}
    fault = next(item for item in possible(report.space) if item.key == "heatwave")
    done = rehearse(plan, report.here, report.lighting, fault, 12.0)
    hottest = {
        item.limit.plant_id: item.furthest for item in done.passes if item.limit.figure == "air_c" and item.limit.most
    }
    assert len(set(hottest.values())) > 1
