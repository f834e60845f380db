import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from canopy.errors import PlanError, PlanVersionError
from canopy.plan import MAX_BYTES, dumps, from_data, load, loads
from canopy.plan.changes import Change
from canopy.plan.edit import add_parts, apply, confirm, remove_parts
from canopy.plan.files import RESERVED
from tests.conftest import DEMO


def _data():
    return json.loads(DEMO.read_text())


def test_export_import_export_is_identical(demo_plan):
    text = dumps(demo_plan)
    assert dumps(loads(text)) == text == DEMO.read_text()


def _set(path, value):
    def change(data):
        at = data
        for step in path[:-1]:
            at = at[step]
        at[path[-1]] = value

    return change


SPACE, CLOSET = ("spaces", 0), ("spaces", 1)


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (_set((*SPACE, "size", "width_m"), 0), "spaces[0].size.width_m: input should be greater than or equal to 0.1"),
        (_set((*SPACE, "size", "width_m"), -2), "spaces[0].size.width_m"),
        (_set((*SPACE, "size", "width_m"), "wide"), "spaces[0].size.width_m"),
        (_set((*SPACE, "size", "height_m"), 1e9), "spaces[0].size.height_m"),
        (_set((*SPACE, "plants", 0, "crop_id"), "tatsoy"), "spaces[0].plants[0].crop_id: there is no crop “tatsoy”"),
        (_set((*CLOSET, "plants", 6, "stage"), "rest"), "has no stage “rest”: use seedling, vegetative"),
        (
            _set((*SPACE, "plants", 0, "stage"), "fruit"),
            "spaces[0].plants[0]: the days of its planting decide the stage",
        ),
        (_set((*CLOSET, "plants", 6, "stage"), None), "needs its stage, height_m and spread_m"),
        (_set((*SPACE, "plants", 0, "height_m"), 0.3), "together, or none of them"),
        (
            _set((*SPACE, "plants", 0, "planting_id"), "berriez"),
            "there is no planting “berriez”: did you mean berries?",
        ),
        (_set((*SPACE, "plants", 0, "planting_id"), "beans"), "its planting “Beans” is of another crop, bean-dwarf"),
        (_set(("plantings", 0, "first_stage"), "germinate"), "has no stage “germinate”"),
        (_set(("plantings", 0, "stage_days"), {"fruit": 0}), "plantings[0].stage_days.fruit"),
        (_set(("plantings", 0, "cleared_on"), "2020-01-01"), "it is cleared before it begins"),
        (_set((*CLOSET, "shelves", 0, "z_m"), 2.5), "this shelf reaches to 250 cm and the space is 194 cm high"),
        (_set((*SPACE, "openings", 0, "shape"), "slit"), "a slit, mesh or seam needs its width and height"),
        (_set((*CLOSET, "plants", 6, "height_m"), 3.0), "spaces[1].plants[6].height_m: this plant's top is at 354 cm"),
        (_set((*SPACE, "plants", 0, "x_m"), 2.0), "spaces[0].plants[0].x_m: this plant stands outside"),
        (_set((*SPACE, "fixtures", 0, "z_m"), 1.85), "spaces[0].fixtures[0].z_m: this light reaches outside"),
        (_set((*SPACE, "fixtures", 0, "x_m"), 0.1), "give 20.0 to 103.0 cm"),
        (_set((*SPACE, "openings", 0, "v_m"), 1.85), "reaches over the edge of the left face"),
        (_set((*SPACE, "circuit_id"), "attic"), "spaces[0].circuit_id: there is no circuit “attic”"),
        (_set((*SPACE, "faces", "left", "material_id"), "velvet"), "there is no material “velvet”"),
        (_set((*SPACE, "plants", 1, "id"), "plant-1"), "the id “plant-1” stands 2 times"),
        (_set((*SPACE, "surprise"), 1), "spaces[0].surprise: is not a key of the plan format"),
        (_set(("format",), "other"), "this is not a plan file"),
    ],
)
def test_a_broken_plan_is_refused_with_its_place(change, words):
    data = _data()
    change(data)
    with pytest.raises(PlanError) as error:
        from_data(data)
    assert words in str(error.value)


