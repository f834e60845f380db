"""The demo's stand-ins: what they answer, that they act as real ones would, and a demo that is lived in."""

from __future__ import annotations

import asyncio
import datetime as dt
import json
import shutil
from zoneinfo import ZoneInfo

import httpx
import pytest

from canopy.logs.tables import look_at
from canopy_web.logbook.living import fill_late
from canopy_web.logbook.models import AlertEvent, LogEntry, Reading, Sensor, Source
from canopy_web.planning import actions
from canopy_web.planning.models import GrowPlan
from canopy_web.standins.interfaces import app_of
from canopy_web.standins.names import read_week, week_file
from canopy_web.standins.week import write_week
from canopy_web.standins.world import Clock, World

# Yesterday: what a demo begins with is looked at by today's clock.
DAY = dt.datetime.now(dt.UTC).date() - dt.timedelta(days=1)
NOON = dt.datetime(DAY.year, DAY.month, DAY.day, 12, tzinfo=dt.UTC).timestamp()


class Asked:
    """Asks the stand-ins without a network."""

    def __init__(self, world):
        self.app = app_of(world)

    def _ask(self, method, path, **more):
        async def ask():
            transport = httpx.ASGITransport(app=self.app)
            async with httpx.AsyncClient(transport=transport, base_url="http://stand-ins") as client:
                return await client.request(method, path, **more)

        return asyncio.run(ask())

    def get(self, path):
        return self._ask("GET", path)

    def post(self, path, **more):
        return self._ask("POST", path, **more)


class Ticking:
    """A clock of ours."""

    def __init__(self):
        self.at = NOON

    def __call__(self):
        return self.at


@pytest.fixture
def ticking():
    return Ticking()


@pytest.fixture
def world(tmp_path, ticking):
    return World(folder=tmp_path, zone=ZoneInfo("UTC"), clock=Clock(real=ticking))


@pytest.fixture
def asked(world):
    return Asked(world)


def test_a_hub_says_what_its_probes_show_now(asked):
    found = asked.get("/hub/berry-tent").json()
    assert found["time"] == f"{DAY}T12:00:00Z"
    assert {"air_temperature", "humidity", "ppfd", "battery"} <= found.keys()
    assert 15 < found["air_temperature"] < 35
    assert 70 <= found["battery"] <= 80
    assert asked.get("/hub/nowhere").status_code == 404
    assert {"temperature", "humidity"} <= asked.get("/weather").json().keys()


def test_it_is_not_quite_as_planned(asked, world):
    from canopy.evaluate.kept import report_of

    space = world.plan.space("berry-tent")
    report = report_of(world.plan, space, day=DAY)
    planned = sum(light.ppfd_umol_m2_s for light in report.lighting.plants) / len(report.lighting.plants)
    assert asked.get("/hub/berry-tent").json()["ppfd"] == pytest.approx(0.93 * planned, rel=0.03)


def test_a_plug_switches_and_is_told_who_did(asked, world, ticking):
    plug = "/plug/berry-tent/fan"
    before = asked.get(plug).json()
    assert (before["on"], before["feeds"]) == (True, "fan")
    assert before["power_w"] == pytest.approx(14, abs=1)
    # It has run for nine days and a half, less a night's hours.
    assert before["energy_kwh"] == pytest.approx(14 * (9.5 * 24 - 3.5) / 1000, rel=0.02)
    off = asked.post(plug, json={"on": False, "minutes": 30, "who": "grower"}).json()
    assert (off["on"], off["power_w"]) == (False, pytest.approx(0, abs=0.6))
    damp = asked.get("/hub/berry-tent").json()["humidity"]
    ticking.at += 20 * 60
    assert asked.get("/hub/berry-tent").json()["humidity"] > damp + 5
    ticking.at += 11 * 60
    assert asked.get(plug).json()["on"] is True
    assert asked.get("/clock").json()["switched"][0]["who"] == "grower"
    assert asked.post(plug, json={"on": "maybe"}).status_code == 400
    assert asked.post(plug, content=b"no json").status_code == 400
    assert asked.post("/plug/berry-tent/kettle", json={"on": True}).status_code == 404


