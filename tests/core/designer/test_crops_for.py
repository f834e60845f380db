"""Crops for a space: what is said to do well does, in the space as it stands."""

from __future__ import annotations

import pytest

from canopy.designer.crops_for import CropFinder
from canopy.evaluate.kept import report_of
from canopy.library import crops
from canopy.light.scene import PREVIEW
from canopy.plan import load
from canopy.plan.changes import Change
from canopy.plan.edit import apply
from tests.conftest import DEMO


@pytest.fixture(scope="module")
def finder(peppers):
    """The tent of peppers, asked for other crops."""
    report = peppers.answers()[0].outcome.report
    found = CropFinder(report, groups=("fruiting", "herb", "leaf"))
    found.run()
    return found


@pytest.fixture(scope="module")
def peppers():
    """A small tent, answered quickly."""
    from tests.core.designer.conftest import answering, asked

    found = answering(asked(), most=3, helps=False)
    found.run()
    return found


def test_what_the_space_was_made_for_does_well_in_it(finder):
    (fit,) = CropFinder(finder.report, wanted=(crops()["pepper"],)).run()
    assert fit.works
    assert fit.count >= 1
    assert any(fit.works for fit in finder.found)
    assert all(fit.crop.group in ("fruiting", "herb", "leaf") for fit in finder.found)


def test_those_that_do_well_come_first(finder):
    works = [fit.works for fit in finder.found]
    assert works == sorted(works, reverse=True)


def test_what_is_said_to_do_well_does_in_the_plan(finder):
    fit = next(fit for fit in finder.found if fit.works)
    report = finder.report
    plan = apply(report.plan, report.space.id, fit.changes)
    space = plan.space(report.space.id)
    assert {plant.crop_id for plant in space.plants} == {fit.crop.id}
    assert len(space.plants) == fit.count
    after = report_of(plan, space, quality=PREVIEW, follow=True)
    own = [m for m in after.margins if m.station in ("crops", "light", "climate") and not m.information]
    assert not [m.id for m in own if m.verdict in ("short", "over")]
    # Nothing was bought for it: lamps, fans and devices are those that stood there.
    for key in ("airways", "stirrers", "devices", "openings"):
        assert getattr(space, key) == getattr(report.space, key)
    assert [lamp.spec for lamp in space.fixtures] == [lamp.spec for lamp in report.space.fixtures]


def test_lamps_are_hung_anew_before_a_crop_is_called_badly_lit():
    """What moving the lamps mends is not called outside."""
    plan = load(DEMO)
    report = report_of(plan, plan.space("berry-tent"), follow=True)
    finder = CropFinder(report, wanted=(crops()["bean-dwarf"],))
    (fit,) = finder.run()
    assert fit.works
    kept = [act for act in fit.changes if not (isinstance(act, Change) and "z_m" in act.values)]
    assert len(kept) < len(fit.changes)
    as_they_hang = apply(plan, "berry-tent", kept)
    worse = report_of(as_they_hang, as_they_hang.space("berry-tent"), quality=PREVIEW, follow=True)
    assert any(m.station == "light" and m.verdict in ("short", "over") for m in worse.margins)


def test_a_crop_for_cool_nights_is_told_what_is_outside(finder):
    asked = CropFinder(finder.report, wanted=(crops()["strawberry-day-neutral"],))
    (fit,) = asked.run()
    assert not fit.works
    assert "climate.air-night" in {margin.id for margin in fit.outside}


def test_it_goes_one_try_at_a_time(finder):
    again = CropFinder(finder.report, groups=("fruiting",))
    steps = 0
    while again.go_on():
        steps += 1
    assert steps >= len(again.glanced)
    assert again.finished
