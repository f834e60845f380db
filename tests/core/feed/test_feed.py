"""Doses, changes, top-ups, and what soil growing needs."""

import datetime as dt

import pytest
from hypothesis import given
from hypothesis import strategies as st

from canopy.errors import QuantityError
from canopy.evaluate import evaluate_space
from canopy.feed import doses, ec_of_ppm, feed_events, in_order, ppm_of_ec, soil_water_l
from canopy.library import mixes
from canopy.plan import FeedPart
from canopy.plan.changes import Change
from canopy.plan.edit import apply
from canopy.quantities import EC, parse

DAY = dt.date(2026, 3, 1)
A, B = (
    FeedPart(id="a", name="A", ec_ms_cm_per_ml_l=0.5, share=2),
    FeedPart(id="b", name="B", ec_ms_cm_per_ml_l=0.2, share=1),
)


def test_doses_worked_by_hand():
    # 1.6 - 0.4 = 1.2 mS/cm over 2 × 0.5 + 1 × 0.2 = 1.2 a step: 2 mL/L of A, 1 mL/L of B.
    a, b = doses([A, B], 1.6, 0.4, 20)
    assert (a.ml_per_l, a.ml, a.adds_ms_cm) == (pytest.approx(2), pytest.approx(40), pytest.approx(1.0))
    assert (b.ml_per_l, b.ml, b.adds_ms_cm) == (pytest.approx(1), pytest.approx(20), pytest.approx(0.2))


@given(st.floats(0.5, 3), st.floats(0, 0.4), st.floats(1, 100))
def test_doses_add_up_to_the_target(target, water, volume):
    assert sum(dose.adds_ms_cm for dose in doses([A, B], target, water, volume)) + water == pytest.approx(target)


def test_parts_go_in_only_at_their_stages():
    bloom = B.model_copy(update={"stages": ("flower", "fruit")})
    assert [dose.part.id for dose in doses([A, bloom], 1.5, 0.3, 10, "vegetative")] == ["a"]
    assert [dose.part.id for dose in doses([A, bloom], 1.5, 0.3, 10, "fruit")] == ["a", "b"]
    with pytest.raises(QuantityError, match="no part of the feed goes in"):
        doses([bloom], 1.5, 0.3, 10, "seedling")
    with pytest.raises(QuantityError, match=r"the water alone has 1\.2 mS/cm, the target is 1: thin it"):
        doses([A], 1.0, 1.2, 10)


def test_a_target_above_the_water_and_parts_of_a_fixed_dose():
    # Above the water's 0.6: 1.2 mS/cm of feed; 0.8 mL/L of calcium adds 0.24 of it, A the other 0.96.
    calcium = FeedPart(id="c", name="Calcium", ec_ms_cm_per_ml_l=0.3, dose_ml_l=0.8, kind="calcium")
    first, second = doses([A, calcium], 1.2, 0.6, 10, above_water=True)
    assert (first.part.id, first.ml, first.adds_ms_cm) == ("c", pytest.approx(8), pytest.approx(0.24))
    assert (second.part.id, second.adds_ms_cm) == ("a", pytest.approx(0.96))
    with pytest.raises(QuantityError, match=r"fixed dose alone add 0\.24 mS/cm, 0\.2 is left for all"):
        doses([A, calcium], 0.2, 0.6, 10, above_water=True)


def test_silicate_goes_in_before_calcium_and_that_before_the_rest():
    kinds = [FeedPart(id=k, name=k, kind=k, ec_ms_cm_per_ml_l=1) for k in ("other", "base", "calcium", "silicate")]
    assert [part.id for part in in_order(kinds)] == ["silicate", "calcium", "base", "other"]


def test_a_reservoir_is_changed_once_its_volume_was_topped_up():
    found = feed_events(DAY, DAY + dt.timedelta(days=20), reservoir_l=20, change_days=30, top_up_share=1, uptake_l_d=2)
    assert [(e.day - DAY).days for e in found if e.what == "change"] == [0, 10, 20]


@pytest.mark.parametrize(("mg_l", "verdict", "acid"), [(40, "good", 0.0), (150, "tight", 2.0), (400, "over", 7.0)])
def test_hard_water_takes_acid(small_plan, mg_l, verdict, acid):
    margin = _fed(small_plan, way="solution", alkalinity_mg_l=mg_l).margin("crops.alkalinity")
    assert margin.verdict == verdict
    assert dict(margin.why.amounts)["acid"].value == pytest.approx(acid, abs=0.02)


