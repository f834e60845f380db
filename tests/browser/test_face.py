"""The face of the workspace: the drawing in sight, danger first, groups, one bad field, a phone, paper."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import fits

pytestmark = [pytest.mark.browser, pytest.mark.django_db(transaction=True)]

STATIONS = ("space", "crops", "light", "air", "power")
PHONE = {"width": 390, "height": 844}
HALL = "/plans/{pk}/spaces/hall-closet/"


@pytest.fixture
def place(demo, page):
    """Where the demo's hall closet is."""
    pk = page.locator("a[href*='/spaces/']").first.get_attribute("href").split("/")[2]
    return demo + HALL.format(pk=pk)


def _top(page, selector):
    return page.locator(selector).first.bounding_box()["y"]


def test_the_drawing_stays_in_sight_while_the_schedule_scrolls(place, page):
    page.goto(f"{place}space/")
    full = page.locator("#sheet").bounding_box()["height"]
    length = page.evaluate("document.documentElement.scrollHeight")
    page.evaluate("window.scrollTo(0, 900)")
    expect(page.locator("html")).to_have_class(re.compile("stripped"))
    strip = page.locator(".in-sight").bounding_box()
    assert strip["height"] < full / 2
    assert 0 <= strip["y"] < 60
    # Nothing jumps: the page is as long as before, and what has the focus is never behind the strip.
    assert page.evaluate("document.documentElement.scrollHeight") == length
    page.locator("[name=ground-below_c], [name$=below_c]").first.focus()
    assert _top(page, "[name$=below_c]") > strip["y"] + strip["height"]
    page.evaluate("window.scrollTo(0, 0)")
    expect(page.locator("html")).not_to_have_class(re.compile("stripped"))


def test_an_edit_far_down_changes_the_strip_and_keeps_the_place(place, page):
    page.goto(f"{place}space/")
    page.evaluate("window.scrollTo(0, 900)")
    shelf = page.locator("[name=shelf-1-z_m], [name$='-z_m']").first
    shelf.scroll_into_view_if_needed()
    before = page.evaluate("window.scrollY")
    path = page.locator("#view-front .furniture.shelf").get_attribute("d")
    shelf.fill("50 cm")
    shelf.press("Tab")
    expect(page.locator("#view-front .furniture.shelf")).not_to_have_attribute("d", path)
    assert abs(page.evaluate("window.scrollY") - before) < 3
    expect(page.locator("html")).to_have_class(re.compile("stripped"))


def test_rows_and_drawing_mark_each_other_for_what_is_built_in_too(place, page):
    page.goto(f"{place}space/")
    page.locator("tbody[data-row] input").first.focus()
    expect(page.locator("#view-front .furniture.selected")).to_have_count(1)
    page.locator("#view-front .port-part").first.focus()
    expect(page.locator("tr[data-row].selected")).to_have_count(1)


def test_long_stations_have_links_to_their_parts(place, page):
    page.goto(f"{place}space/")
    page.get_by_role("navigation", name="Parts of this page").get_by_text("Openings").click()
    head = page.get_by_role("heading", name="Openings").bounding_box()
    assert 180 < head["y"] < 420


@pytest.mark.parametrize("station", STATIONS)
def test_on_a_phone_the_first_input_comes_within_a_screen_and_a_half(place, page, station):
    page.set_viewport_size(PHONE)
    page.goto(f"{place}{station}/")
    inputs = page.locator("#schedule :is(input:not([type=hidden]), select, textarea)").all()
    first = min(box["y"] for box in (item.bounding_box() for item in inputs) if box)
    # What is dangerous stands above all else, as long as it takes.
    above = page.locator(".alarm").first.bounding_box()["height"]
    assert first - above <= 1.5 * PHONE["height"]
    assert page.locator(".top").bounding_box()["height"] < 60
    assert page.locator("#groups > *:visible").count() <= 3
    assert page.evaluate("document.documentElement.scrollWidth") == PHONE["width"]
    page.get_by_role("button", name="all margins").click()
    expect(page.locator(".margins .calm").first).to_be_visible()
    page.get_by_role("button", name="Menu").click()
    expect(page.get_by_role("button", name="night")).to_be_visible()