def test_a_heater_never_comes_on_by_itself(tmp_path, ticking, monkeypatch, demo_plan):
    from canopy.equipment import DeviceSpec
    from canopy.plan import Device
    from canopy.plan.edit import shifted
    from canopy.schedule import Daily

    world = World(folder=tmp_path, zone=ZoneInfo("UTC"), clock=Clock(real=ticking))
    heater = Device(
        id="device-1",
        spec=DeviceSpec(name="Heater", kind="heater", power_w=200),
        schedule=Daily(start="00:00", hours=24),
    )
    plan = shifted(demo_plan, DAY - demo_plan.date)
    tent = plan.space("berry-tent").model_copy(update={"devices": (heater,)})
    world.house.plan = plan.model_copy(update={"spaces": (tent, *plan.spaces[1:])})
    asked = Asked(world)
    plug = "/plug/berry-tent/device-1"
    there = asked.get(plug).json()
    assert (there["on"], there["feeds"]) == (True, "heater")
    asked.post(plug, json={"on": False, "minutes": 10})
    ticking.at += 5 * 3600
    # Ten minutes are long over: it stays off until somebody switches it on.
    assert asked.get(plug).json()["on"] is False
    assert asked.post(plug, json={"on": True}).json()["on"] is True


def test_switches_outlive_a_restart(world, asked, ticking):
    asked.post("/plug/berry-tent/fan", json={"on": False})
    again = World(folder=world.folder, zone=ZoneInfo("UTC"), clock=Clock(real=ticking))
    assert again.plug(again.space("berry-tent"), "fan")["on"] is False
    (world.folder / "stand-ins.json").write_text("half")
    fresh = World(folder=world.folder, zone=ZoneInfo("UTC"), clock=Clock(real=ticking))
    assert fresh.plug(fresh.space("berry-tent"), "fan")["on"] is True


def test_a_meters_file_is_one_that_is_taken_in_as_it_is(asked):
    text = asked.get("/meter/log.csv").content
    looked = look_at(text)
    assert [column.quantity for column in looked.shape.columns] == ["ppfd", "battery_pct"]
    assert looked.shape.comma
    rows = asked.get("/meter/survey.csv").text.splitlines()
    assert rows[0] == "x m,y m,z m,PPFD"
    assert len(rows) == 12


def test_its_clock_goes_back_and_catches_up(asked, world, ticking):
    assert asked.post("/clock", json={"days": 7, "within_s": 60}).json()["catching_up"]
    assert world.clock.now() == int(NOON) - 7 * 86400
    ticking.at += 30
    assert world.clock.now() == pytest.approx(NOON - 3.5 * 86400, abs=60)
    assert asked.get("/hub/berry-tent").json()["time"].startswith(f"{DAY - dt.timedelta(days=3)}T0")
    ticking.at += 31
    assert not world.clock.catching_up
    assert world.clock.now() == int(ticking.at)
    assert asked.post("/clock", json={"days": 900}).status_code == 400
    assert asked.post("/clock", json={"days": "many"}).status_code == 400


# A demo that is lived in


@pytest.fixture(scope="module")
def week_that_was(tmp_path_factory):
    """What the stand-ins have shown, followed once for all who ask."""
    world = World(folder=tmp_path_factory.mktemp("week"), zone=ZoneInfo("UTC"), clock=Clock(real=Ticking()))
    write_week(world)
    return week_file(world.folder)


@pytest.fixture
def lived(settings, week_that_was, tmp_path):
    settings.DEMO, settings.DATA = True, tmp_path
    settings.STANDINS, settings.REACH = (8001, 8002), "127.0.0.1:8001,127.0.0.1:8002"
    shutil.copy(week_that_was, week_file(tmp_path))


