"""Lamps as things: how far hot ones are from what burns, and how much they have faded."""

import datetime as dt

import pytest

from canopy.design.remedies import options_for
from canopy.evaluate import evaluate_space
from canopy.evaluate.light.lamp_care import clear_m, faded_to, kind_of
from canopy.library import fixtures, lamp_kinds
from canopy.plan import Fixture
from canopy.plan.changes import Add, Change
from canopy.plan.edit import apply

DAY = dt.date(2026, 3, 1)


def _lamp(class_id, **more):
    return Fixture(id="lamp", spec=fixtures()[class_id].spec, x_m=0.5, y_m=0.5, z_m=1.2, **more)


@pytest.mark.parametrize(
    ("class_id", "hours", "left"),
    [("t5-4x54", 10_000, 0.90), ("hps-400", 20_000, 0.81), ("mh-250", 8_000, 0.75), ("board-240", 36_000, 0.90)],
)
def test_light_is_lost_by_the_kind_of_lamp(class_id, hours, left):
    lamp = _lamp(class_id)
    days = round(hours / lamp.hours)
    old = lamp.model_copy(update={"in_use_since": DAY - dt.timedelta(days=days)})
    assert faded_to(old, DAY) == pytest.approx(left, abs=0.002)
    assert faded_to(lamp, DAY) == 1.0


def test_what_has_faded_is_counted_by_one_click(small_plan):
    lamp = small_plan.spaces[0].fixtures[0]
    old = {"in_use_since": (DAY - dt.timedelta(days=2500)).isoformat()}
    plan = apply(small_plan, "box", [Change(collection="fixtures", part_id=lamp.id, values=old)])
    report = evaluate_space(plan, plan.spaces[0], day=DAY, with_map=False)
    assert report.margin("light.ageing").verdict == "tight"
    remedy = options_for(report, "light.ageing")[0].remedy
    done = apply(plan, "box", remedy.changes)
    assert done.spaces[0].fixtures[0].ageing == pytest.approx(faded_to(plan.spaces[0].fixtures[0], DAY), abs=0.01)
    after = evaluate_space(done, done.spaces[0], day=DAY, with_map=False)
    assert after.margin("light.ageing").verdict == "good"
    assert after.lighting.ppf_umol_s < report.lighting.ppf_umol_s


def test_a_hot_lamp_keeps_away_from_lining_and_ceiling(small_plan):
    space = small_plan.spaces[0]
    spec = fixtures()["hps-250"].spec.model_dump(mode="json")
    height = space.size.height_m
    at = {"spec": spec, "x_m": space.size.width_m / 2, "y_m": space.size.depth_m / 2}

    def judged(z_m):
        plan = apply(small_plan, "box", [Add(collection="fixtures", parts=({**at, "z_m": z_m},), prefix="lamp")])
        lamp = plan.spaces[0].fixtures[-1]
        margin = evaluate_space(plan, plan.spaces[0], day=DAY, with_map=False).margin("light.lamp-surface")
        return clear_m(plan.spaces[0], lamp), margin

    (gap, where), margin = judged(height - spec["thickness_m"] - 0.05)
    assert (round(gap, 3), where) == (0.05, "ceiling")
    assert margin.verdict == "short"
    assert margin.danger
    assert kind_of(_lamp("hps-400")).clear_m == 0.15


def test_led_and_tubes_are_not_judged_as_hot(small_plan):
    assert evaluate_space(small_plan, small_plan.spaces[0], with_map=False).margin("light.lamp-surface") is None
    assert {kind.surface_c.high > 100 for key, kind in lamp_kinds().items() if key in ("led", "fluorescent")} == {False}
