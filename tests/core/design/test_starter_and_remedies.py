"""Suggestions: every crop can be started, every remedy keeps the plan sound and helps."""

import datetime as dt

import pytest

from canopy.design.crops.arranging import arrange, main_stage
from canopy.design.light.hanging import hang
from canopy.design.start.air import suggest_air
from canopy.design.start.answers import Answers
from canopy.design.start.lamps import suggest_lamps
from canopy.design.start.space import begin_space, default_faces
from canopy.equipment import FixtureSpec
from canopy.errors import PlanError
from canopy.evaluate import evaluate_space
from canopy.library import crops, ducts, fans, fixtures
from canopy.margin import ORDER
from canopy.plan import Circuit, Plan, Size
from canopy.plan.changes import Change
from canopy.plan.edit import add_space, apply
from canopy.plan.solids import clashes
from canopy.season import standing_of
from tests.conftest import mending, moving, on

CIRCUIT = Circuit(id="c", name="C", rule_set_id="eu-16", mains_v=230, breaker_a=16)


def _plan(**answers):
    data = {
        "space_id": "s",
        "name": "S",
        "kind": "tent",
        "width_m": 1.03,
        "depth_m": 0.88,
        "height_m": 1.9,
        "circuit_id": "c",
    }
    plan = Plan(name="P", date=dt.date(2026, 4, 1), circuits=(CIRCUIT,))
    return add_space(plan, begin_space(Answers(**{**data, **answers})))


@pytest.mark.parametrize("crop", crops().values(), ids=lambda crop: crop.id)
def test_every_crop_gets_a_sound_start(crop):
    tall = main_stage(crop).height_m + crop.pot_height_m
    plan = _plan(crop_id=crop.id, count=3, height_m=max(0.7, round(tall * 1.6 + 0.4, 2)))
    report = evaluate_space(plan, plan.spaces[0], with_map=False)
    space = report.space
    assert len(space.plants) == 3
    assert {"faces", "room", "stage"} <= set(space.assumed)
    dli = next(margin for margin in report.margins if margin.id.startswith("light.dli"))
    # Where a bed wants less than the least lamp gives or more than the strongest, the margin says so; else it is met.
    assert dli.verdict in ("good", "tight"), dli.there.say()
    assert report.margin("light.clearance").verdict in ("good", "tight")
    assert report.margin("light.hours." + dli.id.removeprefix("light.dli.")).verdict == "good"
    assert report.margin("power.circuit").verdict == "good"


@pytest.mark.parametrize(("count", "rows"), [(1, 1), (4, 2), (7, 3), (12, 3)])
def test_plants_stand_in_an_even_grid(count, rows):
    size, crop = Size(width_m=1.2, depth_m=0.9, height_m=2), crops()["tatsoi"]
    made = arrange(size, crop, crop.stages[1], count, taken=("plant-2",))
    assert len({plant.id for plant in made} | {"plant-2"}) == count + 1
    assert len({plant.y_m for plant in made}) <= rows
    assert sum(plant.x_m for plant in made[: min(count, 3)]) > 0
    assert all(0 < plant.x_m < 1.2 and 0 < plant.y_m < 0.9 for plant in made)
    middle = sum(plant.y_m for plant in made) / count
    assert middle == pytest.approx(0.45, abs=0.16)


def test_tall_plants_are_drawn_in_to_a_low_space():
    crop = crops()["okra"]
    plants = arrange(Size(width_m=1, depth_m=1, height_m=0.6), crop, crop.stages[-1], 1)
    assert plants[0].pot_height_m + plants[0].height_m < 0.6


@pytest.mark.parametrize(
    ("class_id", "count", "width", "depth", "fits"),
    [
        ("bar-60", 1, 1.3, 0.4, True),
        ("bar-60", 1, 0.5, 1.3, True),
        ("bar-60", 1, 0.9, 0.9, False),
        ("board-240", 2, 1.3, 0.4, True),
        ("board-240", 3, 0.7, 0.7, False),
        ("rig-6-bar-480", 1, 1.1, 1.1, True),
        ("bulb-15", 4, 0.3, 0.3, True),
    ],
)
def test_lamps_are_hung_only_where_they_fit(class_id, count, width, depth, fits):
    size = Size(width_m=width, depth_m=depth, height_m=1.6)
    made = hang(size, fixtures()[class_id].spec, count, 0.3, 14)
    assert bool(made) is fits
    assert len(made) == (count if fits else 0)
    plan = _plan(kind="closet", width_m=width, depth_m=depth, height_m=1.6, lamp_class_id="none")
    data = [fixture.model_dump(mode="json") for fixture in made]
    assert len(apply(plan, "s", [Change(values={"fixtures": data})]).spaces[0].fixtures) == len(made)


