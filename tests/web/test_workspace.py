import re

import pytest

from canopy_web.planning.models import GrowPlan, PlanState
from canopy_web.planning.store import to_plan
from canopy_web.stations.registry import HOUSE

pytestmark = pytest.mark.django_db
HTMX = {"HX-Request": "true"}


@pytest.fixture
def base(row):
    return f"/plans/{row.pk}/spaces/box/"


def _room(row):
    return to_plan(GrowPlan.objects.select_related("head").get(pk=row.pk)).rooms[0]


def _space(row):
    return to_plan(GrowPlan.objects.select_related("head").get(pk=row.pk)).spaces[0]


def _row(client, base, station, part_id, **typed):
    """What the browser sends for one row, with some fields typed over."""
    page = client.get(f"{base}{station}/").text
    found = dict(re.findall(rf'name="({part_id}-[\w.]+)" value="([^"]*)"', page))
    for name, options in re.findall(rf'<select[^>]*name="({part_id}-[\w.]+)"[^>]*>(.*?)</select>', page):
        found[name] = re.search(r'value="([^"]*)" selected', options)[1]
    found[f"{part_id}-enabled"] = "on"
    return found | {f"{part_id}-{key}": value for key, value in typed.items()} | {"station": station}


@pytest.mark.parametrize("station", [station.key for station in HOUSE.stations])
def test_each_station_shows_the_drawing_the_margins_and_its_schedule(mine, base, station):
    page = mine.get(f"{base}{station}/").text
    # Beside the ways of air the plan keeps the light for itself.
    light = 'class="thread"' if station == "air" else 'class="iso"'
    for part in ('id="view-front"', 'id="view-plan"', 'id="margins"', 'id="title-block"', light):
        assert part in page
    assert page.count("<html") == 1
    assert mine.get(f"{base}{station}/", headers=HTMX).text.count("<html") == 0


def test_the_heat_demand_is_shown_with_and_without_its_credits(mine, base):
    text = mine.get(f"{base}air/?tab=need").text.replace("\u00a0", " ")
    shown = re.search(r"(\d+) m³/h if walls and leaves took up nothing", text)
    credited = re.search(r'heat.*?<td class="num">([\d.]+) m³/h', text, flags=re.DOTALL)
    assert float(shown[1]) > float(credited[1])


def test_an_unknown_station_or_space_is_not_there(mine, base, row):
    assert mine.get(f"{base}moon/").status_code == 404
    assert mine.get(f"/plans/{row.pk}/spaces/attic/light/").status_code == 404


def test_a_lamp_is_changed_from_its_row_and_only_what_was_typed_moves(mine, base, row):
    before = _space(row).fixtures[0]
    mine.post(f"{base}light/part/fixtures/lamp-1/", _row(mine, base, "light", "lamp-1", z_m="3 ft"), headers=HTMX)
    after = _space(row).fixtures[0]
    assert after.z_m == pytest.approx(0.9144)
    assert after.model_copy(update={"z_m": before.z_m}) == before
    states = PlanState.objects.count()
    mine.post(f"{base}light/part/fixtures/lamp-1/", _row(mine, base, "light", "lamp-1"), headers=HTMX)
    assert PlanState.objects.count() == states


@pytest.mark.parametrize(
    ("field", "typed", "words"),
    [
        ("z_m", "abc", "“abc” is not a length"),
        ("z_m", "1.6 m", "reaches outside the space (z): give"),
        ("dim", "140 %", "give 0 % to 100 %"),
        ("hours", "25", "give 0 h to 24 h"),
        ("x_m", "-5", "give 0 cm to 1000 cm"),
        ("tilt_deg", "steep", "is not a angle".replace("a angle", "a angle")),
    ],
)
def test_a_refused_lamp_keeps_what_was_typed_and_stores_nothing(mine, base, row, field, typed, words):
    states = PlanState.objects.count()
    answer = mine.post(
        f"{base}light/part/fixtures/lamp-1/", _row(mine, base, "light", "lamp-1", **{field: typed}), headers=HTMX
    )
    text = answer.text.replace("\u00a0", " ")
    assert words in text
    assert f'value="{typed}"' in text
    assert PlanState.objects.count() == states


def test_a_plant_s_new_crop_or_stage_brings_its_size(mine, base, row):
    mine.post(f"{base}crops/many/", {"act": "set", "pick": "plant-1", "many-crop_id": "african-violet"}, headers=HTMX)
    plant = _space(row).plants[0]
    assert (plant.crop_id, plant.stage, plant.height_m, plant.spread_m) == ("african-violet", "vegetative", 0.09, 0.18)
    mine.post(f"{base}crops/part/plants/plant-1/", _row(mine, base, "crops", "plant-1", stage="flower"), headers=HTMX)
    assert _space(row).plants[0].height_m == 0.13
    answer = mine.post(
        f"{base}crops/part/plants/plant-1/", _row(mine, base, "crops", "plant-1", height_m="1.9 m"), headers=HTMX
    )
    assert "top is at" in answer.text
    assert 'value="1.9 m"' in answer.text
    assert _space(row).plants[0].height_m == 0.13


