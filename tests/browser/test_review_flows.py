"""Review in the browser: what ails a plant, by keyboard; each tab reads to everybody and fits a phone."""

import pytest
from playwright.sync_api import expect

pytestmark = pytest.mark.browser


@pytest.fixture
def review(demo, page):
    plan = page.locator("a", has_text="Circuits, rooms and tariff").get_attribute("href")
    return f"{demo}{plan}spaces/berry-tent/review/"


def test_what_ails_it_is_found_by_keyboard(review, page, axe):
    page.goto(review)
    page.locator("#see-specks-silver").focus()
    page.keyboard.press("Space")
    expect(page.locator("#ailing .ailment").first).to_contain_text("Thrips", timeout=15_000)
    assert axe() == []
    page.locator("#see-specks-silver").focus()
    page.keyboard.press("Space")
    expect(page.locator("#ailing")).to_contain_text("Tick what you see", timeout=15_000)


def test_an_answer_is_kept_while_more_is_ticked(review, page):
    page.goto(review)
    page.locator("summary", has_text="Insects").click()
    page.locator("#see-flies-soil").check()
    page.locator("#ailing .proposal").get_by_role("button", name="Yes").click()
    expect(page.locator("#ailing input[type=hidden][form=ail-form]")).to_have_count(1, timeout=15_000)
    page.locator("summary", has_text="The whole plant").click()
    page.locator("#see-wilt-wet").check()
    page.wait_for_timeout(1500)
    expect(page.locator("#ailing input[type=hidden][form=ail-form]")).to_have_count(1)


@pytest.mark.parametrize("tab", ["ail", "learn", "against", "harvest", "runs"])
def test_each_tab_reads_to_everybody_and_fits_a_phone(review, page, axe, tab):
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{review}?tab={tab}")
    page.wait_for_load_state("networkidle")
    assert axe() == []
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