def test_a_lamp_thicker_than_the_space_is_not_hung():
    spec = FixtureSpec(
        name="Thick", power_w=10, output={"kind": "ppf", "ppf_umol_s": 10}, length_m=0.1, width_m=0.1, thickness_m=0.5
    )
    assert hang(Size(width_m=1, depth_m=1, height_m=0.4), spec, 1, 0.1, 12) == []


def test_nothing_is_suggested_for_nothing():
    bare = _plan(crop_id="").spaces[0]
    assert suggest_lamps(on(bare)) == bare
    assert (bare.airways, bare.stirrers) == ((), ())


def test_a_space_that_breathes_enough_gets_no_fan():
    rack = _plan(kind="shelf", crop_id="pea-shoots", height_m=0.5).spaces[0]
    made = suggest_air(on(rack))
    assert made.airways == ()
    assert made.stirrers


@pytest.mark.parametrize("kind", ["tent", "closet", "cabinet", "shelf", "glass-case"])
def test_linings_follow_the_kind(kind):
    faces = default_faces(kind)
    assert (faces.left.material_id == "open") is (kind == "shelf")
    assert faces.back.material_id != "open"


def _all_margins(demo_plan):
    from canopy.evaluate import evaluate

    return [
        (report.space.id, margin.id)
        for report in evaluate(demo_plan).spaces
        for margin in report.margins
        if margin.mendable and margin.station != "climate"
    ]


def test_every_remedy_of_the_demo_is_sound_and_never_worsens_its_own_margin(demo_plan):
    found = _all_margins(demo_plan)
    assert len(found) >= 8
    offered = 0
    for space_id, margin_id in found:
        space = demo_plan.space(space_id)
        remedy = mending(demo_plan, space, margin_id)
        if remedy is None:
            continue
        offered += 1
        assert remedy.label.say()
        assert remedy.label.say("us")
        before = evaluate_space(demo_plan, space, with_map=False).margin(margin_id)
        changed = apply(demo_plan, space_id, remedy.changes)
        after = evaluate_space(changed, changed.space(space_id), with_map=False).margin(margin_id)
        assert ORDER.index(after.verdict) >= ORDER.index(before.verdict), margin_id
        for moved in moving(demo_plan, space, remedy):
            assert not (moved.better and moved.worse)
    assert offered >= len(found) - 2


def _for(hours):
    return {"kind": "daily", "start": "06:00", "hours": hours}


def _with(plan, **values):
    changes = [Change(collection="fixtures", part_id=lamp.id, values=values) for lamp in plan.spaces[0].fixtures]
    return apply(plan, "s", changes)


@pytest.fixture(scope="module")
def lettuce():
    return _plan(crop_id="lettuce-butterhead", count=6)


DLI = "light.dli.lettuce-butterhead.vegetative"


def test_too_little_light_is_turned_up_when_the_dimmer_has_room(lettuce):
    plan = _with(lettuce, dim=0.3)
    label = mending(plan, plan.spaces[0], DLI).label.say()
    assert label.startswith("Turn up the lamps to")


def test_too_little_light_at_full_power_is_run_for_longer(lettuce):
    full = _with(lettuce, dim=1.0, schedule=_for(14))
    dli = [p.dli_mol_m2_d for p in evaluate_space(full, full.spaces[0]).lighting.plants]
    # Age the lamps until the dimmest plant misses the window by a tenth.
    aged = _with(full, ageing=max(0.31, min(1.0, 0.9 * 12 / min(dli))))
    label = mending(aged, aged.spaces[0], DLI).label.say()
    assert label.startswith("Run the lamps")


