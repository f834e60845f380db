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
        ("tatsoi", "once", 31, 38, 46),
        # Radish: seedling 6-9, roots 16-24.
        ("radish", "once", 22, 28, 33),
        ("garden-seedlings", "transplant", 32, 42, 52),
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