def test_dragging_previews_without_storing_and_dropping_stores(mine, base, row):
    states = PlanState.objects.count()
    url, values = f"{base}light/part/fixtures/lamp-1/move/", {"x_m": "0.41", "z_m": "0.8"}
    shown = mine.post(url, values | {"preview": "1"}, headers=HTMX).text
    assert PlanState.objects.count() == states
    assert 'id="field-plan"' in shown
    assert 'id="schedule"' not in shown
    mine.post(url, values, headers=HTMX)
    assert (_space(row).fixtures[0].x_m, _space(row).fixtures[0].z_m) == (0.41, 0.8)
    outside = mine.post(url, {"z_m": "1.59"}, headers=HTMX).text
    assert "reaches outside the space" in outside
    assert _space(row).fixtures[0].z_m == 0.8
    assert mine.post(url, {"z_m": "high"}, headers=HTMX).status_code == 404


def test_parts_are_added_and_removed(mine, base, row):
    mine.post(f"{base}crops/add/", {"add-crop_id": "tatsoi", "add-count": "3"}, headers=HTMX)
    mine.post(f"{base}light/lamps/add/", {"add-class_id": "bar-30", "add-count": "2"}, headers=HTMX)
    mine.post(f"{base}space/part/openings/add/", headers=HTMX)
    mine.post(f"{base}space/part/devices/add/", headers=HTMX)
    space = _space(row)
    assert len(space.plants) == 7
    assert space.fixtures[-1].spec.class_id == "bar-30"
    pump = space.devices[0].id
    mine.post(
        f"{base}power/part/devices/{pump}/",
        _row(mine, base, "power", pump, name="Air pump", power_w="4 W"),
        headers=HTMX,
    )
    hole = space.openings[-1].id
    mine.post(
        f"{base}space/part/openings/{hole}/",
        _row(mine, base, "air", hole, diameter_m="4 in", use="cable"),
        headers=HTMX,
    )
    space = _space(row)
    assert (space.devices[0].spec.name, space.devices[0].spec.power_w) == ("Air pump", 4)
    assert (space.openings[-1].diameter_m, space.openings[-1].use) == (0.1016, "cable")
    for kind, key in (("devices", pump), ("openings", hole), ("fixtures", space.fixtures[-1].id)):
        mine.post(f"{base}light/part/{kind}/{key}/remove/", headers=HTMX)
    after = _space(row)
    assert [len(getattr(space, k)) - len(getattr(after, k)) for k in ("devices", "openings", "fixtures")] == [1, 1, 1]
    assert mine.post(f"{base}light/part/walls/a/remove/").status_code == 404


def test_all_lamps_are_set_at_once_and_refused_as_one(mine, base, row):
    before = _space(row).fixtures
    mine.post(f"{base}light/lamps/add/", {"add-class_id": "bar-30", "add-count": "2"}, headers=HTMX)
    mine.post(f"{base}light/lamps/all/", {"all-z_m": "90", "all-dim": "", "all-hours": "12"}, headers=HTMX)
    lamps = _space(row).fixtures
    assert {(lamp.z_m, lamp.hours) for lamp in lamps} == {(0.9, 12)}
    assert [lamp.dim for lamp in lamps] == [lamp.dim for lamp in before] + [1, 1]
    states = PlanState.objects.count()
    text = mine.post(f"{base}light/lamps/all/", {"all-z_m": "1.59 m"}, headers=HTMX).text
    assert "reaches outside" in text
    assert 'value="1.59 m"' in text
    mine.post(f"{base}light/lamps/all/", {"all-z_m": ""}, headers=HTMX)
    assert PlanState.objects.count() == states


def test_many_plants_change_together_or_not_at_all(mine, base, row):
    picks = [plant.id for plant in _space(row).plants]
    mine.post(f"{base}crops/many/", {"act": "set", "pick": picks, "many-stage": "seedling"}, headers=HTMX)
    assert {(plant.stage, plant.height_m) for plant in _space(row).plants} == {("seedling", 0.05)}
    states = PlanState.objects.count()
    text = mine.post(f"{base}crops/many/", {"act": "set", "pick": picks, "many-stage": "fruit"}, headers=HTMX).text
    assert "has no stage" in text
    assert PlanState.objects.count() == states
    assert "Pick some plants first" in mine.post(f"{base}crops/many/", {"act": "set"}, headers=HTMX).text


def test_too_many_lamps_are_refused_in_words(mine, base, row):
    text = mine.post(f"{base}light/lamps/add/", {"add-class_id": "rig-6-bar-480", "add-count": "1"}, headers=HTMX).text
    assert "the largest that hangs level here is 78\u00a0cm × 58\u00a0cm" in text


