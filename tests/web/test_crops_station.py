"""The Crops station: many plants, plantings, company, feed, any day."""

import datetime as dt
import re

import pytest

from canopy_web.planning import actions
from canopy_web.planning.models import GrowPlan, PlanState
from canopy_web.planning.store import to_plan

pytestmark = pytest.mark.django_db
HTMX = {"HX-Request": "true"}
DAY = dt.date(2026, 3, 1)


@pytest.fixture
def base(row):
    return f"/plans/{row.pk}/spaces/box/"


def _plan(row):
    return to_plan(GrowPlan.objects.select_related("head").get(pk=row.pk))


def _space(row, number=0):
    return _plan(row).spaces[number]


def _many(mine, base, act, picks, **typed):
    return mine.post(f"{base}crops/many/", {"act": act, "pick": picks, **typed}, headers=HTMX).text.replace(
        "\u00a0", " "
    )


def _sow(mine, base, **typed):
    data = {"add-crop_id": "pea-shoots", "add-count": "1", "add-starts_on": DAY.isoformat(), "tab": "season"}
    return mine.post(
        f"{base}crops/add/", data | {f"add-{key}": value for key, value in typed.items()}, headers=HTMX
    ).text


@pytest.fixture
def picks(row):
    return [plant.id for plant in _space(row).plants]


@pytest.mark.parametrize("tab", ["plants", "season", "together", "feed"])
def test_each_tab_shows_itself(mine, base, tab):
    text = mine.get(f"{base}crops/", {"tab": tab}).text
    assert f'?tab={tab}" aria-current="page"' in text
    assert 'id="view-plan"' in text
    assert mine.get(f"{base}crops/", {"tab": "moon"}).status_code == 200


def test_containers_stands_and_habits_for_many(mine, base, row, picks):
    _many(mine, base, "set", picks[:2], **{"many-container": "pot-13", "many-base_m": "20 cm", "many-habit": "hang"})
    plants = _space(row).plants
    assert [(p.pot_volume_l, p.base_m, p.habit) for p in plants[:2]] == [(1.1, 0.2, "hang")] * 2
    assert plants[2].pot_volume_l is None
    text = _many(mine, base, "set", picks, **{"many-height_m": "9 m"})
    assert "give 0.1 cm to 600 cm" in text
    assert 'value="9 m"' in text


def test_copies_lines_and_grids(mine, base, row, picks):
    text = _many(mine, base, "copy", picks[:2])
    assert len(_space(row).plants) == 6
    assert text.count("checked") == 2
    _many(mine, base, "line", picks, how="left")
    assert len({plant.x_m for plant in _space(row).plants[:4]}) == 1
    _many(mine, base, "grid", picks, **{"grid-columns": "4", "grid-spacing_m": "15"})
    assert [plant.x_m for plant in _space(row).plants[:4]] == [0.175, 0.325, 0.475, 0.625]
    text = _many(mine, base, "grid", picks, **{"grid-columns": "4", "grid-spacing_m": "50"})
    assert "need 150 × 0 cm; there are 80 × 60 cm" in text
    assert 'value="50"' in text
    _many(mine, base, "grid", picks, **{"grid-where": "wall-back", "grid-columns": "2"})
    assert {(p.habit, p.facing_deg) for p in _space(row).plants[:4]} == {("outward", 270.0)}
    _many(mine, base, "remove", picks[:3])
    assert len(_space(row).plants) == 3
    assert mine.post(f"{base}crops/many/", {"act": "explode", "pick": picks[3]}).status_code == 404


def test_picked_plants_move_together(mine, base, row, picks):
    before = {plant.id: plant.x_m for plant in _space(row).plants}
    url = f"{base}crops/part/plants/{picks[0]}/move/"
    values = {"x_m": str(before[picks[0]] + 0.05), "with": picks[:3]}
    shown = mine.post(url, values | {"preview": "1"}, headers=HTMX)
    assert shown.status_code == 200
    mine.post(url, values, headers=HTMX)
    shifts = [round(plant.x_m - before[plant.id], 4) for plant in _space(row).plants]
    assert shifts == [0.05, 0.05, 0.05, 0.0]