@pytest.mark.parametrize(("width", "rows"), [(1280, 1), (390, 2)])
def test_ten_stations_have_room(place, page, width, rows):
    page.set_viewport_size({"width": width, "height": 844})
    page.goto(f"{place}light/")
    names = ["Space", "Crops", "Light", "Air", "Climate", "Power", "Day", "Kit", "Log", "Review"]
    page.evaluate(
        """names => { const list = document.querySelector('.stations ol'), one = list.children[0];
        list.replaceChildren(...names.map(name => { const item = one.cloneNode(true);
        item.querySelector('span').textContent = name; return item; })); }""",
        names,
    )
    tops = page.evaluate(
        "new Set([...document.querySelectorAll('.stations li')].map(item => item.getBoundingClientRect().top)).size"
    )
    assert tops == rows
    assert page.evaluate("document.documentElement.scrollWidth") == width
    wide = page.evaluate(
        "[...document.querySelectorAll('.stations a')].filter(item => item.scrollWidth > item.clientWidth + 1).length"
    )
    assert wide == 0
    expect(page.locator("#undo")).to_be_in_viewport(ratio=1)


def test_a_row_with_one_bad_field_keeps_the_others(place, page):
    page.goto(f"{place}light/")
    # Both within one row before anything is sent, as a browser does when it brings back a form.
    page.evaluate(
        "[['dim', '44'], ['x_m', 'wide']].forEach(([key, text]) => "
        "{ document.querySelector(`[name=lamp-1-${key}]`).value = text; })"
    )
    page.locator("[name=lamp-1-x_m]").dispatch_event("change")
    expect(page.locator("#said")).to_contain_text("The rest of the row is kept")
    expect(page.locator("[name=lamp-1-dim]")).to_have_value("44 %")
    expect(page.locator("[data-dim=lamp-1]")).to_have_value("0.44")
    bad = page.locator("[name=lamp-1-x_m]")
    expect(bad).to_have_value("wide")
    expect(bad).to_have_attribute("aria-invalid", "true")
    note = page.locator(f"#{bad.get_attribute('aria-describedby')}")
    expect(note).to_contain_text("“wide” is not a length")
    assert note.bounding_box()["y"] > bad.bounding_box()["y"]


def test_a_group_opens_to_the_change_that_mends_most_of_it(place, page):
    page.goto(f"{place}light/")
    group = page.locator("details.group", has_text="Light on the plants")
    expect(group.locator("> summary")).to_contain_text("short")
    group.locator("> summary").click()
    expect(group.get_by_text(re.compile(r"mends \d of \d")).first).to_be_visible(timeout=40_000)
    before = int(re.search(r"(\d+)\s+short", group.locator("> summary").inner_text())[1])
    group.locator(".remedy .btn-ink").first.click()
    expect(page.locator("#undo")).to_be_enabled(timeout=40_000)
    after = page.locator("details.group", has_text="Light on the plants").locator("> summary").inner_text()
    found = re.search(r"(\d+)\s+short", after)
    assert (int(found[1]) if found else 0) < before


def test_danger_stands_first_everywhere_with_its_caution_open(place, page):
    pk = place.split("/")[4]
    page.goto(f"{place.split('/plans/')[0]}/plans/{pk}/")
    page.get_by_role("button", name="Add a load").first.click()
    watts = page.locator("[name$=power_w]").last
    expect(watts).to_be_visible()
    count = page.locator("[name$=power_w]").count()
    for number in range(count):
        field = page.locator("[name$=power_w]").nth(number)
        with page.expect_response(f"**/plans/{pk}/"):
            field.fill("3900")
            field.press("Tab")
        break
    expect(page.get_by_text("overloaded").first).to_be_visible()
    expect(page.get_by_text("never fit a larger breaker").first).to_be_visible()
    for path in ("/", f"/plans/{pk}/spaces/berry-tent/crops/", f"/plans/{pk}/spaces/berry-tent/power/"):
        page.goto(place.split("/plans/")[0] + path)
        alarm = page.get_by_role("region", name="Danger").first
        expect(alarm).to_contain_text("Overloaded")
        expect(alarm).to_contain_text("never fit a larger breaker")
        expect(alarm).to_be_in_viewport()
    expect(page.locator("#margins details").first).to_contain_text("overloaded")


