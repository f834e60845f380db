"""Any sound plan survives writing, reading and editing."""

import datetime as dt
import json

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from canopy.errors import PlanError
from canopy.library import crops, fixtures, materials, rule_sets
from canopy.plan import FACES, Plan, dumps, from_data, loads, problems
from canopy.plan.changes import Change
from canopy.plan.edit import apply, change_plan, remove_space

NAMES = st.text('abcXYZ éß–’"<&/漢 1', min_size=1, max_size=20).filter(str.strip)
STAGES = [(crop.id, stage.kind) for crop in crops().values() for stage in crop.stages]


def _share(low, high):
    return st.floats(low, high, allow_nan=False, allow_infinity=False).map(lambda v: round(v, 4))


@st.composite
def plants(draw, size, number):
    crop, stage = draw(st.sampled_from(STAGES))
    pot = draw(_share(0, size["height_m"] * 0.3))
    return {
        "id": f"plant-{number}",
        "crop_id": crop,
        "stage": stage,
        "x_m": draw(_share(0, size["width_m"])),
        "y_m": draw(_share(0, size["depth_m"])),
        "pot_height_m": pot,
        "height_m": draw(_share(0.01, size["height_m"] * 0.6)),
        "spread_m": draw(_share(0.01, 1)),
    }


CLOCKS = st.sampled_from(["00:00", "06:30", "23:45"])
SCHEDULES = st.one_of(
    st.just({"kind": "always"}),
    st.just({"kind": "never"}),
    st.fixed_dictionaries({"kind": st.just("daily"), "start": st.none() | CLOCKS, "hours": st.floats(0, 24)}),
)


@st.composite
def lamps(draw, size, number):
    spec = (
        fixtures()["strip-10"].spec.model_copy(update={"length_m": 0.05, "thickness_m": 0.01}).model_dump(mode="json")
    )
    return {
        "id": f"lamp-{number}",
        "spec": spec,
        "x_m": draw(_share(0.05, size["width_m"] - 0.05)),
        "y_m": draw(_share(0.05, size["depth_m"] - 0.05)),
        "z_m": draw(_share(0.06, size["height_m"] - 0.06)),
        "yaw_deg": draw(_share(-180, 180)),
        "tilt_deg": draw(_share(-90, 90)),
        "pitch_deg": draw(_share(-90, 90)),
        "dim": draw(_share(0, 1)),
        "schedule": draw(SCHEDULES),
    }


@st.composite
def spaces(draw, number, lamps_at_least=0):
    size = {key: draw(_share(0.3, 2.5)) for key in ("width_m", "depth_m", "height_m")}
    return {
        "id": f"space-{number}",
        "name": draw(NAMES),
        "kind": draw(st.sampled_from(["tent", "closet", "cabinet", "shelf", "glass-case"])),
        "size": size,
        "faces": {face: {"material_id": draw(st.sampled_from(list(materials())))} for face in FACES},
        "plants": [draw(plants(size, n)) for n in range(draw(st.integers(0, 3)))],
        "fixtures": [draw(lamps(size, n)) for n in range(draw(st.integers(lamps_at_least, 3)))],
        "circuit_id": draw(st.sampled_from([None, "c"])),
    }


@st.composite
def plans(draw, spaces_at_least=0, lamps_at_least=0):
    rules = draw(st.sampled_from(list(rule_sets().values())))
    circuit = {
        "id": "c",
        "name": draw(NAMES),
        "rule_set_id": rules.id,
        "mains_v": rules.mains_v,
        "breaker_a": rules.breaker_a,
    }
    return {
        "format": "mild-canopy-plan",
        "version": 3,
        "name": draw(NAMES),
        "date": draw(st.dates(dt.date(2000, 1, 1), dt.date(2100, 1, 1))).isoformat(),
        "circuits": [circuit],
        "spaces": [draw(spaces(n, lamps_at_least)) for n in range(draw(st.integers(spaces_at_least, 3)))],
    }


slow = settings(
    max_examples=40, deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large]
)


@slow
@given(plans())
def test_writing_and_reading_give_the_same_plan(data):
    plan = from_data(data)
    text = dumps(plan)
    assert loads(text) == plan
    assert dumps(loads(text)) == text
    assert loads(json.dumps(json.loads(text))) == plan
    assert problems(plan) == []
    assert hash(plan) == hash(loads(text))


@slow
@given(plans(1, 1), st.floats(0, 1))
def test_an_edit_touches_only_its_part(data, dim):
    plan = from_data(data)
    space = next(space for space in plan.spaces if space.fixtures)
    lamp = space.fixtures[0]
    changed = apply(plan, space.id, [Change(collection="fixtures", part_id=lamp.id, values={"dim": dim})])
    back = apply(changed, space.id, [Change(collection="fixtures", part_id=lamp.id, values={"dim": lamp.dim})])
    assert back == plan
    assert changed.space(space.id).fixtures[0].dim == dim
    assert [other for other in changed.spaces if other.id != space.id] == [o for o in plan.spaces if o.id != space.id]


@slow
@given(plans(1))
def test_a_space_is_taken_out_alone(data):
    plan = from_data(data)
    gone = plan.spaces[0].id
    left = remove_space(plan, gone)
    assert left.space(gone) is None
    assert left.spaces == plan.spaces[1:]


@slow
@given(plans(), NAMES, st.floats(0, 5))
def test_the_household_s_own_figures_change_alone(data, name, price):
    plan = from_data(data)
    changed = change_plan(plan, {"name": name, "tariff.price_per_kwh": price})
    assert (changed.name, changed.tariff.price_per_kwh, changed.site.currency) == (name, price, plan.site.currency)
    assert changed.spaces == plan.spaces


KEYS = st.recursive(
    st.none()
    | st.booleans()
    | st.integers(-5, 5)
    | st.text(max_size=5)
    | st.floats(allow_nan=False, allow_infinity=False),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=6), inner, max_size=3),
    max_leaves=6,
)


@slow
@given(st.sampled_from(list(Plan.model_fields)), KEYS)
def test_any_value_under_any_key_is_read_or_refused(demo_plan, key, value):
    data = {**demo_plan.model_dump(mode="json"), key: value}
    try:
        found = from_data(data).format
    except PlanError as error:
        found = error.problems
    assert found


def test_all_problems_are_told_at_once(demo_plan):
    data = demo_plan.model_dump(mode="json")
    data["spaces"][1]["plants"][6]["crop_id"] = "unobtainium"
    data["spaces"][1]["fixtures"][0]["z_m"] = 1.93
    data["spaces"][2]["circuit_id"] = "moon"
    with pytest.raises(PlanError) as error:
        from_data(data)
    assert [problem.path for problem in error.value.problems] == [
        "spaces[1].fixtures[0].z_m",
        "spaces[1].plants[6].crop_id",
        "spaces[2].circuit_id",
    ]
