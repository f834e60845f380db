"""Lamps on walls, in corners and along edges: inside the space, and shining where they should."""

import pytest

from canopy.design.light.poses import POSES, posed, posed_all
from canopy.errors import PlanError
from canopy.library import fixtures
from canopy.plan.changes import Change
from canopy.plan.edit import apply
from canopy.plan.pose import axes, corners

SHINES = {
    "hang": (0, 0, -1),
    "left": (1, 0, 0),
    "right": (-1, 0, 0),
    "back": (0, -1, 0),
    "front": (0, 1, 0),
    "left-back": (0.707, -0.707, 0),
    "right-back": (-0.707, -0.707, 0),
    "left-front": (0.707, 0.707, 0),
    "right-front": (-0.707, 0.707, 0),
    "top-front": (0, 0.707, -0.707),
    "top-back": (0, -0.707, -0.707),
    "top-left": (0.707, 0, -0.707),
    "top-right": (-0.707, 0, -0.707),
}


@pytest.mark.parametrize("pose", POSES)
def test_a_lamp_stands_against_its_wall_and_shines_into_the_space(small_plan, pose):
    space = small_plan.spaces[0]
    bar = space.fixtures[0].model_copy(update={"spec": fixtures()["strip-18"].spec})
    placed = bar.model_copy(update=posed(space, bar, pose))
    assert axes(placed).beam == pytest.approx(SHINES[pose], abs=0.001)
    box, size = corners(placed), space.size
    assert (box > 0).all()
    assert (box < [size.width_m, size.depth_m, size.height_m]).all()
    if "left" in pose:
        assert box[:, 0].min() < 0.01
    if "right" in pose:
        assert box[:, 0].max() > size.width_m - 0.01
    if "back" in pose:
        assert box[:, 1].max() > size.depth_m - 0.01
    if "top" in pose:
        assert box[:, 2].max() > size.height_m - 0.01


def test_the_plan_takes_it(small_plan):
    lamp = small_plan.spaces[0].fixtures[0]
    values = posed(small_plan.spaces[0], lamp, "back")
    plan = apply(small_plan, "box", [Change(collection="fixtures", part_id=lamp.id, values=values)])
    assert plan.spaces[0].fixtures[0].pitch_deg == 90


def test_a_bar_longer_than_the_wall_is_refused_in_words(small_plan):
    space = small_plan.spaces[0]
    low = space.model_copy(update={"size": space.size.model_copy(update={"height_m": 0.4})})
    with pytest.raises(PlanError, match="too long to stand upright on the left wall"):
        posed(low, space.fixtures[0], "left")


@pytest.mark.parametrize(("pose", "count"), [("corners", 4), ("corners", 6), ("sides", 4), ("walls", 5), ("left", 2)])
def test_several_lamps_are_shared_out_and_stand_apart(small_plan, pose, count):
    space = small_plan.spaces[0]
    bar = space.fixtures[0].model_copy(update={"spec": fixtures()["strip-18"].spec})
    placed = [bar.model_copy(update=values) for values in posed_all(space, [bar] * count, pose)]
    boxes = [(corners(lamp).min(axis=0), corners(lamp).max(axis=0)) for lamp in placed]
    for number, (low, high) in enumerate(boxes):
        for bottom, top in boxes[:number]:
            assert (low >= top - 1e-6).any() or (high <= bottom + 1e-6).any()
    walls = {tuple(axes(lamp).beam.round(2)) for lamp in placed}
    assert len(walls) == min(count, {"corners": 4, "sides": 2, "walls": 3, "left": 1}[pose])
