"""Cords measured on the drawing by hand, and loops below outlets near water."""

import pytest

from canopy.evaluate import evaluate_space
from canopy.evaluate.power.cord_runs import cord_runs, point_of
from canopy.evaluate.power.loads import household_tree
from canopy.plan import Carrier, Circuit, Device, Opening, Outlet, dumps, loads


def _house(small_plan, *, holes=(), outlets=(), carriers=(), plug=None, **values):
    circuit = Circuit(id="c", name="C", rule_set_id="eu-16", mains_v=230, breaker_a=16)
    space = small_plan.spaces[0]
    kept = tuple(o for o in space.openings if o.use != "cable")
    lamps = tuple(lamp.model_copy(update={"plug": plug}) for lamp in space.fixtures)
    space = space.model_copy(
        update={"circuit_id": "c", "openings": (*kept, *holes), "fixtures": lamps, "stirrers": (), **values}
    )
    changes = {"circuits": (circuit,), "outlets": tuple(outlets), "carriers": tuple(carriers), "spaces": (space,)}
    return loads(dumps(small_plan.model_copy(update=changes)))


def _runs(plan):
    return cord_runs(plan, plan.spaces[0], household_tree(plan))


def _hole(key, face, u, v):
    return Opening(id=key, face=face, u_m=u, v_m=v, diameter_m=0.05, use="cable")


def test_a_lamp_goes_up_over_and_down_to_the_nearest_hole(small_plan):
    plan = _house(small_plan, holes=(_hole("far", "front", 0.7, 0.1), _hole("near", "right", 0.3, 1.2)))
    space, (run, *_) = plan.spaces[0], _runs(plan)
    lamp, size = space.fixtures[0], space.size
    assert run.hole.id == "near"
    up = (size.height_m - lamp.z_m) + (size.height_m - 1.2)
    assert run.inside_m == pytest.approx(size.width_m - lamp.x_m + abs(lamp.y_m - 0.3) + up)
    assert run.outside_m is None
    assert run.needs_m == pytest.approx(1.1 * run.inside_m + 0.3)


@pytest.mark.parametrize("face", ["left", "right", "front", "back", "floor", "ceiling"])
def test_a_hole_lies_in_its_face(small_plan, face):
    size = small_plan.spaces[0].size
    x, y, z = point_of(small_plan.spaces[0], _hole("h", face, 0.2, 0.3))
    at = {"left": x, "right": size.width_m - x, "front": y, "back": size.depth_m - y, "floor": z}
    assert at.get(face, size.height_m - z) == pytest.approx(0)


def test_the_strip_s_own_cord_spans_part_of_the_way(small_plan):
    outlet = Outlet(id="wall", name="Wall", circuit_id="c", height_m=0.3, reach_m=2.0)
    strip = Carrier(id="s", name="S", into="wall", limit_w=2300, length_m=1.5)
    hole = _hole("h", "left", 0.3, 1.0)
    (through, *_) = _runs(_house(small_plan, holes=(hole,), outlets=(outlet,), carriers=(strip,), plug="s"))
    assert through.outside_m == pytest.approx(2.0 + 0.7)
    assert through.needs_m == pytest.approx(1.1 * (through.inside_m + 1.2) + 0.3)
    (straight, *_) = _runs(_house(small_plan, holes=(hole,), outlets=(outlet,), plug="wall"))
    assert straight.needs_m - through.needs_m == pytest.approx(1.1 * 1.5)


def test_without_a_hole_it_goes_by_the_floor_and_linked_lamps_need_none(small_plan):
    plan = _house(small_plan)
    lamp = plan.spaces[0].fixtures[0]
    two = tuple(lamp.model_copy(update={"id": f"l{n}", "chain": "row"}) for n in (1, 2))
    runs = _runs(_house(small_plan, fixtures=two))
    assert len(runs) == 1
    assert runs[0].hole is None
    assert runs[0].inside_m > plan.spaces[0].size.height_m


@pytest.mark.parametrize(("loops", "verdict"), [(None, "unknown"), (False, "tight"), (True, "good")])
def test_cords_loop_below_their_outlet_where_there_is_water(small_plan, loops, verdict):
    outlet = Outlet(id="wall", name="Wall", circuit_id="c", height_m=0.5, rcd=True, drip_loops=loops)
    fogger = Device.model_validate(
        {"id": "fog", "spec": {"name": "Fogger", "kind": "humidifier", "power_w": 20}, "plug": "wall"}
    )
    plan = _house(small_plan, outlets=(outlet,), devices=(fogger,), plug="wall")
    assert evaluate_space(plan, plan.spaces[0], day=plan.date, with_map=False).margin("power.loops").verdict == verdict
    dry = _house(small_plan, outlets=(outlet,), plug="wall")
    assert evaluate_space(dry, dry.spaces[0], day=plan.date, with_map=False).margin("power.loops") is None
