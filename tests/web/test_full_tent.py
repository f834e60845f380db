"""What a page has by the hundred: lines and marks of plants, whole and escaped."""

import re
from html.parser import HTMLParser

import pytest

from canopy.plan import load
from canopy_web.planning import actions
from tests.conftest import ROOT

NASTY = 'A "<script>alert(1)</script>" & co'


class _Tags(HTMLParser):
    """Counts tags and notices what is not closed in its turn."""

    def __init__(self):
        super().__init__(convert_charrefs=True)
        self.open, self.wrong, self.rows, self.inputs, self.marks = [], [], [], [], []

    def handle_starttag(self, tag, attrs):
        given = dict(attrs)
        if tag == "tr" and given.get("data-row"):
            self.rows.append(given)
        if tag == "input" and (given.get("name") or "").startswith("plant-"):
            self.inputs.append(given)
        if tag == "g" and given.get("data-kind") == "plants":
            self.marks.append(given)
        if tag in ("tr", "td", "g", "select", "button", "table", "tbody"):
            self.open.append(tag)

    def handle_endtag(self, tag):
        if tag in ("tr", "td", "g", "select", "button", "table", "tbody") and (not self.open or self.open.pop() != tag):
            self.wrong.append(tag)


@pytest.fixture
def nasty(grower):
    """Plants that follow a planting with a name that looks like markup."""
    plan = load(ROOT / "examples" / "winter-guests.json")
    plantings = tuple(item.model_copy(update={"name": NASTY[:40]}) for item in plan.plantings)
    return actions.create_plan(grower, plan.model_copy(update={"plantings": plantings}))


def _page(client, row, space, query=""):
    return client.get(f"/plans/{row.pk}/spaces/{space}/crops/{query}").content.decode()


def test_each_plant_has_its_line_with_its_inputs_and_its_marks(mine, nasty):
    page, found = _page(mine, nasty, "winter-closet"), _Tags()
    found.feed(page)
    plants = load(ROOT / "examples" / "winter-guests.json").space("winter-closet").plants
    assert [row["data-row"] for row in found.rows] == [plant.id for plant in plants]
    assert found.wrong == []
    for row, plant in zip(found.rows, plants, strict=True):
        assert row["data-crop"] == plant.crop_id
        assert row["hx-post"].endswith(f"/crops/part/plants/{plant.id}/")
        assert row["hx-include"] == "this"
    names = {item["name"] for item in found.inputs}
    assert {f"{plant.id}-x_m" for plant in plants} <= names
    # In each of the three views a mark for every plant that is there on the day shown; lines of the others say so.
    here = [row["data-row"] for row in found.rows if "away" not in row["class"]]
    assert sorted(mark["data-id"] for mark in found.marks) == sorted(3 * here)
    assert 0 < len(here) < len(plants)


def test_names_that_look_like_markup_are_shown_as_text(mine, nasty):
    page = _page(mine, nasty, "winter-closet")
    assert "<script>alert" not in page
    assert "&lt;script&gt;" in page


def test_a_refused_figure_keeps_its_text_and_says_why_in_its_line(mine, nasty):
    plant = load(ROOT / "examples" / "winter-guests.json").space("winter-closet").plants[0].id
    url = f"/plans/{nasty.pk}/spaces/winter-closet/crops/part/plants/{plant}/"
    typed = {f"{plant}-x_m": '9 m" onfocus="x', f"{plant}-height_m": "33 cm"}
    page = mine.post(url, typed, headers={"HX-Request": "true"}).content.decode()
    found = _Tags()
    found.feed(page)
    field = next(item for item in found.inputs if item["name"] == f"{plant}-x_m")
    assert field["value"] == '9 m" onfocus="x'
    assert "onfocus" not in field
    assert field["aria-invalid"] == "true"
    assert re.search(rf'id="{field["aria-describedby"]}">[^<]+<', page)
    assert found.wrong == []


def test_the_selected_line_is_marked(mine, nasty):
    plant = load(ROOT / "examples" / "winter-guests.json").space("winter-closet").plants[2].id
    found = _Tags()
    found.feed(_page(mine, nasty, "winter-closet", f"?selected={plant}"))
    assert [row["data-row"] for row in found.rows if "selected" in row["class"]] == [plant]
