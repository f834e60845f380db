import datetime as dt
import json
import re
import zlib

import pytest
from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.db.migrations.executor import MigrationExecutor
from django.test import Client
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from canopy.evaluate import evaluate_space
from canopy.plan import dumps
from canopy_web.logbook.actions import import_file, strike_reading, take_readings
from canopy_web.logbook.models import LightReading, LightSurvey
from canopy_web.logbook.querysets import surveys_of
from canopy_web.planning import actions
from canopy_web.planning.models import GrowPlan, PlanState
from canopy_web.planning.store import to_plan
from canopy_web.stations.registry import HOUSE
from tests.conftest import DEMO, ROOT

pytestmark = pytest.mark.django_db

ANSWERS = {
    "new-kind": "closet",
    "new-width_m": "2 ft 8 in",
    "new-depth_m": "55",
    "new-height_m": "1,9 m",
    "new-crop_id": "lettuce-butterhead",
    "new-count": "5",
    "new-lamp_class_id": "",
    "new-lamp_count": "1",
    "new-name": "",
    "start-rule_set_id": "na-15",
}


def test_the_first_minute_makes_a_whole_space(mine, grower):
    answer = mine.post("/start/", ANSWERS)
    row = GrowPlan.objects.get(owner=grower)
    assert answer.url == f"/plans/{row.pk}/spaces/lettuce-closet-2/light/"
    plan = to_plan(row)
    (space,) = plan.spaces
    assert (space.size.width_m, space.size.depth_m, space.size.height_m) == pytest.approx((0.8128, 0.55, 1.9))
    assert len(space.plants) == 5
    assert space.fixtures
    assert plan.circuits[0].mains_v == 120
    assert plan.site.currency == "USD"
    assert "Assumed" in mine.get(answer.url).text


@pytest.mark.parametrize(
    ("field", "typed", "words"),
    [
        ("new-height_m", "abc", "“abc” is not a length"),
        ("new-width_m", "0", "give 10 cm to 1000 cm"),
        ("new-depth_m", "-4", "give 10 cm to 1000 cm"),
        ("new-width_m", "900 m", "give 10 cm to 1000 cm"),
        ("new-height_m", "", "type a length"),
        ("new-count", "9999", "less than or equal to 200"),
        ("new-crop_id", "", "Say what grows there"),
    ],
)
def test_what_cannot_be_is_said_at_the_field_and_kept(mine, grower, field, typed, words):
    answer = mine.post("/start/", {**ANSWERS, field: typed})
    text = answer.text.replace("\u00a0", " ")
    assert words in text
    assert f'value="{typed}"' in text or not typed
    assert 'aria-invalid="true"' in text
    assert 'value="2 ft 8 in"' in text or field == "new-width_m"
    assert not GrowPlan.objects.exists()


def test_another_person_s_plan_is_not_there(client, other, row):
    client.force_login(other)
    base = f"/plans/{row.pk}/"
    for path in ("", "export/", "spaces/new/", "spaces/box/light/", "spaces/box/light/remedy/air.flow/"):
        assert client.get(base + path).status_code == 404, path
    posts = (
        "undo/",
        "delete/",
        "spaces/box/light/undo/",
        "spaces/box/space/size/",
        "spaces/box/crops/add/",
        "spaces/box/light/part/fixtures/lamp-1/",
        "spaces/box/light/part/fixtures/lamp-1/move/",
        "spaces/box/space/delete/",
    )
    for path in posts:
        assert client.post(base + path).status_code == 404, path
    row.refresh_from_db()
    assert PlanState.objects.count() == 1


def test_export_import_export_is_identical(mine, grower):
    first = import_file(grower, DEMO.read_bytes())
    text = mine.get(f"/plans/{first.pk}/export/").content
    mine.post("/plans/import/", {"file": SimpleUploadedFile("p.json", text)})
    second = GrowPlan.objects.exclude(pk=first.pk).get()
    assert mine.get(f"/plans/{second.pk}/export/").content == text == DEMO.read_bytes()


