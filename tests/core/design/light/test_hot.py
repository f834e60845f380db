"""Hot lamps keep off what burns: where they are first hung, and the way out where they were hung too near."""

from __future__ import annotations

import pytest

from canopy.design.remedies import options_for
from canopy.design.start.answers import Answers
from canopy.design.start.space import begin_space
from canopy.designer.mending import Mender
from canopy.evaluate import evaluate_space
from canopy.evaluate.kept import report_of
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


def test_plants_are_given_up_last(demo_plan):
    # A narrow bar over a wide rack: the ends are short of light, and taking them out would cost nothing.
    answers = Answers(
        space_id="rack",
        name="Rack",
        kind="shelf",
        width_m=1.2,
        depth_m=0.45,
        height_m=0.6,
        crop_id="lettuce-butterhead",
        count=6,
        lamp_class_id="bar-30",
        lamp_count=1,
        circuit_id="hall",
    )
    plan = add_space(demo_plan, begin_space(answers))
    mending = Mender(report_of(plan, plan.space("rack"), follow=True)).run()
    out = [
        any(isinstance(act, Remove) and act.collection == "plants" for act in step.remedy.changes)
        for step in mending.steps
    ]
    assert not any(out[:-1])
    assert mending.mended
