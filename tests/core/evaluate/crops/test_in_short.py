"""The first questions: enough light, how much later, how many a pot, outdoors, which dose."""

import datetime as dt

import pytest

from canopy.design.start.answers import Answers
from canopy.design.start.space import begin_space
from canopy.evaluate import evaluate_space
from canopy.evaluate.crops.in_short import in_short
from canopy.light.outdoors import outdoor_dli_mol_m2_d
from canopy.plan import Feed, FeedPart, Plan
from canopy.plan.edit import add_space
from canopy.season import slowdown

DAY = dt.date(2026, 3, 14)


@pytest.fixture(scope="module")
def tubs():
    answers = Answers(
        space_id="tubs",
        name="Tubs",
        kind="closet",
        width_m=1.0,
        depth_m=0.6,
        height_m=1.8,
        crop_id="potato",
        count=3,
        lamp_class_id="t5-4x24",
        lamp_count=1,
    )
    plan = add_space(Plan(name="P", date=DAY), begin_space(answers))
    plants = tuple(plant.model_copy(update={"pot_volume_l": 11.0}) for plant in plan.spaces[0].plants)
    return plan.model_copy(update={"spaces": (plan.spaces[0].model_copy(update={"plants": plants}),)})


def _short(plan, **feed):
    space = plan.spaces[0].model_copy(update={"feed": Feed(**feed)})
    return next(in_short(evaluate_space(plan, space), 50.0))


def test_all_five_are_answered_from_one_report(tubs):
    found = _short(tubs)
    report = evaluate_space(tubs, tubs.spaces[0])
    dlis = [light.dli_mol_m2_d for light in report.lighting.plants]
    want = found.plant.want.dli_mol_m2_d
    assert (found.dli.low, found.dli.high) == (min(dlis), max(dlis))
    assert found.verdict == report.margin(f"light.dli.potato.{found.plant.stage}").verdict
    assert found.share == pytest.approx(min(dlis) / want.low)
    assert found.slower == slowdown(min(dlis), want.low)
    # 11 L is less than the 15 to 40 L that one potato wants.
    assert found.per_pot == (0, 0)
    for like in found.likes:
        there = outdoor_dli_mol_m2_d(50.0, dt.date(2026, like.month, 15), like.sky)
        assert there == pytest.approx(sum(dlis) / len(dlis), rel=0.25)


def test_a_large_tub_carries_several(tubs):
    plants = tuple(plant.model_copy(update={"pot_volume_l": 80.0}) for plant in tubs.spaces[0].plants)
    plan = tubs.model_copy(update={"spaces": (tubs.spaces[0].model_copy(update={"plants": plants}),)})
    assert _short(plan).per_pot == (2, 5)


def test_the_dose_brings_water_to_the_strength(tubs):
    part = FeedPart(id="a", name="A", ec_ms_cm_per_ml_l=0.5)
    found = _short(tubs, parts=(part,), water_ec_ms_cm=0.3)
    assert not found.usual_feed
    assert found.target_ec_ms_cm == pytest.approx(1.5)
    assert 0.3 + found.doses[0].ml_per_l * 0.5 == pytest.approx(1.5)
    assert _short(tubs).usual_feed
    hard = _short(tubs, water_ec_ms_cm=2.0)
    assert hard.doses == ()
    assert "the water alone has 2 mS/cm" in hard.trouble