def test_what_was_logged_travels_in_the_plan_file(mine, grower):
    first = import_file(grower, DEMO.read_bytes())
    lines = [(0.3, 0.2, 0.5, 212.5), (0.1, 0.2, 0.5, 180)]
    take_readings(first, "hall-closet", dt.date(2026, 3, 14), lines)
    strike_reading(first, "hall-closet", 2, True)
    text = mine.get(f"/plans/{first.pk}/export/").content
    mine.post("/plans/import/", {"file": SimpleUploadedFile("p.json", text)})
    second = GrowPlan.objects.exclude(pk=first.pk).get()
    assert mine.get(f"/plans/{second.pk}/export/").content == text
    (survey,) = surveys_of(second, "hall-closet")
    assert [(r.value, r.struck) for r in survey.readings.all()] == [(212.5, False), (180, True)]
    bad = text.replace(b'"value": 212.5', b'"value": -1')
    page = mine.post("/plans/import/", {"file": SimpleUploadedFile("p.json", bad)}).text
    assert "facts.surveys[0].readings[0].value" in page
    assert GrowPlan.objects.count() == 2
    assert LightSurvey.objects.count() == 2


def test_logs_go_with_their_household_and_their_person(mine, grower):
    kept, gone = import_file(grower, DEMO.read_bytes()), import_file(grower, DEMO.read_bytes())
    for each in (kept, gone):
        take_readings(each, "hall-closet", dt.date(2026, 3, 14), [(0.3, 0.2, 0.5, 200)])
    actions.delete_plan(gone)
    assert [survey.plan_id for survey in LightSurvey.objects.all()] == [kept.pk]
    actions.delete_account(grower)
    assert not LightSurvey.objects.exists()
    assert not LightReading.objects.exists()


def test_a_new_person_can_begin_with_a_plan_file(mine, grower):
    assert 'name="file"' in mine.get("/start/").text
    assert mine.post("/plans/import/", {"file": SimpleUploadedFile("p.json", b"{}")}).status_code == 200
    assert not GrowPlan.objects.exists()
    mine.post("/plans/import/", {"file": SimpleUploadedFile("p.json", DEMO.read_bytes())})
    assert "Berry tent" in mine.get("/").text


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (DEMO.read_bytes()[:900], "the JSON breaks off"),
        (b"hello", "not whole"),
        (b"x" * 5_100_000, "at most 5 MB"),
        (DEMO.read_bytes().replace(b'"version": 3', b'"version": 9'), "version 9; this program reads up to 3"),
        (DEMO.read_bytes().replace(b'"crop_id": "tatsoi"', b'"crop_id": "tatsoy"'), "no crop “tatsoy”"),
        (b"", "empty"),
    ],
)
def test_a_bad_plan_file_changes_nothing(mine, row, content, words):
    answer = mine.post("/plans/import/", {"file": SimpleUploadedFile("p.json", content)})
    assert words in answer.text
    assert GrowPlan.objects.count() == 1


def test_every_change_can_be_undone_and_done_again(mine, row, small_plan):
    lamp, base = small_plan.spaces[0].fixtures[0], f"/plans/{row.pk}/spaces/box/"
    mine.post(
        f"{base}light/part/fixtures/{lamp.id}/", {f"{lamp.id}-dim": "40 %"} | _lamp_row(mine, base, lamp.id, "dim")
    )
    mine.post(f"{base}crops/part/plants/plant-1/remove/")
    mine.post(f"{base}space/size/", {"space-width_m": "90 cm"})
    changed = to_plan(GrowPlan.objects.get(pk=row.pk))
    assert len(changed.spaces[0].plants) == 3
    for _ in range(5):
        mine.post(f"{base}light/undo/", headers={"HX-Request": "true"})
    assert dumps(to_plan(GrowPlan.objects.get(pk=row.pk))) == dumps(small_plan)
    for _ in range(5):
        mine.post(f"{base}light/redo/", headers={"HX-Request": "true"})
    assert to_plan(GrowPlan.objects.get(pk=row.pk)) == changed


