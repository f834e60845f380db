"""The household's climate: an invented place or a file of one's own, and rooms that follow it."""

import datetime as dt

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from canopy_web.planning import actions
from canopy_web.planning.models import GrowPlan
from canopy_web.planning.store import to_plan

pytestmark = pytest.mark.django_db
HTMX = {"HX-Request": "true"}


@pytest.fixture
def house(grower, demo_plan):
    return actions.create_plan(grower, demo_plan)


@pytest.fixture
def rooms(house):
    return reverse("household:household", args=[house.pk])


def _site(row):
    return to_plan(GrowPlan.objects.select_related("head").get(pk=row.pk)).site


def _csv(hours, value="10,60"):
    rows = [f"{dt.datetime(2025, 1, 1) + dt.timedelta(hours=k):%Y-%m-%d %H:%M},{value}" for k in range(hours)]
    return "\n".join(["time,temperature_c,humidity_pct", *rows]).encode()


def _send(mine, rooms, content, name="garden.csv"):
    data = {"what": "weather", "weather": SimpleUploadedFile(name, content)}
    return mine.post(rooms, data, headers=HTMX).content.decode()


def test_a_place_is_chosen_and_brings_where_it_lies(mine, house, rooms):
    mine.post(rooms, {"what": "site", "site-place_id": "high-sallow"}, headers=HTMX)
    site = _site(house)
    assert site.place_id == "high-sallow"
    assert site.year is not None
    shown = mine.get(rooms).content.decode()
    assert "coldest days" in shown


def test_a_room_that_follows_says_what_is_missing_until_a_climate_is_chosen(mine, house, rooms):
    room = to_plan(house).rooms[0].id
    shown = mine.post(
        rooms, {"what": "room", "room": room, f"room-{room}-follows": "garage"}, headers=HTMX
    ).content.decode()
    assert "what the climate outdoors is like" in shown
    shown = mine.post(rooms, {"what": "site", "site-place_id": "norrfell"}, headers=HTMX).content.decode()
    assert "until then its air is" not in shown


def test_a_file_is_kept_in_short_and_taken_back(mine, house, rooms):
    shown = _send(mine, rooms, _csv(8760))
    assert "garden.csv" in shown
    site = _site(house)
    assert len(site.outdoors) == 12
    assert site.coldest.day_c == pytest.approx(10)
    mine.post(rooms, {"what": "no-weather"}, headers=HTMX)
    assert _site(house).year is None


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (_csv(500), "a year of hours is asked for"),
        (b"\xff\xfe\x00", "no text file"),
        (b"time,temperature_c,humidity_pct\nnever,1,2\n", "ine 2: “never” is no time"),
        (b"x" * 10_000_001, "larger than 10 MB"),
    ],
)
def test_a_bad_file_says_why_and_stores_nothing(mine, house, rooms, content, words):
    before = GrowPlan.objects.get(pk=house.pk).head_id
    assert words in _send(mine, rooms, content)
    assert GrowPlan.objects.get(pk=house.pk).head_id == before
    assert "Choose a file" in mine.post(rooms, {"what": "weather"}, headers=HTMX).content.decode()
