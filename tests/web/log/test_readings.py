"""Readings: drawn together, pushed, and shown as traces."""

import datetime as dt
import json

import numpy as np
import pytest

from canopy_web.logbook import push
from canopy_web.logbook.models import Reading, Rollup, Sensor, Source
from canopy_web.logbook.readings import SPANS, keep_readings, sensor_for, series_of
from canopy_web.planning.models import GrowPlan
from tests.web.log.conftest import post

pytestmark = pytest.mark.django_db


# Readings


def _rolled(sensor):
    """Rollups as one computes them from the readings themselves."""
    found = {}
    for span in SPANS:
        for at, value in Reading.objects.filter(sensor=sensor).values_list("at", "value"):
            found.setdefault((span, at // span * span), []).append(value)
    return {key: (len(v), min(v), pytest.approx(sum(v)), max(v)) for key, v in found.items()}


def test_what_is_drawn_together_is_always_that_of_the_readings(house):
    sensor = sensor_for(house, "berry-tent", "air_c", "Air")
    chance = np.random.default_rng(5)
    for _ in range(6):
        at = chance.integers(1_795_000_000, 1_795_030_000, 40)
        rows = list({int(second): float(chance.normal(22, 2)) for second in at}.items())
        keep_readings([(sensor.pk, second, value) for second, value in rows])
    kept = {(row.span, row.at): (row.n, row.low, row.total, row.high) for row in Rollup.objects.filter(sensor=sensor)}
    assert kept == _rolled(sensor)


def test_a_second_reading_of_a_second_is_passed_over(house):
    sensor = sensor_for(house, "berry-tent", "air_c", "Air")
    assert keep_readings([(sensor.pk, 1000, 20.0), (sensor.pk, 1300, 21.0)]) == 2
    assert keep_readings([(sensor.pk, 1000, 30.0), (sensor.pk, 1600, 22.0)]) == 1
    assert list(Reading.objects.order_by("at").values_list("value", flat=True)) == [20.0, 21.0, 22.0]


def test_a_series_is_as_fine_as_its_time_can_show(house):
    sensor = sensor_for(house, "berry-tent", "air_c", "Air")
    rows = [(sensor.pk, 1_795_000_000 + 60 * n, 20 + n % 7) for n in range(3000)]
    keep_readings(rows)
    raw = series_of(sensor, 1_795_000_000, 1_795_000_000 + 86400)
    assert (raw.span_s, raw.at.size) == (0, 1440)
    week = series_of(sensor, 1_795_000_000, 1_795_000_000 + 7 * 86400)
    assert week.span_s == 600
    assert (week.low.min(), week.high.max()) == (20, 26)
    year = series_of(sensor, 1_795_000_000, 1_795_000_000 + 366 * 86400)
    assert year.span_s == 3600
    counts = Rollup.objects.filter(span=3600).values_list("n", flat=True)
    assert sum(counts) == 3000
    assert np.average(year.mean, weights=list(counts.order_by("at"))) == pytest.approx(np.mean([r[2] for r in rows]))


# Readings that are pushed


@pytest.fixture
def token(house):
    push._recent.clear()
    return push.open_source(house, "berry-tent", "Shelf box")[1]


def _push(client, token, readings, **headers):
    body = readings if isinstance(readings, str | bytes) else json.dumps({"readings": readings})
    more = {"Authorization": f"Bearer {token}", **headers}
    return client.post("/readings/", body, content_type="application/json", headers=more)


def test_pushed_readings_are_taken_in_once(client, house, token):
    readings = [
        {"sensor": "shelf", "quantity": "air_c", "value": 71.6, "unit": "°F", "at": "2026-11-20T08:00:00Z"},
        {"sensor": "shelf", "quantity": "rh_pct", "value": 55, "at": 1_795_161_600},
    ]
    assert _push(client, token, readings).json() == {"taken": 2, "doubled": 0}
    assert _push(client, token, readings).json() == {"taken": 0, "doubled": 2}
    sensor = Sensor.objects.get(quantity="air_c")
    assert (sensor.space_id, sensor.name, sensor.source.name) == ("berry-tent", "shelf", "Shelf box")
    assert Reading.objects.get(sensor=sensor).value == pytest.approx(22.0)
    assert Source.objects.get().last_seen is not None
    assert token not in json.dumps(list(Source.objects.values()), default=str)


def test_a_sensor_that_was_named_anew_is_still_known_to_its_source(client, mine, house, log, token):
    _push(client, token, [{"sensor": "shelf", "quantity": "air_c", "value": 21}])
    sensor = Sensor.objects.get()
    prefix = f"sensor-{sensor.pk}"
    post(
        mine, f"{log}sensor/{sensor.pk}/?tab=sensors", **{f"{prefix}-name": "At the leaves", f"{prefix}-place": "space"}
    )
    _push(client, token, [{"sensor": "shelf", "quantity": "air_c", "value": 22, "at": "2026-11-20T08:00:00Z"}])
    assert Sensor.objects.get().name == "At the leaves"
    assert Reading.objects.count() == 2


@pytest.mark.parametrize(
    ("body", "words"),
    [
        ("<html>", "no JSON"),
        ("[" * 100_000, "no JSON"),
        ("{}", "give “readings”"),
        ([], "give “readings”"),
        ([5], "no record"),
        ([{"sensor": "s", "quantity": "air_c", "value": "21"}], "no number"),
        ([{"sensor": "s", "quantity": "air_c", "value": True}], "no number"),
        ([{"sensor": "s", "quantity": "joy", "value": 1}], "no quantity"),
        ([{"sensor": "s", "quantity": "air_c", "value": 1e99}], "cannot be"),
        ([{"sensor": "s", "quantity": "air_c", "value": 20, "unit": "bar"}], "none of them"),
        ([{"sensor": "", "quantity": "air_c", "value": 20}], "a name"),
        ([{"sensor": "s", "quantity": "air_c", "value": 20, "at": "2026-11-20 08:00"}], "needs its zone"),
        ([{"sensor": "s", "quantity": "air_c", "value": 20, "at": "soon"}], "no time"),
        ([{"sensor": "s", "quantity": "air_c", "value": 20, "at": 9e18}], "ahead of this server"),
        ([{"sensor": "s", "quantity": "air_c", "value": 20}] * 5001, "at most 5000"),
    ],
)
def test_a_wrong_message_is_refused_whole_in_words(client, token, body, words):
    good = {"sensor": "s", "quantity": "air_c", "value": 20}
    sent = [good, *body] if isinstance(body, list) and body and len(body) < 5000 else body
    answer = _push(client, token, sent)
    assert answer.status_code == 400
    assert words in answer.json()["error"]
    assert not Reading.objects.exists()
    assert Source.objects.get().trouble


def test_tokens_that_are_unknown_closed_or_missing_lead_nowhere(client, mine, house, log, token):
    good = [{"sensor": "s", "quantity": "air_c", "value": 20}]
    assert _push(client, "wrong", good).status_code == 401
    assert client.post("/readings/", "{}", content_type="application/json").status_code == 401
    assert client.get("/readings/").status_code == 405
    post(mine, f"{log}source/{Source.objects.get().pk}/drop/?tab=sensors")
    assert _push(client, token, good).status_code == 401
    assert not Reading.objects.exists()


def test_a_flood_is_held_off_and_says_when_to_come_again(client, token, monkeypatch):
    monkeypatch.setattr(push, "_MOST", 3)
    good = [{"sensor": "s", "quantity": "air_c", "value": 20}]
    codes = [_push(client, token, good).status_code for _ in range(5)]
    assert codes == [200, 200, 200, 429, 429]
    assert _push(client, token, good)["Retry-After"] == "5"


def test_a_source_is_opened_on_the_page_and_its_token_shown_once(mine, log):
    page = post(mine, f"{log}source/?tab=sensors", **{"source-name": "Shelf box"})
    assert "Authorization: Bearer" in page
    assert "/readings/" in page
    again = mine.get(f"{log}?tab=sensors").content.decode()
    assert "Authorization: Bearer" not in again
    assert Source.objects.get().token_begins in again


# Traces


def test_the_chart_gets_bands_the_simulated_day_dark_hours_and_events(mine, house, log, week):
    post(mine, f"{log}write/water/", **{"log-water-litres": "2 L", "log-water-at": "2026-11-22T08:30"})
    data = mine.get(f"{log}series.json?span=week").json()
    panels = {panel["key"]: panel for panel in data["panels"]}
    assert list(panels) == ["air_c", "rh_pct", "vpd_kpa", "dew_c"]
    air = panels["air_c"]
    assert len(air["at"]) == len(air["lines"][0]["mean"]) == len(air["band"]["low"]) == len(air["plan"]) == 7 * 144
    assert air["lines"][0]["low"] is not None
    # 14.5 h of light: 9.5 h of each of seven days are dark.
    dark = sum(end - begin for begin, end in data["dark"])
    assert dark == pytest.approx(7 * 9.5 * 3600, rel=0.02)
    assert data["events"][0]["words"].startswith("water")
    wants = [plant.want for plant in _standing(house)]
    low, high = max(want.rh_pct.low for want in wants), min(want.rh_pct.high for want in wants)
    assert set(panels["rh_pct"]["band"]["low"]) == {low}
    assert set(panels["rh_pct"]["band"]["high"]) == {high}


def _standing(house):
    from canopy.season import cast_of, day_to_show, standing_of
    from canopy_web.planning.store import to_plan

    plan = to_plan(GrowPlan.objects.select_related("head").get(pk=house.pk))
    return standing_of(plan.space("berry-tent"), day_to_show(plan, dt.date.today()), cast_of(plan)).plants


def test_the_page_says_the_same_as_a_table_and_as_csv(mine, log, week):
    page = mine.get(f"{log}?tab=traces&span=week").content.decode()
    assert "by days" in page
    assert page.count('data-name="Highest"') == 14
    csv = b"".join(mine.get(f"{log}readings.csv?span=week").streaming_content).decode().splitlines()
    assert csv[0] == "time_utc,space,place,sensor,quantity,unit,value"
    assert len(csv) == 1 + 2 * 7 * 288
    assert csv[1].startswith("2026-11-20T00:00:00Z,")


def test_degrees_are_read_as_the_person_reads_them(mine, log, week, grower):
    mine.post("/account/preferences/", {"units": "us", "next": "/"})
    data = mine.get(f"{log}series.json?span=day").json()
    air = data["panels"][0]
    assert air["unit"] == "°F"
    assert min(value for value in air["lines"][0]["mean"] if value) >= 69.8
    assert "lines" in air
    assert "low" not in air["lines"][0]


def test_a_space_without_sensors_says_where_they_come_from(mine, log):
    assert "No sensor has shown anything" in mine.get(f"{log}?tab=traces").content.decode()
    assert mine.get(f"{log}series.json").json()["panels"] == []
    assert mine.get(f"{log}series.json?until=9e99&span=joy").status_code == 200


def test_a_struck_sensor_is_shown_nowhere_and_kept(mine, log, week):
    sensor = Sensor.objects.first()
    post(mine, f"{log}sensor/{sensor.pk}/strike/?tab=sensors")
    assert Reading.objects.filter(sensor=sensor).exists()
    assert [panel["key"] for panel in mine.get(f"{log}series.json?span=week").json()["panels"]] == ["rh_pct"]
