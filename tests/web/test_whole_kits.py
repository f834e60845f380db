"""The page of the whole kit: asked, looked on, stopped, opened, made a plan of; and everything mended."""

from __future__ import annotations

import re
from urllib.parse import urlencode

import pytest
from django.http import QueryDict

from canopy.designer.request import Request
from canopy.kit.owning import ownable
from canopy.library import crops
from canopy_web.household.whole.asked import query_of
from canopy_web.household.whole.forms import WholeForm
from canopy_web.planning.models import GrowPlan
from canopy_web.planning.store import to_plan
from canopy_web.workspace import slices

HTMX = {"HX-Request": "true"}
SILL = {
    "ask-kind": "shelf",
    "ask-width_m": "90 cm",
    "ask-depth_m": "25 cm",
    "ask-height_m": "45 cm",
    "ask-crop_id_1": "basil-sweet",
    "ask-count_1": "4",
}


def _until(client, address, done, most=80):
    for _ in range(most):
        text = client.get(address, headers=HTMX).text
        if done(text):
            return text
    raise AssertionError(text[:2000])


def _answers(base, asking):
    return f"{base}answers/?{urlencode(asking)}"


@pytest.mark.django_db
def test_the_first_visit_asks_and_stores_nothing(mine):
    text = mine.get("/start/whole/").text
    assert "What shall grow there?" in text
    assert "Leave all three open to be told which size of tent it takes." in text
    assert 'id="answers"' not in text
    assert GrowPlan.objects.count() == 0
    assert "be told" in mine.get("/start/").text


@pytest.mark.django_db
def test_an_answer_becomes_a_plan_that_can_be_undone(mine):
    text = mine.get(f"/start/whole/?{urlencode(SILL)}").text
    assert "/start/whole/answers/?ask-kind=shelf" in text.replace("&amp;", "&")
    text = _until(mine, _answers("/start/whole/", SILL), lambda found: "Make A the plan" in found)
    assert GrowPlan.objects.count() == 0
    number = re.search(r'name="number" value="(\d+)"', text)[1]
    answer = mine.post(f"/start/whole/make/?{urlencode(SILL)}", {"number": number, "state": ""})
    assert answer.status_code == 302
    row = GrowPlan.objects.get()
    plan = to_plan(row)
    assert [space.kind for space in plan.spaces] == ["shelf"]
    assert answer.url == f"/plans/{row.pk}/spaces/{plan.spaces[0].id}/kit/"
    home = mine.get("/").text
    assert "short" not in re.sub(r"<[^>]*>", " ", home.split('class="space-list"')[1].split("</ul>")[0])
    mine.post(f"/plans/{row.pk}/undo/")
    row.refresh_from_db()
    assert to_plan(row).spaces == ()


def _gist(text):
    return " ".join(re.search(r'<p class="gist">(.*?)</p>', text, re.S)[1].split())


@pytest.mark.django_db
def test_what_one_has_is_used_and_not_bought(mine):
    text = mine.get("/start/whole/").text
    assert "What you have already" in text
    assert "Climate devices" in text
    first = _until(mine, _answers("/start/whole/", SILL), lambda found: 'class="gist"' in found)
    assert "(yours)" not in first
    key = next(key for key, item in ownable().items() if item.name in _gist(first))
    asking = {**SILL, "ask-has_1": key, "ask-number_1": "2", "ask-has_2": key}
    form = WholeForm(asking, known=crops())
    assert form.is_valid(), form.errors
    wanted = form.take_request({})
    # The same thing in two rows is one thing.
    assert [(item.id, item.number) for item in wanted.stock] == [(key, 3)]
    assert f"ask-has_1={key}&ask-number_1=3" in query_of(wanted, "metric")
    second = _until(mine, _answers("/start/whole/", asking), lambda found: 'class="gist"' in found)
    assert "yours)" in _gist(second)