def test_a_lamp_of_one_s_own_data_by_lumens(mine, base, row):
    data = {
        "own-name": "Shop light",
        "own-power_w": "40",
        "own-output": "lumens",
        "own-amount": "4400",
        "own-source_id": "cool-white-fluorescent",
        "own-cct_k": "",
        "own-length_m": "60 cm",
        "own-width_m": "10",
        "own-beam_angle_deg": "",
        "own-min_distance_m": "",
    }
    mine.post(f"{base}light/lamps/own/", data, headers=HTMX)
    from canopy.light.photometry import ppf

    assert ppf(_space(row).fixtures[-1].spec) == pytest.approx(4400 / 74)
    text = mine.post(f"{base}light/lamps/own/", data | {"own-amount": "-3"}, headers=HTMX).text
    assert "greater than or equal to" in text


def test_space_room_faces_air_and_circuit(mine, base, row):
    space = _space(row)
    mine.post(
        f"{base}space/room/",
        {
            "room-day_c": "77 F",
            "room-night_c": "17",
            "room-day_rh_pct": "50",
            "room-night_rh_pct": "55",
            "room-floor": "concrete",
        },
        headers=HTMX,
    )
    mine.post(
        f"{base}space/face/left/", {"face-left-material_id": "white-paint", "face-left-reflectance": ""}, headers=HTMX
    )
    mine.post(f"{base}power/circuit/", {"circuit_id": ""}, headers=HTMX)
    need = {
        "need-rule": "heat",
        "need-exchange_minutes": "2",
        "need-filter_allowance": "25 %",
        "need-rise_k": "4 K",
        "need-max_rh_pct": "70 %",
        "need-co2_drop_ppm": "60",
        "need-listen_m": "2 m",
        "need-door_times": "0",
        "need-door_minutes": "10",
    }
    mine.post(f"{base}air/need/", need, headers=HTMX)
    after = _space(row)
    assert (_room(row).day_c, _room(row).floor) == (25, "concrete")
    assert (after.faces.left.material_id, after.circuit_id) == ("white-paint", None)
    assert (after.air.rule, after.air.exchange_minutes) == ("heat", 2)
    assert {"room", "faces", "circuit", "air"} & set(space.assumed)
    assert not {"room", "faces", "circuit", "air"} & set(after.assumed)
    text = mine.post(
        f"{base}space/size/",
        {
            "space-name": "Box",
            "space-kind": "closet",
            "space-width_m": "20 cm",
            "space-depth_m": "60 cm",
            "space-height_m": "160 cm",
            "space-door_side": "front",
            "station": "space",
        },
        headers=HTMX,
    ).text
    assert "outside" in text
    assert 'value="20 cm"' in text
    assert _space(row).size.width_m == 0.8
    mine.post(f"{base}space/confirm/openings/", headers=HTMX)
    assert "openings" not in _space(row).assumed


def test_the_map_moves_to_another_height_without_changing_the_plan(mine, base, row):
    states = PlanState.objects.count()
    answer = mine.get(f"{base}light/", {"level": "0.5"}, headers=HTMX)
    assert "PPFD at 50\u00a0cm" in answer.text
    # What one looks at stands in the address: it can be kept, sent, and opened in two windows.
    assert answer.headers["HX-Push-Url"] == f"{base}light/?level=0.5"
    assert "give 0" in mine.get(f"{base}light/", {"level": "9"}, headers=HTMX).text
    assert "PPFD at 50" not in mine.get(f"{base}light/", headers=HTMX).text
    moved = mine.post(
        f"{base}light/part/fixtures/lamp-1/move/",
        {"z_m": "0.9"},
        headers=HTMX | {"HX-Current-URL": f"http://testserver{base}light/?level=0.5&day=2026-04-02"},
    ).text
    assert "PPFD at 50\u00a0cm" in moved
    assert "2 Apr 2026" in moved
    states += 1
    assert PlanState.objects.count() == states


def test_a_remedy_shows_what_it_moves_and_is_taken_with_one_click(mine, base, row):
    for lamp in _space(row).fixtures:
        mine.post(f"{base}light/part/fixtures/{lamp.id}/", _row(mine, base, "light", lamp.id, dim="30 %"), headers=HTMX)
    margin = "light.dli.lettuce-butterhead.vegetative"
    shown = mine.get(f"{base}light/remedy/{margin}/").text
    assert "Turn up the lamps to" in shown
    assert "What it moves" in shown
    assert _space(row).fixtures[0].dim == 0.3
    mine.post(f"{base}light/remedy/{margin}/", headers=HTMX)
    assert _space(row).fixtures[0].dim > 0.3
    assert "nothing to mend" in mine.post(f"{base}light/remedy/air.none/", headers=HTMX).text


def test_names_with_markup_are_written_as_text(mine, base, row):
    mine.post(
        f"{base}space/size/",
        {
            "space-name": "<script>x</script>",
            "space-kind": "closet",
            "space-width_m": "80 cm",
            "space-depth_m": "60 cm",
            "space-height_m": "160 cm",
            "space-door_side": "front",
        },
        headers=HTMX,
    )
    assert "<script>x" not in mine.get(f"{base}space/").text
    assert "<script>x" not in mine.get("/").text