def test_too_much_light_is_dimmed(lettuce):
    plan = _with(lettuce, dim=1.0, schedule=_for(18))
    label = mending(plan, plan.spaces[0], DLI).label.say()
    assert label.startswith("Dim the lamps to")


def test_no_light_at_all_has_no_one_click_remedy(lettuce):
    plan = _with(lettuce, enabled=False)
    assert mending(plan, plan.spaces[0], DLI) is None


def test_hours_out_of_season_are_brought_back(lettuce):
    plan = _with(lettuce, schedule=_for(23))
    remedy = mending(plan, plan.spaces[0], DLI.replace("dli", "hours"))
    assert remedy.label.say().replace("\u00a0", " ") == "Run the lamps 18 h a day"


def test_a_lamp_too_close_is_raised(lettuce):
    top = max(plant.top_m for plant in on(lettuce.spaces[0]).plants)
    plan = _with(lettuce, z_m=top + 0.02)
    remedy = mending(plan, plan.spaces[0], "light.clearance")
    (change,) = remedy.changes
    lamp = plan.spaces[0].fixtures[0]
    assert change.values["z_m"] >= top + lamp.spec.min_distance_m


def _way(*parts):
    return [{"id": "exhaust", "name": "Exhaust", "parts": list(parts)}]


FAN = {"kind": "fan", "id": "fan", "spec": fans()["inline-125"].spec.model_dump(mode="json")}
PORT = {"kind": "port", "id": "port", "opening_id": "p"}


def _duct(diameter_m):
    spec = ducts()["flex-alu"].spec.model_dump(mode="json")
    return {"kind": "duct", "id": "duct", "spec": spec, "diameter_m": diameter_m, "length_m": 1.0}


def test_a_missing_port_is_cut_to_the_fan_s_size(lettuce):
    plan = apply(lettuce, "s", [Change(values={"airways": _way(FAN, _duct(0.1)), "openings": []})])
    assert evaluate_space(plan, plan.spaces[0]).margin("air.port.exhaust").verdict == "short"
    remedy = mending(plan, plan.spaces[0], "air.port.exhaust")
    after = apply(plan, "s", remedy.changes)
    assert evaluate_space(after, after.spaces[0]).margin("air.port.exhaust").verdict == "good"
    assert after.spaces[0].openings[0].diameter_m == 0.125
    assert after.spaces[0].airways[0].parts[1].diameter_m == 0.125


@pytest.mark.parametrize(
    ("duct", "port", "verdict", "words"),
    [
        (0.125, 0.125, "good", "match"),
        (0.1, 0.125, "tight", "throttles"),
        (0.15, 0.15, "tight", "adapter"),
        (0.125, 0.1, "short", "narrower"),
        (0.125, 0.2, "tight", "cinch"),
    ],
)
def test_ports_ducts_and_fans_are_held_against_each_other(lettuce, duct, port, verdict, words):
    hole = {"id": "p", "face": "left", "u_m": 0.4, "v_m": 1.5, "diameter_m": port, "use": "exhaust"}
    plan = apply(lettuce, "s", [Change(values={"airways": _way(FAN, _duct(duct), PORT), "openings": [hole]})])
    margin = evaluate_space(plan, plan.spaces[0]).margin("air.port.exhaust")
    assert (margin.verdict, words in margin.why.say()) == (verdict, True)


@pytest.mark.parametrize(("watts", "verdict"), [(500, "good"), (2480, "tight"), (2900, "over"), (3800, "over")])
def test_a_circuit_is_judged_with_the_household_on_it(lettuce, watts, verdict):
    load = {"id": "l", "name": "Heater", "power_w": watts, "schedule": {"kind": "daily", "hours": 5}}
    data = lettuce.model_dump(mode="json")
    data["circuits"][0]["other_loads"] = [load]
    plan = Plan.model_validate(data)
    margin = evaluate_space(plan, plan.spaces[0]).margin("power.circuit")
    assert margin.verdict == verdict
    assert "licensed electrician" in margin.why.say()


def test_short_loads_count_at_once_but_not_for_hours(lettuce):
    data = lettuce.model_dump(mode="json")
    data["circuits"][0]["other_loads"] = [
        {"id": "k", "name": "Kettle", "power_w": 2000, "schedule": {"kind": "daily", "hours": 0.2}}
    ]
    plan = Plan.model_validate(data)
    load = evaluate_space(plan, plan.spaces[0]).circuit
    assert load.all_on_w - load.continuous_w == pytest.approx(2000)
    assert load.share < 0.2


