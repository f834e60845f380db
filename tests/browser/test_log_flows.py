"""The log on a phone and a laptop: a harvest without reach, a table taken in, traces drawn, an alert seen."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import fits

pytestmark = [pytest.mark.browser, pytest.mark.django_db(transaction=True)]


@pytest.fixture(autouse=True)
def _own_folder(settings, tmp_path):
    settings.DATA = tmp_path


def _log(demo, page, tab="write", space="berry-tent"):
    plan = page.locator("a", has_text="Circuits, rooms and tariff").get_attribute("href")
    page.goto(f"{demo}{plan}spaces/{space}/log/?tab={tab}")
    page.wait_for_selector(".tabs")


def _week(tmp_path):
    lines = ["Datum;Uhr;Temperatur °C;Feuchte %"]
    for day in range(20, 28):
        for hour in range(24):
            lit = 6 <= hour < 20
            lines += [
                f"{day}.11.2026;{hour:02d}:{m:02d};{21 + 3 * lit},{m % 10};{60 - 5 * lit}" for m in range(0, 60, 10)
            ]
    path = tmp_path / "week.csv"
    path.write_text("\n".join(lines) + "\n")
    return str(path)


def test_water_is_written_down_in_two_taps_on_a_phone(demo, page, axe):
    page.set_viewport_size({"width": 390, "height": 844})
    _log(demo, page)
    page.locator(".log-kind > summary", has_text="Water").click()
    page.locator("[name=log-water-litres]").fill("1.5 L")
    page.get_by_role("button", name="Keep").click()
    expect(page.locator(".log-list")).to_contain_text("1.5")
    # From now on two taps are enough: the last figure stands there.
    page.locator(".log-kind > summary", has_text="Water").click()
    page.get_by_role("button", name="Keep").click()
    expect(page.locator(".log-list li")).to_have_count(2)
    assert axe() == []
    fits(page)


@pytest.mark.answers_fail
def test_a_harvest_is_logged_without_reach_and_goes_once(demo, page, context):
    page.set_viewport_size({"width": 390, "height": 844})
    _log(demo, page)
    page.wait_for_load_state("networkidle")
    context.set_offline(True)
    for weight in ("250 g", "300 g"):
        page.locator(".log-kind > summary", has_text="Harvest").click()
        page.locator("[name=log-harvest-weight_kg]").fill(weight)
        page.locator("details[open]").get_by_role("button", name="Keep").click()
    expect(page.locator("#outbox")).to_contain_text("2 entries wait")
    context.set_offline(False)
    page.reload()
    expect(page.locator("#outbox")).to_have_count(0)
    expect(page.locator(".log-list li")).to_have_count(2)
    page.reload()
    expect(page.locator(".log-list li")).to_have_count(2)


def test_a_table_is_taken_in_and_its_traces_are_drawn(demo, page, axe, tmp_path):
    _log(demo, page, "sensors")
    page.locator("#table-file").set_input_files(_week(tmp_path))
    page.get_by_role("button", name="Look at it").click()
    expect(page.locator("#table-in")).to_contain_text("How the first rows are read")
    assert axe() == []
    page.get_by_role("button", name="Take it in").click()
    expect(page.locator("#table-in")).to_contain_text("is in.", timeout=30_000)
    page.get_by_role("link", name="Look at the traces").click()
    expect(page.locator(".log-charts canvas").first).to_be_visible()
    # Two that were read, two that follow from them, and what ran.
    expect(page.locator(".log-charts h3")).to_have_count(5)
    # What is drawn is said in words, too.
    expect(page.locator("[data-name=Highest]").first).to_be_visible()
    page.wait_for_load_state("networkidle")
    assert axe() == []
    page.set_viewport_size({"width": 390, "height": 844})
    fits(page)
    page.locator(".tabs").get_by_role("link", name="Alerts").click()
    page.get_by_role("button", name=re.compile("Watch Air temperature above")).first.click()
    expect(page.locator(".rung").first).to_contain_text("rung")
    assert axe() == []


def test_a_large_table_is_sent_in_pieces(demo, page, tmp_path):
    path = tmp_path / "large.csv"
    lines = (
        f"2026-11-{day:02d} {h:02d}:{m:02d}:{s:02d},2{s % 10}.5"
        for day in range(1, 6)
        for h in range(24)
        for m in range(60)
        for s in range(60)
    )
    path.write_text("time,Temperature\n" + "\n".join(lines) + "\n")
    assert path.stat().st_size > 8_000_000
    _log(demo, page, "sensors")
    with page.expect_response(lambda answer: "/table/piece/" in answer.url and answer.text().isdigit()):
        page.locator("#table-file").set_input_files(str(path))
        page.get_by_role("button", name="Look at it").click()
    expect(page.locator("#table-in")).to_contain_text("How the first rows are read", timeout=30_000)


def test_a_file_that_is_no_table_is_told_beside_its_field(demo, page, tmp_path):
    path = tmp_path / "x.csv"
    path.write_text("only words here\n")
    _log(demo, page, "sensors")
    page.locator("#table-file").set_input_files(str(path))
    page.get_by_role("button", name="Look at it").click()
    expect(page.locator("#table-in .wrong")).to_contain_text("This is no table")
    expect(page.locator("#workspace")).to_have_count(1)


def test_today_is_settled_by_thumb(demo, page, axe):
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{demo}/today/")
    done = page.get_by_role("button", name="Done: Look for pests").first
    done.wait_for()
    page.wait_for_load_state("networkidle")
    before = page.get_by_role("button", name=re.compile("^Done")).count()
    assert axe() == []
    done.click()
    expect(page.get_by_role("button", name=re.compile("^Done"))).to_have_count(before - 1)
    page.reload()
    page.wait_for_load_state("networkidle")
    expect(page.get_by_role("button", name=re.compile("^Done"))).to_have_count(before - 1)
    fits(page)


def _ready(page, scope):
    """Wait until the worker of a page has laid it by."""
    page.wait_for_function(
        """async (scope) => {
          const own = await navigator.serviceWorker.getRegistration(scope);
          if (!own || !own.active) return false;
          const found = await caches.match(new URL(scope, location.origin).href);
          return Boolean(found);
        }""",
        arg=scope,
    )


@pytest.mark.answers_fail
def test_today_and_the_log_open_without_reach(demo, page, context):
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{demo}/today/")
    page.get_by_role("button", name="Done: Look for pests").first.wait_for()
    log = page.locator("h2 a[data-reach]").first.get_attribute("href")
    _ready(page, "/today/")
    _ready(page, log)
    # Once more, now by way of the worker, so that parts that came later are laid by too.
    page.reload()
    page.wait_for_load_state("networkidle")
    context.set_offline(True)
    page.reload()
    expect(page.get_by_role("button", name="Done: Look for pests").first).to_be_visible()
    page.get_by_role("link", name="Harvest").first.click()
    page.locator("[name=log-harvest-weight_kg]").fill("120 g")
    page.locator("details[open]").get_by_role("button", name="Keep").click()
    expect(page.locator("#outbox")).to_contain_text("1 entry waits")
    context.set_offline(False)
    page.goto(f"{demo}{log}")
    expect(page.locator(".log-list")).to_contain_text("120")
    expect(page.locator("#outbox")).to_have_count(0)


def test_what_was_laid_by_goes_when_one_signs_out(demo, page):
    page.goto(f"{demo}/today/")
    _ready(page, "/today/")
    page.context.clear_cookies()
    page.goto(f"{demo}/account/sign-in/")
    page.wait_for_function("async () => (await caches.keys()).length === 0")
    assert page.evaluate("navigator.serviceWorker.getRegistrations().then((found) => found.length)") == 0