def test_a_succession_is_sown_and_seen_on_its_days(mine, base, row):
    text = _sow(mine, base, times="3", every_days="10", container="half-tray")
    assert [item.name for item in _plan(row).plantings] == ["Pea shoots 1", "Pea shoots 2", "Pea shoots 3"]
    assert text.count('class="planting"') == 3
    assert 'id="ahead"' in text
    later = mine.get(f"{base}crops/", {"day": "2026-03-15", "tab": "plants"}, headers=HTMX).text
    assert "Pea shoots 1" in later
    assert "not yet on this day" in later
    assert "15 Mar 2026" in later
    moved = mine.get(f"{base}light/", {"day": "2026-03-01", "ahead": "9"}, headers=HTMX).text
    assert "10 Mar 2026" in moved
    assert "is not a day" in mine.get(f"{base}light/", {"day": "soon"}, headers=HTMX).text
    assert "between 1990 and 2200" in mine.get(f"{base}light/", {"day": "9990-01-01"}, headers=HTMX).text
    assert PlanState.objects.count() == 2


def test_repeats_without_a_day_are_refused_with_what_was_typed(mine, base, row):
    text = _sow(mine, base, times="3", starts_on="", count="7")
    assert "say on which day the first is sown or planted" in text
    assert 'value="7"' in text
    assert _plan(row).plantings == ()


def _planting_form(text, key):
    found = dict(re.findall(rf'name="({key}-[\w.-]+)" (?:placeholder="[^"]*" )?value="([^"]*)"', text))
    for name, options in re.findall(rf'<select[^>]*name="({key}-[\w.-]+)"[^>]*>(.*?)</select>', text):
        chosen = re.search(r'value="([^"]*)" selected', options)
        found[name] = chosen[1] if chosen else ""
    return found


def test_a_planting_s_days_are_changed_and_trained(mine, base, row):
    text = _sow(mine, base, crop_id="bean-dwarf")
    data = _planting_form(text, "planting-1") | {
        "tab": "season",
        "planting-1-starts_on": "2026-02-01",
        "planting-1-days-seedling": "9",
    }
    mine.post(f"{base}crops/plantings/planting-1/", data, headers=HTMX)
    planting = _plan(row).plantings[0]
    assert (planting.starts_on, planting.stage_days) == (dt.date(2026, 2, 1), {"seedling": 9})
    wrong = mine.post(
        f"{base}crops/plantings/planting-1/", data | {"planting-1-cleared_on": "2020-01-01"}, headers=HTMX
    ).text
    assert "It is cleared before it begins" in wrong
    note = {
        "t-planting-1-how": "hold",
        "t-planting-1-height_m": "25 cm",
        "t-planting-1-on": "2026-02-20",
        "tab": "season",
    }
    text = mine.post(f"{base}crops/plantings/planting-1/train/", note, headers=HTMX).text.replace("\u00a0", " ")
    assert "held at 25 cm on 20 Feb 2026" in " ".join(text.split())
    mine.post(
        f"{base}crops/plantings/planting-1/train/", {"drop": _plan(row).plantings[0].trainings[0].id}, headers=HTMX
    )
    assert _plan(row).plantings[0].trainings == ()
    mine.post(f"{base}crops/plantings/planting-1/remove/", headers=HTMX)
    assert _plan(row).plantings == ()
    assert len(_space(row).plants) == 4
    assert mine.post(f"{base}crops/plantings/planting-1/", {}).status_code == 404


def test_a_size_typed_for_a_dated_plant_is_what_was_seen(mine, base, row):
    _sow(mine, base, crop_id="bean-dwarf")
    page = mine.get(f"{base}crops/", {"day": "2026-03-20"}).text
    data = dict(re.findall(r'name="(plant-5-[\w.]+)" value="([^"]*)"', page))
    shown_at = HTMX | {"HX-Current-URL": f"http://testserver{base}crops/?day=2026-03-20"}
    mine.post(f"{base}crops/part/plants/plant-5/", data | {"plant-5-height_m": "11 cm"}, headers=shown_at)
    plant = _space(row).plants[4]
    assert (plant.height_m, plant.seen_on) == (0.11, dt.date(2026, 3, 20))
    assert 'value="11 cm"' in mine.get(f"{base}crops/", {"day": "2026-03-20"}).text