# ---- a rack with its levels ------------------------------------------------------


def _rack(**more):
    given = {"kind": "shelf", "width_m": 1.2, "depth_m": 0.45, "height_m": 1.8, "crop_id": "lettuce-butterhead"}
    return begin_space(Answers(**{"space_id": "r", "name": "R", "count": 15, "levels": 3, **given, **more}))


def test_a_rack_starts_with_its_levels_and_lamps_under_each():
    space = _rack(lamp_class_id="bar-45", lamp_count=1)
    assert [shelf.z_m for shelf in space.shelves] == pytest.approx([0.6, 1.2])
    assert [sum(plant.base_m == base for plant in space.plants) for base in (0.0, 0.6, 1.2)] == [5, 5, 5]
    for base in (0.0, 0.6, 1.2):
        above = [lamp for lamp in space.fixtures if base < lamp.z_m < base + 0.58]
        assert len(above) == 1
        assert above[0].z_m + above[0].spec.thickness_m <= base + 0.58 + 1e-6
    assert not list(clashes(space))
    assert len({part.id for part in (*space.plants, *space.fixtures)}) == 15 + 3
    plan = add_space(Plan(name="P", date=dt.date(2026, 3, 1)), space)
    light = evaluate_space(plan, plan.spaces[0]).lighting.plants
    by_level = {base: [x.ppfd_umol_m2_s for x in light if x.plant.plant.base_m == base] for base in (0.0, 0.6, 1.2)}
    means = [sum(values) / len(values) for values in by_level.values()]
    assert max(means) < 1.25 * min(means)


def test_a_count_that_does_not_fill_the_levels_leaves_the_last_one_short():
    space = _rack(count=7, lamp_class_id="bar-45", lamp_count=1)
    assert [sum(plant.base_m == base for plant in space.plants) for base in (0.0, 0.6, 1.2)] == [3, 3, 1]


def test_levels_that_would_be_too_low_are_refused_with_how_many_fit():
    with pytest.raises(PlanError, match="at most 4 fit"):
        _rack(height_m=0.7, levels=6)


def test_lamps_without_a_dimmer_start_undimmed_with_hours_to_match():
    space = begin_space(
        Answers(
            space_id="t",
            name="T",
            kind="closet",
            width_m=1.0,
            depth_m=0.6,
            height_m=1.8,
            crop_id="lettuce-butterhead",
            count=6,
            lamp_class_id="t5-4x54",
            lamp_count=1,
        )
    )
    lamp = space.fixtures[0]
    assert (lamp.dim, lamp.spec.dimmable) == (1.0, False)
    day = standing_of(space, dt.date(2026, 3, 1)).plants[0].want.photoperiod_h
    assert day.low <= lamp.hours <= day.high
    # Six pots stand three by two.
    assert len({plant.y_m for plant in space.plants}) == 2
    assert len({plant.x_m for plant in space.plants}) == 3


@pytest.mark.parametrize("kind", ["tent", "closet", "cabinet"])
@pytest.mark.parametrize(("width_m", "depth_m", "height_m"), [(0.6, 0.6, 1.4), (1.2, 0.6, 1.6), (2.4, 1.2, 2.0)])
@pytest.mark.parametrize("crop_id", ["tomato-dwarf", "moth-orchid-miniature"])
def test_a_first_exhaust_is_calm_clear_and_no_stronger_than_need_be(kind, width_m, depth_m, height_m, crop_id):
    made = _plan(kind=kind, crop_id=crop_id, width_m=width_m, depth_m=depth_m, height_m=height_m)
    report = evaluate_space(made, made.spaces[0], with_map=False)
    bad = [
        margin.id
        for margin in report.margins
        if margin.verdict in ("short", "over") and margin.station in ("air", "space") and not margin.information
    ]
    assert bad == []
    for path in report.paths:
        assert max((d.speed_m_s for d in path.drops if d.element.kind == "duct"), default=0) <= 5
    assert all(plant.stage != "rest" for plant in made.spaces[0].plants)
