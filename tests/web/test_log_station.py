"""The Log station: entries written once, corrected by striking; tables taken in piece by piece; readings pushed."""

import datetime as dt
import json

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from canopy_web.logbook import imports, push
from canopy_web.logbook.models import CsvShape, ImportJob, LogEntry, Reading, Rollup, Sensor, Source
from canopy_web.logbook.readings import SPANS, keep_readings, sensor_for, series_of
from canopy_web.planning import actions
from canopy_web.planning.models import GrowPlan

pytestmark = pytest.mark.django_db
HTMX = {"HX-Request": "true"}


@pytest.fixture
def house(grower, demo_plan):
    return actions.create_plan(grower, demo_plan)


@pytest.fixture
def log(house):
    return f"/plans/{house.pk}/spaces/berry-tent/log/"


@pytest.fixture(autouse=True)
def _own_folder(settings, tmp_path):
    settings.DATA = tmp_path


def _post(client, url, **data):
    return client.post(url, data, headers=HTMX).content.decode()


def _table(text, name="week.csv"):
    return SimpleUploadedFile(name, text.encode() if isinstance(text, str) else text, "text/csv")


# What is written down


def test_an_entry_is_kept_with_its_hour_its_plants_and_the_plan_as_it_stands(mine, house, log):
    page = _post(
        mine,
        f"{log}write/water/",
        **{"log-water-litres": "400 ml", "log-water-plants": "1-3, 5", "log-water-at": "2026-11-20T08:30"},
    )
    entry = LogEntry.objects.get()
    assert entry.data == {"litres": 0.4}
    assert len(entry.plants) == 4
    assert entry.state_id == house.head_id
    assert entry.at.strftime("%Y-%m-%d %H:%M") == "2026-11-20 08:30"
    assert "Written down: Water" in page
    assert "plants 1, 2, 3, 5" in page
    # The next one proposes what was given the last time.
    assert 'value="0.4 L"' in mine.get(log).content.decode() or 'value="400 mL"' in mine.get(log).content.decode()


def test_the_same_entry_sent_twice_is_there_once(mine, log):
    for _ in range(2):
        _post(mine, f"{log}write/note/", **{"log-note-note": "thrips on 3", "log-note-entry_key": "a" * 32})
    assert LogEntry.objects.count() == 1
    _post(mine, f"{log}write/note/", **{"log-note-note": "another", "log-note-entry_key": "b" * 32})
    assert LogEntry.objects.count() == 2


def test_undo_of_the_plan_touches_no_entry_and_a_struck_one_is_kept(mine, house, log):
    mine.post(f"{log.replace('/log/', '/light/')}part/fixtures/lamp-1/move/", {"z_m": "1.1"}, headers=HTMX)
    _post(mine, f"{log}write/harvest/", **{"log-harvest-weight_kg": "250 g", "log-harvest-quality": "4"})
    row = GrowPlan.objects.select_related("head").get(pk=house.pk)
    assert actions.undo(row)
    entry = LogEntry.objects.get()
    assert entry.data == {"weight_kg": 0.25, "quality": 4}
    page = _post(mine, f"{log}entry/{entry.key}/", struck="yes")
    assert "250 g" in page
    assert LogEntry.objects.get().struck
    assert "let it count" in page
    _post(mine, f"{log}entry/{entry.key}/", struck="no")
    assert not LogEntry.objects.get().struck


@pytest.mark.parametrize(
    ("kind", "data", "words"),
    [
        ("water", {"litres": "much"}, "aria-invalid"),
        ("water", {"litres": "1 L", "plants": "99"}, "have the numbers 1 to 11"),
        ("water", {"litres": "1 L", "plants": "one"}, "numbers of plants"),
        ("water", {"litres": "1 L", "at": "yesterday"}, "type day and hour"),
        ("reservoir", {}, "at least one figure"),
        ("harvest", {}, "at least one figure"),
        ("pests", {"what": "thrips"}, "aria-invalid"),
    ],
)
def test_a_wrong_entry_is_told_keeps_what_was_typed_and_stores_nothing(mine, log, kind, data, words):
    page = _post(mine, f"{log}write/{kind}/", **{f"log-{kind}-{key}": value for key, value in data.items()})
    assert words in page
    assert not LogEntry.objects.exists()
    for value in data.values():
        assert value in page


def test_a_harvest_is_read_in_ounces_by_who_reads_so(mine, log):
    mine.post("/account/preferences/", {"units": "us", "next": "/"})
    page = _post(mine, f"{log}write/harvest/", **{"log-harvest-weight_kg": "5 oz"})
    assert "5.0 oz" in page
    assert "2.00 lb" in _post(mine, f"{log}write/harvest/", **{"log-harvest-weight_kg": "2 lb"})


