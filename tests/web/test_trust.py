"""Nothing typed or measured gets lost: interleaved acts, two tabs, failing spaces, identities, accounts, days."""

from __future__ import annotations

import datetime as dt
import re
from concurrent.futures import ThreadPoolExecutor
from zoneinfo import ZoneInfo

import pytest
from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import Client
from django.utils import timezone
from hypothesis import HealthCheck, Phase, given, settings

from canopy.errors import EvaluationError, PlanError
from canopy.evaluate.kept import forget
from canopy.plan import from_data
from canopy.plan.changes import Add, Change
from canopy_web.accounts.models import Preference
from canopy_web.library.models import OwnCrop
from canopy_web.logbook.actions import import_file
from canopy_web.logbook.querysets import surveys_of
from canopy_web.photos.models import SpacePhoto
from canopy_web.planning import actions
from canopy_web.planning.models import GrowPlan, PlanState
from canopy_web.planning.store import to_plan
from canopy_web.stations.registry import HOUSE
from tests.core.evaluate.test_hard_spaces import hot_tent
from tests.core.wild import plans
from tests.web.test_space_station import _picture

pytestmark = pytest.mark.django_db
HTMX = {"HX-Request": "true"}


@pytest.fixture
def base(row):
    return f"/plans/{row.pk}/spaces/box/"


def plan_of(row):
    return to_plan(GrowPlan.objects.select_related("head").get(pk=row.pk))


def space_of(row):
    return plan_of(row).spaces[0]


def state_of(text):
    return re.search(r'"state":"(\d+)"', text)[1]


# --- One hot or failing space


def test_a_hot_space_is_a_margin_and_everything_else_goes_on(mine, row, base):
    lamps = [lamp.model_dump(mode="json") for lamp in hot_tent().fixtures]
    small = {"size": {"width_m": 0.6, "depth_m": 0.6, "height_m": 0.7}, "plants": [], "airways": [], "stirrers": []}
    actions.change_space(row, "box", [Change(values={**small, "openings": [], "fixtures": lamps})], "Two lamps")
    for station in HOUSE.stations:
        answer = mine.get(f"{base}{station.key}/")
        assert answer.status_code == 200
        assert "Far too hot" in answer.text
    assert mine.get("/").status_code == 200


def fails_at(monkeypatch, space_id):
    """Let one space fail in a way that nobody foresaw."""
    from canopy.evaluate import kept

    real = kept.evaluate_space

    def fails(plan, space, **more):
        if space.id == space_id:
            raise ZeroDivisionError("float division by zero")
        return real(plan, space, **more)

    forget()
    monkeypatch.setattr(kept, "evaluate_space", fails)


def test_a_space_that_cannot_be_computed_keeps_its_frame(mine, grower, demo_plan, monkeypatch):
    row = actions.create_plan(grower, demo_plan)
    actions.change_space(row, "berry-tent", [Change(values={"name": "Renamed"})], "Renamed")
    fails_at(monkeypatch, "berry-tent")
    for station in HOUSE.stations:
        answer = mine.get(f"/plans/{row.pk}/spaces/berry-tent/{station.key}/")
        assert answer.status_code == 200
        assert "Not judged" in answer.text
        assert "float division" in answer.text
    # Nothing of it counts as good; the rest of the household is there; undo works.
    assert 'class="v v-good' not in answer.text
    assert "Hall closet" in mine.get("/").text
    assert "Not judged" in mine.get(f"/plans/{row.pk}/card/berry-tent/").text
    assert mine.get(f"/plans/{row.pk}/spaces/hall-closet/light/").status_code == 200
    undone = mine.post(f"/plans/{row.pk}/spaces/berry-tent/light/undo/", headers=HTMX)
    assert undone.status_code == 200
    assert plan_of(row).spaces[0].name == "Berry tent"
    forget()


def test_what_cannot_be_computed_is_not_kept_and_what_was_typed_is(mine, row, base, monkeypatch):
    lamp, states = space_of(row).fixtures[0].id, PlanState.objects.count()
    shown = mine.get(f"{base}light/").text
    typed = dict(re.findall(rf'name="({lamp}-\w+)" value="([^"]*)"', shown)) | {f"{lamp}-dim": "41 %"}
    fails_at(monkeypatch, "box")
    text = mine.post(f"{base}light/part/fixtures/{lamp}/", typed, headers=HTMX).text
    assert "This was not kept" in text
    assert "41 %" in text
    assert PlanState.objects.count() == states
    moved = mine.post(f"{base}light/part/fixtures/{lamp}/move/", {"x_m": "0.3"}, headers=HTMX).text
    assert "This was not kept" in moved
    with pytest.raises(PlanError, match="not kept"):
        actions.change_space(row, "box", [Change(values={"door_open": True})], "Opened")
    assert PlanState.objects.count() == states
    assert issubclass(EvaluationError, ArithmeticError)
    forget()


