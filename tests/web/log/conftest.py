"""What tests of the log share: a household, its log, a week of readings, and posts as htmx sends them."""

import datetime as dt

import numpy as np
import pytest

from canopy_web.logbook.readings import keep_readings, sensor_for
from canopy_web.planning import actions
from canopy_web.planning.models import GrowPlan

HTMX = {"HX-Request": "true"}


@pytest.fixture
def house(grower, demo_plan):
    return actions.create_plan(grower, demo_plan)


@pytest.fixture
def log(house):
    return f"/plans/{house.pk}/spaces/berry-tent/log/"


@pytest.fixture(autouse=True)
def own_folder(settings, tmp_path):
    settings.DATA = tmp_path


def post(client, url, **data):
    return client.post(url, data, headers=HTMX).content.decode()


@pytest.fixture
def week(house):
    air, damp = (sensor_for(house, "berry-tent", key, key) for key in ("air_c", "rh_pct"))
    begin = int(dt.datetime(2026, 11, 20, tzinfo=dt.UTC).timestamp())
    at = np.arange(begin, begin + 7 * 86400, 300)
    keep_readings([(air.pk, int(s), 21.0 + (s // 3600) % 5) for s in at] + [(damp.pk, int(s), 55.0) for s in at])
    return begin


def plan_of(house):
    from canopy_web.planning.store import to_plan

    return to_plan(GrowPlan.objects.select_related("head").get(pk=house.pk))