def test_plants_begin_to_follow_days_and_move_on(mine, base, row, picks, small_plan):
    other = small_plan.spaces[0].model_copy(update={"id": "tent", "name": "Tent", "plants": ()})
    actions.change(row, "Second", lambda plan: plan.model_copy(update={"spaces": (*plan.spaces, other)}))
    _many(mine, base, "begin", picks[:3])
    plan = _plan(row)
    assert len(plan.plantings) == 1
    assert [plant.planting_id for plant in plan.spaces[0].plants] == ["planting-1"] * 3 + [None]
    assert "grow by date already" in _many(mine, base, "begin", picks[:3])
    on = (DAY + dt.timedelta(days=12)).isoformat()
    mine.post(
        f"{base}crops/plantings/planting-1/move-on/", {"m-planting-1-to": "tent", "m-planting-1-on": on}, headers=HTMX
    )
    plan = _plan(row)
    assert [len(space.plants) for space in plan.spaces] == [4, 3]
    assert plan.spaces[1].plants[0].from_day.isoformat() == on
    wrong = mine.post(
        f"{base}crops/plantings/planting-1/move-on/",
        {"m-planting-1-to": "moon", "m-planting-1-on": on, "tab": "season"},
        headers=HTMX,
    ).text
    assert "moon is not one of the available choices" in wrong


def test_a_crop_in_bad_company_is_moved_and_undone(mine, base, row, small_plan):
    case = small_plan.spaces[0].model_copy(update={"id": "case", "name": "Case", "kind": "glass-case", "plants": ()})
    actions.change(row, "Case", lambda plan: plan.model_copy(update={"spaces": (*plan.spaces, case)}))
    mine.post(f"{base}crops/add/", {"add-crop_id": "filmy-fern", "add-count": "2"}, headers=HTMX)
    text = mine.get(f"{base}crops/", {"tab": "together"}).text
    assert "2 × Filmy fern, vegetative: Box" in text
    assert "fall into 2 groups" in text
    assert "nothing shared" in text
    values = {"from": "box", "to": "case", "crop": "filmy-fern", "stage": "vegetative"}
    assert "Moved; Undo takes it back" in mine.post(f"{base}crops/plantings/move-kind/", values, headers=HTMX).text
    assert [len(space.plants) for space in _plan(row).spaces] == [4, 2]
    again = mine.post(f"{base}crops/plantings/move-kind/", values, headers=HTMX).text
    assert "no longer here" in again
    mine.post(f"{base}light/undo/", headers=HTMX)
    assert [len(space.plants) for space in _plan(row).spaces] == [6, 0]


