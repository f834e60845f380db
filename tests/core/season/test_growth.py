"""Growth between the ends of stages, training, and lack of light."""

import datetime as dt
from math import exp

import pytest
from hypothesis import given
from hypothesis import strategies as st

from canopy.library import crops
from canopy.plan import Plant, Planting, Training
from canopy.season import form_on, slowdown, spans
from canopy.season.growth import free_form, logistic_share

DAY = dt.date(2026, 3, 1)
CROPS = sorted(crops())


def _grown(crop_id, ahead, trainings=(), **plant):
    crop = crops()[crop_id]
    planting = Planting(id="p", name="P", crop_id=crop_id, starts_on=DAY, trainings=trainings)
    one = Plant(id="a", crop_id=crop_id, planting_id="p", x_m=0.1, y_m=0.1, **plant)
    return form_on(one, planting, crop, spans(planting, crop), DAY + dt.timedelta(days=ahead))


def test_the_curve_runs_from_nothing_to_all_and_is_steepest_in_the_middle():
    assert (logistic_share(-1), logistic_share(0), logistic_share(1), logistic_share(9)) == (0, 0, 1, 1)
    assert logistic_share(0.5) == pytest.approx(0.5)
    # Worked by hand: (1/(1+e^1.5) - 1/(1+e^3)) / (1/(1+e^-3) - 1/(1+e^3)).
    low = 1 / (1 + exp(3))
    assert logistic_share(0.25) == pytest.approx((1 / (1 + exp(1.5)) - low) / (1 - 2 * low))


@pytest.mark.parametrize("crop_id", CROPS)
def test_each_stage_ends_at_its_size(crop_id):
    crop = crops()[crop_id]
    laid = spans(Planting(id="p", name="P", crop_id=crop_id, starts_on=DAY), crop)
    for span in laid[: len(crop.stages)]:
        form = free_form(crop, laid, span.ends)
        assert (form.height_m, form.spread_m) == (
            pytest.approx(span.stage.height_m),
            pytest.approx(span.stage.spread_m),
        )


@given(
    st.sampled_from([key for key in CROPS if len({s.kind for s in crops()[key].stages} & {"rest"}) == 0]),
    st.integers(0, 300),
)
def test_plants_without_a_rest_only_grow(crop_id, ahead):
    crop = crops()[crop_id]
    if [s.height_m for s in crop.stages] != sorted(s.height_m for s in crop.stages):
        return
    assert _grown(crop_id, ahead).height_m <= _grown(crop_id, ahead + 3).height_m + 1e-9


@given(st.floats(0.02, 0.6), st.floats(0.02, 0.6), st.integers(5, 60))
def test_the_curve_goes_through_what_was_seen(height, spread, ahead):
    seen = {"height_m": height, "spread_m": spread, "seen_on": DAY + dt.timedelta(days=ahead)}
    then = _grown("bean-dwarf", ahead, **seen)
    assert (then.height_m, then.spread_m) == (pytest.approx(height), pytest.approx(spread))


def test_what_is_held_stays_low_and_grows_wide():
    hold = (Training(id="t", on=DAY + dt.timedelta(days=30), height_m=0.2, how="hold"),)
    free, held = _grown("bean-dwarf", 70), _grown("bean-dwarf", 70, hold)
    assert held.height_m == 0.2
    assert free.spread_m < held.spread_m <= 1.6 * free.spread_m
    assert _grown("bean-dwarf", 20, hold) == _grown("bean-dwarf", 20)


def test_what_is_cut_grows_over_again():
    cut = (Training(id="t", on=DAY + dt.timedelta(days=40), height_m=0.1, how="cut"),)
    heights = [_grown("basil-sweet", 40 + ahead, cut).height_m for ahead in (0, 21, 300)]
    free = _grown("basil-sweet", 40).height_m
    assert heights[0] == pytest.approx(0.1)
    # After one time constant all but 1/e of the lost height is made up.
    assert heights[1] == pytest.approx(_grown("basil-sweet", 61).height_m - (free - 0.1) / exp(1))
    assert heights[2] == pytest.approx(crops()["basil-sweet"].stages[-1].height_m, rel=1e-3)


@pytest.mark.parametrize(
    ("dli", "least", "low", "high"), [(12, 12, 1, 1), (20, 12, 1, 1), (3, 12, 2, 4), (0.1, 12, 4, 4), (5, 0, 1, 1)]
)
def test_too_little_light_draws_growth_out(dli, least, low, high):
    found = slowdown(dli, least)
    assert (found.low, found.high) == (pytest.approx(low), pytest.approx(high))