@settings(
    derandomize=True,
    max_examples=6,
    deadline=None,
    suppress_health_check=list(HealthCheck),
    phases=(Phase.explicit, Phase.generate),
)
@given(plans())
def test_any_plan_that_is_accepted_renders_at_every_station(mine, grower, data):
    try:
        plan = from_data(data)
    except PlanError:
        return
    row = actions.create_plan(grower, plan)
    for space in plan.spaces:
        for station in HOUSE.stations:
            for tab in station.tabs:
                answer = mine.get(f"/plans/{row.pk}/spaces/{space.id}/{station.key}/?tab={tab.key}")
                assert answer.status_code == 200
                assert "Not judged" not in answer.text
    assert mine.get("/").status_code == 200
    row.delete()


# --- Lost updates


def test_two_tabs_change_different_fields_of_a_row_and_both_are_kept(mine, row, base):
    lamp = space_of(row).fixtures[0].id
    shown = mine.get(f"{base}light/").text
    drawn = dict(re.findall(rf'name="({lamp}-\w+)" value="([^"]*)"', shown)) | {
        f"{lamp}-enabled": "on",
        "state": state_of(shown),
    }
    url = f"{base}light/part/fixtures/{lamp}/"
    mine.post(url, drawn | {f"{lamp}-dim": "40 %"}, headers=HTMX)
    # The second tab still shows the old dimmer; only its own change is written.
    mine.post(url, drawn | {f"{lamp}-hours": "11 h"}, headers=HTMX)
    after = space_of(row).fixtures[0]
    assert (after.dim, after.hours) == (0.4, 11)


def test_the_same_field_changed_meanwhile_is_told_and_chosen(mine, row, base):
    lamp = space_of(row).fixtures[0].id
    shown = mine.get(f"{base}light/").text
    drawn = dict(re.findall(rf'name="({lamp}-\w+)" value="([^"]*)"', shown)) | {
        f"{lamp}-enabled": "on",
        "state": state_of(shown),
    }
    url = f"{base}light/part/fixtures/{lamp}/"
    mine.post(url, drawn | {f"{lamp}-dim": "40 %"}, headers=HTMX)
    states = PlanState.objects.count()
    text = mine.post(url, drawn | {f"{lamp}-dim": "70 %"}, headers=HTMX).text
    assert "changed meanwhile, in another window or by a remedy: it is 40 % now" in text
    assert "keep mine" in text
    assert "take theirs" in text
    assert 'value="70 %"' in text
    assert (space_of(row).fixtures[0].dim, PlanState.objects.count()) == (0.4, states)
    # Sent again from the page that told so, it is a choice.
    mine.post(url, drawn | {f"{lamp}-dim": "70 %", "state": state_of(text)}, headers=HTMX)
    assert space_of(row).fixtures[0].dim == 0.7
    # The same figure typed twice is no conflict.
    mine.post(url, drawn | {f"{lamp}-dim": "70 %"}, headers=HTMX)
    assert space_of(row).fixtures[0].dim == 0.7


def test_two_tabs_on_the_household_s_page(mine, row):
    url = f"/plans/{row.pk}/"
    state = state_of(mine.get(url).text)
    circuit = plan_of(row).circuits[0].id
    drawn = {
        "what": "circuit",
        "circuit": circuit,
        "state": state,
        f"{circuit}-name": "Hall",
        f"{circuit}-rule_set_id": "eu-16",
        f"{circuit}-breaker_a": "16",
        f"{circuit}-mains_v": "230",
    }
    mine.post(url, drawn | {f"{circuit}-name": "Attic"})
    mine.post(url, drawn | {f"{circuit}-breaker_a": "10"})
    assert (plan_of(row).circuits[0].name, plan_of(row).circuits[0].breaker_a) == ("Attic", 10)
    assert "changed meanwhile" in mine.post(url, drawn | {f"{circuit}-name": "Cellar"}).text
    assert plan_of(row).circuits[0].name == "Attic"


PARTS = {
    "feed": (("feed",), "parts", {"name": "A", "ec_ms_cm_per_ml_l": 0.3}),
    "air": (("airways", "exhaust-1"), "parts", {"kind": "bend", "diameter_m": 0.1}),
    "loads": (("circuits", "c1"), "other_loads", {"name": "L", "power_w": 5}),
    "trainings": (("plantings", "p"), "trainings", {"on": "2026-04-01", "height_m": 0.3}),
    "plants": ((), "plants", None),
    "rooms": ((), "rooms", {"name": "Room"}),
}