def _lamp_row(client, base, lamp_id, but):
    """What the browser sends for a lamp's row, but for one field."""
    import re

    page = client.get(f"{base}light/").text
    found = dict(re.findall(rf'name="({lamp_id}-\w+)" value="([^"]*)"', page))
    found[f"{lamp_id}-enabled"] = "on"
    return {key: value for key, value in found.items() if key != f"{lamp_id}-{but}"}


def test_undoing_the_space_itself_leads_home(mine, grower, row):
    mine.post(f"/plans/{row.pk}/spaces/new/", {**ANSWERS, "new-name": "Second"})
    second = to_plan(GrowPlan.objects.get(pk=row.pk)).spaces[-1].id
    answer = mine.post(f"/plans/{row.pk}/spaces/{second}/light/undo/", headers={"HX-Request": "true"})
    assert answer.headers["HX-Redirect"] == "/"
    assert len(to_plan(GrowPlan.objects.get(pk=row.pk)).spaces) == 1


def test_circuits_and_tariff_are_edited_in_place(mine, row):
    url = f"/plans/{row.pk}/"
    mine.post(
        url,
        {
            "what": "household",
            "household-name": "Elm Court",
            "household-price_per_kwh": "0,42",
            "household-currency": "CHF",
        },
    )
    mine.post(
        url,
        {
            "what": "circuit",
            "circuit": "c1",
            "c1-name": "Attic",
            "c1-rule_set_id": "uk-13",
            "c1-breaker_a": "32",
            "c1-mains_v": "230",
        },
    )
    mine.post(url, {"what": "add-load", "circuit": "c1"})
    mine.post(
        url,
        {
            "what": "load",
            "circuit": "c1",
            "load": "load-1",
            "c1-load-1-name": "Kettle",
            "c1-load-1-power_w": "2.2 kW",
            "c1-load-1-hours_per_day": "30 min",
        },
    )
    mine.post(url, {"what": "add-circuit"})
    plan = to_plan(GrowPlan.objects.get(pk=row.pk))
    assert (plan.name, plan.tariff.price_per_kwh, plan.site.currency) == ("Elm Court", 0.42, "CHF")
    assert [c.name for c in plan.circuits] == ["Attic", "Another circuit"]
    kettle = plan.circuits[0].other_loads[0]
    assert (kettle.name, kettle.power_w, kettle.schedule.hours) == ("Kettle", 2200, 0.5)
    bad = mine.post(
        url,
        {
            "what": "circuit",
            "circuit": "c1",
            "c1-name": "Attic",
            "c1-rule_set_id": "uk-13",
            "c1-breaker_a": "900",
            "c1-mains_v": "230",
        },
    )
    assert "less than or equal to 125" in bad.text
    assert mine.post(url, {"what": "circuit", "circuit": "none"}).status_code == 404
    mine.post(url, {"what": "remove-load", "circuit": "c1", "load": "load-1"})
    assert to_plan(GrowPlan.objects.get(pk=row.pk)).circuits[0].other_loads == ()


def test_a_household_is_removed_only_by_its_name(mine, row):
    assert "type its name" in mine.post(f"/plans/{row.pk}/delete/", {"name": "x"}).text
    assert mine.post(f"/plans/{row.pk}/delete/", {"name": "Test house"}).url == "/"
    assert not GrowPlan.objects.exists()
    assert not PlanState.objects.exists()


def test_the_home_page_asks_few_queries(mine, grower, row, django_assert_max_num_queries):
    for _ in range(2):
        import_file(grower, DEMO.read_bytes())
    with django_assert_max_num_queries(5) as found:
        page = mine.get("/").text
    assert isinstance(found, CaptureQueriesContext)
    assert page.count("Berry tent, 123") == 2


