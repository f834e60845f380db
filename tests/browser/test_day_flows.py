"""The day by hand: edges dragged and moved by keys, care ticked off on a phone, circuits made legal by one click."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import fits
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
    fits(page)


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
    fits(page)


def test_the_pack_prints_on_few_pages(demo, page):
    page.get_by_role("link", name="Berry tent", exact=True).last.click()
    page.wait_for_selector("#view-front")
    page.goto(page.url.split("/light/")[0] + "/kit/pack/")
    sizes = {}
    for size in ("A4", "letter"):
        page.goto(page.url.split("?")[0] + f"?paper={size}")
        paper = page.pdf(prefer_css_page_size=True)
        assert 4 <= paper.count(b"/Type /Page\n") <= 12
        sizes[size] = re.search(rb"/MediaBox \[0 0 ([\d.]+) ([\d.]+)\]", paper).groups()
    # In points of 1/72 inch: A4 is 210 × 297 mm, Letter 8.5 × 11 in.
    assert [round(float(side)) for side in sizes["A4"]] == [595, 842]
    assert [round(float(side)) for side in sizes["letter"]] == [612, 792]


def test_templates_print_in_true_size(demo, page):
    page.get_by_role("link", name="Hall closet", exact=True).click()
    page.wait_for_selector("#view-front")
    page.goto(re.sub(r"/(light|space)/.*", "/kit/template/", page.url))
    page.emulate_media(media="print")
    box = page.locator(".true-size svg path").first.evaluate("p => p.getBoundingClientRect().width")
    # A ruler of 100 mm is 100 / 25.4 inches of 96 pixels.
    assert box == pytest.approx(100 / 25.4 * 96, abs=1)


@pytest.mark.answers_fail
def test_ticks_wait_without_reach_and_go_when_it_is_back(demo, page, context):
    page.set_viewport_size({"width": 390, "height": 800})
    page.get_by_role("link", name="Hall closet", exact=True).click()
    page.wait_for_selector("#view-front")
    page.goto(re.sub(r"/(light|space)/.*", "/kit/?tab=build", page.url))
    page.wait_for_load_state("networkidle")
    # The sheet is laid by once its worker is there, and opens without reach.
    page.wait_for_function("navigator.serviceWorker.getRegistration().then((own) => Boolean(own && own.active))")
    page.reload()
    page.wait_for_function("caches.match(location.href).then(Boolean)")
    context.set_offline(True)
    page.reload()
    first, second = page.locator(".kit-tick input").nth(0), page.locator(".kit-tick input").nth(1)
    first.check()
    second.check()
    expect(page.locator("#outbox")).to_contain_text("2 entries wait")
    second.uncheck()
    note = page.locator(".build-note").nth(2)
    note.fill("walls are not square")
    note.press("Tab")
    expect(page.locator("#outbox")).to_contain_text("4 entries wait")
    expect(first).to_be_checked()
    # Nothing is lost where the page is left and opened again.
    context.set_offline(False)
    page.reload()
    expect(page.locator("#outbox")).to_have_count(0)
    expect(page.locator(".kit-tick input").nth(0)).to_be_checked()
    expect(page.locator(".kit-tick input").nth(1)).not_to_be_checked()
    expect(page.locator(".build-note").nth(2)).to_have_value("walls are not square")
    page.reload()
    expect(page.locator(".figures")).to_contain_text("1 of ")


def test_an_owned_lamp_is_tried_before_one_is_bought(demo, page, axe):
    page.get_by_role("link", name="Berry tent", exact=True).last.click()
    page.wait_for_selector("#view-front")
    page.goto(re.sub(r"/(light|space)/.*", "/kit/?tab=stock", page.url))
    page.get_by_label("what", exact=True).select_option("other:lamp-board-240")
    page.get_by_role("button", name="I own this", exact=True).click()
    expect(page.locator(".stock-row")).to_contain_text("in no space, 1 free")
    page.evaluate("scrollTo(0, 0)")
    assert axe() == []
    page.locator(".tabs").get_by_role("link", name="To buy").click()
    swap = page.locator("details.swap").first
    swap.locator("summary").click()
    swap.get_by_role("button", name="Hang what you own").click()
    expect(page.locator(".kit-list")).to_contain_text("LED board, 240 W class")
    expect(page.locator(".kit-list li").filter(has_text="LED board, 240 W class")).to_contain_text("you own this")
    page.set_viewport_size({"width": 390, "height": 800})
    fits(page)


def test_the_kit_is_ticked_off_in_a_shop(demo, page, axe):
    page.set_viewport_size({"width": 390, "height": 800})
    page.get_by_role("link", name="Hall closet", exact=True).click()
    page.get_by_role("navigation", name="Stations").get_by_text("Kit").click()
    tick = page.get_by_role("checkbox", name="Have Rope hanger with ratchet")
    tick.check()
    expect(page.locator(".figures")).to_contain_text("26 of 27")
    expect(tick).to_be_checked()
    fits(page)
    page.wait_for_load_state("networkidle")
    assert axe() == []
