"""Warmth moves a harvest, too little light thins it, and a fruiting crop in the dark hardly crops."""

import datetime as dt

import pytest

from canopy.evaluate.crops.harvests import expected, harvest_margin, sets_fruit, usual_c
from canopy.library import crops
from canopy.plan import Plan, Planting
from canopy.plan.edit import add_planting
from canopy.season import cast_of, mass_left, pace, standing_of

DAY = dt.date(2026, 3, 1)


def _standing(small_plan, crop_id):
    plant = small_plan.spaces[0].plants[0].model_dump(mode="json")
    bare = small_plan.model_copy(update={"spaces": (small_plan.spaces[0].model_copy(update={"plants": ()}),)})
    plant |= {"crop_id": crop_id, "planting_id": "p", "stage": None, "height_m": None, "spread_m": None}
    planting = Planting(id="p", name="P", crop_id=crop_id, starts_on=DAY).model_dump(mode="json")
    plan: Plan = add_planting(bare, "box", [planting], [plant])
    return standing_of(plan.spaces[0], DAY, cast_of(plan))


def _say(small_plan, crop_id, share, mean_c=None):
    here = _standing(small_plan, crop_id)
    plant = here.plants[0]
    return harvest_margin(here, plant, share * plant.want.dli_mol_m2_d.low, mean_c).why.say()


def test_a_temperature_sum_by_hand():
    # Dwarf tomato: 8 °C is its zero; usual 20 °C, here 16 °C: 12 kelvin-days a day against 8.
    assert pace(crops()["tomato-dwarf"], 16.0, 20.0) == pytest.approx(1.5)
    assert pace(crops()["tomato-dwarf"], 20.0, 20.0) == 1.0
    assert pace(crops()["tomato-dwarf"], 8.0, 20.0) == 2.5
    assert pace(crops()["tomato-dwarf"], 60.0, 20.0) == 0.7


def test_mass_between_proportion_and_root():
    found = mass_left(4.0, 16.0)
    assert (found.low, found.high) == (0.25, 0.5)
    assert mass_left(20.0, 16.0).low == 1.0


def test_a_cold_space_moves_what_is_left_of_the_time(small_plan):
    plant = _standing(small_plan, "basil-sweet").plants[0]
    warm = usual_c(plant.want)
    plain, cold = (expected(plant, 99.0, c, DAY) for c in (warm, (warm + plant.crop.base_c) / 2))
    assert not plain.moved
    assert cold.pace == pytest.approx(2.0)
    assert (cold.earliest - DAY).days == pytest.approx(2 * (plain.earliest - DAY).days, abs=1)


def test_light_costs_mass_and_a_fruiting_crop_at_half_of_it_hardly_crops(small_plan):
    assert "it will hardly crop" in _say(small_plan, "tomato-dwarf", 0.45)
    assert "times as long" not in _say(small_plan, "tomato-dwarf", 0.45)
    assert "lighter then" in _say(small_plan, "tomato-dwarf", 0.8)
    assert "22 to 40\xa0% lighter then" in _say(small_plan, "lettuce-butterhead", 0.6) or "lighter" in _say(
        small_plan, "lettuce-butterhead", 0.6
    )
    assert "hardly" not in _say(small_plan, "lettuce-butterhead", 0.3)
    assert "lighter" not in _say(small_plan, "lettuce-butterhead", 1.2)
    assert sets_fruit(crops()["pepper"])
    assert not sets_fruit(crops()["potato"])


def test_green_and_ripe_are_told_apart(small_plan):
    assert "(green), ripe from" in _say(small_plan, "pepper", 1.5)