@pytest.fixture
def rich(row):
    """A plan with something in every list that acts add to."""
    plan = plan_of(row)
    planting = {"id": "p", "name": "P", "crop_id": "lettuce-butterhead", "starts_on": "2026-03-01"}
    data = plan.model_dump(mode="json") | {"plantings": [planting]}
    assert data["spaces"][0]["airways"][0]["id"] == "exhaust-1"
    return actions.change(row, "Filled", lambda old: from_data(data))


@pytest.mark.parametrize("kind", PARTS)
def test_acts_from_pages_read_before_each_other_are_all_kept(rich, kind):
    at, collection, part = PARTS[kind]
    part = part or {**space_of(rich).plants[0].model_dump(mode="json"), "pot_height_m": 0.05}
    add = Add(at=at, collection=collection, parts=(part,), prefix="new")
    stale = [GrowPlan.objects.get(pk=rich.pk) for _ in range(5)]

    def count():
        owner = plan_of(rich) if (at[:1] or (collection,))[0] in ("circuits", "plantings", "rooms") else space_of(rich)
        for step, key in zip(at[::2], at[1::2], strict=False):
            owner = next(item for item in getattr(owner, step) if item.id == key)
        owner = getattr(owner, at[0]) if len(at) == 1 else owner
        return getattr(owner, collection)

    before = len(count())
    for each in stale:
        actions.change_space(each, "box", [add], "Added")
    after = count()
    assert len(after) == before + 5
    assert len({item.id for item in after}) == len(after)


@pytest.mark.django_db(transaction=True)
def test_readings_sent_at_once_from_many_pages_are_all_kept(transactional_db):
    user = get_user_model().objects.create_user("many")
    from canopy.plan import load
    from tests.conftest import DEMO

    row = actions.create_plan(user, load(DEMO))
    base = f"/plans/{row.pk}/spaces/hall-closet/"

    def send(number):
        client = Client()
        client.force_login(user)
        line = f"{10 + number} 20 50 {100 + number}"
        done = client.post(f"{base}light/survey/readings/", {"lines": line}, headers=HTMX).status_code
        connection.close()
        return done

    with ThreadPoolExecutor(4) as pool:
        assert set(pool.map(send, range(12))) == {200}
    (survey,) = surveys_of(row, "hall-closet")
    values = sorted(reading.value for reading in survey.readings.all())
    assert values == [100 + number for number in range(12)]


# --- Identity


def test_a_space_made_again_under_its_name_inherits_nothing(mine, row, grower):
    answers = {
        "new-kind": "closet",
        "new-width_m": "60",
        "new-depth_m": "50",
        "new-height_m": "150",
        "new-crop_id": "tatsoi",
        "new-count": "2",
        "new-lamp_class_id": "bar-30",
        "new-lamp_count": "1",
        "new-name": "Cupboard",
    }
    mine.post(f"/plans/{row.pk}/spaces/new/", answers)
    first = plan_of(row).spaces[-1].id
    mine.post(f"/plans/{row.pk}/spaces/{first}/space/photos/add/", {"photo": _picture(), "caption": "Old"})
    # Undone or removed, its id is never given again.
    mine.post(f"/plans/{row.pk}/undo/")
    mine.post(f"/plans/{row.pk}/spaces/new/", answers)
    second = plan_of(row).spaces[-1].id
    mine.post(f"/plans/{row.pk}/spaces/{second}/space/delete/")
    mine.post(f"/plans/{row.pk}/spaces/new/", answers)
    third = plan_of(row).spaces[-1].id
    assert len({first, second, third}) == 3
    assert "Old" not in mine.get(f"/plans/{row.pk}/spaces/{third}/space/").text


def test_a_part_s_id_is_never_given_again_not_even_after_undo(row):
    part = space_of(row).plants[0].model_dump(mode="json")
    add = Add(collection="plants", parts=(part,), prefix="plant")
    seen = []
    for _ in range(3):
        actions.change_space(row, "box", [add], "Added")
        seen.append(space_of(row).plants[-1].id)
        actions.undo(row)
    assert len(set(seen)) == 3


def test_an_account_goes_with_all_that_is_its_own(mine, row, grower, other, small_plan):
    theirs = actions.create_plan(other, small_plan)
    mine.post(f"/plans/{row.pk}/spaces/box/space/photos/add/", {"photo": _picture()})
    actions.change_space(row, "box", [Change(values={"name": "Two"})], "Renamed")
    OwnCrop.objects.create(owner=grower, key="own-x", name="X", document={})
    Preference.objects.get_or_create(user=grower)
    refused = mine.post("/account/leave/", {"farewell-name": "somebody"})
    assert "type its name: grower" in refused.text
    assert get_user_model().objects.filter(username="grower").exists()
    answer = mine.post("/account/leave/", {"farewell-name": "grower"})
    assert answer.url == "/account/sign-in/"
    assert not get_user_model().objects.filter(username="grower").exists()
    assert list(GrowPlan.objects.values_list("pk", flat=True)) == [theirs.pk]
    assert set(PlanState.objects.values_list("plan_id", flat=True)) == {theirs.pk}
    assert not SpacePhoto.objects.exists()
    assert not OwnCrop.objects.exists()
    assert mine.get("/").status_code == 302


