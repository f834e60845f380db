"""Hot lamps keep off what burns: where they are first hung, and the way out where they were hung too near."""

from __future__ import annotations

import pytest

from canopy.design.light.mend import moved_to
from canopy.design.remedies import options_for
from canopy.design.start.answers import Answers
from canopy.design.start.space import begin_space
from canopy.designer.mending import Mender
from canopy.evaluate import evaluate_space
from canopy.evaluate.light.lamp_care import clear_m, free_m, kind_of
from canopy.plan.changes import Remove
from canopy.plan.edit import add_space, apply


def _vines(demo_plan, lamp_class_id="hps-400", crop_id="tomato-cordon", count=2, **size):
    sizes = {"width_m": 1.2, "depth_m": 1.2, "height_m": 2.0} | size
    answers = Answers(
        space_id="vines",
        name="Vines",
        kind="tent",
        crop_id=crop_id,
        count=count,
        lamp_class_id=lamp_class_id,
        lamp_count=1,
        circuit_id="hall",
        **sizes,
    )
    return add_space(demo_plan, begin_space(answers))


def _with(plan, **values):
    space = plan.space("vines")
    lamp = space.fixtures[0].model_copy(update=values)
    spaces = tuple(
        space.model_copy(update={"fixtures": (lamp,)}) if item.id == "vines" else item for item in plan.spaces
    )
    return plan.model_copy(update={"spaces": spaces})


@pytest.mark.parametrize("lamp_class_id", ["hps-400", "mh-250", "hps-600"])
def test_a_hot_lamp_is_first_hung_clear_of_the_ceiling(demo_plan, lamp_class_id):
    plan = _vines(demo_plan, lamp_class_id, height_m=2.2)
    space = plan.space("vines")
    assert clear_m(space, space.fixtures[0])[0] >= kind_of(space.fixtures[0]).clear_m
    report = evaluate_space(plan, space)
    assert report.margin("light.lamp-surface").verdict in ("good", "tight")
    assert all(margin.verdict != "short" for margin in report.margins if margin.id.startswith("light.clearance"))


@pytest.mark.parametrize(
    ("values", "said"),
    [
        ({"z_m": 1.79}, {"z_m": "Hang lamp 1 at {z}"}),
        ({"x_m": 0.32}, {"x_m": "Move lamp 1 to {x} from the left"}),
        (
            {"x_m": 0.32, "z_m": 1.79},
            {"x_m": "Move lamp 1 to {x} from the left and a height of {z}", "z_m": ""},
        ),
        ({"y_m": 1.0}, {"y_m": "Move lamp 1 to {y} from the front"}),
    ],
)
def test_one_too_near_to_what_burns_is_moved_off_and_no_further(demo_plan, values, said):
    plan = _with(_vines(demo_plan), **values)
    report = evaluate_space(plan, plan.space("vines"))
    margin = report.margin("light.lamp-surface")
    assert margin.verdict == "short"
    assert margin.mendable
    (option,) = options_for(report, margin.id)[:1]
    assert option.mends
    assert set(option.remedy.changes[0].values) == set(said)
    assert option.remedy.label.text == max(said.values())
    after = apply(plan, "vines", option.remedy.changes).space("vines")
    gap = clear_m(after, after.fixtures[0])[0]
    assert gap == pytest.approx(free_m("hps"), abs=0.003)


def test_where_the_plants_leave_no_room_none_is_offered(demo_plan):
    # Under 1.35 m a 400 W sodium lamp cannot keep off both the ceiling and a vine.
    plan = _vines(demo_plan, height_m=1.35)
    report = evaluate_space(plan, plan.space("vines"))
    assert report.margin("light.lamp-surface").verdict == "short"
    assert options_for(report, "light.lamp-surface") == ()


def test_leaves_too_warm_are_cooled_by_distance(demo_plan):
    plan = _with(_vines(demo_plan, height_m=2.4), z_m=1.2)
    report = evaluate_space(plan, plan.space("vines"))
    margin = report.margin("light.leaf-warmth")
    assert margin.verdict == "over"
    assert margin.mendable
    option = options_for(report, margin.id)[0]
    assert option.mends
    assert 1.2 < option.remedy.changes[0].values["z_m"] < 1.7


def test_where_the_air_itself_is_too_warm_distance_helps_and_is_said_to_be_too_little(demo_plan):
    plan = _with(_vines(demo_plan, "hps-600", height_m=2.4), z_m=1.15)
    report = evaluate_space(plan, plan.space("vines"))
    assert report.breathing.day.temperature_c > 36
    option = options_for(report, "light.leaf-warmth")[0]
    assert not option.mends
    assert option.becomes.verdict == "over"
    assert option.becomes.there.amounts[0][1].value < report.margin("light.leaf-warmth").there.amounts[0][1].value - 5


def test_one_a_hair_too_near_is_moved_by_a_hair_where_there_is_no_more_room(demo_plan):
    plan = _vines(demo_plan)
    space = plan.space("vines")
    lamp, least = space.fixtures[0], kind_of(space.fixtures[0]).clear_m
    # The plants leave the lamp its least gap and a millimetre.
    top = max(plant.top_m for plant in evaluate_space(plan, space).here.plants)
    height = round(top + lamp.least_distance_m + 0.001 + lamp.spec.thickness_m + least, 4)
    size = space.size.model_copy(update={"height_m": height})
    low = space.model_copy(update={"size": size, "openings": (), "airways": (), "stirrers": (), "devices": ()})
    z = height - least - lamp.spec.thickness_m + 0.0005
    low = low.model_copy(update={"fixtures": (lamp.model_copy(update={"z_m": round(z, 4)}),)})
    plan = plan.model_copy(update={"spaces": (*(item for item in plan.spaces if item.id != "vines"), low)})
    report = evaluate_space(plan, low)
    assert report.margin("light.lamp-surface").verdict == "short"
    option = options_for(report, "light.lamp-surface")[0]
    assert option.mends
    assert z - 0.0025 < option.remedy.changes[0].values["z_m"] < z


def test_lamps_that_are_off_stay_where_they_hang_while_others_are_tried_higher(demo_plan):
    plan = _vines(demo_plan)
    lamp = plan.space("vines").fixtures[0]
    dark = lamp.model_copy(update={"id": "lamp-9", "x_m": 0.3, "enabled": False})
    space = plan.space("vines").model_copy(update={"fixtures": (lamp, dark)})
    here = evaluate_space(plan, plan.space("vines")).here.moved(space)
    raised = moved_to(here, lamp.z_m + 0.1).space.fixtures
    assert raised[0].z_m == pytest.approx(lamp.z_m + 0.1)
    assert raised[1] == dark


def test_plants_are_given_up_last(demo_plan):
    # Peppers beside taller cucumbers: taking the two dim ones out would mend it for nothing, and is not done.
    plan = _vines(demo_plan, "hps-400-hood", "pepper", 4, width_m=1.5, depth_m=0.9, more=(("cucumber-compact", 2),))
    report = evaluate_space(plan, plan.space("vines"), follow=True)
    dim = "light.ppfd.pepper.vegetative"
    assert report.margin(dim).verdict == "short"
    assert "out" in {option.key for option in options_for(report, dim)}
    mending = Mender(report).run()
    assert dim in {margin.id for margin in mending.mended}
    acts = [act for step in mending.steps for act in step.remedy.changes]
    assert not any(isinstance(act, Remove) and act.collection == "plants" for act in acts)
