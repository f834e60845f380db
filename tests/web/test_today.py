"""Today: care due, last readings with their age, and the ways to write something down, over all spaces."""

import time

import pytest

from canopy_web.logbook.models import CareMark
from canopy_web.logbook.readings import keep_readings, sensor_for
from canopy_web.planning import actions

pytestmark = pytest.mark.django_db
HTMX = {"HX-Request": "true"}


@pytest.fixture
def house(grower, demo_plan):
    return actions.create_plan(grower, demo_plan)


def test_a_new_person_goes_to_the_first_space(mine):
    assert mine.get("/today/")["Location"] == "/start/"


def test_every_space_stands_there_with_what_to_tap(mine, house, demo_plan):
    page = mine.get("/today/").content.decode()
    for space in demo_plan.spaces:
        assert f"/plans/{house.pk}/spaces/{space.id}/log/?tab=write&amp;kind=water#log-water" in page
    assert "No sensor shows anything here" in page


def test_an_overloaded_circuit_stands_first_here_too(mine, house):
    page = mine.get("/today/").content.decode()
    assert "Overloaded" in page
    assert page.index("Overloaded") < page.index("today-space")
    assert f"/plans/{house.pk}/spaces/" in page[page.index("Overloaded") : page.index("today-space")]


def test_readings_say_how_old_they_are_and_old_ones_are_pale(mine, house):
    air = sensor_for(house, "berry-tent", "air_c", "Leaf height")
    damp = sensor_for(house, "berry-tent", "rh_pct", "Leaf height")
    now = int(time.time())
    keep_readings([(air.pk, now - 200, 21.34), (damp.pk, now - 3 * 86400, 61.0)])
    page = mine.get("/today/").content.decode()
    assert "21.3\u00a0°C</b> Leaf height, 3 minutes ago" in page
    assert '<b class="is-old">61 %</b> Leaf height, 3 days ago' in page


def test_care_is_worked_out_and_settled_from_here(mine, house):
    care = mine.get(f"/plans/{house.pk}/today/berry-tent/", headers=HTMX).content.decode()
    assert "Look for pests" in care
    # Once followed, it stands on the page at once.
    assert "Look for pests" in mine.get("/today/").content.decode()
    family = care.split('"family": "')[1].split('"')[0].encode().decode("unicode_escape")
    due = care.split('"due": "')[1].split('"')[0]
    url = f"/plans/{house.pk}/spaces/berry-tent/day/care/mark/"
    mine.post(url, {"what": "done", "family": family, "due": due}, headers=HTMX)
    assert CareMark.objects.get().family == family
    again = mine.get(f"/plans/{house.pk}/today/berry-tent/", headers=HTMX).content.decode()
    assert again.count("<li") == care.count("<li") - 1


def test_others_do_not_see_it(client, other, house):
    client.force_login(other)
    assert client.get(f"/plans/{house.pk}/today/berry-tent/").status_code == 404
    assert client.get("/today/")["Location"] == "/start/"


def test_a_space_that_is_gone_is_not_found(mine, house):
    assert mine.get(f"/plans/{house.pk}/today/nowhere/").status_code == 404


def test_the_worker_s_script_may_serve_any_page_and_is_never_stale(client):
    answer = client.get("/reach.js")
    assert answer["Content-Type"].startswith("text/javascript")
    assert answer["Service-Worker-Allowed"] == "/"
    assert answer["Cache-Control"] == "no-cache"
    assert client.post("/reach.js").status_code == 405
