"""The tab that works backwards from the plants: dimmers, height, spacing, places, which lamps."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from canopy.design.light.choose import Choice, best_choices, bill_of, choices_for, settled, try_choice
from canopy.design.light.dimmers import set_dimmers
from canopy.design.light.heights import find_height, space_lamps
from canopy.design.light.moving import add_lamp, move_lamps
from canopy.design.light.places import place_plants
from canopy.design.light.proposal import Proposal
from canopy.evaluate import SpaceReport
from canopy.evaluate.kept import key_of, report_of
from canopy.plan.edit import apply
from canopy.season import Standing
from canopy_web.drawing.sheet import sheet
from canopy_web.workspace.proposals import place, show_or_do
from canopy_web.workspace.search import Search
from canopy_web.workspace.where import Where, at_space

TOOLS = (
    ("dimmers", "Set the dimmers", "The least power that brings every plant into its daily window."),
    ("height", "Find the height", "All lamps moved up or down together, dimmers set anew for each height."),
    ("spacing", "Space the lamps", "Drawn together or apart about their middle, dimmers set anew."),
    ("move", "Move the lamps", "Each to another place, turned or tilted where that helps, dimmers set anew."),
    ("add", "Add a lamp", "One more of a class that hangs here, where it helps most, dimmers set anew."),
    (
        "places",
        "Place the plants",
        "Who stands where, among the places there are: by need for light, height and shade.",
    ),
)


def backwards_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab: the tools that make sense here."""
    return {
        "tools": TOOLS if where.space.fixtures and report.here.plants else (),
        "has_plants": bool(report.here.plants),
    }


_TOOLS = {
    "dimmers": set_dimmers,
    "height": find_height,
    "spacing": space_lamps,
    "move": move_lamps,
    "add": add_lamp,
    "places": place_plants,
}


def _name(choice: Choice) -> str:
    return f"lamps-{choice.class_id}-{choice.count}"


_search: Search[Choice, Choice] = Search(_name)


def _find(here: Standing, tool: str) -> Proposal | None:
    if tool in _TOOLS:
        return _TOOLS[tool](here)
    choice = next((item for item in choices_for(here) if _name(item) == tool), None)
    if choice is None:
        raise Http404
    found = try_choice(here, choice).proposal
    return settled(here, found) if found else None


@at_space
def backward(request: HttpRequest, where: Where, tool: str) -> HttpResponse:
    """Show what a tool proposes, before and after side by side; on POST, do it."""
    found, shown = _find(where.report.here, tool), dict[str, Any](tool=tool)
    if found is not None and request.method == "GET":
        changed = apply(where.plan, where.space.id, found.changes)
        after = report_of(changed, changed.space(where.space.id) or where.space, day=where.day)
        shown |= {
            "before": sheet(where.report, where.system, own_tops=True).plan,
            "after": sheet(after, where.system, own_tops=True).plan,
        }
    nothing = "There is nothing better to propose here now."
    return show_or_do(request, where, found, "light/_proposal.html", nothing=nothing, **shown)


@require_GET
@at_space
def choose(request: HttpRequest, where: Where) -> HttpResponse:
    """Try the lamps of the library over the plants, a slice a request, saying how far it has come."""
    here = where.report.here
    row = choices_for(here)
    done = _search.go_on(key_of(where.plan, where.space, where.day), row, lambda choice: try_choice(here, choice))
    return render(
        request,
        "light/_choices.html",
        {
            **place(where),
            "done": len(done),
            "all": len(row),
            "best": [(item, bill_of(where.plan, here, item)) for item in best_choices(done.values())[:6]],
            "currency": where.plan.site.currency,
            "finished": len(done) >= len(row),
        },
    )