@pytest.mark.django_db
def test_it_is_stopped_and_gone_on_with(mine, monkeypatch):
    # However fast the machine: one thing at a time is tried before it is stopped.
    monkeypatch.setattr(slices, "_SLICE_S", 0.0)
    address = _answers("/start/whole/", SILL)
    mine.get(address, headers=HTMX)
    assert mine.get(f"{address}&stop=1", headers=HTMX).text == "stopping…"
    stopped = mine.get(address, headers=HTMX).text
    assert "go on" in stopped
    assert "hx-trigger" not in stopped.split(">")[0]
    # A plan that was never tried is not waited for where nothing goes on.
    assert mine.post(f"/start/whole/make/?{urlencode(SILL)}", {"number": "900"}).status_code == 404
    # It stands where it was left until it is told to go on.
    assert "go on" in mine.get(address, headers=HTMX).text
    monkeypatch.undo()
    mine.get(f"{address}&go=1", headers=HTMX)
    ended = _until(mine, address, lambda found: "whole kits tried" in found)
    assert "hx-trigger" not in ended.split(">")[0]
    assert ended.count("Make ") >= 2
    letters = re.findall(r"Make (\w) the plan", ended)
    assert letters == sorted(letters)
    point = re.search(r"open=(\d+)", ended)
    if point:
        opened = mine.get(f"{address}&open={point[1]}", headers=HTMX).text
        assert "Opened from the picture" in opened


@pytest.mark.django_db
def test_a_household_s_own_rooms_and_stock_count(mine, row):
    text = mine.get(f"/plans/{row.pk}/whole/").text
    assert "Sockets where you live" not in text
    assert "What the household's stock holds" in text.replace("&#x27;", "'")
    text = _until(mine, _answers(f"/plans/{row.pk}/whole/", SILL), lambda found: "Make A the plan" in found)
    number = re.search(r'name="number" value="(\d+)"', text)[1]
    before = to_plan(row)
    state = re.search(r'name="state" value="(\d+)"', text)[1]
    stale = mine.post(f"/plans/{row.pk}/whole/make/?{urlencode(SILL)}", {"number": number, "state": "1" + state})
    assert stale.status_code == 409
    assert "The household has changed since these were worked out" in stale.text
    assert "<html" in stale.text
    row.refresh_from_db()
    assert to_plan(row) == before
    mine.post(f"/plans/{row.pk}/whole/make/?{urlencode(SILL)}", {"number": number, "state": state})
    row.refresh_from_db()
    after = to_plan(row)
    assert after.spaces[:-1] == before.spaces
    assert after.spaces[-1].name == "Sweet basil shelf"
    assert row.head.label.startswith("Whole kit: Sweet basil shelf")


@pytest.mark.django_db
@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"ask-width_m": "5 cm"}, "5 cm wide holds no lamp over a plant"),
        ({"ask-width_m": "", "ask-depth_m": "", "ask-height_m": ""}, "How large is the shelf?"),
        ({"ask-width_m": "wide"}, "“wide” is not a length"),
        ({"ask-crop_id_1": ""}, "Say what shall grow there; it decides the rest."),
        ({"ask-budget": "-3"}, "greater than or equal to 0"),
        ({"ask-crop_id_2": "spinach"}, "do not share one space"),
        ({"ask-count_1": "400"}, ""),
    ],
)
def test_what_cannot_be_answered_is_said_at_the_form(mine, change, said):
    text = mine.get(f"/start/whole/?{urlencode({**SILL, **change})}").text.replace("&#x27;", "'")
    if said:
        assert said in text
        assert 'role="alert"' in text or "wrong" in text
    assert "Work it out" in text
    # What was typed is kept.
    if change.get("ask-count_1") is None:
        assert 'value="4"' in text
    assert GrowPlan.objects.count() == 0


@pytest.mark.django_db
def test_another_s_household_is_not_found(client, other, row):
    client.force_login(other)
    assert client.get(f"/plans/{row.pk}/whole/").status_code == 404
    assert client.get(_answers(f"/plans/{row.pk}/whole/", SILL), headers=HTMX).status_code == 404
    assert client.post(f"/plans/{row.pk}/whole/make/?{urlencode(SILL)}", {"number": "0"}).status_code == 404


@pytest.mark.django_db
@pytest.mark.parametrize("number", ["", "x", "²", "-1", "9" * 40])
def test_a_number_that_was_never_tried_is_not_found(mine, number):
    assert mine.post(f"/start/whole/make/?{urlencode(SILL)}", {"number": number}).status_code in (404,)
    assert GrowPlan.objects.count() == 0


@pytest.mark.django_db
def test_an_address_cut_short_says_so(mine):
    text = mine.get("/start/whole/answers/?ask-kind=shelf", headers=HTMX).text
    assert "Ask once more" in text
    assert mine.post("/start/whole/make/", {"number": "1"}).status_code == 404