def test_each_opening_of_the_demo_is_a_copy_of_its_own():
    one, two = actions.open_demo(), actions.open_demo()
    assert one.pk != two.pk
    assert [GrowPlan.objects.for_owner(user).count() for user in (one, two)] == [1, 1]
    assert not one.has_usable_password()
    assert json.loads(dumps(to_plan(GrowPlan.objects.for_owner(one).get())))["name"] == "Larkspur Lane"


def test_visitors_of_the_demo_are_swept_away_after_a_day_and_nobody_else(grower):
    old, fresh = actions.open_demo(), actions.open_demo()
    named = get_user_model().objects.create_user("demo-mine", password="tall-lamp-77")
    long_ago = timezone.now() - 2 * actions.DEMO_LASTS
    get_user_model().objects.filter(pk__in=(old.pk, named.pk, grower.pk)).update(date_joined=long_ago)
    assert actions.sweep_demo() == 1
    left = set(get_user_model().objects.values_list("pk", flat=True))
    assert left == {fresh.pk, named.pk, grower.pk}
    assert GrowPlan.objects.count() == 1


def _typed(page, prefix):
    """What a form shows, as a browser would send it."""
    inputs = re.findall(rf'<input[^>]*name="({prefix}-\w+)"[^>]*value="([^"]*)"', page)
    lists = re.findall(rf'<select[^>]*name="({prefix}-\w+)".*?<option value="([^"]*)" selected', page, re.S)
    return dict(inputs) | dict(lists)


def test_where_the_household_lies_is_typed_once(mine, row):
    url = f"/plans/{row.pk}/"
    shown = _typed(mine.get(url).content.decode(), "site")
    assert shown["site-altitude_m"].startswith("0")
    mine.post(url, shown | {"what": "site", "site-altitude_m": "1600 m", "site-latitude_deg": "-33.4"})
    row.refresh_from_db()
    site = to_plan(row).site
    assert (site.altitude_m, site.latitude_deg) == (1600, -33.4)
    page = mine.post(url, shown | {"what": "site", "site-altitude_m": "9000 m"}).content.decode()
    row.refresh_from_db()
    assert to_plan(row).site.altitude_m == 1600
    assert "9000 m" in page


def test_rooms_are_made_filled_and_removed_when_nothing_stands_there(mine, row):
    url = f"/plans/{row.pk}/"
    mine.post(url, {"what": "add-room"})
    row.refresh_from_db()
    first, fresh = to_plan(row).rooms
    page = mine.get(url).content.decode()
    shown = _typed(page, f"room-{fresh.id}")
    mine.post(
        url,
        shown
        | {
            "what": "room",
            "room": fresh.id,
            f"room-{fresh.id}-name": "Boiler room",
            f"room-{fresh.id}-floor_m2": "6.5",
            f"room-{fresh.id}-day_c": "24",
        },
    )
    row.refresh_from_db()
    assert [room.name for room in to_plan(row).rooms][1] == "Boiler room"
    assert to_plan(row).rooms[1].floor_m2 == 6.5
    # The space moves there at its own station, and then the room cannot be taken away from under it.
    mine.post(f"/plans/{row.pk}/spaces/box/space/which-room/", {"which-room-room_id": fresh.id})
    row.refresh_from_db()
    assert to_plan(row).space("box").room_id == fresh.id
    assert "Box stands there" in mine.post(url, {"what": "remove-room", "room": fresh.id}).content.decode()
    mine.post(url, {"what": "remove-room", "room": first.id})
    row.refresh_from_db()
    assert [room.id for room in to_plan(row).rooms] == [fresh.id]
    assert "at least one room" in mine.post(url, {"what": "remove-room", "room": fresh.id}).content.decode()


