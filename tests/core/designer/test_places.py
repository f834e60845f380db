"""Which space for which crop: held against every way of laying them out."""

from __future__ import annotations

from itertools import product

import pytest

from canopy.designer.crops_for import CropFinder, floor_m2
from canopy.designer.places import beside_each_other, best_spaces
from canopy.designer.sharing import parted_by
from canopy.evaluate.kept import report_of
from canopy.library import crops
from canopy.light.scene import PREVIEW
from canopy.plan import load
from canopy.plan.edit import apply
from tests.conftest import DEMO

WANTED = (("tatsoi", 4), ("pepper", 2), ("filmy-fern", 3), ("african-violet", 2))


@pytest.fixture(scope="module")
def reports():
    """The closet, the sideboard and the case of the demo."""
    plan = load(DEMO)
    return [report_of(plan, space, follow=True) for space in plan.spaces[1:]]


def _worth(layout, reports, wanted):
    """What a layout is worth by the same rule, counted by hand; None where it breaks one."""
    worth = 0.0
    for place, report in enumerate(reports):
        here = [(crop, count) for (crop, count), at in zip(wanted, layout, strict=True) if at == place]
        if any(parted_by(a[0], b[0]) for a in here for b in here if a is not b):
            return None
        if sum(count * crop.spacing_m**2 for crop, count in here) > 0.7 * floor_m2(report.space):
            return None
        for crop, _ in here:
            fit = CropFinder(report).glance(crop)
            if fit is None or fit.miss > 1:
                return None
            worth += 10 - min(fit.miss, 1)
    return worth


def test_no_other_layout_is_worth_more(reports):
    wanted = [(crops()[key], count) for key, count in WANTED[:3]]
    found = best_spaces(reports, wanted)
    ids = [report.space.id for report in reports]
    mine = [ids.index(item.space_id) if item.space_id else None for item in found]
    layouts = product([None, 0, 1, 2], repeat=len(wanted))
    best = max(worth for layout in layouts if (worth := _worth(layout, reports, wanted)) is not None)
    assert _worth(mine, reports, wanted) == pytest.approx(best, abs=1e-6)


def test_what_finds_no_place_says_why(reports):
    (many,) = best_spaces(reports, [(crops()["african-violet"], 400)])
    assert many.space_id is None
    assert "no room for so many" in many.why
    (hot,) = best_spaces(reports, [(crops()["garden-cress"], 4000)])
    assert hot.why


def test_where_too_many_are_asked_for_it_is_said_how_many_have_room(reports):
    violet = crops()["african-violet"]
    (many,) = best_spaces(reports, [(violet, 400)])
    room = int(many.why.rsplit(" ", 1)[-1])
    (fits,), (over,) = (best_spaces(reports, [(violet, number)]) for number in (room, room + 1))
    assert fits.space_id is not None
    assert over.space_id is None


def test_each_space_is_judged_with_all_that_was_laid_into_it(reports):
    wanted = [(crops()[key], count) for key, count in (("tatsoi", 3), ("land-cress", 2), ("african-violet", 2))]
    placed = best_spaces(reports, wanted)
    found = beside_each_other(reports, placed)
    assert {fit.space_id for fit in found} == {item.space_id for item in placed if item.space_id}
    for fit in found:
        assert [(crop.id, count) for crop, count in fit.crops] == [
            (item.crop.id, item.count) for item in placed if item.space_id == fit.space_id
        ]
        report = next(report for report in reports if report.space.id == fit.space_id)
        plan = apply(report.plan, fit.space_id, fit.changes)
        counts = {}
        for plant in plan.space(fit.space_id).plants:
            counts[plant.crop_id] = counts.get(plant.crop_id, 0) + 1
        assert counts == {crop.id: count for crop, count in fit.crops}
        after = report_of(plan, plan.space(fit.space_id), day=report.here.day, quality=PREVIEW, follow=True)
        own = {
            m.id for m in after.margins if m.station in ("crops", "light", "climate") and m.verdict in ("short", "over")
        }
        assert own == {margin.id for margin in fit.outside}


def test_without_spaces_nothing_is_placed():
    (found,) = best_spaces([], [(crops()["basil-sweet"], 1)])
    assert found.space_id is None
    assert best_spaces([], []) == ()