def test_a_request_s_address_asks_the_same():
    request = Request.model_validate(
        {
            "spaces": [
                {
                    "kind": "tent",
                    "width_m": 0.8,
                    "depth_m": 1.2,
                    "height_m": 1.8,
                    "crops": [{"crop_id": "pepper", "count": 4}, {"crop_id": "basil-sweet"}],
                }
            ],
            "budget": 450.0,
            "likes": "quiet",
            "refuses": ["smell", "drilling"],
            "room": {"id": "room", "name": "Room", "day_c": 19.0, "night_c": 15.0},
        }
    )
    for system in ("metric", "us"):
        form = WholeForm(QueryDict(query_of(request, system)), known=crops(), system=system)
        assert form.is_valid(), form.errors
        again = form.take_request({})
        assert again.spaces[0].crops == request.spaces[0].crops
        assert again.refuses == request.refuses
        assert again.budget == 450
        assert again.spaces[0].depth_m == pytest.approx(1.2, abs=0.01)
        assert again.room.night_c == pytest.approx(15, abs=0.3)


@pytest.mark.django_db
def test_the_coldest_and_hottest_days_are_taken_down(mine):
    data = {**SILL, "ask-day_c": "20", "ask-night_c": "16", "ask-coldest_c": "8", "ask-hottest_c": "31"}
    form = WholeForm(data, known=crops())
    assert form.is_valid(), form.errors
    room = form.take_request({}).room
    assert (room.coldest.night_c, room.coldest.day_c) == (8, 12)
    assert (room.hottest.day_c, room.hottest.night_c) == (31, 27)
    # An address that asks the same with a change asks for the same room.
    for system in ("metric", "us"):
        again = WholeForm(QueryDict(query_of(form.take_request({}), system)), known=crops(), system=system)
        assert again.is_valid(), again.errors
        assert again.take_request({}).room.coldest.night_c == pytest.approx(8, abs=0.3)
        assert again.take_request({}).room.hottest.day_c == pytest.approx(31, abs=0.3)


@pytest.mark.django_db
def test_everything_is_mended_step_by_step_or_at_once(mine, grower):
    from canopy_web.planning import actions
    from tests.core.designer.test_mending import broken

    row = actions.create_plan(grower, broken())
    base = f"/plans/{row.pk}/spaces/s/light/"
    assert "mend-all" in mine.get(base).text
    found = _until(mine, f"{base}mend-all/", lambda text: "mended by" in text)
    assert "Do all" in found
    assert "costs nothing" in found
    steps = found.count("<li>")
    assert steps >= 3
    text = mine.post(f"{base}mend-all/", {"step": "0"}, headers=HTMX).text
    row.refresh_from_db()
    first = re.search(r"<b>([^<]*)</b>", found)[1].replace("&nbsp;", "\xa0")
    assert row.head.label.split()[:2] == first.split()[:2]
    assert "workspace" in text
    again = _until(mine, f"{base}mend-all/", lambda text: "mended by" in text)
    assert again.count("<li>") < steps + 1
    mine.post(f"{base}mend-all/", {"step": "all"}, headers=HTMX)
    row.refresh_from_db()
    assert row.head.label == "Mended everything in Peppers"
    assert "mend-all" not in mine.get(base).text
    for wrong in ("", "99", "x"):
        assert "This has changed meanwhile" in mine.post(f"{base}mend-all/", {"step": wrong}, headers=HTMX).text


@pytest.mark.django_db
def test_crops_that_suit_are_found_and_grown(mine, grower):
    from canopy_web.planning import actions
    from tests.core.designer.test_mending import broken

    row = actions.create_plan(grower, broken())
    base = f"/plans/{row.pk}/spaces/s/crops/"
    assert "What would do well here?" in mine.get(f"{base}?tab=suits").text
    mine.get(f"{base}suits/fruit/?stop=1", headers=HTMX)
    stopped = mine.get(f"{base}suits/fruit/", headers=HTMX).text
    assert "go on" in stopped
    mine.get(f"{base}suits/fruit/?go=1", headers=HTMX)
    found = _until(mine, f"{base}suits/fruit/", lambda text: "hx-trigger" not in text.split(">")[0])
    crop_id = re.search(r"suits/fruit/([a-z-]+)/", found)[1]
    mine.post(f"{base}suits/fruit/{crop_id}/", headers=HTMX)
    row.refresh_from_db()
    assert {plant.crop_id for plant in to_plan(row).spaces[0].plants} == {crop_id}
    assert "in place of what stood here" in row.head.label
    assert "This has changed meanwhile" in mine.post(f"{base}suits/fruit/{crop_id}/", headers=HTMX).text
    assert mine.get(f"{base}suits/nothing/", headers=HTMX).status_code == 404


