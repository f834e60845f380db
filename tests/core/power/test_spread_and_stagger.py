"""Things spread over circuits and times staggered: legal after, pins and nights kept, against trying everything."""

from itertools import product

import numpy as np
import pytest
from scipy.sparse import csr_array

from canopy.design.power.limits import AIM, Rows, best, evenest
from canopy.design.power.spread import spread
from canopy.design.power.stagger import stagger
from canopy.design.remedies import options_for
from canopy.evaluate import evaluate_space
from canopy.evaluate.power.loads import circuit_load, household_tree
from canopy.evaluate.power.margins import circuit_verdict
from canopy.plan import Circuit, Device, Outlet, dumps, loads
from canopy.plan.document import HouseholdLoad
from canopy.plan.edit import apply
from canopy.power import coinciding_w
from canopy.schedule import Cycle, Daily, day_hours, minute_of


def _circuit(key, **more):
    return Circuit(id=key, name=key.upper(), rule_set_id="eu-16", mains_v=230, breaker_a=16, **more)


def _heater(key, watts, **more):
    spec = {"name": f"Heater {key}", "kind": "heater", "power_w": watts}
    return Device.model_validate({"id": key, "spec": spec, **more})


def _house(small_plan, devices=(), circuits=None, **values):
    space = small_plan.spaces[0].model_copy(update={"circuit_id": "a", "devices": tuple(devices)})
    circuits = circuits or (_circuit("a"), _circuit("b"))
    return loads(dumps(small_plan.model_copy(update={"circuits": circuits, "spaces": (space,), **values})))


def _verdicts(plan):
    tree = household_tree(plan)
    return {c.id: circuit_verdict(circuit_load(plan, c, tree)) for c in plan.circuits}


def _fullest(plan):
    tree = household_tree(plan)
    return max(circuit_load(plan, c, tree).continuous_va / circuit_load(plan, c, tree).limit_w for c in plan.circuits)


def test_an_overloaded_circuit_is_spread_with_the_fewest_moves(small_plan):
    plan = _house(small_plan, [_heater("big", 1800), _heater("mid", 1000), _heater("low", 900)])
    assert _verdicts(plan)["a"] == "over"
    found = spread(plan)
    assert found is not None
    assert found.legal
    assert len(found.moved) == 1
    after = apply(plan, None, found.remedy.changes)
    assert "over" not in _verdicts(after).values()
    assert after.outlets[0].circuit_id == "b"
    assert [d.plug for d in after.spaces[0].devices].count(after.outlets[0].id) == 1


def test_what_is_pinned_stays_and_goes_nowhere(small_plan):
    devices = [_heater("big", 1800, pinned=True), _heater("mid", 1000), _heater("low", 900)]
    found = spread(_house(small_plan, devices))
    assert "Heater big" not in {item.unit.name for item in found.moved}


def test_a_circuit_of_another_room_or_other_mains_takes_nothing(small_plan):
    devices = [_heater("big", 1800), _heater("mid", 1800)]
    room = small_plan.rooms[0].model_copy(update={"id": "cellar", "name": "Cellar"})
    far = Outlet(id="far", name="Far", circuit_id="b", room_id="cellar")
    plan = _house(small_plan, devices, rooms=(*small_plan.rooms, room), outlets=(far,))
    assert spread(plan) is None
    other = _house(small_plan, devices, (_circuit("a"), _circuit("b").model_copy(update={"mains_v": 120.0})))
    assert spread(other) is None


def test_what_cannot_be_legal_is_as_even_as_can_be_and_says_by_how_much(small_plan):
    plan = _house(small_plan, [_heater(f"h{n}", 1500) for n in range(6)])
    found = spread(plan)
    assert not found.legal
    after = apply(plan, None, found.remedy.changes)
    # Three and three: 4,500 W and the lamp against 2,944 W.
    assert _fullest(after) == pytest.approx(max(f.comes_to for f in found.circuits), rel=1e-6)
    over = max(f.over_va for f in found.circuits)
    assert 1500 < over < 2000


def test_the_programme_finds_what_trying_everything_finds():
    rng = np.random.default_rng(4)
    weights = rng.uniform(100, 900, 8)
    # Eight things on two circuits.
    loads = np.zeros((2, 16))
    for thing in range(8):
        loads[0, 2 * thing] = loads[1, 2 * thing + 1] = weights[thing]
    rows = Rows(loads=csr_array(loads), base=np.array([50.0, 400.0]), limit=np.array([2000.0, 2500.0]))
    groups = [[2 * thing, 2 * thing + 1] for thing in range(8)]
    share, taken = evenest(rows, groups, 5.0)
    tried = min(
        max(
            (50 + sum(w for w, at in zip(weights, places, strict=True) if at == 0)) / 2000,
            (400 + sum(w for w, at in zip(weights, places, strict=True) if at == 1)) / 2500,
        )
        for places in product((0, 1), repeat=8)
    )
    assert share == pytest.approx(tried, rel=0.011)
    assert max((loads @ taken + rows.base) / rows.limit) == pytest.approx(share, rel=1e-6)
    # At the least cost: nothing moves where all is well as it is.
    cost = np.tile([0.0, 1.0], 8)
    easy = Rows(loads=rows.loads, base=np.zeros(2), limit=np.array([1e5, 1e5]))
    assert best(easy, groups, cost) @ cost == 0


