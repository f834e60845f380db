"""Ways of air in the plan document: what is refused, what follows a removal, and files of version 1."""

import copy
import json
from pathlib import Path

import pytest

from canopy.errors import PlanError
from canopy.evaluate import evaluate_space
from canopy.library import fans
from canopy.plan import dumps, from_data, loads
from canopy.plan.changes import Change
from canopy.plan.edit import apply, remove_parts, remove_space
from canopy.plan.migrate import migrated
from tests.core.air.test_network import joined
from tests.core.air.worked import exhaust, household, tent

FAN = {"kind": "fan", "id": "fan", "spec": fans()["inline-125"].spec.model_dump(mode="json")}


def data_of(plan):
    return json.loads(dumps(plan))


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"parts": [FAN, FAN]}, "“fan” stands 2 times"),
        ({"parts": [FAN, {"kind": "port", "id": "p", "opening_id": "nowhere"}]}, "no opening “nowhere”"),
        ({"parts": [FAN, {"kind": "port", "id": "p", "opening_id": "flap"}]}, "is not round"),
        ({"parts": [{"kind": "port", "id": k, "opening_id": "flap"} for k in "pq"]}, "passes the shell once"),
        (
            {"parts": [{"kind": "duct", "id": "d", "spec": {"name": "D"}, "diameter_m": 0.1, "length_m": 200}]},
            "less than or equal to 30",
        ),
        (
            {"parts": [{"kind": "duct", "id": "d", "spec": {"name": "D"}, "diameter_m": 0, "length_m": 2}]},
            "greater than or equal to 0.02",
        ),
        ({"parts": [{"kind": "hose", "id": "d"}]}, "does not match any of the expected tags"),
        ({"ends": "space"}, "say which space it leads to"),
        ({"ends": "space", "space_id": "moon"}, "not in this plan"),
        ({"ends": "space", "space_id": "tent"}, "back into its own space"),
        ({"schedule": {"kind": "cycle", "on_min": 5}}, "every_min: is missing"),
        ({"schedule": {"kind": "cycle", "on_min": 50, "every_min": 10}}, "cannot run 50 of every 10"),
    ],
)
def test_a_way_that_cannot_be_is_refused_in_words(change, words):
    data = data_of(household(tent(exhaust())))
    data["spaces"][0]["airways"][0].update(change)
    with pytest.raises(PlanError, match=words):
        from_data(data)


def test_two_ways_cannot_share_a_port_and_ends_must_be_there():
    data = data_of(joined()[0])
    hole = {"id": "p", "face": "left", "u_m": 0.4, "v_m": 1.5, "diameter_m": 0.12, "use": "exhaust"}
    data["spaces"][0]["openings"].append(hole)
    for way in data["spaces"][0]["airways"][:2]:
        way["parts"].append({"kind": "port", "id": "port", "opening_id": "p"})
    with pytest.raises(PlanError, match="already passes this opening"):
        from_data(data)
    data["spaces"][0]["airways"][1]["parts"].pop()
    assert from_data(data)
    cable = copy.deepcopy(data)
    cable["spaces"][0]["openings"][-1]["use"] = "cable"
    with pytest.raises(PlanError, match="is a cable's"):
        from_data(cable)
    data["spaces"][0]["airways"][1]["far_opening_id"] = "none"
    with pytest.raises(PlanError, match="Far has no such opening"):
        from_data(data)


def test_a_stirring_fan_stays_inside_and_a_cycle_is_whole():
    plan = household(tent())
    fan = {
        "id": "s",
        "spec": {"name": "S", "flow_m3_h": 80, "diameter_m": 0.1, "power_w": 3},
        "x_m": 2.0,
        "y_m": 0.1,
        "z_m": 1.0,
    }
    with pytest.raises(PlanError, match="outside the space: x goes up to 115 cm"):
        apply(plan, "tent", [Change(values={"stirrers": [fan]})])
    with pytest.raises(PlanError, match="every_min: is missing"):
        apply(
            plan,
            "tent",
            [Change(values={"stirrers": [{**fan, "x_m": 0.1, "schedule": {"kind": "cycle", "on_min": 3}}]})],
        )