def test_the_feed_tab_works_doses_out(mine, base, row):
    mine.post(f"{base}crops/feed/", {"feed-way": "solution", "tab": "feed"}, headers=HTMX)
    mine.post(
        f"{base}crops/feed/", {"feed-way": "solution", "feed-reservoir_l": "20 L", "feed-uptake_l_d": "2"}, headers=HTMX
    )
    mine.post(f"{base}crops/feed/part/", {"what": "add"}, headers=HTMX)
    data = {
        "what": "edit",
        "part": "part-1",
        "feed-part-1-name": "Base",
        "feed-part-1-ec_ms_cm_per_ml_l": "0,5",
        "feed-part-1-share": "1",
        "station": "crops",
        "tab": "feed",
    }
    text = mine.post(f"{base}crops/feed/part/", data, headers=HTMX).text.replace("\u00a0", " ")
    # Lettuce 1.15-1.8: 1.475; (1.475 - 0.4) / 0.5 = 2.15 mL/L, 43 mL in 20 L.
    assert "2.15" in text
    assert ">43 mL<" in text
    assert "738 ppm on the 500 scale" in text
    # Half strength of what is over the water's 0.4: 0.94 mS/cm.
    assert "L at 0.94 mS/cm" in text
    mine.post(
        f"{base}crops/feed/",
        {"feed-way": "solution", "feed-above_water": "on", "feed-reservoir_l": "20 L"},
        headers=HTMX,
    )
    assert _space(row).feed.above_water
    mine.post(f"{base}crops/feed/", {"feed-way": "solution", "feed-reservoir_l": "20 L", "tab": "feed"}, headers=HTMX)
    assert not _space(row).feed.above_water
    mine.post(
        f"{base}crops/feed/",
        {"feed-way": "solution", "feed-ph_dose_ml_l": "0.4", "feed-reservoir_l": "20 L"},
        headers=HTMX,
    )
    assert "about 8 mL of what you titrated with" in mine.get(f"{base}crops/", {"tab": "feed"}).text.replace(
        "\u00a0", " "
    )
    assert "change all 20 L" in text
    typed = {"feed-way": "solution", "feed-water_ec_ms_cm": "hard", "tab": "feed"}
    bad = mine.post(f"{base}crops/feed/", typed, headers=HTMX)
    assert "“hard” is not a strength" in bad.text
    assert 'value="hard"' in bad.text
    mine.post(f"{base}crops/feed/part/", {"what": "remove", "part": "part-1"}, headers=HTMX)
    assert _space(row).feed.parts == ()
    assert mine.post(f"{base}crops/feed/part/", {"what": "remove", "part": "part-1"}).status_code == 404
    mine.post(f"{base}crops/feed/", {"feed-way": "soil"}, headers=HTMX)
    assert "Choose containers" in mine.get(f"{base}crops/", {"tab": "feed"}).text


def test_nobody_else_can_do_any_of_it(client, other, base, row):
    client.force_login(other)
    for path in (
        "many/",
        "feed/",
        "day/clock/move/",
        "ground/",
        "bearing/",
        "plantings/x/",
        "add/part/shelves/",
        "photos/add/",
    ):
        assert client.post(f"{base}{path}", headers=HTMX).status_code == 404, path


def test_the_first_questions_are_answered_on_one_tab(mine, base, row):
    text = mine.get(f"{base}crops/", {"tab": "short"}).text
    for words in (
        "Is its light enough?",
        "What little light and warmth cost",
        "How many a pot?",
        "Outdoors it is like",
        "Which dose?",
    ):
        assert words in text
    assert "mL/L of a usual bottle" in text


def test_plants_climb_a_wall_or_a_trellis_in_one_act(mine, base, row):
    picked = [plant.id for plant in _space(row).plants]
    mine.post(f"{base}crops/many/", {"act": "grid", "pick": picked, "grid-where": "climb-back"}, headers=HTMX)
    plants = _space(row).plants
    assert {plant.habit for plant in plants} == {"wall"}
    assert {plant.facing_deg for plant in plants} == {270}
    assert len({plant.x_m for plant in plants}) == len(plants)
    mine.post(f"{base}space/part/trellises/add/", headers=HTMX)
    trellis = _space(row).trellises[0]
    text = mine.get(f"{base}crops/").text
    assert "furniture trellis" in text
    spot = f"trellis-{trellis.id}"
    mine.post(f"{base}crops/many/", {"act": "grid", "pick": picked, "grid-where": spot}, headers=HTMX)
    assert all(plant.y_m < trellis.y_m for plant in _space(row).plants)
    sizes = {"x_m": "40 cm", "y_m": "50 cm", "z_m": "0 cm", "width_m": "3 m", "height_m": "1 m"}
    edited = {f"{trellis.id}-{key}": value for key, value in {**sizes, "name": "T", "along": "width"}.items()}
    wrong = mine.post(f"{base}space/part/trellises/{trellis.id}/", edited, headers=HTMX).text
    assert "This trellis reaches through a wall" in wrong
    mine.post(f"{base}crops/many/", {"act": "grid", "pick": picked, "grid-where": ""}, headers=HTMX)
    assert {plant.habit for plant in _space(row).plants} == {"stand"}