@pytest.mark.parametrize("station", STATIONS)
def test_printing_gives_a_sheet_that_fits_its_pages(place, page, station):
    page.goto(f"{place}{station}/")
    page.emulate_media(media="print")
    # A4 upright less its margins, at 96 dots an inch.
    page.set_viewport_size({"width": 703, "height": 1040})
    fits(page, 703)
    for gone in (".top", ".stations", ".tabs", "button", ".jumps", "summary.more", "input[type=range]"):
        assert page.locator(f"{gone}:visible").count() == 0, gone
    for there in ("#sheet", "#title-block", "#margins", "#schedule"):
        assert page.locator(there).is_visible()
    order = [_top(page, item) for item in ("#sheet", "#margins", "#schedule")]
    assert order == sorted(order)
    assert page.locator("#sheet").bounding_box()["height"] < 1040
    assert page.pdf(format="A4").count(b"/Type /Page\n") <= 4


@pytest.mark.parametrize("units", ["cm", "in"])
@pytest.mark.parametrize("space", ["berry-tent", "hall-closet", "fern-case"])
def test_no_value_is_clipped_at_1280(place, page, units, space):
    page.get_by_role("button", name=units, exact=True).click()
    for station in STATIONS:
        page.goto(f"{place.replace('hall-closet', space)}{station}/")
        clipped = page.evaluate(
            """() => { const canvas = document.createElement('canvas').getContext('2d');
            return [...document.querySelectorAll('#schedule :is(input[type=text], input[type=number], select)')]
            .filter(item => item.offsetParent).map(item => { const style = getComputedStyle(item);
            canvas.font = `${style.fontWeight} ${style.fontSize} ${style.fontFamily}`;
            const text = item.tagName === 'SELECT' ? item.selectedOptions[0]?.textContent ?? '' : item.value;
            const room = item.clientWidth - parseFloat(style.paddingLeft) - parseFloat(style.paddingRight);
            return [item.name, text, Math.round(canvas.measureText(text).width - room)]; })
            .filter(found => found[2] > 1); }"""
        )
        assert clipped == [], station


def test_on_a_touch_screen_what_can_be_pointed_at_can_be_tapped(browser, site):
    context = browser.new_context(viewport=PHONE, has_touch=True, is_mobile=True)
    page = context.new_page()
    page.goto(f"{site}/account/sign-in/")
    page.get_by_role("button", name="Open the demo").tap()
    page.get_by_role("link", name="Hall closet", exact=True).tap()
    page.wait_for_selector("#view-plan")
    box = page.locator("#view-plan .wall").bounding_box()
    page.touchscreen.tap(box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.55)
    expect(page.locator("#probe")).to_contain_text("µmol")
    probe, sheet = page.locator("#probe").bounding_box(), page.locator("#sheet").bounding_box()
    assert 0 <= probe["y"] - (sheet["y"] + sheet["height"]) < 260
    page.locator("#view-plan .plant").first.tap()
    expect(page.locator("#pointed")).to_contain_text("Plant 1")
    assert page.locator("[name=lamp-1-z_m]").get_attribute("inputmode") == "decimal"
    # A minus is not on every keyboard of figures.
    assert page.locator("[name=lamp-1-tilt_deg]").get_attribute("inputmode") is None
    context.close()


def test_undo_says_what_it_undoes_and_heeds_the_usual_keys(place, page):
    page.goto(f"{place}light/")
    page.locator("[name=lamp-1-z_m]").fill("130 cm")
    page.locator("[name=lamp-1-z_m]").press("Tab")
    expect(page.locator("#undo")).to_contain_text("Changed lamp 1")
    page.locator("#view-front .lamp").first.focus()
    page.keyboard.press("Meta+z")
    expect(page.locator("#said")).to_contain_text("Undone: Changed lamp 1")
    expect(page.locator("#redo")).to_contain_text("Changed lamp 1")
    page.locator("#view-front .lamp").first.focus()
    page.keyboard.press("Control+Shift+Z")
    expect(page.locator("[name=lamp-1-z_m]")).to_have_value("130 cm")
    page.locator("#view-front .lamp").first.focus()
    page.keyboard.press("Control+z")
    expect(page.locator("[name=lamp-1-z_m]")).to_have_value("152 cm")
