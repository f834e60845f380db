"""Take the pictures of docs/screenshots anew, from the demo."""

from __future__ import annotations

import sys
from pathlib import Path

from playwright.sync_api import Page, sync_playwright
from served import CHROMIUM, served

ROOT = Path(__file__).resolve().parent.parent
OUT = ROOT / "docs" / "screenshots"
_WARM_MS = 5_000
ARGS = ["--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking", "--disable-sync"]


def _what_if(page: Page) -> None:
    page.locator("#fault-exhaust").get_by_role("button").click()
    page.locator(".outcome").wait_for(timeout=30_000)
    page.wait_for_timeout(600)
    page.evaluate("document.querySelector('.rehearsed').scrollIntoView()")
    page.wait_for_timeout(300)


def _trained(page: Page) -> None:
    page.wait_for_timeout(800)
    page.locator("#faster").click()
    page.locator("#go").click()
    page.wait_for_timeout(3500)
    for knob, value in (("dry", "50"), ("loop", "1"), ("purge", "0"), ("valve", "1000")):
        page.locator(f"[data-knob={knob}] input[value='{value}']").check(force=True)
        page.wait_for_timeout(400)
    page.wait_for_timeout(9000)
    page.locator("#go").click()


def _whole(page: Page) -> None:
    """Look on until all kits have been tried."""
    page.get_by_text("whole kits tried").wait_for(timeout=120_000)
    page.wait_for_timeout(800)


def _logged(page: Page) -> None:
    """Show a week of traces, once their charts are drawn."""
    page.locator(".log-charts canvas").nth(3).wait_for()
    page.wait_for_timeout(800)
    page.evaluate("document.querySelector('nav.tabs').scrollIntoView()")
    page.wait_for_timeout(500)


def _taught(page: Page) -> None:
    """Show what the log says, once it has been played back, and what following it would move."""
    page.locator(".found-rows").wait_for(timeout=60_000)
    page.get_by_role("button", name="Follow: Exhaust").click()
    page.locator("#proposal .moves").wait_for(timeout=30_000)
    page.evaluate("document.querySelector('nav.tabs').scrollIntoView()")
    page.wait_for_timeout(500)


def _pictured(page: Page) -> None:
    """Measure the newest picture of the tent by the corners of the one before."""
    page.locator("[data-shot]").last.get_by_role("button", name="Measure").click()
    page.locator("[data-floor] img").wait_for()
    page.wait_for_timeout(500)
    page.get_by_role("button", name="Measure", exact=True).click()
    page.locator("[data-laid] img").first.wait_for()
    page.wait_for_timeout(1500)
    page.evaluate("document.querySelector('#picture-measured h2').scrollIntoView({block: 'center'})")
    page.wait_for_timeout(500)


# Four peppers in a small tent in the hall, quietly.
PEPPERS = (
    "ask-kind=tent&ask-width_m=80+cm&ask-depth_m=80+cm&ask-height_m=1.8+m&ask-crop_id_1=pepper&ask-count_1=4"
    "&ask-budget=650&ask-likes=quiet&ask-refuses=smell&ask-room_id=hall"
)
SHOTS = [
    # name, path, width, height, dark, act, whole page
    ("household", "/", 1280, 800, False, None, False),
    ("new-space", "/plans/1/spaces/new/", 1280, 800, False, None, False),
    ("space", "/plans/1/spaces/berry-tent/space/", 1280, 800, False, None, True),
    ("crops", "/plans/1/spaces/berry-tent/crops/", 1280, 800, False, None, True),
    ("light", "/plans/1/spaces/berry-tent/light/", 1280, 800, False, None, False),
    ("climate", "/plans/1/spaces/berry-tent/climate/", 1280, 800, True, None, True),
    ("whole-kit", f"/plans/1/whole/?{PEPPERS}", 1280, 800, False, _whole, True),
    ("log", "/plans/1/spaces/berry-tent/log/?tab=traces&span=week", 1280, 1000, False, _logged, False),
    ("review", "/plans/1/spaces/berry-tent/review/?tab=learn", 1280, 1000, False, _taught, False),
    ("today", "/today/", 390, 844, False, None, False),
    ("air", "/plans/1/spaces/berry-tent/air/", 1280, 800, False, None, True),
    ("power", "/plans/1/spaces/berry-tent/power/?tab=hours", 1280, 800, False, None, True),
    ("kit", "/plans/1/spaces/hall-closet/kit/?tab=holes", 1280, 800, False, None, True),
    ("day", "/plans/1/spaces/berry-tent/day/?whose=household", 1280, 800, False, None, True),
    ("care", "/plans/1/spaces/berry-tent/day/?tab=care", 1280, 800, False, None, True),
    ("what-if", "/plans/1/spaces/berry-tent/climate/?tab=rehearse", 1280, 800, False, _what_if, False),
    ("trainer", "/trainer/closed-loop/", 1280, 800, False, _trained, False),
    ("crop-page", "/library/crops/strawberry-day-neutral/", 1280, 800, False, None, False),
    ("phone", "/plans/1/spaces/berry-tent/review/?tab=pictures", 390, 844, False, _pictured, False),
]


def main() -> None:
    """Start a demo of its own, take every picture (or those that are named), stop it."""
    OUT.mkdir(parents=True, exist_ok=True)
    with served(lived=True) as site:
        _take(site)


def _take(site: str) -> None:
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path=CHROMIUM, args=ARGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.wait_for_timeout(_WARM_MS)
        page.goto(f"{site}/account/sign-in/")
        page.get_by_role("button", name="Open the demo").click()
        page.wait_for_url(f"{site}/")
        for name, path, width, height, dark, act, whole in SHOTS:
            if len(sys.argv) > 1 and name not in sys.argv[1:]:
                continue
            page.set_viewport_size({"width": width, "height": height})
            page.emulate_media(color_scheme="dark" if dark else "light")
            page.goto(site + path)
            # Where a search is looked on at, the network rests only at its end.
            page.wait_for_load_state("load" if act is _whole else "networkidle")
            if act:
                act(page)
            page.screenshot(path=OUT / f"{name}.png", full_page=whole)
            print(name)
        browser.close()


if __name__ == "__main__":
    main()
