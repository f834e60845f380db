"""Variants side by side: only what differs, and the payback of the power station."""

from __future__ import annotations

import pytest

from canopy.designer.beside import beside
from canopy.designer.outcome import outcome_of
from canopy.evaluate.power.options import side_by_side
from canopy.plan.changes import Change
from canopy.plan.edit import apply
from tests.core.designer.test_mending import broken


@pytest.fixture(scope="module")
def rows():
    """A tent as it stands, brighter, and with another name only."""
    plan = broken()
    lamps = plan.space("s").fixtures
    bright = [Change(collection="fixtures", part_id=lamp.id, values={"dim": 0.9}) for lamp in lamps]
    return [
        ("now", outcome_of(plan, "s")),
        ("brighter", outcome_of(apply(plan, "s", bright), "s")),
        ("renamed", outcome_of(apply(plan, "s", [Change(values={"name": "Other"})]), "s")),
    ]


def test_what_is_the_same_is_left_out(rows):
    found = beside([rows[0], rows[2]])
    assert found.things == ()
    assert found.margins == ()
    assert found.paybacks == (None, None)


def test_what_differs_is_shown_worst_first(rows):
    found = beside(rows)
    assert found.names == ("now", "brighter", "renamed")
    titles = [row.title for row in found.margins]
    assert any("daily light" in title for title in titles)
    for row in found.margins:
        assert len({(cell.verdict, cell.there.say()) if cell else None for cell in row.cells}) > 1
    ranks = [
        min(("short", "over", "tight", "unknown", "good").index(c.verdict) for c in r.cells if c) for r in found.margins
    ]
    assert ranks == sorted(ranks)


def test_payback_is_that_of_the_power_station(rows):
    found = beside(rows)
    again = side_by_side(rows[0][1].report, rows[1][1].report, ("now", "brighter")).payback_months
    assert found.paybacks[1] == again
