import pytest
from playwright.sync_api import expect

from tests.browser.conftest import fits

pytestmark = [pytest.mark.browser, pytest.mark.django_db(transaction=True)]


def test_a_scenario_is_played_paused_and_turned_by_keyboard(demo, page, axe):
    page.goto(f"{demo}/trainer/")
    page.get_by_role("link", name="Too dry a cabinet").click()
    clock, humidity = page.locator("#clock"), page.locator(".course").first.locator(".now")
    expect(clock).to_have_text("07:00")
    expect(humidity).to_contain_text("too little")
    # Turned before it begins: fan to 15 %, the hygrostat to 60 %, by arrow keys alone.
    page.locator("[data-knob=fan] input:checked").focus()
    for _ in range(4):
        page.keyboard.press("ArrowLeft")
    page.locator("[data-knob=mist] input:checked").focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    expect(page.locator("[data-knob=fan] input:checked")).to_have_value("0.15")
    page.keyboard.press("Space")
    expect(humidity).to_contain_text("inside")
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Go on")).to_be_visible()
    held = clock.inner_text()
    page.wait_for_timeout(300)
    assert clock.inner_text() == held
    assert axe() == []
    page.get_by_role("button", name="from the beginning").click()
    expect(clock).to_have_text("07:00")
    expect(page.locator("[data-knob=fan] input:checked")).to_have_value("1")


def test_trouble_is_played_through_and_its_alert_kept(demo, page, axe):
    page.get_by_role("link", name="Berry tent", exact=True).last.click()
    page.locator(".bar").get_by_role("link", name="Climate").click()
    page.get_by_role("link", name="What if").click()
    page.locator("#fault-exhaust").get_by_role("button").click()
    expect(page.locator(".outcome")).to_contain_text("After")
    assert axe() == []
    page.get_by_role("button", name="Keep this alert").click()
    expect(page.get_by_role("heading", name="Alerts you keep")).to_be_visible()
    page.get_by_role("link", name="Devices and settings").click()
    page.get_by_role("button", name="What would it take?").click()
    expect(page.locator("#sized")).to_contain_text("Heating", timeout=90_000)
    assert axe() == []


def test_what_was_asked_in_a_schedule_outlives_the_climate_that_comes_late(demo, page):
    held = []
    page.route("**/follow/**", lambda route: held.append(route))
    plan = page.locator("a", has_text="Circuits, rooms and tariff").get_attribute("href")
    page.goto(f"{demo}{plan}spaces/berry-tent/light/")
    page.locator("[name=lamp-1-z_m]").fill("1.1 m")
    with page.expect_response(lambda answer: answer.request.method == "POST"):
        page.locator("[name=lamp-1-z_m]").press("Tab")
    page.goto(f"{demo}{plan}spaces/berry-tent/climate/?tab=controls")
    page.get_by_role("button", name="What would it take?").click()
    expect(page.locator("#sized")).to_contain_text("Heating", timeout=90_000)
    assert held, "the climate of this page was not asked for"
    with page.expect_response(lambda answer: "/follow/" in answer.url):
        held[-1].continue_()
    expect(page.locator("#follow")).to_have_count(0)
    expect(page.locator("#sized")).to_contain_text("Heating")


@pytest.mark.parametrize("tab", ["day&hour=14", "controls", "rehearse"])
def test_each_tab_of_the_climate_fits_a_phone(demo, page, tab):
    page.set_viewport_size({"width": 390, "height": 844})
    plan = page.locator("a", has_text="Circuits, rooms and tariff").get_attribute("href")
    page.goto(f"{demo}{plan}spaces/fern-case/climate/?tab={tab}")
    expect(page.locator("#schedule .tabs")).to_be_visible()
    fits(page)
    page.goto(f"{demo}/trainer/closed-loop/")
    expect(page.locator(".course polyline").first).to_be_attached()
    fits(page)
