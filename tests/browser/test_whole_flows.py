"""The whole kit in the browser: asked with the keyboard, looked on, made a plan of; everything mended, variants."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import fits

pytestmark = pytest.mark.browser


@pytest.fixture
def plan(page):
    return page.locator("a", has_text="Circuits, rooms and tariff").get_attribute("href")


def test_a_kit_is_asked_for_by_keyboard_and_made_a_plan(demo, page, axe):
    page.get_by_role("link", name="What do I buy?").press("Enter")
    page.get_by_label("Shelf or rack").focus()
    page.keyboard.press("Space")
    for label, text in (("Inner width", "90 cm"), ("Inner depth", "25 cm"), ("Inner height", "45 cm")):
        page.get_by_label(label).fill(text)
    page.get_by_label("What shall grow there?").select_option("basil-sweet")
    page.get_by_label("How many?").first.fill("4")
    page.get_by_label("In which room?").select_option(label="Hall")
    assert axe() == []
    page.get_by_label("How many?").first.press("Enter")
    page.get_by_role("button", name="Make A the plan").wait_for(timeout=60_000)
    page.set_viewport_size({"width": 390, "height": 844})
    page.get_by_role("button", name="stop").click()
    expect(page.get_by_role("button", name="go on")).to_be_visible(timeout=20_000)
    assert axe() == []
    fits(page)
    page.get_by_role("button", name="Make A the plan").click()
    page.wait_for_url(re.compile(r"/kit/$"), timeout=60_000)
    expect(page.locator("#undo")).to_be_enabled()


def test_everything_is_mended_in_its_place(demo, page, plan, axe):
    page.goto(f"{demo}{plan}spaces/berry-tent/air/")
    page.get_by_role("button", name="mend everything").click()
    page.get_by_role("button", name=re.compile("^Do all")).wait_for(timeout=90_000)
    assert axe() == []
    page.locator(".mend-steps").get_by_role("button", name="do this").first.click()
    expect(page.locator("#undo")).to_be_enabled()


@pytest.mark.parametrize("path", ["which-space/", "variants/hall-closet/", "spaces/hall-closet/crops/?tab=suits"])
def test_the_other_pages_read_to_everybody_and_fit_a_phone(demo, page, plan, axe, path):
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{demo}{plan}{path}")
    page.wait_for_load_state("networkidle")
    assert axe() == []
    fits(page)


def test_variants_are_kept_read_on_a_phone_and_used(demo, page, plan, axe):
    page.goto(f"{demo}{plan}variants/hall-closet/")
    page.get_by_label("Keep it as").fill("As bought")
    page.get_by_label("Keep it as").press("Enter")
    expect(page.get_by_text("What is kept is as what stands now.")).to_be_visible()
    page.goto(f"{demo}{plan}spaces/hall-closet/light/")
    page.locator("[name=lamp-1-dim]").first.fill("55 %")
    page.locator("[name=lamp-1-dim]").first.press("Enter")
    expect(page.locator("#undo")).to_be_enabled()
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{demo}{plan}variants/hall-closet/")
    cell = page.locator("tr", has_text="Upper light limit").locator("td[data-name='As bought']")
    expect(cell).to_be_visible()
    assert "As bought" in cell.evaluate("element => getComputedStyle(element, '::before').content")
    assert axe() == []
    fits(page)
    page.get_by_role("button", name="use it").click()
    expect(page.locator("#undo")).to_be_enabled()
    expect(page.locator("#undo")).to_have_attribute("title", re.compile("Took the variant As bought"))
