"""A real browser on the real pages; any request to another host, any console error fails the test."""

from __future__ import annotations

from pathlib import Path

import pytest
from django.conf import settings
from django.test import Client
from playwright.sync_api import expect

# Shared machines are slow at times; what is awaited comes, or the test fails all the same.
expect.set_options(timeout=20_000)
VENDOR = Path(__file__).parent / "vendor"
# The shell is the same browser without windows: it begins sooner, and uses less of the machine.
CHROMIUM = next(
    (path for path in ("/usr/bin/chromium-headless-shell", "/usr/bin/chromium") if Path(path).exists()),
    "/usr/bin/chromium",
)
ARGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


@pytest.fixture(scope="session")
def browser_type_launch_args():
    return {"executable_path": CHROMIUM, "args": ARGS, "headless": True}


@pytest.fixture(scope="session")
def browser_context_args():
    return {"viewport": {"width": 1280, "height": 800}}


@pytest.fixture
def site(live_server, page, request):
    """The address of the running application; asked hosts and console errors are watched."""
    strangers, complaints = [], []
    page.on(
        "request", lambda r: None if r.url.startswith((live_server.url, "data:", "blob:")) else strangers.append(r.url)
    )
    page.on("console", lambda m: complaints.append(m.text) if m.type == "error" else None)
    page.on("pageerror", lambda e: complaints.append(str(e)))
    yield live_server.url
    assert strangers == []
    if request.node.get_closest_marker("answers_fail") is None:
        assert complaints == []


@pytest.fixture
def demo(site, page):
    """The demo household, opened as its door does (which is tried by itself), looked at from its home."""
    visitor = Client()
    assert visitor.post("/account/demo/", {"time_zone": "UTC"}).status_code == 302
    key = settings.SESSION_COOKIE_NAME
    page.context.add_cookies([{"name": key, "value": visitor.cookies[key].value, "url": site}])
    page.goto(f"{site}/")
    return site


@pytest.fixture
def closet(demo, page):
    """The demo's hall closet at its Light station."""
    page.get_by_role("link", name="Hall closet", exact=True).click()
    page.wait_for_selector("#view-front")
    return page


def fits(page, width=390):
    """Nothing of the page is wider than it; charts that follow a new width a frame later are waited for."""
    for _ in range(100):
        if page.evaluate("document.documentElement.scrollWidth") <= width:
            return
        page.wait_for_timeout(100)
    raise AssertionError(f"wider than {width}: {page.evaluate('document.documentElement.scrollWidth')}")


def margin(page, title):
    """A margin of the workspace, its group opened first where it stands in one."""
    group = page.locator("details.group:not([open])", has=page.locator("details.margin", has_text=title))
    if group.count():
        group.first.locator("> summary").click()
    return page.locator("details.margin:not(.group)", has_text=title).first


_AXE = "['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa']"


@pytest.fixture
def axe(page):
    """Check a page for accessibility; gives the serious violations."""
    source = (VENDOR / "axe.min.js").read_text()

    def look(what: str) -> list[str]:
        found = page.evaluate(f"axe.run(document, {{runOnly: {what}, resultTypes: ['violations'], iframes: false}})")
        return [
            f"{item['id']}: {item['nodes'][0]['html'][:160]} {item['nodes'][0].get('failureSummary', '')[:200]}"
            for item in found["violations"]
            if item["impact"] in ("serious", "critical")
        ]

    def check(*, dark: bool = False) -> list[str]:
        page.evaluate(source)
        wrong = look(_AXE)
        if dark:
            # By dark nothing changes but colours, at once: what else there is was looked at by light.
            page.emulate_media(color_scheme="dark", reduced_motion="reduce")
            wrong += [f"by dark: {item}" for item in look("{type: 'rule', values: ['color-contrast']}")]
            page.emulate_media(color_scheme="light", reduced_motion="no-preference")
        return wrong

    return check
