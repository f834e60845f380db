"""The Light station in a browser: dimmers that slide, points that are read, proposals, a survey begun on the plan."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import fits

pytestmark = [pytest.mark.browser, pytest.mark.django_db(transaction=True)]
TABS = ("lamps", "leaves", "backwards", "survey", "outdoors")


def _tab(page, name):
    page.locator(".tabs").get_by_role("link", name=name).click()
    page.wait_for_load_state()


def _plan(page):
    return page.locator("a", has_text="Circuits, rooms and tariff").get_attribute("href")


def test_a_dimmer_s_slider_shows_and_stores(closet):
    page = closet
    title = page.locator("#title-block a").first
    light = title.inner_text()
    slider = page.locator("[data-dim=lamp-1]")
    slider.focus()
    for _ in range(30):
        page.keyboard.press("ArrowLeft")
    expect(title).not_to_have_text(light)
    expect(page.locator("[name=lamp-1-dim]")).to_have_value("70 %")
    page.get_by_role("button", name="Undo").click()
    expect(page.locator("#said")).to_contain_text("Undone")


def test_pointing_at_the_plan_reads_the_light_there(closet):
    box = closet.locator("#view-plan .wall").bounding_box()
    closet.mouse.move(box["x"] + box["width"] * 0.35, box["y"] + box["height"] * 0.5)
    closet.mouse.move(box["x"] + box["width"] * 0.36, box["y"] + box["height"] * 0.5)
    expect(closet.locator("#probe")).to_have_text(re.compile(r"\d+\sµmol/m²/s, lamp 1 \d+, lamp 2 \d+, walls \d+"))


def test_a_plant_that_has_the_focus_is_read(closet):
    closet.locator("#view-plan .plant").first.focus()
    expect(closet.locator("#probe")).to_have_text(re.compile(r"\d+\sµmol/m²/s, .*walls \d+"))


def test_a_point_is_read_with_the_keyboard_too(closet):
    _tab(closet, "On the leaves")
    closet.get_by_label("From left", exact=False).fill("300 cm")
    closet.get_by_role("button", name="Read it").click()
    expect(closet.locator("#read")).to_contain_text(re.compile("outside|give"))
    closet.get_by_label("From left", exact=False).fill("40 cm")
    closet.get_by_role("button", name="Read it").click()
    expect(closet.locator("#read")).to_contain_text("walls")
    closet.get_by_label("Height, or none", exact=False).fill("")
    closet.get_by_role("button", name="Read it").click()
    expect(closet.locator("#read tbody tr")).to_have_count(19)


def test_a_proposal_is_seen_before_and_after_and_done_on_a_click(closet):
    page = closet
    title = page.locator("#title-block a").first
    light = title.inner_text()
    _tab(page, "Backwards")
    page.get_by_role("button", name="Find the height").click()
    proposal = page.locator(".proposal")
    expect(proposal.get_by_text("Before")).to_be_visible(timeout=30_000)
    expect(proposal.locator("svg.view")).to_have_count(2)
    expect(title).to_have_text(light)
    proposal.locator(".btn-ink").click()
    expect(title).not_to_have_text(light, timeout=30_000)
    page.get_by_role("button", name="Undo").click()
    expect(title).to_have_text(light)


def test_which_lamps_says_how_far_it_has_come(closet):
    _tab(closet, "Backwards")
    closet.get_by_role("button", name="Which lamps?").click()
    expect(closet.locator("#proposal progress")).to_be_visible(timeout=15_000)
    expect(closet.get_by_text(re.compile(r"All \d+ sets tried"))).to_be_visible(timeout=60_000)
    closet.get_by_role("button", name="show").first.click()
    expect(closet.locator(".proposal").get_by_text("After")).to_be_visible(timeout=30_000)


def test_a_survey_is_begun_on_the_plan(closet):
    page = closet
    _tab(page, "Survey")
    box = page.locator("#view-plan .wall").bounding_box()
    page.mouse.click(box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.55)
    lines = page.locator("#readings-lines")
    expect(lines).to_be_focused()
    assert re.fullmatch(r"[\d.]+ [\d.]+ [\d.]+ ", lines.input_value())
    page.keyboard.type("104")
    page.get_by_role("button", name="Take them in").click()
    expect(page.locator("tr", has_text="104").locator("[data-name='as PPFD']")).to_contain_text("104 ± 5")
    page.get_by_role("link", name="Print a sheet with numbered points").click()
    expect(page.locator(".point").first).to_be_visible()


def test_each_plant_s_own_top_and_the_section(closet):
    page = closet
    page.get_by_role("button", name="each plant's own top").click()
    expect(page.locator(".view-plan figcaption")).to_contain_text("each plant's own top")
    page.locator("#cut").focus()
    page.keyboard.press("Home")
    expect(page.locator(".view-front figcaption")).to_contain_text("from the front")
    page.get_by_role("button", name="hide the section").click()
    expect(page.locator(".view-front figcaption")).not_to_contain_text("from the front")


def test_the_light_tabs_have_no_serious_accessibility_violation(demo, page, axe):
    plan, found = _plan(page), {}
    for tab in TABS:
        page.goto(f"{demo}{plan}spaces/hall-closet/light/?tab={tab}")
        if tab == "backwards":
            page.get_by_role("button", name="Set the dimmers").click()
            page.locator("#proposal p").first.wait_for()
        if tab == "lamps":
            for own in page.locator("details.own").all():
                own.locator("summary").first.click()
        found[tab] = axe(dark=True)
    page.goto(f"{demo}{plan}spaces/hall-closet/light/survey/sheet/")
    found["sheet"] = axe(dark=True)
    assert {path: wrong for path, wrong in found.items() if wrong} == {}


def test_the_light_tabs_fit_a_phone(demo, page):
    page.set_viewport_size({"width": 390, "height": 844})
    plan = _plan(page)
    for tab in TABS:
        page.goto(f"{demo}{plan}spaces/hall-closet/light/?tab={tab}")
        fits(page)
    page.goto(f"{demo}{plan}spaces/hall-closet/light/survey/sheet/")
    fits(page)