def test_a_room_s_hottest_day_is_typed_and_taken_out_again(mine, row):
    url = f"/plans/{row.pk}/"
    key = to_plan(row).rooms[0].id
    name = f"hottest-{key}"
    page = mine.get(url).content.decode()
    assert f'name="{name}-day_c"' in page
    mine.post(url, {"what": "season", "room": key, "season": "hottest", f"{name}-day_c": "31"})
    row.refresh_from_db()
    hottest = to_plan(row).rooms[0].hottest
    assert (hottest.day_c, hottest.night_c) == (31, to_plan(row).rooms[0].night_c)
    mine.post(url, {"what": "season", "room": key, "season": "hottest", f"{name}-day_c": ""})
    row.refresh_from_db()
    assert to_plan(row).rooms[0].hottest is None


def _kept_survey(*readings):
    """A survey as plans held it once, readings and all, fitted and applied."""
    return {
        "taken_on": "2026-03-01",
        "unit": "lux",
        "source_id": "white-led",
        "cct_k": 3500,
        "readings": [{"id": key, "x_m": 0.1, "y_m": 0.2, "z_m": 0.3, "value": value} for key, value in readings],
        "factors": [{"fixture_id": "panel", "factor": 0.9, "standard_error": 0.02}],
        "fitted_on": "2026-03-02",
        "applied": True,
    }


@pytest.mark.django_db(transaction=True)
def test_a_household_kept_by_the_version_before_is_found_again(django_user_model):
    """The tables as they were, with a state of version 2 in them; then the migration, then a page and a change."""
    executor = MigrationExecutor(connection)
    executor.migrate([("planning", "0001_initial")])
    apps = executor.loader.project_state([("planning", "0001_initial")]).apps
    old_plan, old_state = apps.get_model("planning", "GrowPlan"), apps.get_model("planning", "PlanState")
    owner = django_user_model.objects.create_user("early")
    text = (ROOT / "tests" / "core" / "data" / "plan-version-2.json").read_text()
    before = json.loads(text)
    before["spaces"][0]["plants"] = before["spaces"][0]["plants"][:-1]
    before["spaces"][0]["fixtures"][0]["id"] = "lamp-77"
    now = json.loads(text)
    before["spaces"][0]["survey"] = _kept_survey(("reading-1", 210), ("reading-2", 190), ("reading-3", 9000))
    now["spaces"][0]["survey"] = _kept_survey(("reading-1", 210), ("reading-2", 190))
    kept = old_plan.objects.create(owner_id=owner.pk, name="Early house")
    first = old_state.objects.create(plan=kept, label="Before", document=zlib.compress(json.dumps(before).encode()))
    second = old_state.objects.create(
        plan=kept, label="Now", parent=first, document=zlib.compress(json.dumps(now).encode())
    )
    kept.head = second
    kept.save()
    executor = MigrationExecutor(connection)
    executor.migrate(executor.loader.graph.leaf_nodes())
    row = GrowPlan.objects.get(pk=kept.pk)
    # Behind the lamp of a state that undo can bring back.
    assert row.serial == 78
    plan = to_plan(row)
    assert (plan.version, len(plan.spaces)) == (3, 4)
    # What a meter read has left the plan for its table; what was taken out of the plan is there, struck.
    (survey,) = surveys_of(row, plan.spaces[0].id)
    assert (survey.taken_on.isoformat(), survey.unit, survey.cct_k) == ("2026-03-01", "lux", 3500)
    readings = [(reading.value, reading.struck) for reading in survey.readings.all()]
    assert readings == [(210, False), (190, False), (9000, True)]
    assert (plan.spaces[0].survey.applied, plan.spaces[0].survey.factors[0].factor) == (True, 0.9)
    client = Client()
    client.force_login(owner)
    for station in HOUSE.stations:
        assert client.get(f"/plans/{row.pk}/spaces/berry-tent/{station.key}/").status_code == 200
    client.post(f"/plans/{row.pk}/spaces/berry-tent/light/part/fixtures/lamp-1/move/", {"z_m": "1.31"})
    row.refresh_from_db()
    assert to_plan(row).space("berry-tent").fixtures[0].z_m == pytest.approx(1.31)
    for _ in range(2):
        client.post(f"/plans/{row.pk}/spaces/berry-tent/light/undo/")
    row.refresh_from_db()
    assert row.head_id == first.pk
    assert to_plan(row).space("berry-tent").fixtures[0].id == "lamp-77"


