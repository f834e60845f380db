"""Stages on dates, and when there is something to harvest."""

import datetime as dt
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from canopy.errors import LibraryError
from canopy.library import crops
from canopy.plan import Planting
from canopy.season import harvest, span_on, spans

DAY = dt.date(2026, 3, 1)


def _planting(crop_id, **more):
    return Planting(id="p", name="P", crop_id=crop_id, starts_on=DAY, **more)


def _spans(crop_id, **more):
    return spans(_planting(crop_id, **more), crops()[crop_id])


def _ago(day):
    return (day - DAY).days


def test_a_stage_lasts_the_middle_of_its_range():
    # Tatsoi: seedling 10-14 days, vegetative 21-32: middles 12 and 26.
    seedling, vegetative = _spans("tatsoi")
    assert (_ago(seedling.starts), _ago(seedling.ends), _ago(vegetative.ends)) == (0, 12, 38)
    assert (_ago(vegetative.earliest), _ago(vegetative.latest)) == (31, 46)


def test_a_length_of_one_s_own_leaves_no_range():
    seedling, vegetative = _spans("tatsoi", stage_days={"seedling": 9, "vegetative": 30})
    assert (_ago(seedling.ends), _ago(vegetative.ends)) == (9, 39)
    assert vegetative.earliest == vegetative.latest == vegetative.ends


def test_a_planting_may_begin_in_a_later_stage():
    assert [span.stage.kind for span in _spans("pepper", first_stage="fruit")] == ["fruit"]
    with pytest.raises(LibraryError, match="Tatsoi has no stage “fruit”: use seedling, vegetative"):
        _spans("tatsoi", first_stage="fruit")


@pytest.mark.parametrize(
    ("ahead", "kind"),
    [(-1, None), (0, "seedling"), (11, "seedling"), (12, "vegetative"), (37, "vegetative"), (300, "vegetative")],
)
def test_the_stage_of_a_day(ahead, kind):
    found = span_on(_spans("tatsoi"), DAY + dt.timedelta(days=ahead))
    assert (found.stage.kind if found else None) == kind


def test_plants_with_a_rest_go_round_and_kept_plants_stay():
    flytrap = _spans("flytrap")
    assert [span.stage.kind for span in flytrap[:4]] == ["vegetative", "rest", "vegetative", "rest"]
    assert len({span.starts for span in flytrap}) == len(flytrap)
    violet = _spans("african-violet")
    assert violet[-1].open_ended
    assert violet[-1].holds(DAY + dt.timedelta(days=5000))
    assert not _spans("tatsoi")[-1].open_ended


@pytest.mark.parametrize(
    ("crop_id", "kind", "earliest", "likely", "latest"),
    [
        ("tatsoi", "once", 35, 40, 45),
        ("radish", "once", 24, 28, 32),
        ("garden-seedlings", "transplant", 35, 42, 50),
        ("tomato-dwarf", "picking", 90, 98, 105),
        ("pepper", "picking", 100, 110, 120),
        ("basil-sweet", "cut-again", 35, 38, 42),
        ("kale", "cut-again", 40, 48, 55),
        ("chives", "cut-again", 75, 82, 90),
        ("bean-dwarf", "picking", 50, 55, 60),
    ],
)
def test_one_harvest_with_its_range(crop_id, kind, earliest, likely, latest):
    found = harvest(_spans(crop_id), crops()[crop_id])
    assert (found.kind, _ago(found.earliest), _ago(found.likely), _ago(found.latest)) == (
        kind,
        earliest,
        likely,
        latest,
    )


def test_what_was_planted_out_bears_sooner_and_lengths_of_one_s_own_move_it():
    crop = crops()["tomato-dwarf"]
    assert _ago(harvest(_spans("tomato-dwarf", first_stage="vegetative"), crop).likely) == 68
    # Seedlings that take 35 days instead of 25 put it off by ten.
    assert _ago(harvest(_spans("tomato-dwarf", stage_days={"seedling": 35}), crop).likely) == 108
    # One that fruits already has its 25 days of leaf behind it.
    assert _ago(harvest(_spans("tomato-dwarf", first_stage="fruit"), crop).likely) == 42
    ripe = harvest(_spans("pepper"), crops()["pepper"])
    assert (ripe.what, ripe.riper[1], _ago(ripe.riper[0])) == ("green", "ripe", 120)


def test_a_crop_without_days_to_first_harvest_goes_by_its_stages():
    crop = crops()["bean-dwarf"].model_copy(update={"first_harvest": ()})
    found = harvest(spans(_planting("bean-dwarf"), crop), crop)
    assert _ago(found.likely) == 34 + 10


def test_picking_begins_within_the_bearing_stage_and_goes_on():
    laid = _spans("bean-dwarf")
    found = harvest(laid, crops()["bean-dwarf"])
    fruit = laid[-1]
    assert fruit.starts <= found.likely < fruit.ends == found.until
    assert found.earliest <= found.likely <= found.latest
    assert harvest(_spans("haworthia"), crops()["haworthia"]) is None


@given(st.sampled_from(sorted(crops())), st.integers(0, 900))
def test_stages_follow_each_other_without_a_gap(crop_id, ahead):
    laid = _spans(crop_id)
    assert laid[0].starts == DAY
    assert all(a.ends == b.starts for a, b in pairwise(laid))
    assert all(span.starts < span.ends and span.earliest <= span.latest for span in laid)
    assert span_on(laid, DAY + dt.timedelta(days=ahead)) in laid
    found = harvest(laid, crops()[crop_id])
    assert found is None or found.earliest <= found.likely <= found.latest