EVENING = (
    HouseholdLoad(id="load-1", name="Dryer", power_w=2150, schedule=Daily(hours=3), any_time=True),
    HouseholdLoad(id="load-2", name="Radiator", power_w=900, schedule=Daily(start="18:00", hours=4)),
)


def test_what_may_run_at_any_time_is_run_when_there_is_room(small_plan):
    plan = _house(small_plan, circuits=(_circuit("a", other_loads=EVENING),))
    assert _verdicts(plan)["a"] == "over"
    found = stagger(plan)
    assert found.legal
    assert [item.name for item in found.shifted] == ["Dryer"]
    (dryer, radiator) = apply(plan, None, found.remedy.changes).circuits[0].other_loads
    begins = minute_of(dryer.schedule.start)
    assert not dryer.any_time
    assert dryer.schedule.hours == 3
    assert begins >= 7 * 60
    assert begins + 180 <= 18 * 60
    assert radiator == plan.circuits[0].other_loads[1]


def test_photoperiods_move_as_a_whole_and_only_so_far(small_plan):
    lamps = small_plan.spaces[0].fixtures
    strong = tuple(
        lamp.model_copy(
            update={
                "spec": lamp.spec.model_copy(update={"power_w": 1800.0}),
                "schedule": Daily(start="06:00", hours=10),
                "dim": 1.0,
            }
        )
        for lamp in lamps[:1]
    )
    evening = (HouseholdLoad(id="load-1", name="Cooker", power_w=2000, schedule=Daily(start="15:00", hours=4)),)
    plan = _house(small_plan, circuits=(_circuit("a", other_loads=evening),))
    space = plan.spaces[0].model_copy(update={"fixtures": strong})
    plan = plan.model_copy(update={"spaces": (space,)})
    assert _verdicts(plan)["a"] == "over"
    found = stagger(plan, 2.0)
    after = apply(plan, None, found.remedy.changes).spaces[0].fixtures[0].schedule
    assert found.legal
    assert after.start == "05:00"
    assert day_hours(after) == 10
    assert "14 h of night as before" in found.shifted[0].means
    assert stagger(plan, 2.0, stay=[space.id]) is None
    assert stagger(plan, 0.5) is None or not stagger(plan, 0.5).legal


def test_long_cycles_begin_one_after_the_other(small_plan):
    cycle = Cycle(on_min=30, every_min=120)
    devices = [_heater(f"h{n}", 1300, schedule=cycle) for n in range(3)]
    plan = _house(small_plan, devices, (_circuit("a"),))
    peak = coinciding_w([h.load for h in household_tree(plan).under("a")], apparent=True).max()
    assert peak > 16 * 230
    found = stagger(plan)
    after = apply(plan, None, found.remedy.changes)
    then = coinciding_w([h.load for h in household_tree(after).under("a")], apparent=True).max()
    assert then <= AIM * 16 * 230
    assert all(day_hours(d.schedule) == pytest.approx(6.0) for d in after.spaces[0].devices)


def test_nothing_is_proposed_where_nothing_helps(small_plan):
    assert stagger(_house(small_plan)) is None
    assert spread(_house(small_plan)) is None


def test_the_demo_goes_from_an_overloaded_evening_to_a_legal_one_by_one_change(demo_plan):
    space = demo_plan.space("berry-tent")
    report = evaluate_space(demo_plan, space, day=demo_plan.date, with_map=False)
    assert report.margin("power.circuit").verdict == "over"
    (first, *_) = options_for(report, "power.circuit")
    assert first.mends
    assert len(first.remedy.changes) == 1
    after = apply(demo_plan, space.id, first.remedy.changes)
    assert "over" not in _verdicts(after).values()


def test_an_outlet_that_carries_too_much_is_parted_in_two(small_plan):
    plan = _house(small_plan, [_heater("a", 1500), _heater("b", 1200)], (_circuit("a"),))
    report = evaluate_space(plan, plan.spaces[0], day=plan.date, with_map=False)
    assert report.margin("power.outlet").verdict == "over"
    (option, *_) = options_for(report, "power.outlet")
    after = apply(plan, plan.spaces[0].id, option.remedy.changes)
    later = evaluate_space(after, after.spaces[0], day=plan.date, with_map=False)
    assert later.margin("power.outlet").verdict == "good"
    assert after.outlets[0].circuit_id == "a"