def _home(mine, row, **values):
    return mine.post(f"/plans/{row.pk}/", values, headers={"HX-Request": "true"}).text


def _plan_of(row):
    return to_plan(GrowPlan.objects.select_related("head").get(pk=row.pk))


def test_a_space_is_copied_with_or_without_plants_and_removed(mine, row):
    text = _home(mine, row, what="copy-space", space="box", plants="yes")
    plan = _plan_of(row)
    twin = plan.spaces[1]
    assert twin.id not in ("box", "")
    assert twin.name == "Box 2"
    assert twin.plants == plan.spaces[0].plants
    assert "Box 2" in text
    _home(mine, row, what="copy-space", space=twin.id, plants="no")
    empty = _plan_of(row).spaces[2]
    assert empty.plants == ()
    assert empty.fixtures == twin.fixtures
    assert mine.get(f"/plans/{row.pk}/spaces/{empty.id}/light/").status_code == 200
    _home(mine, row, what="remove-space", space="box")
    assert [space.id for space in _plan_of(row).spaces] == [twin.id, empty.id]
    assert mine.post(f"/plans/{row.pk}/", {"what": "remove-space", "space": "box"}).status_code == 404
    # A number that a removed space had is not given again.
    _home(mine, row, what="remove-space", space=empty.id)
    _home(mine, row, what="copy-space", space=twin.id, plants="no")
    assert _plan_of(row).spaces[1].id not in ("box", empty.id)


def test_a_copy_leads_no_air_into_another_space(mine, row, demo_plan):
    from canopy.plan.edit import duplicate_space

    linked = next((s for s in demo_plan.spaces if any(way.ends == "space" for way in s.airways)), None)
    source = linked or demo_plan.spaces[0]
    after = duplicate_space(demo_plan, source.id, plants=True)
    twin = next(s for s in after.spaces if s.id not in {space.id for space in demo_plan.spaces})
    assert all(way.ends != "space" for way in twin.airways)
    assert twin.survey is None


def test_a_circuit_goes_once_nothing_hangs_on_it(mine, row):
    assert "Box hangs on it" in _home(mine, row, what="remove-circuit", circuit="c1")
    assert len(_plan_of(row).circuits) == 1
    _home(mine, row, what="add-circuit")
    fresh = _plan_of(row).circuits[1].id
    _home(mine, row, what="remove-circuit", circuit=fresh)
    assert [circuit.id for circuit in _plan_of(row).circuits] == ["c1"]


def test_a_space_may_be_empty_and_what_it_lacks_is_not_judged(mine, row):
    sizes = {"new-width_m": "1 m", "new-depth_m": "60", "new-height_m": "1.8 m"}
    answers = {"new-kind": "closet", "new-crop_id": "none", "new-name": "Drying closet", **sizes}
    answer = mine.post(f"/plans/{row.pk}/spaces/new/", answers)
    assert answer.status_code == 302
    space = _plan_of(row).spaces[-1]
    assert (space.name, space.plants, space.fixtures) == ("Drying closet", (), ())
    assert f"/spaces/{space.id}/space/" in answer["Location"]
    report = evaluate_space(_plan_of(row), space)
    assert {margin.verdict for margin in report.margins if not margin.information} <= {"unknown", "good"}
    assert report.verdict == "unknown"
    for station in ("space", "crops", "light", "air", "power"):
        assert mine.get(f"/plans/{row.pk}/spaces/{space.id}/{station}/").status_code == 200
