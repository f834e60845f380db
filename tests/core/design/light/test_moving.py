"""A way out for starved plants: lamps moved, one more hung, others that say what they do."""

import datetime as dt

import numpy as np
import pytest

from canopy.design.light.adding import add_lamp
from canopy.design.light.heights import space_lamps
from canopy.design.light.moving import move_lamps
from canopy.design.light.proposal import unmet
from canopy.design.remedies import options_for
from canopy.design.start.answers import Answers
from canopy.design.start.space import begin_space
from canopy.evaluate import evaluate_space
from canopy.evaluate.light.lighting import lighting
from canopy.plan import Circuit, Plan
from canopy.plan.changes import Change
from canopy.plan.edit import add_space, apply
from canopy.plan.pose import corners
from canopy.season import standing_of

DAY = dt.date(2026, 3, 14)


def _vines(lamp_id="hps-400", at=(0.75, 0.2, 1.95)):
    """Two tall plants one behind the other, the lamp in front of both."""
    answers = Answers(
        space_id="vines",
        name="Vines",
        kind="tent",
        width_m=1.5,
        depth_m=1.2,
        height_m=2.2,
        crop_id="tomato-dwarf",
        count=2,
        lamp_class_id=lamp_id,
        lamp_count=1,
        circuit_id="c",
    )
    space = begin_space(answers)
    plants = tuple(
        plant.model_copy(update={"x_m": 0.75, "y_m": y, "height_m": 1.0, "spread_m": 0.5})
        for plant, y in zip(space.plants, (0.35, 0.9), strict=True)
    )
    lamp = space.fixtures[0].model_copy(
        update=dict(zip(("x_m", "y_m", "z_m"), at, strict=True)) | {"dim": 0.7 if lamp_id == "hps-400" else 1.0}
    )
    space = space.model_copy(update={"plants": plants, "fixtures": (lamp,), "airways": ()})
    circuit = Circuit(id="c", name="C", rule_set_id="eu-16", mains_v=230, breaker_a=16)
    return add_space(Plan(name="P", date=DAY, circuits=(circuit,)), space)


def _light(plan):
    space = plan.spaces[0]
    return [light.dli_mol_m2_d for light in lighting(standing_of(space, DAY), with_map=False).plants]


@pytest.mark.parametrize(("lamp", "at"), [("hps-400", (0.75, 0.2, 1.95)), ("board-150", (0.75, 0.3, 1.7))])
def test_a_starved_plant_behind_another_gets_its_light_by_moving_the_lamp(lamp, at):
    plan = _vines(lamp, at)
    front, behind = _light(plan)
    want = standing_of(plan.spaces[0], DAY).plants[0].want.dli_mol_m2_d
    assert behind < want.low < front
    found = move_lamps(standing_of(plan.spaces[0], DAY))
    moved = apply(plan, "vines", found.changes)
    assert all(want.low <= dli <= want.high for dli in _light(moved))
    assert found.unmet == ()
    assert "from the left" in found.label.say() or "from the front" in found.label.say()


def test_the_margin_of_a_starved_plant_offers_it_and_says_what_becomes_of_it():
    plan = _vines()
    report = evaluate_space(plan, plan.spaces[0], day=DAY, with_map=False)
    margin = next(m for m in report.margins if m.id.startswith("light.dli"))
    assert margin.verdict == "short"
    options = options_for(report, margin.id)
    assert options[0].mends
    moved = next(option for option in options if option.key == "move")
    assert moved.mends
    after = apply(plan, "vines", moved.remedy.changes)
    fresh = evaluate_space(after, after.spaces[0], day=DAY, with_map=False).margin(margin.id)
    assert fresh.verdict in ("good", "tight")
    # One way alone can be asked for, as when it is chosen.
    assert [option.key for option in options_for(report, margin.id, "move")] == ["move"]


def test_a_way_that_only_helps_is_offered_as_that():
    # Far too weak a lamp: nothing short of another brings the plants inside.
    plan = _vines("board-65", (0.75, 0.2, 1.9))
    report = evaluate_space(plan, plan.spaces[0], day=DAY, with_map=False)
    margin = next(m for m in report.margins if m.id.startswith("light.dli"))
    options = options_for(report, margin.id)
    partial = [option for option in options if not option.mends]
    assert partial
    for option in partial:
        assert option.becomes.verdict == "short"
        assert option.becomes.there.amounts[0][1].value > margin.there.amounts[0][1].value


def test_a_lamp_is_moved_only_where_there_is_room():
    plan = _vines("board-150", (0.75, 0.3, 1.7))
    found = move_lamps(standing_of(plan.spaces[0], DAY))
    moved = apply(plan, "vines", found.changes).spaces[0]
    box = corners(moved.fixtures[0])
    size = moved.size
    assert (box >= -1e-9).all()
    assert (box <= np.array([size.width_m, size.depth_m, size.height_m]) + 1e-9).all()
    assert moved.fixtures[0].z_m - 1.15 >= moved.fixtures[0].spec.min_distance_m - 0.05


def test_one_more_lamp_hangs_where_it_helps_most():
    plan = _vines("board-65", (0.75, 0.2, 1.6))
    before = _light(plan)
    found = add_lamp(standing_of(plan.spaces[0], DAY))
    after = apply(plan, "vines", found.changes)
    assert len(after.spaces[0].fixtures) == 2
    assert min(_light(after)) > min(before) * 1.3
    assert after.spaces[0].fixtures[1].y_m > 0.4


def test_where_nothing_is_better_nothing_is_proposed(small_plan):
    space = small_plan.spaces[0]
    assert move_lamps(standing_of(space.model_copy(update={"plants": ()}), DAY)) is None
    assert move_lamps(standing_of(space.model_copy(update={"fixtures": ()}), DAY)) is None
    assert add_lamp(standing_of(space.model_copy(update={"fixtures": ()}), DAY)) is None


def test_what_cannot_be_met_names_ppfd_too(small_plan):
    space = small_plan.spaces[0]
    lamps = tuple(lamp.model_copy(update={"dim": 0.5}) for lamp in space.fixtures)
    day_long = [Change(collection="fixtures", part_id=lamp.id, values={"dim": 0.5}) for lamp in lamps]
    plan = apply(small_plan, space.id, day_long)
    here = standing_of(plan.spaces[0], DAY)
    said = " ".join(words.say() for words in unmet(here, lighting(here, with_map=False)))
    assert "PPFD short by" in said


def test_a_spacing_is_said_in_lengths(small_plan):
    space = small_plan.spaces[0]
    drawn_in = tuple(lamp.model_copy(update={"y_m": 0.3 + 0.06 * (k - 1)}) for k, lamp in enumerate(space.fixtures))
    found = space_lamps(standing_of(space.model_copy(update={"fixtures": drawn_in}), DAY))
    said = found.label.say()
    assert "from the front" in said
    assert "%" not in said
