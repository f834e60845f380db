"""Sensors by themselves: an address tried by the keyboard, a limit dragged, a plug asked twice, a year at a glance."""

import asyncio
import re
import time
from concurrent.futures import ThreadPoolExecutor

import pytest
from playwright.sync_api import expect

from canopy_web.logbook.models import Reading, Sensor, Source, Switching
from canopy_web.logbook.readings import keep_readings, sensor_for
from canopy_web.planning.models import GrowPlan
from canopy_web.worker.pulling import pull_due
from tests.browser.conftest import fits
from tests.browser.test_log_flows import _log
from tests.web.log.reached import answering

pytestmark = [pytest.mark.browser, pytest.mark.django_db(transaction=True)]
HUB = {"shelf": {"temperature": 21.5, "humidity": 58}, "on": True, "power_w": 14, "rssi": -60}


@pytest.fixture(autouse=True)
def _own_folder(settings, tmp_path):
    settings.DATA = tmp_path


@pytest.fixture
def hub(settings):
    with answering(dict(HUB)) as server:
        port = server.server_address[1]
        settings.REACH = f"127.0.0.1:{port}"
        server.url = f"http://127.0.0.1:{port}"
        yield server


def test_a_sensor_by_its_address_with_the_keyboard_alone(demo, page, axe, hub):
    _log(demo, page, "sensors", space="hall-closet")
    page.locator("[name=reach-address]").focus()
    page.keyboard.type(f"{hub.url}/shelf")
    page.keyboard.press("Enter")
    found = page.locator("#address-in .came")
    expect(found).to_contain_text("$.shelf.temperature")
    expect(page.locator("[name=v0-quantity]")).to_have_value("air_c")
    expect(page.locator("[name=v1-quantity]")).to_have_value("rh_pct")
    assert axe() == []
    page.locator("[name=reach-address]").focus()
    for _ in range(40):
        page.keyboard.press("Tab")
        if page.evaluate("document.activeElement.textContent").strip() == "Take these":
            break
    page.keyboard.press("Enter")
    expect(page.locator("table.sensed").first).to_contain_text("nothing yet")
    assert Source.objects.get().address == f"{hub.url}/shelf"
    # As the worker does, in a thread that no browser is driven from.
    with ThreadPoolExecutor(1) as beside:
        assert beside.submit(lambda: asyncio.run(pull_due())).result() == 3
    page.reload()
    expect(page.locator("table.sensed").first).to_contain_text("21.5 °C")
    page.set_viewport_size({"width": 390, "height": 844})
    fits(page)


def test_an_address_that_answers_nothing_says_so_and_keeps_what_was_typed(demo, page, settings):
    settings.REACH = ""
    _log(demo, page, "sensors")
    page.locator("[name=reach-address]").fill("http://127.0.0.1/secret")
    page.get_by_role("button", name="Try it").click()
    expect(page.locator("#address-in")).to_contain_text("not on a home network")
    expect(page.locator("[name=reach-address]")).to_have_value("http://127.0.0.1/secret")


def test_a_limit_that_is_dragged_says_how_often_it_would_have_rung(demo, page, axe):
    row = GrowPlan.objects.get()
    damp = sensor_for(row, "berry-tent", "rh_pct", "Humidity")
    now = int(time.time())
    values = [(damp.pk, now - 300 * k, 85.0 if 100 < k < 120 else 60.0) for k in range(600)]
    keep_readings(values)
    _log(demo, page, "alerts")
    limit = page.locator("tr", has_text="Humidity above")
    expect(limit.locator(".rung")).to_contain_text("would have rung once")
    slider = limit.locator("[type=range]")
    slider.focus()
    for _ in range(10):
        page.keyboard.press("ArrowRight")
    expect(limit.locator(".rung")).to_contain_text("would never have rung")
    assert axe() == []
    # It was kept once the hand rested, and without a press being lost; a reload shows it.
    expect(page.get_by_role("button", name=re.compile("^Undo")).first).to_be_enabled()
    page.reload()
    expect(page.locator("tr", has_text="Humidity above").locator("[name$=value]")).to_have_value("90")


def test_a_plug_is_asked_before_it_switches(demo, page, axe, hub):
    from canopy.logs.pointed import Pointer
    from canopy_web.logbook.sources import SourceShape, Switched, open_at

    shape = SourceShape(
        values=(Pointer(path="$.power_w", quantity="power_w", name="Fan's plug"),),
        switch=Switched(address=f"{hub.url}/switch", feeds="fan"),
    )
    open_at(GrowPlan.objects.get(), "berry-tent", "pull", "Fan's plug", f"{hub.url}/x", shape)
    _log(demo, page, "sensors")
    page.get_by_role("button", name="Switch Fan's plug").click()
    expect(page.locator(".plug")).to_contain_text("Heat and damp gather at once")
    assert axe() == []
    assert hub.told == []
    page.locator("[name$=minutes]").fill("20")
    page.get_by_role("button", name="Yes, switch it off").click()
    expect(page.locator("#said")).to_contain_text("on again in 20 min")
    assert hub.told[0]["minutes"] == 20
    assert Switching.objects.get().by is not None


def test_a_year_at_a_glance_is_read_with_the_arrow_keys(demo, page, axe):
    row = GrowPlan.objects.get()
    air = sensor_for(row, "berry-tent", "air_c", "Air")
    begin = int(time.time()) // 86400 * 86400 - 40 * 86400
    keep_readings([(air.pk, begin + 1800 * k, 18.0 + (k // 2) % 24 / 4) for k in range(40 * 48)])
    _log(demo, page, "traces")
    page.locator("#glance > summary").click()
    canvas = page.locator(".glances canvas").first
    expect(canvas).to_be_visible()
    words = page.locator(".glances [role=status]").first
    expect(words).to_contain_text("12:00: 21.0 °C")
    canvas.focus()
    page.keyboard.press("ArrowRight")
    expect(words).to_contain_text("13:00: 21.3 °C")
    before = words.text_content()
    page.keyboard.press("ArrowUp")
    assert words.text_content() != before
    page.wait_for_load_state("networkidle")
    assert axe() == []
    page.set_viewport_size({"width": 390, "height": 844})
    fits(page)
    assert Reading.objects.count() == 1920
    assert Sensor.objects.count() == 1