# --- What a refusal leaves behind, and what it says


def test_a_first_space_that_is_refused_leaves_no_household(mine, grower):
    from tests.web.test_planning import ANSWERS

    for _ in range(2):
        text = mine.post(
            "/start/", ANSWERS | {"new-lamp_class_id": "board-480", "new-width_m": "30", "new-depth_m": "30"}
        )
        assert text.status_code == 200
    assert not GrowPlan.objects.exists()
    assert not PlanState.objects.exists()


def test_too_many_are_counted_in_words(row):
    part = space_of(row).plants[0].model_dump(mode="json")
    with pytest.raises(PlanError, match="at most 400 plants; this would make 403"):
        actions.change_space(row, "box", [Add(collection="plants", parts=(part,) * 399, prefix="plant")], "Many")


def test_the_end_of_undo_and_of_redo_are_told_apart(mine, row, base):
    assert "nothing more to undo" in mine.post(f"{base}light/undo/", headers=HTMX).text
    assert "nothing more to redo" in mine.post(f"{base}light/redo/", headers=HTMX).text


def test_a_broken_page_tells_the_truth(client):
    from canopy_web.accounts.views import server_error

    client.get("/account/sign-in/")
    from django.test import RequestFactory

    request = RequestFactory().get("/")
    text = server_error(request).content.decode()
    assert "Nothing you stored was changed" not in text
    assert "whether your last change was kept" in text


# --- Days and clocks


def test_the_browser_s_time_zone_is_kept_at_sign_up_and_can_be_changed(client, db):
    data = {"username": "west", "password1": "tall-lamp-79", "password2": "tall-lamp-79"}
    client.post("/account/sign-up/", data | {"time_zone": "America/Los_Angeles"})
    chosen = Preference.objects.get(user__username="west")
    assert chosen.time_zone == "America/Los_Angeles"
    client.post("/account/", {"what": "zone", "time_zone": "Asia/Tokyo"})
    chosen.refresh_from_db()
    assert chosen.time_zone == "Asia/Tokyo"
    assert "Asia/Tokyo" in client.get("/account/").text
    assert client.post("/account/", {"what": "zone", "time_zone": "Mars/Olympus"}).status_code == 200
    chosen.refresh_from_db()
    assert chosen.time_zone == "Asia/Tokyo"


@pytest.mark.parametrize(("zone", "day"), [("America/Los_Angeles", "14 Mar 2026"), ("Asia/Tokyo", "15 Mar 2026")])
def test_today_is_where_the_person_lives(mine, grower, demo_plan, monkeypatch, zone, day):
    row = actions.create_plan(grower, demo_plan)
    Preference.objects.create(user=grower, time_zone=zone)
    now = dt.datetime(2026, 3, 15, 1, 30, tzinfo=ZoneInfo("UTC"))
    monkeypatch.setattr(timezone, "now", lambda: now)
    assert day in mine.get(f"/plans/{row.pk}/spaces/berry-tent/light/").text
    # Where the household says where it lies, that counts.
    actions.change_household(row, [Change(at=("site",), values={"time_zone": "Pacific/Auckland"})], "Moved")
    assert "15 Mar 2026" in mine.get(f"/plans/{row.pk}/spaces/berry-tent/light/").text


def test_two_windows_look_at_two_days(mine, row, base):
    early, late = (mine.get(f"{base}crops/?tab=season&day={day}").text for day in ("2026-03-02", "2026-09-09"))
    assert "2 Mar 2026" in early
    assert "9 Sep 2026" in late
    assert "2 Mar 2026" in mine.get(f"{base}crops/?tab=season&day=2026-03-02").text
    # Links keep the day; nothing of it lies in the session.
    assert "light/?day=2026-03-02" in early
    assert set(mine.session.keys()) <= {"_auth_user_id", "_auth_user_backend", "_auth_user_hash"}


def test_old_households_are_read_and_their_numbers_go_on(grower):
    import json
    from pathlib import Path

    content = (Path(__file__).parent.parent / "core" / "data" / "plan-version-2.json").read_bytes()
    row = import_file(grower, content)
    plan = plan_of(row)
    assert json.loads(content)["version"] == 2
    assert plan.version == 3
    assert plan.site.currency == "EUR"
    assert row.serial == plan.serial == 12
    answer = SimpleUploadedFile("plan.json", content)
    assert answer.size == len(content)