@pytest.mark.django_db
def test_variants_stand_side_by_side(mine, other, client, grower):
    from canopy_web.planning import actions
    from canopy_web.planning.models import PlanVariant
    from tests.core.designer.test_mending import broken

    row = actions.create_plan(grower, broken())
    address = f"/plans/{row.pk}/variants/s/"
    assert "Nothing is kept yet" in mine.get(address).text
    assert mine.post(f"{address}keep/", {"name": ""}).status_code == 200
    assert mine.post(f"{address}keep/", {"name": "Dim"}).status_code == 302
    assert "What is kept is as what stands now." in mine.get(address).text
    base = f"/plans/{row.pk}/spaces/s/light/"
    _until(mine, f"{base}mend-all/", lambda text: "mended by" in text)
    mine.post(f"{base}mend-all/", {"step": "all"}, headers=HTMX)
    text = mine.get(address).text
    for words in ("Dim", "As it is now", "Margins that differ", "use it", 'data-name="Dim" class="turned"'):
        assert words in text
    assert "“Dim” is kept already" in mine.post(f"{address}keep/", {"name": "Dim"}).text
    for name in ("two", "three", "four"):
        mine.post(f"{address}keep/", {"name": name})
    assert "Four are kept" in mine.get(address).text
    assert "four variants are kept already" in mine.post(f"{address}keep/", {"name": "five"}).text.lower()
    assert PlanVariant.objects.filter(plan=row).count() == 4
    first = PlanVariant.objects.get(name="Dim")
    assert mine.post(f"{address}{first.pk}/", {"use": "yes"}).status_code == 302
    row.refresh_from_db()
    assert row.head.label == "Took the variant Dim"
    assert all(lamp.dim == 0.3 for lamp in to_plan(row).spaces[0].fixtures)
    assert mine.post(f"{address}{first.pk}/", {"drop": "yes"}).status_code == 302
    assert PlanVariant.objects.filter(plan=row).count() == 3
    assert mine.post(f"{address}{first.pk}/", {"drop": "yes"}).status_code == 404
    assert mine.get(f"/plans/{row.pk}/variants/none/").status_code == 404
    client.force_login(other)
    assert client.get(address).status_code == 404


@pytest.mark.django_db
def test_crops_are_laid_over_the_spaces_of_a_household(mine, row, client, other):
    address = f"/plans/{row.pk}/which-space/"
    assert "Lay them out" in mine.get(address).text
    assert "Name one crop at least." in mine.get(f"{address}?lay-crop_1=").text
    text = mine.get(f"{address}?lay-crop_1=tatsoi&lay-number_1=2&lay-crop_2=tatsoi&lay-number_2=400").text
    assert "402" in text
    assert "nowhere: " in text
    query = "lay-crop_1=african-violet&lay-number_1=2"
    page = mine.get(f"{address}?{query}").text
    (place,) = re.findall(rf'action="{address}([^"]+)/"', page)
    fields = dict(re.findall(r'name="(lay-[^"]+)" value="([^"]+)"', page.split(f"{address}{place}/")[1]))
    assert fields == {"lay-crop_1": "african-violet", "lay-number_1": "2"}
    before = to_plan(row)
    stale = mine.post(f"{address}{place}/", {**fields, "state": "0"}).text
    assert "This has changed meanwhile" in stale
    assert 'value="african-violet" selected' in stale
    assert mine.post(f"{address}nowhere/", fields).status_code == 404
    assert mine.post(f"{address}{place}/", {"state": f"{row.head_id}"}).status_code == 404
    row.refresh_from_db()
    assert to_plan(row) == before
    done = mine.post(f"{address}{place}/", {**fields, "state": f"{row.head_id}"})
    assert done.status_code == 302
    row.refresh_from_db()
    assert row.head.label == "2 × African violet in place of what stood here"
    assert [plant.crop_id for plant in to_plan(row).space(place).plants] == ["african-violet"] * 2
    client.force_login(other)
    assert client.get(address).status_code == 404
