"""Alerts: when they ring and end, how often they would have, and what is proposed."""

import datetime as dt

import numpy as np
import pytest

from canopy_web.logbook.models import Reading
from canopy_web.logbook.readings import keep_readings, sensor_for
from canopy_web.planning import actions
from tests.web.log.conftest import HTMX, plan_of, post

pytestmark = pytest.mark.django_db


# Alerts


@pytest.fixture
def hot(house):
    """A day of readings that ends too hot."""
    sensor = sensor_for(house, "berry-tent", "air_c", "Leaf height")
    now = int(dt.datetime.now(dt.UTC).timestamp()) // 60 * 60
    at = np.arange(now - 8 * 86400, now - 60, 300)
    value = np.where(at > now - 3600, 31.0, 22.0)
    keep_readings([(sensor.pk, int(s), float(v)) for s, v in zip(at, value, strict=True)])
    return sensor


def test_a_limit_that_is_passed_rings_once_and_is_seen_by_somebody(mine, house, log, hot):
    from canopy_web.logbook.models import AlertEvent

    page = post(
        mine, f"{log}alerts/add/?tab=alerts", **{"alert-figure": "air_c", "alert-side": "most", "alert-value": "30"}
    )
    assert "Air temperature above 30 °C for 10 min" in page
    assert "would have rung once in the last 8 days" in page
    mine.get(f"{log}?tab=alerts")
    event = AlertEvent.objects.get()
    assert event.end is None
    assert event.worst == 31.0
    assert "Air temperature above 30" in mine.get("/today/").content.decode()
    page = post(mine, f"{log}event/{event.pk}/seen/?tab=alerts")
    assert "seen by" in page
    assert AlertEvent.objects.get().seen_by is not None


def test_it_is_over_when_readings_are_back(client, mine, house, log, hot):
    from canopy_web.logbook.models import AlertEvent
    from canopy_web.logbook.watch import watch_plan

    post(mine, f"{log}alerts/add/?tab=alerts", **{"alert-figure": "air_c", "alert-side": "most", "alert-value": "30"})
    last = Reading.objects.order_by("-at").first().at
    keep_readings([(hot.pk, last + 30, 25.0)])
    assert watch_plan(house) == 0
    event = AlertEvent.objects.get()
    assert event.end == last + 30
    assert watch_plan(house) == 0
    assert AlertEvent.objects.count() == 1


def test_what_began_before_what_is_looked_at_is_not_told_twice(house, hot):
    from canopy.plan.changes import Add
    from canopy_web.logbook.models import AlertEvent
    from canopy_web.logbook.watch import watch_plan

    rule = {"id": "new", "figure": "air_c", "most": False, "value": 23}
    actions.change_space(house, "berry-tent", [Add(collection="alerts", parts=(rule,), prefix="alert")], "Watch")
    now = int(dt.datetime.now(dt.UTC).timestamp())
    # It was too cold for a week until an hour ago: whatever the hour at which one looks, that is one alert.
    for later in range(0, 6 * 3600, 1800):
        watch_plan(house, now=now + later)
    assert AlertEvent.objects.count() == 1
    assert AlertEvent.objects.get().end is not None


def test_a_changed_or_dropped_limit_ends_what_it_rang(mine, house, log, hot):
    from canopy_web.logbook.models import AlertEvent

    post(mine, f"{log}alerts/add/?tab=alerts", **{"alert-figure": "air_c", "alert-side": "most", "alert-value": "30"})
    (rule,) = plan_of(house).space("berry-tent").alerts
    page = post(mine, f"{log}alerts/{rule.id}/?tab=alerts", **{f"alert-{rule.id}-value": "35"})
    assert "would never have rung" in page
    assert AlertEvent.objects.get().end is not None
    post(mine, f"{log}alerts/{rule.id}/drop/?tab=alerts")
    assert plan_of(house).space("berry-tent").alerts == ()
    assert AlertEvent.objects.count() == 1


def test_how_often_a_limit_would_have_rung_is_told_while_it_is_typed(mine, house, log, hot):
    post(mine, f"{log}alerts/add/?tab=alerts", **{"alert-figure": "air_c", "alert-side": "most", "alert-value": "40"})
    (rule,) = plan_of(house).space("berry-tent").alerts
    asked = mine.get(f"{log}alerts/{rule.id}/count/", {f"alert-{rule.id}-value": "30"}, headers=HTMX)
    assert "would have rung once" in asked.content.decode()
    asked = mine.get(f"{log}alerts/{rule.id}/count/", {f"alert-{rule.id}-value": "warm"}, headers=HTMX)
    assert "would never have rung" in asked.content.decode()
    assert plan_of(house).space("berry-tent").alerts == (rule,)


def test_silence_rings_where_nothing_comes_any_more(mine, house, log, hot):
    from canopy_web.logbook.models import AlertEvent
    from canopy_web.logbook.watch import watch_plan

    data = {"alert-figure": "air_c", "alert-side": "silent", "alert-value": "45"}
    page = post(mine, f"{log}alerts/add/?tab=alerts", **data)
    assert "nothing read" in page
    assert not AlertEvent.objects.exists()
    last = Reading.objects.order_by("-at").first().at
    assert watch_plan(house, now=last + 50 * 60) == 1
    assert watch_plan(house, now=last + 60 * 86400) == 0
    keep_readings([(hot.pk, last + 55 * 60, 22.0)])
    watch_plan(house, now=last + 56 * 60)
    assert AlertEvent.objects.get().end == last + 55 * 60


def test_proposals_are_calm_and_taken_by_one_tap(mine, house, log, hot):
    page = mine.get(f"{log}?tab=alerts").content.decode()
    assert "Worth watching" in page
    assert "windows here end at" in page
    post(mine, f"{log}alerts/take/?tab=alerts", figure="air_c", most="yes", when="day")
    (rule,) = plan_of(house).space("berry-tent").alerts
    assert (rule.figure, rule.most, rule.when) == ("air_c", True, "day")
    page = post(mine, f"{log}alerts/take/?tab=alerts", figure="air_c", most="yes", when="day")
    assert "watched already" in page
    assert len(plan_of(house).space("berry-tent").alerts) == 1


def test_without_a_sensor_there_is_nothing_to_watch(mine, log):
    page = mine.get(f"{log}?tab=alerts").content.decode()
    assert "alerts watch what sensors read" in page
    assert "Worth watching" not in page


def test_an_alert_of_a_figure_that_no_rehearsal_knows_leaves_the_climate_s_page_whole(mine, house, log):
    from canopy.plan.changes import Add

    rule = {"id": "new", "figure": "ph", "most": True, "value": 7}
    actions.change_space(house, "berry-tent", [Add(collection="alerts", parts=(rule,), prefix="alert")], "Watch")
    assert mine.get(f"{log.replace('/log/', '/climate/')}?tab=rehearse").status_code == 200