@pytest.mark.django_db
def test_a_visitor_finds_a_week_that_was_lived(client, lived):
    assert client.post("/account/demo/").status_code == 302
    row = GrowPlan.objects.get()
    sensors = Sensor.objects.filter(plan=row, space_id="berry-tent")
    assert {"Air", "Humidity", "CO₂", "Roots", "Exhaust fan's plug", "Outdoors"} <= {item.name for item in sensors}
    damp = sensors.get(name="Humidity").readings
    assert damp.count() > 1000
    first, last = (damp.order_by(key).first().at for key in ("at", "-at"))
    assert last - first > 8.9 * 86400
    assert {source.kind for source in Source.objects.filter(plan=row)} == {"pull", "mqtt"}
    kinds = set(LogEntry.objects.filter(plan=row).values_list("kind", flat=True))
    assert kinds == {"pests", "water", "work", "note", "harvest"}
    # The night on which the plug had slipped out stands in the readings, and nowhere in the plan.
    night = [value for at, value in damp.values_list("at", "value") if NOON - 3.4 * 86400 < at < NOON - 3.3 * 86400]
    assert max(night) > damp.order_by("value")[damp.count() // 2].value + 10
    for path in ("/today/", "?tab=traces", "?tab=alerts", "?tab=sensors"):
        url = path if path.startswith("/") else f"/plans/{row.pk}/spaces/berry-tent/log/{path}"
        assert client.get(url).status_code == 200


@pytest.mark.django_db
def test_one_deserved_alert_rang_that_week(client, lived):
    client.post("/account/demo/")
    row = GrowPlan.objects.get()
    words = set(AlertEvent.objects.filter(plan=row).values_list("words", flat=True))
    assert "Humidity above 80 % for 30 min" in words
    assert AlertEvent.objects.filter(plan=row).count() <= 3


@pytest.mark.django_db
def test_who_came_before_the_stand_ins_were_ready_gets_it_later(client, settings, week_that_was, tmp_path):
    settings.DEMO, settings.DATA, settings.STANDINS = True, tmp_path, (8001, 8002)
    client.post("/account/demo/")
    assert not Reading.objects.exists()
    assert fill_late() == 0
    shutil.copy(week_that_was, week_file(tmp_path))
    assert fill_late() > 10_000
    assert fill_late() == 0


@pytest.mark.django_db
def test_without_stand_ins_a_demo_is_as_it_was(client, settings):
    settings.DEMO, settings.STANDINS = True, ()
    client.post("/account/demo/")
    assert not Source.objects.exists()
    assert client.get("/stand-ins/").status_code == 404


def test_half_a_week_is_none(tmp_path):
    assert list(read_week(tmp_path)) == []
    week_file(tmp_path).with_suffix(".part").write_text("berry-tent,air,1")
    assert list(read_week(tmp_path)) == []


@pytest.mark.django_db
def test_their_page_says_what_they_are_and_winds_their_clock(mine, settings, monkeypatch):
    from canopy_web.household import standins

    told = []

    async def answers(address, body=None):
        told.append((address, body))
        return json.dumps({"time": "2026-11-28T12:00:00Z", "catching_up": True, "switched": []}).encode()

    settings.STANDINS = (8001, 8002)
    monkeypatch.setattr(standins, "fetch", answers)
    page = mine.get("/stand-ins/").text
    assert "These are no devices" in page
    assert "http://127.0.0.1:8001/hub/berry-tent" in page
    assert "is catching up" in mine.post("/stand-ins/", {"run": "week"}).text
    assert (told[1][0], json.loads(told[1][1])) == ("http://127.0.0.1:8001/clock", {"days": 7, "within_s": 60})


@pytest.mark.django_db
def test_a_visitor_who_leaves_leaves_nothing(client, lived, django_user_model):
    client.post("/account/demo/")
    actions.delete_account(django_user_model.objects.get())
    assert not Reading.objects.exists()
    assert not Source.objects.exists()