def test_what_waited_on_a_phone_is_of_when_it_was_said(mine, log):
    _post(mine, f"{log}write/work/", at="2026-11-20T10:00:00+00:00", **{"log-work-act": "prune"})
    assert LogEntry.objects.get().at == dt.datetime(2026, 11, 20, 10, tzinfo=dt.UTC)


def test_another_person_s_log_is_closed(client, other, log):
    client.force_login(other)
    assert client.get(log).status_code == 404
    assert client.post(f"{log}write/note/", {"log-note-note": "x"}).status_code == 404


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


# Tables


def _csv(rows=400, start="2026-11-20T00:00:00"):
    begin = dt.datetime.fromisoformat(start)
    lines = [
        f"{begin + dt.timedelta(minutes=5 * n):%d.%m.%Y %H:%M};{20 + n % 10 / 10:.1f};{50 + n % 20}".replace(".1f", "")
        for n in range(rows)
    ]
    return "Zeit;Temperatur °C;Feuchte %\n" + "\n".join(lines) + "\n"


def _laid(client, log, text, name="week.csv"):
    answer = client.post(f"{log}table/?tab=sensors", {"table": _table(text, name)}, headers=HTMX)
    return answer.content.decode()


def _shape_data(job, **more):
    data = {"time": str(job.shape["time"]), "clock": "", "written": job.shape["written"], "zone": job.shape["zone"]}
    data["comma"] = "yes" if job.shape["comma"] else ""
    for column in job.shape["columns"]:
        for key in ("quantity", "unit", "name"):
            data[f"c{column['place']}-{key}"] = column[key]
    return data | more


def _taken(client, log, job):
    page = _post(client, f"{log}table/{job.pk}/start/?tab=sensors", **_shape_data(job))
    for _ in range(60):
        if "load delay" not in page:
            return page
        page = _post(client, f"{log}table/{job.pk}/go/?tab=sensors")
    raise AssertionError("it never ended")


def test_a_table_is_settled_beside_its_preview_and_taken_in(mine, log):
    page = _laid(mine, log, _csv())
    job = ImportJob.objects.get()
    assert "How the first rows are read" in page
    assert "20.0 °C" in page
    page = _taken(mine, log, job)
    assert "week.csv</b> is in" in page
    assert "800</b> readings taken in" in page
    assert {sensor.name for sensor in Sensor.objects.all()} == {"Temperatur", "Feuchte"}
    assert Reading.objects.count() == 800
    assert not list((imports._folder()).iterdir())


def test_the_same_table_again_is_known_by_its_header_and_adds_nothing(mine, log):
    _laid(mine, log, _csv())
    job = ImportJob.objects.get()
    shape = _shape_data(job, **{"c1-name": "Shelf"})
    _post(mine, f"{log}table/{job.pk}/start/?tab=sensors", **shape)
    _post(mine, f"{log}table/{job.pk}/go/?tab=sensors")
    assert CsvShape.objects.count() == 1
    _laid(mine, log, _csv(), "again.csv")
    again = ImportJob.objects.first()
    assert "Shelf" in json.dumps(again.shape)
    page = _taken(mine, log, again)
    assert "<b>0</b> readings taken in" in page
    assert "800</b> there before" in page


def test_faults_and_gaps_are_counted_and_named(mine, log):
    text = _csv(30) + "20.11.2026 99:00;21,0;50\n20.11.2026 03:00;999;50\n21.11.2026 09:00;21.5;51\n\n"
    _laid(mine, log, text)
    page = _taken(mine, log, ImportJob.objects.get())
    assert "2</b> rows with something wrong" in page
    assert "line 32" in page
    assert "is no time" in page
    assert "cannot be" in page
    assert "gap" in page


def test_an_import_goes_on_where_it_was_broken_off(mine, house, log, monkeypatch):
    monkeypatch.setattr(imports, "_PIECE", 2000)
    _laid(mine, log, _csv(500))
    job = ImportJob.objects.get()
    imports.start(job, job.shape)
    half = imports.go_on(job, 0.0)
    assert 0 < half.offset < half.size
    there = Reading.objects.count()
    assert there == half.taken > 0

    def dies(*args):
        raise RuntimeError("killed")

    with monkeypatch.context() as broken:
        broken.setattr(imports.TableReader, "rows", dies)
        with pytest.raises(RuntimeError):
            imports.go_on(half, 0.0)
    # Nothing of the piece that broke is in, and all of it comes after.
    assert Reading.objects.count() == there
    done = imports.go_on(ImportJob.objects.get(), 30.0)
    assert (done.state, done.taken, done.rows) == ("done", 1000, 500)


