"""An account as a whole: taken away, and removed."""

from __future__ import annotations

import datetime as dt
import io
import json
import zipfile

import pytest
from django.contrib.auth import get_user_model

from canopy.plan import loads
from canopy_web.library.models import OwnCrop
from canopy_web.logbook.models import LightReading, LightSurvey
from canopy_web.photos.models import SpacePhoto
from canopy_web.planning import actions
from canopy_web.planning.models import GrowPlan, PlanState

pytestmark = pytest.mark.django_db


@pytest.fixture
def full(grower, demo_plan):
    """An account with a household, a photograph, a survey, a crop of its own."""
    row = actions.create_plan(grower, demo_plan)
    day = dt.date(2026, 3, 2)
    SpacePhoto.objects.create(
        plan=row,
        space_id="berry-tent",
        caption="First fruit",
        image=b"jpeg-bytes",
        small=b"s",
        width=4,
        height=3,
        day=day,
    )
    survey = LightSurvey.objects.create(plan=row, space_id="berry-tent", state=row.head, taken_on=day)
    LightReading.objects.create(survey=survey, number=1, x_m=0.3, y_m=0.3, z_m=0.4, value=321)
    OwnCrop.objects.create(owner=grower, key="mine", name="Mine", document={"id": "mine"})
    return row


def _archive(client):
    answer = client.get("/take-away/")
    assert answer["Content-Disposition"].startswith("attachment")
    return zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content)))


def test_all_that_belongs_to_an_account_comes_in_one_archive(mine, full, demo_plan, grower):
    archive = _archive(mine)
    names = archive.namelist()
    plan_file = next(name for name in names if name.startswith("plans/"))
    data = archive.read(plan_file)
    assert "321" in data.decode()
    assert loads(data).spaces == demo_plan.spaces
    photo = json.loads(archive.read("photographs.json"))[0]
    assert (photo["caption"], archive.read(photo["file"])) == ("First fruit", b"jpeg-bytes")
    assert json.loads(archive.read("crops.json")) == [{"id": "mine"}]
    account = json.loads(archive.read("account.json"))
    assert account["name"] == grower.username
    assert "password" not in account
    assert "Take it with you" in mine.get("/account/").text


def test_nothing_of_others_is_in_it_and_strangers_get_none(mine, full, client):
    stranger = get_user_model().objects.create_user("stranger")
    client.force_login(stranger)
    assert not [name for name in _archive(client).namelist() if name.startswith(("plans/", "photographs/"))]
    client.logout()
    assert client.get("/take-away/").status_code == 302


def test_what_was_taken_away_is_taken_in_again(mine, full):
    archive = _archive(mine)
    data = archive.read(next(name for name in archive.namelist() if name.startswith("plans/")))
    mine.post("/plans/import/", {"file": io.BytesIO(data)})
    first, second = GrowPlan.objects.order_by("pk")
    assert LightReading.objects.filter(survey__plan=second).get().value == 321
    assert first.name == second.name


def test_an_account_that_is_removed_leaves_nothing(mine, full, grower):
    mine.post("/account/leave/", {"farewell-name": grower.username})
    assert not get_user_model().objects.filter(pk=grower.pk).exists()
    for model in (GrowPlan, PlanState, SpacePhoto, LightSurvey, LightReading, OwnCrop):
        assert not model.objects.exists(), model