def test_peat_wants_half_a_unit_less_than_loam(small_plan):
    peat, loam, solution = (
        _fed(small_plan, **values).feeding.ph
        for values in ({"mix_id": "peat-mix"}, {"mix_id": "loam"}, {"way": "solution"})
    )
    assert (loam.low - peat.low, loam.high - peat.high) == (0.5, 0.5)
    assert (solution.low, solution.high) == (5.6, 6.0)


def test_ppm_scales():
    assert (ppm_of_ec(1.4, 500), ppm_of_ec(1.4, 700)) == pytest.approx((700, 980))
    assert ec_of_ppm(980, 700) == pytest.approx(1.4)
    for typed in ("1.4", "1.4 mS/cm", "1400 uS/cm", "700 ppm500", "980 ppm700"):
        assert parse(typed, EC) == pytest.approx(1.4)
    with pytest.raises(QuantityError, match="“ppm” is not a unit of strength"):
        parse("700 ppm", EC)


def test_changes_and_top_ups_fall_on_their_days():
    found = feed_events(
        DAY, DAY + dt.timedelta(days=20), reservoir_l=20, change_days=10, top_up_share=0.5, uptake_l_d=1
    )
    # A quarter of 20 L at 1 L a day: every fifth day.
    assert [((event.day - DAY).days, event.what, event.volume_l) for event in found] == [
        (0, "change", 20),
        (5, "top-up", 5),
        (10, "change", 20),
        (15, "top-up", 5),
        (20, "change", 20),
    ]
    assert {event.strength for event in found if event.what == "top-up"} == {0.5}
    with pytest.raises(QuantityError, match=r"30\.0 L go in a day and the reservoir holds 20 L"):
        feed_events(DAY, DAY, reservoir_l=20, change_days=10, top_up_share=0.5, uptake_l_d=30)


def test_dry_mix_is_wetted():
    assert soil_water_l(mixes()["peat-mix"], 20) == pytest.approx(7.0)


def _fed(small_plan, **feed):
    values = {f"feed.{key}": value for key, value in feed.items()}
    plan = apply(small_plan, "box", [Change(values=values)])
    return evaluate_space(plan, plan.spaces[0], with_map=False)


def test_a_solution_is_held_against_the_crops(small_plan):
    parts = [A.model_dump(mode="json")]
    good = _fed(small_plan, way="solution", parts=parts, reservoir_l=30, uptake_l_d=2)
    # Lettuce takes 1.2-1.8 mS/cm; the middle is aimed at.
    assert good.feeding.target_ec_ms_cm == pytest.approx(1.475)
    assert (good.margin("crops.feed").verdict, good.margin("crops.reservoir").verdict) == ("good", "good")
    assert good.feeding.doses[0].ml == pytest.approx((1.475 - 0.4) / 0.5 * 30)
    assert good.feeding.top_up[0].ml_per_l == pytest.approx((1.475 - 0.4) / 2 / 0.5)
    assert good.margin("space.spill").verdict == "short"
    assert _fed(small_plan, way="solution", target_ec_ms_cm=2.4).margin("crops.feed").verdict == "over"
    assert _fed(small_plan, way="solution", target_ec_ms_cm=0.8).margin("crops.feed").verdict == "short"
    hard = _fed(small_plan, way="solution", water_ec_ms_cm=2.0, parts=parts)
    assert "thin it" in hard.margin("crops.feed").why.say()
    assert any("thin it" in words for words in hard.feeding.trouble)
    assert _fed(small_plan, way="solution", reservoir_l=3, uptake_l_d=2).margin("crops.reservoir").verdict == "short"


def test_soil_adds_its_mix_up(small_plan):
    plants = [p.model_dump(mode="json") | {"pot_volume_l": 2.0} for p in small_plan.spaces[0].plants]
    plan = apply(small_plan, "box", [Change(values={"plants": plants, "feed.mix_id": "coir"})])
    found = evaluate_space(plan, plan.spaces[0], with_map=False).feeding
    assert (found.mix_l, found.wetting_l) == (8, pytest.approx(3.6))
    assert found.doses == found.events == ()
