"""The Air station in a real browser: the path in the drawing, by mouse and by keys; the search; the phone;
accessibility.
"""

import re

import pytest
from playwright.sync_api import expect

from canopy_web.stations.air.station import AIR
from tests.browser.conftest import fits
from tests.browser.conftest import margin as open_margin

AIR_TABS = [tab.key for tab in AIR.tabs]


pytestmark = [pytest.mark.browser, pytest.mark.django_db(transaction=True)]


@pytest.fixture
def tent(demo, page):
    """The demo's berry tent at its Air station."""
    page.get_by_role("link", name="Berry tent", exact=True).last.click()
    page.wait_for_selector("#view-front")
    page.locator(".stations a", has_text="Air").click()
    page.wait_for_selector("#view-front .airpart")
    return page


def test_a_part_clicked_in_the_drawing_is_changed_in_its_row(tent):
    page = tent
    page.locator("#view-front .airpart", has_text="A2").locator(".body").click()
    row = page.locator("tr[data-row='exhaust/fan']")
    expect(row).to_have_class("selected")
    row.get_by_label("speed").fill("70 %")
    row.get_by_label("speed").press("Tab")
    expect(page.locator(".way-figure").first).to_contain_text("27")
    page.get_by_role("button", name="Undo").click()
    expect(page.locator(".way-figure").first).to_contain_text("40")


def test_keys_reach_a_part_s_measures_and_move_ports_and_stirring_fans(tent):
    page = tent
    page.locator("#view-front .airpart", has_text="A3").focus()
    page.keyboard.press("Enter")
    expect(page.locator("[name='exhaust-duct-1-class_id']")).to_be_focused()
    port = page.locator("#view-front .port-part[data-id='port-2']")
    port.focus()
    page.keyboard.press("Shift+ArrowUp")
    expect(page.locator("[name='port-2-v_m']")).to_have_value("26 cm")
    # On this wall an opening slides up and down only.
    page.locator("#view-front .port-part[data-id='port-2']").focus()
    page.keyboard.press("ArrowRight")
    page.wait_for_timeout(700)
    expect(page.locator("[name='port-2-u_m']")).to_have_value("48 cm")
    page.get_by_role("link", name="Circulation").click()
    expect(page.locator("[name='stirrer-1-z_m']")).to_have_value("110 cm")
    page.locator("#view-side .stirrer").focus()
    page.keyboard.press("ArrowDown")
    expect(page.locator("[name='stirrer-1-z_m']")).to_have_value("109 cm")
    page.locator("#view-plan .stirrer").focus()
    page.keyboard.press("ArrowUp")
    expect(page.locator("[name='stirrer-1-y_m']")).to_have_value("51 cm")


def test_a_dragged_port_takes_its_way_along(tent):
    page = tent
    before = page.locator("#view-front .airpart .body").first.bounding_box()["y"]
    port = page.locator("#view-front .port-part[data-id='port-1'] .port").bounding_box()
    x, y = port["x"] + port["width"] / 2, port["y"] + port["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    for step in range(1, 6):
        page.mouse.move(x, y + 12 * step)
        page.wait_for_timeout(40)
    page.mouse.up()
    expect(page.locator("#undo")).to_be_enabled()
    expect(page.locator("[name='port-1-v_m']")).not_to_have_value("168 cm")
    assert page.locator("#view-front .airpart .body").first.bounding_box()["y"] > before + 20


def test_a_short_airflow_is_mended_by_one_click_that_shows_what_else_moves(tent):
    page = tent
    # Sized by the exchange that somebody chooses.
    page.get_by_role("link", name="How much").click()
    page.get_by_label("Fan sized by").select_option("exchange")
    expect(page.locator("#undo")).to_be_enabled()
    margin = open_margin(page, "Airflow")
    margin.locator("summary").click()
    button = margin.get_by_role("button", name="Fit Inline fan 100 mm and run it at 70 %")
    button.wait_for()
    expect(margin.locator(".moves")).to_contain_text("Noise")
    button.click()
    expect(page.locator("[data-margin='air.flow']").first).not_to_contain_text("short")
    page.get_by_role("link", name="Path and fan").click()
    expect(page.locator("[name='exhaust-fan-speed']")).to_have_value("70 %")


def test_fans_and_filters_are_compared_and_one_is_fitted(tent):
    page = tent
    page.get_by_role("link", name="Which fan and filter").click()
    page.get_by_role("button", name="With a carbon filter").click()
    expect(page.get_by_text("sets tried")).to_contain_text(re.compile(r"All \d+"))
    expect(page.locator(".sets-table")).to_contain_text("thriftiest")
    page.locator(".sets-table tr", has_text="quietest").get_by_role("button", name="show").click()
    page.locator("#set-proposal .btn-ink").click()
    expect(page.locator("#margins")).not_to_contain_text("need at least 44 m³/hshort")
    page.get_by_role("link", name="Path and fan").click()
    expect(page.locator(".way-rows")).to_contain_text("Inline fan 150 mm, electronic")


def test_a_first_way_of_air_from_an_empty_space(demo, page):
    page.get_by_role("link", name="Glass-door sideboard", exact=True).click()
    page.wait_for_selector("#view-front")
    page.locator(".stations a", has_text="Air").click()
    expect(page.get_by_text("No fan moves air here")).to_be_visible()
    page.get_by_role("button", name="Push-pull").click()
    expect(page.locator(".way")).to_have_count(2)
    expect(page.locator("#view-side .run")).to_have_count(2)
    page.get_by_role("button", name="Remove Intake").click()
    expect(page.locator(".way")).to_have_count(1)


@pytest.mark.parametrize("tab", AIR_TABS)
def test_each_leaf_is_accessible_and_fits_a_phone(tent, axe, tab):
    page = tent
    page.goto(f"{page.url.split('?')[0]}?tab={tab}")
    page.wait_for_selector("#view-front .airpart")
    assert axe() == []
    page.set_viewport_size({"width": 390, "height": 844})
    page.wait_for_timeout(200)
    fits(page)


def test_the_way_is_rearranged_in_the_drawing(tent):
    page = tent
    order = page.locator(".way-rows tbody tr")
    expect(order.nth(1)).to_have_attribute("data-row", "exhaust/fan")
    page.locator("#view-front .airpart[data-id='exhaust/fan']").focus()
    page.keyboard.press("ArrowRight")
    expect(order.nth(2)).to_have_attribute("data-row", "exhaust/fan")
    expect(page.locator("#view-front .airpart[data-id='exhaust/fan']")).to_be_focused()
    page.keyboard.press("ArrowLeft")
    expect(order.nth(1)).to_have_attribute("data-row", "exhaust/fan")
    part = page.locator("#view-front .airpart[data-id='exhaust/filter'] .body").bounding_box()
    onto = page.locator("#view-front .airpart[data-id='exhaust/duct-1'] .body").bounding_box()
    page.mouse.move(part["x"] + part["width"] / 2, part["y"] + part["height"] / 2)
    page.mouse.down()
    for step in range(1, 9):
        share = step / 8
        page.mouse.move(part["x"] + part["width"] / 2 + share * (onto["x"] - part["x"]), onto["y"] + onto["height"] / 2)
        page.wait_for_timeout(30)
    page.mouse.up()
    expect(order.nth(2)).to_have_attribute("data-row", "exhaust/filter")
    page.locator("#view-front .airpart[data-id='exhaust/bend-2']").focus()
    page.keyboard.press("Delete")
    expect(order).to_have_count(6)
    page.get_by_role("button", name="Undo").click()
    expect(order).to_have_count(7)