def test_a_newer_version_is_named():
    with pytest.raises(PlanVersionError, match="version 4; this program reads up to 3"):
        from_data({**_data(), "version": 4})


@pytest.mark.parametrize(
    ("raw", "words"),
    [
        (DEMO.read_bytes()[:4000], "not whole: the JSON breaks off"),
        (b"", "not whole"),
        (b"\xff\xfe\x00", "not UTF-8"),
        (b"[]", "not a plan file"),
        (b" " * (MAX_BYTES + 1), "at most 5 MB"),
        (b"[" * 100_000, "not whole"),
        (b'{"format":"mild-canopy-plan","x":NaN}', "NaN is not a number"),
    ],
)
def test_a_file_that_is_no_plan_is_refused(raw, words):
    with pytest.raises(PlanError) as error:
        loads(raw)
    assert words in str(error.value)


def test_a_huge_or_missing_file_is_not_read(tmp_path):
    huge = tmp_path / "huge.json"
    with huge.open("wb") as file:
        file.truncate(50_000_000)
    with pytest.raises(PlanError, match="50 MB; a plan file has at most 5 MB"):
        load(huge)
    with pytest.raises(PlanError, match="cannot read"):
        load(tmp_path / "none.json")


@settings(max_examples=60, deadline=None)
@given(st.binary(max_size=300))
def test_any_bytes_are_read_or_refused(raw):
    with pytest.raises(PlanError):
        loads(raw)


def test_edits_give_new_plans_and_confirm_what_was_assumed(small_plan):
    space = small_plan.spaces[0]
    assert "lamp" in space.assumed
    lamp = space.fixtures[0]
    moved = apply(small_plan, "box", [Change(collection="fixtures", part_id=lamp.id, values={"z_m": lamp.z_m + 0.1})])
    assert moved.spaces[0].fixtures[0].z_m == pytest.approx(lamp.z_m + 0.1)
    assert "lamp" not in moved.spaces[0].assumed
    assert small_plan.spaces[0].fixtures[0].z_m == lamp.z_m
    assert "room" not in confirm(small_plan, "box", "room").spaces[0].assumed
    wider = apply(small_plan, "box", [Change(values={"size.width_m": 0.9, "air.rise_k": 5})])
    assert (wider.spaces[0].size.width_m, wider.spaces[0].air.rise_k) == (0.9, 5)


def test_an_edit_that_breaks_a_rule_is_refused_whole(small_plan):
    good = Change(values={"name": "Other"})
    with pytest.raises(PlanError, match="no longer in the plan"):
        apply(small_plan, "box", [good, Change(collection="plants", part_id="gone", values={"x_m": 0.1})])
    with pytest.raises(PlanError, match="reaches outside"):
        apply(small_plan, "box", [Change(values={"size.width_m": 0.2})])
    assert small_plan.spaces[0].name == "Box"


def test_parts_come_and_go(small_plan):
    part = small_plan.spaces[0].plants[0].model_dump(mode="json")
    more = add_parts(small_plan, "box", "plants", [part])
    assert [plant.id for plant in more.spaces[0].plants] == [f"plant-{n}" for n in range(1, 6)]
    back = remove_parts(more, "box", "plants", ["plant-5"])
    assert back.spaces == small_plan.spaces
    # An id that was in use once is never given again.
    assert add_parts(back, "box", "plants", [part]).spaces[0].plants[-1].id == "plant-6"


@pytest.mark.parametrize("name", sorted(RESERVED))
def test_names_are_kept_for_what_comes(small_plan, name):
    data = json.loads(dumps(small_plan))
    for record in (data, data["spaces"][0]):
        record[name] = []
        with pytest.raises(PlanError, match=f"“{name}” is a name that is kept for a later version"):
            from_data(data)
        del record[name]
    assert from_data(data) == small_plan
