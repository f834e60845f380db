"""The day by hand: edges dragged and moved by keys, care ticked off on a phone, circuits made legal by one click."""

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import margin as open_margin

pytestmark = [pytest.mark.browser, pytest.mark.django_db(transaction=True)]


def test_an_edge_of_the_day_is_dragged_and_moved_by_keys(demo, page):
    """The lamps' morning, by mouse and by arrow keys; the typed hours say the same, and undo takes it back."""
    page.get_by_role("link", name="Berry tent", exact=True).last.click()
    page.get_by_role("navigation", name="Stations").get_by_text("Day").click()
    begins = page.get_by_role("slider", name="Berry tent, Lamps 1, 2: begins")
    expect(begins).to_have_attribute("aria-valuetext", "06:00")
    begins.evaluate("e => e.scrollIntoView({block: 'end'})")
    page.wait_for_timeout(400)
    box = begins.bounding_box()
    y = box["y"] + box["height"] / 2
    svg = page.locator(".day-band").bounding_box()
    hour = svg["width"] * 960 / 1120 / 24
    with page.expect_response("**/clock/try/"):
        page.mouse.move(box["x"] + 1, y)
        page.mouse.down()
        page.mouse.move(box["x"] + 1 + hour, y, steps=4)
        page.mouse.move(box["x"] + 1 + 2 * hour, y, steps=4)
    expect(page.locator("#band-said")).to_contain_text("08:00 to 20:30, 12.5 h")
    page.mouse.up()
    expect(begins).to_have_attribute("aria-valuetext", "08:00")
    expect(page.locator("[name='berry-tent-fixtures.lamp-1-start']")).to_have_value("08:00")
    expect(page.locator("[name='berry-tent-fixtures.lamp-1-hours']")).to_have_value("12.5")
    begins.focus()
    for _ in range(4):
        page.keyboard.press("ArrowRight")
    page.keyboard.press("Enter")
    expect(page.locator("[name='berry-tent-fixtures.lamp-1-start']")).to_have_value("09:00")
    expect(begins).to_be_focused()
    page.locator("#undo").click()
    expect(page.locator("[name='berry-tent-fixtures.lamp-1-start']")).to_have_value("08:00")


def test_care_is_ticked_off_on_a_phone(demo, page):
    page.set_viewport_size({"width": 390, "height": 800})
    page.get_by_role("link", name="Hall closet", exact=True).click()
    page.get_by_role("navigation", name="Stations").get_by_text("Day").click()
    page.get_by_role("link", name="Care").first.click()
    done = page.get_by_role("button", name="Done: Look for pests")
    assert done.bounding_box()["height"] >= 44
    done.click()
    expect(page.get_by_text("Written down as done: Look for pests.")).to_be_visible()
    expect(done).to_have_count(0)
    assert page.evaluate("document.documentElement.scrollWidth") <= 390


def test_the_overloaded_evening_is_made_legal_by_one_click(demo, page):
    page.get_by_role("link", name="Berry tent", exact=True).last.click()
    page.get_by_role("navigation", name="Stations").get_by_text("Power").click()
    item = open_margin(page, "Circuit load: Hall and utility")
    item.locator("> summary").click()
    item.get_by_role("button", name="Run Tumble dryer from").click()
    expect(page.locator(".alarm").filter(has_text="Overloaded")).to_have_count(0)
    expect(open_margin(page, "Circuit load: Hall and utility")).not_to_contain_text("overloaded")


@pytest.mark.parametrize("tab", ["clock", "care", "calendar"])
def test_the_day_reads_to_everybody(demo, page, axe, tab):
    page.get_by_role("link", name="Berry tent", exact=True).last.click()
    page.wait_for_selector("#view-front")
    page.goto(page.url.split("?")[0].replace("/light/", "/day/").replace("/space/", "/day/") + f"?tab={tab}")
    page.wait_for_selector(".tabs")
    assert axe() == []
    page.set_viewport_size({"width": 390, "height": 800})
    assert page.evaluate("document.documentElement.scrollWidth") <= 390


def test_the_pack_prints_on_few_pages(demo, page):
    page.get_by_role("link", name="Berry tent", exact=True).last.click()
    page.wait_for_selector("#view-front")
    page.goto(page.url.split("/light/")[0] + "/kit/pack/")
    for size in ("A4", "Letter"):
        paper = page.pdf(format=size)
        assert 4 <= paper.count(b"/Type /Page\n") <= 12


def test_the_kit_is_ticked_off_in_a_shop(demo, page, axe):
    page.set_viewport_size({"width": 390, "height": 800})
    page.get_by_role("link", name="Hall closet", exact=True).click()
    page.get_by_role("navigation", name="Stations").get_by_text("Kit").click()
    tick = page.get_by_role("checkbox", name="Have Rope hanger with ratchet")
    tick.check()
    expect(page.locator(".figures")).to_contain_text("22 of 23")
    expect(tick).to_be_checked()
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    page.wait_for_load_state("networkidle")
    assert axe() == []