def test_an_import_that_is_stopped_keeps_what_is_in(mine, log, monkeypatch):
    monkeypatch.setattr(imports, "_PIECE", 2000)
    _laid(mine, log, _csv(500))
    job = ImportJob.objects.get()
    imports.start(job, job.shape)
    imports.go_on(job, 0.0)
    there = Reading.objects.count()
    page = _post(mine, f"{log}table/{job.pk}/stop/?tab=sensors")
    assert "stopped" in page
    assert imports.go_on(ImportJob.objects.get(), 5.0).state == "stopped"
    assert Reading.objects.count() == there


@pytest.mark.parametrize(
    ("content", "words"),
    [("no,table\n", "row of this table"), (b"\x00\x01\x02", "no text"), ("", "no table"), (None, "Choose a file")],
)
def test_a_file_that_is_no_table_is_refused_and_not_kept(mine, log, content, words):
    page = _post(mine, f"{log}table/?tab=sensors") if content is None else _laid(mine, log, content)
    assert words in page
    assert not ImportJob.objects.exists()
    assert not list(imports._folder().iterdir())


def test_a_table_of_which_nothing_is_taken_asks_for_a_column(mine, log):
    _laid(mine, log, _csv())
    job = ImportJob.objects.get()
    data = {key: ("" if key.endswith("quantity") else value) for key, value in _shape_data(job).items()}
    page = _post(mine, f"{log}table/{job.pk}/start/?tab=sensors", **data)
    assert "at least one column" in page
    page = _post(mine, f"{log}table/{job.pk}/?tab=sensors", **_shape_data(job, zone="Mars/Base"))
    assert "no time zone" in page
    assert ImportJob.objects.get().state == "looked"