def test_a_removed_opening_leaves_the_way_and_a_removed_space_frees_its_loops():
    plan = joined()[0]
    data = data_of(plan)
    data["spaces"][0]["openings"].append(
        {"id": "p", "face": "left", "u_m": 0.4, "v_m": 1.5, "diameter_m": 0.12, "use": "exhaust"}
    )
    data["spaces"][0]["airways"][0]["parts"].append({"kind": "port", "id": "port", "opening_id": "p"})
    data["spaces"][1]["openings"].append({"id": "q", "face": "left", "u_m": 0.3, "v_m": 0.5, "diameter_m": 0.12})
    data["spaces"][0]["airways"][0]["far_opening_id"] = "q"
    plan = from_data(data)
    after = remove_parts(plan, "tent", "openings", ["p"])
    assert [part.kind for part in after.spaces[0].airways[0].parts] == ["fan", "duct"]
    assert remove_parts(plan, "far", "openings", ["q"]).spaces[0].airways[0].far_opening_id is None
    alone = loads(dumps(remove_space(plan, "far")))
    assert {way.ends for way in alone.spaces[0].airways} == {"room"}


SMALL = Path(__file__).parent.parent / "data" / "small-plan-version-2.json"
OLD_AIR = {
    "fan": {
        "name": "Old",
        "class_id": "",
        "free_flow_m3_h": 286,
        "diameter_m": 0.125,
        "power_w": 28,
        "max_pressure_pa": 238,
        "noise_dba_1m": None,
        "weight_kg": None,
    },
    "path_id": "filter-duct",
    "delivered_share": None,
    "duct_diameter_m": 0.125,
    "fan_hours": 24.0,
    "fan_speed": 0.8,
    "exchange_minutes": 3.0,
    "filter_allowance": 0.25,
    "rise_k": 5.0,
    "max_rh_pct": 70.0,
    "co2_drop_ppm": 60.0,
    "hung": True,
    "rule": "heat",
}


def old_plan(small_plan, **air):
    """A plan as version 1 wrote it."""
    data = json.loads(SMALL.read_text())
    data["version"] = 1
    space = data["spaces"][0]
    for key in ("airways", "stirrers"):
        del space[key]
    for key in ("floor_m2", "ceiling_m", "exchange_per_h", "loss_w_k"):
        del space["room"][key]
    space["air"] = {**OLD_AIR, **air}
    return data


@pytest.mark.parametrize(
    ("path", "kinds"),
    [
        ("free", ["fan", "port"]),
        ("duct", ["fan", "duct", "port"]),
        ("filter-duct", ["filter", "fan", "duct", "port", "bend", "bend", "duct"]),
        ("filter-long-duct", ["filter", "fan", "duct", "port", "bend", "bend", "bend", "duct"]),
    ],
)
def test_a_file_of_version_one_becomes_a_way_of_air(small_plan, path, kinds):
    plan = from_data(old_plan(small_plan, path_id=path))
    (way,) = plan.spaces[0].airways
    assert [part.kind for part in way.parts] == kinds
    assert (way.fans[0].spec.free_flow_m3_h, way.fans[0].speed, way.schedule.kind) == (286, 0.8, "always")
    assert (plan.spaces[0].air.rise_k, plan.spaces[0].air.rule) == (5, "heat")
    assert evaluate_space(plan, plan.spaces[0], with_map=False).breathing.fan_m3_h > 60
    assert loads(dumps(plan)) == plan


def test_what_version_one_said_of_hours_and_delivery_is_kept(small_plan):
    lit = small_plan.spaces[0].fixtures[0].hours
    by_day = from_data(old_plan(small_plan, fan_hours=lit)).spaces[0].airways[0]
    assert (by_day.fans[0].other.speed, by_day.schedule.kind) == (0, "always")
    short = from_data(old_plan(small_plan, fan_hours=6.0)).spaces[0].airways[0]
    assert short.duty(()) == pytest.approx(0.25)
    measured = from_data(old_plan(small_plan, delivered_share=0.5)).spaces[0].airways[0].measured
    assert (measured.flow_m3_h, measured.speed) == (pytest.approx(286 * 0.5 * 0.8), 0.8)
    assert from_data(old_plan(small_plan, fan=None)).spaces[0].airways == ()
    narrow = from_data(old_plan(small_plan, duct_diameter_m=0.01)).spaces[0].airways[0]
    assert narrow.parts[2].diameter_m == 0.125


def test_migration_leaves_what_is_malformed_for_the_check(small_plan):
    with pytest.raises(PlanError, match="free_flow_m3_h"):
        from_data(old_plan(small_plan, fan={**OLD_AIR["fan"], "free_flow_m3_h": "much"}))
    assert migrated({"version": 1, "spaces": "none"})["spaces"] == "none"
    data = old_plan(small_plan)
    kept = copy.deepcopy(data)
    from_data(data)
    assert data == kept
