"""Review in the browser: what ails a plant, by keyboard; each tab reads to everybody and fits a phone."""

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import expect

from canopy.standins.camera import lamp, photograph, scene
from tests.browser.conftest import fits

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


@pytest.mark.parametrize("tab", ["ail", "learn", "against", "pictures", "harvest", "runs"])
def test_each_tab_reads_to_everybody_and_fits_a_phone(review, page, axe, tab):
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{review}?tab={tab}")
    page.wait_for_load_state("networkidle")
    assert axe() == []
    fits(page)


@pytest.fixture(scope="module")
def from_above(tmp_path_factory, demo_plan):
    """A picture of the berry tent as a file, and where its floor's corners are in it."""
    tent = demo_plan.space("berry-tent")
    rng = np.random.default_rng(4)
    size = (tent.size.width_m, tent.size.depth_m)
    what = scene(0, rng, size_m=size, plants=[(p.x_m, p.y_m, 0.24) for p in tent.plants], px_m=0.002)
    corners = ((170, 90), (720, 85), (800, 640), (110, 650))
    picture, _ = photograph(what, lamp("white-led-4000"), rng, size=(900, 750), corners=corners)
    path = tmp_path_factory.mktemp("pictures") / "tent.jpg"
    Image.fromarray(picture).save(path, quality=90)
    return path, [(x / 900, y / 750) for x, y in corners]


def test_a_picture_is_marked_measured_and_looked_at(review, page, axe, from_above):
    path, corners = from_above
    page.goto(f"{review}?tab=pictures")
    page.locator("#picture").set_input_files(path)
    page.get_by_role("button", name="Keep it").click()
    page.get_by_role("button", name="Measure the picture of").click()
    image = page.locator("[data-floor] img")
    expect(image).to_be_visible()
    image.scroll_into_view_if_needed()
    for handle, (x, y) in zip(page.locator("[data-corner]").all(), corners, strict=True):
        # Grabbed where it stands, dragged to its corner.
        handle.scroll_into_view_if_needed()
        at, box = handle.bounding_box(), image.bounding_box()
        page.mouse.move(at["x"] + at["width"] / 2, at["y"] + at["height"] / 2)
        page.mouse.down()
        page.mouse.move(box["x"] + x * box["width"], box["y"] + y * box["height"], steps=4)
        page.mouse.up()
    first = page.locator("[data-corner]").first
    x = float(first.get_attribute("data-x"))
    assert x == pytest.approx(corners[0][0], abs=0.01)
    first.focus()
    page.keyboard.press("ArrowRight")
    assert float(first.get_attribute("data-x")) == pytest.approx(x + 0.002, abs=1e-3)
    assert axe() == []
    page.get_by_role("button", name="Measure", exact=True).click()
    expect(page.locator("#picture-measured h2")).to_contain_text("leaves cover", timeout=15_000)
    expect(page.locator("[data-shot] .num")).to_contain_text("%")
    page.get_by_label("show what counts").uncheck()
    expect(page.locator("[data-mask]")).to_be_hidden()
    page.locator("#laid-shift").focus()
    page.keyboard.press("ArrowRight")
    expect(page.locator("#laid-shift")).to_have_value("0.1", timeout=15_000)
    page.locator("#series-how").select_option("ghost")
    expect(page.locator("[data-second]")).to_be_visible()
    assert "laid" in page.locator("[data-then]").get_attribute("src")
    page.locator("#series-how").select_option("one")
    expect(page.locator("[data-second]")).to_be_hidden()
    assert axe() == []