def test_letters_of_two_bytes_are_taken_in_piece_by_piece(mine, log, monkeypatch):
    monkeypatch.setattr(imports, "_PIECE", 1500)
    _laid(mine, log, _csv(200).encode("utf-16"))
    page = _taken(mine, log, ImportJob.objects.get())
    assert "400</b> readings taken in" in page


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
    _post(
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
    _post(mine, f"{log}source/{Source.objects.get().pk}/drop/?tab=sensors")
    assert _push(client, token, good).status_code == 401
    assert not Reading.objects.exists()


def test_a_flood_is_held_off_and_says_when_to_come_again(client, token, monkeypatch):
    monkeypatch.setattr(push, "_MOST", 3)
    good = [{"sensor": "s", "quantity": "air_c", "value": 20}]
    codes = [_push(client, token, good).status_code for _ in range(5)]
    assert codes == [200, 200, 200, 429, 429]
    assert _push(client, token, good)["Retry-After"] == "5"


def test_a_source_is_opened_on_the_page_and_its_token_shown_once(mine, log):
    page = _post(mine, f"{log}source/?tab=sensors", **{"source-name": "Shelf box"})
    assert "Authorization: Bearer" in page
    assert "/readings/" in page
    again = mine.get(f"{log}?tab=sensors").content.decode()
    assert "Authorization: Bearer" not in again
    assert Source.objects.get().token_begins in again


# Traces


@pytest.fixture
def week(house):
    air, damp = (sensor_for(house, "berry-tent", key, key) for key in ("air_c", "rh_pct"))
    begin = int(dt.datetime(2026, 11, 20, tzinfo=dt.UTC).timestamp())
    at = np.arange(begin, begin + 7 * 86400, 300)
    keep_readings([(air.pk, int(s), 21.0 + (s // 3600) % 5) for s in at] + [(damp.pk, int(s), 55.0) for s in at])
    return begin


def test_the_chart_gets_bands_the_simulated_day_dark_hours_and_events(mine, house, log, week):
    _post(mine, f"{log}write/water/", **{"log-water-litres": "2 L", "log-water-at": "2026-11-22T08:30"})
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
    _post(mine, f"{log}sensor/{sensor.pk}/strike/?tab=sensors")
    assert Reading.objects.filter(sensor=sensor).exists()
    assert [panel["key"] for panel in mine.get(f"{log}series.json?span=week").json()["panels"]] == ["rh_pct"]


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


def _plan_of(house):
    from canopy_web.planning.store import to_plan

    return to_plan(GrowPlan.objects.select_related("head").get(pk=house.pk))


def test_a_limit_that_is_passed_rings_once_and_is_seen_by_somebody(mine, house, log, hot):
    from canopy_web.logbook.models import AlertEvent

    page = _post(
        mine, f"{log}alerts/add/?tab=alerts", **{"alert-figure": "air_c", "alert-side": "most", "alert-value": "30"}
    )
    assert "Air temperature above 30 °C for 10 min" in page
    assert "would have rung once in the last 8 days" in page
    mine.get(f"{log}?tab=alerts")
    event = AlertEvent.objects.get()
    assert event.end is None
    assert event.worst == 31.0
    assert "Air temperature above 30" in mine.get("/today/").content.decode()
    page = _post(mine, f"{log}event/{event.pk}/seen/?tab=alerts")
    assert "seen by" in page
    assert AlertEvent.objects.get().seen_by is not None


def test_it_is_over_when_readings_are_back(client, mine, house, log, hot):
    from canopy_web.logbook.models import AlertEvent
    from canopy_web.logbook.watch import watch_plan

    _post(mine, f"{log}alerts/add/?tab=alerts", **{"alert-figure": "air_c", "alert-side": "most", "alert-value": "30"})
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

    _post(mine, f"{log}alerts/add/?tab=alerts", **{"alert-figure": "air_c", "alert-side": "most", "alert-value": "30"})
    (rule,) = _plan_of(house).space("berry-tent").alerts
    page = _post(mine, f"{log}alerts/{rule.id}/?tab=alerts", **{f"alert-{rule.id}-value": "35"})
    assert "would never have rung" in page
    assert AlertEvent.objects.get().end is not None
    _post(mine, f"{log}alerts/{rule.id}/drop/?tab=alerts")
    assert _plan_of(house).space("berry-tent").alerts == ()
    assert AlertEvent.objects.count() == 1


def test_how_often_a_limit_would_have_rung_is_told_while_it_is_typed(mine, house, log, hot):
    _post(mine, f"{log}alerts/add/?tab=alerts", **{"alert-figure": "air_c", "alert-side": "most", "alert-value": "40"})
    (rule,) = _plan_of(house).space("berry-tent").alerts
    asked = mine.get(f"{log}alerts/{rule.id}/count/", {f"alert-{rule.id}-value": "30"}, headers=HTMX)
    assert "would have rung once" in asked.content.decode()
    asked = mine.get(f"{log}alerts/{rule.id}/count/", {f"alert-{rule.id}-value": "warm"}, headers=HTMX)
    assert "would never have rung" in asked.content.decode()
    assert _plan_of(house).space("berry-tent").alerts == (rule,)


def test_silence_rings_where_nothing_comes_any_more(mine, house, log, hot):
    from canopy_web.logbook.models import AlertEvent
    from canopy_web.logbook.watch import watch_plan

    data = {"alert-figure": "air_c", "alert-side": "silent", "alert-value": "45"}
    page = _post(mine, f"{log}alerts/add/?tab=alerts", **data)
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
    _post(mine, f"{log}alerts/take/?tab=alerts", figure="air_c", most="yes", when="day")
    (rule,) = _plan_of(house).space("berry-tent").alerts
    assert (rule.figure, rule.most, rule.when) == ("air_c", True, "day")
    page = _post(mine, f"{log}alerts/take/?tab=alerts", figure="air_c", most="yes", when="day")
    assert "watched already" in page
    assert len(_plan_of(house).space("berry-tent").alerts) == 1


def test_without_a_sensor_there_is_nothing_to_watch(mine, log):
    page = mine.get(f"{log}?tab=alerts").content.decode()
    assert "alerts watch what sensors read" in page
    assert "Worth watching" not in page


def test_an_alert_of_a_figure_that_no_rehearsal_knows_leaves_the_climate_s_page_whole(mine, house, log):
    from canopy.plan.changes import Add

    rule = {"id": "new", "figure": "ph", "most": True, "value": 7}
    actions.change_space(house, "berry-tent", [Add(collection="alerts", parts=(rule,), prefix="alert")], "Watch")
    assert mine.get(f"{log.replace('/log/', '/climate/')}?tab=rehearse").status_code == 200


def test_the_log_travels_in_the_plan_file_and_is_taken_in_once(mine, grower, house, log):
    from canopy.logs.files import dumps_with_facts, loads_with_facts
    from canopy_web.logbook import actions as facts
    from canopy_web.logbook.querysets import facts_of

    _post(mine, f"{log}write/water/", **{"log-water-litres": "2 L", "log-water-plants": "1, 2"})
    _post(
        mine,
        f"{log}write/pests/",
        **{"log-pests-what": "thrips", "log-pests-count": "0", "log-pests-looked_at": "10", "log-pests-on": "leaves"},
    )
    mine.post(f"{log}entry/{LogEntry.objects.first().key}/", {"struck": "yes"}, headers=HTMX)
    ids = [space.id for space in _plan_of(house).spaces]
    text = dumps_with_facts(_plan_of(house), facts_of(house, ids))
    again = facts.import_file(grower, text.encode())
    assert facts_of(again, ids) == facts_of(house, ids)
    assert len(loads_with_facts(text)[1].entries) == 2
    assert LogEntry.objects.filter(plan=again, struck=True).count() == 1


def test_entries_of_a_file_that_cannot_be_are_refused_with_their_place(house):
    from canopy.errors import PlanError
    from canopy.logs.facts import Facts
    from canopy.logs.files import dumps_with_facts, loads_with_facts

    entry = {"key": "a" * 12, "space_id": "berry-tent", "kind": "water", "at": "2026-11-20T08:00:00Z", "data": {}}
    data = json.loads(dumps_with_facts(_plan_of(house), Facts()))
    data["facts"] = {"entries": [entry, {**entry, "data": {"litres": 1}}]}
    with pytest.raises(PlanError) as refused:
        loads_with_facts(json.dumps(data))
    paths = {problem.path for problem in refused.value.problems}
    assert paths == {"facts.entries", "facts.entries[0].data"}


def test_the_archive_holds_readings_and_entries_as_tables(mine, house, log, week):
    import io
    import zipfile

    _post(mine, f"{log}write/note/", **{"log-note-note": "first, flowers"})
    answer = mine.get("/take-away/")
    with zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content))) as archive:
        (readings,) = [name for name in archive.namelist() if name.startswith("readings/")]
        lines = archive.read(readings).decode().splitlines()
        (entries,) = [name for name in archive.namelist() if name.startswith("log/")]
        assert '"first, flowers"' in archive.read(entries).decode()
    assert len(lines) == 1 + 2 * 7 * 288
    assert lines[1] == "2026-11-20T00:00:00Z,berry-tent,space,air_c,air_c,°C,24"


# Large tables, in pieces


def _piece(client, log, text, at, size, key="ab" * 16):
    file = SimpleUploadedFile("piece", text.encode())
    data = {"upload": key, "name": "large.csv", "at": str(at), "size": str(size), "piece": file}
    return client.post(f"{log}table/piece/?tab=sensors", data)


def test_a_large_table_comes_in_pieces_and_goes_on_where_it_stood(mine, log):
    text = _csv(300)
    size, cut = len(text.encode()), 4000
    there = int(_piece(mine, log, text[:cut], 0, size).content)
    assert there == len(text[:cut].encode())
    assert int(_piece(mine, log, text[:10], 0, size).content) == there
    # A piece that is sent twice changes nothing: the number says from where to go on.
    raw = text.encode()
    answer = _piece(mine, log, raw[there:].decode(), there, size)
    assert "How the first rows are read" in answer.content.decode()
    page = _taken(mine, log, ImportJob.objects.get())
    assert "600</b> readings taken in" in page


@pytest.mark.parametrize("data", [{"at": "x"}, {"upload": "../../etc"}, {"size": ""}])
def test_a_piece_that_does_not_say_what_it_is_is_refused(mine, log, data):
    whole = {"upload": "ab" * 16, "name": "x", "at": "0", "size": "10", "piece": SimpleUploadedFile("p", b"0123")}
    answer = mine.post(f"{log}table/piece/?tab=sensors", whole | data)
    assert answer.status_code == 400
    assert not list(imports._folder().glob("*.part"))


def test_pieces_of_another_person_are_not_touched_and_old_ones_go(mine, client, other, house, log):
    import os

    _piece(mine, log, "a,b\n", 0, 100)
    (part,) = imports._folder().glob("*.part")
    client.force_login(other)
    assert _piece(client, log, "x", 4, 100).status_code == 404
    os.utime(part, (0, 0))
    client.logout()
    client.force_login(house.owner)
    _piece(client, log, "a,b\n", 0, 100, key="cd" * 16)
    assert not part.exists()


def test_more_than_is_taken_is_refused_and_taken_away(mine, log, monkeypatch):
    monkeypatch.setattr(imports, "MOST_BYTES", 10)
    answer = _piece(mine, log, "0123456789ab", 0, 12)
    assert answer.status_code == 400
    assert "larger than" in answer.content.decode()
    assert not list(imports._folder().glob("*.part"))
