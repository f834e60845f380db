"""The tab that works backwards from the plants: dimmers, height, spacing, places, which lamps."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from canopy.design.light.adding import Offer, add_lamp, more_of, offers_for, three_of, try_offer, unmet_with
from canopy.design.light.choose import Choice, best_choices, bill_of, choices_for, settled, try_choice
from canopy.design.light.dimmers import set_dimmers
from canopy.design.light.heights import find_height, space_lamps
from canopy.design.light.moving import move_lamps
from canopy.design.light.places import place_plants
from canopy.design.light.proposal import Proposal
from canopy.evaluate import SpaceReport
from canopy.evaluate.kept import key_of, report_of
from canopy.light.spectra import leaning
from canopy.plan.edit import apply
from canopy.season import Standing
from canopy.words import is_number
from canopy_web.drawing.sheet import sheet
from canopy_web.workspace.proposals import place, show_or_do
from canopy_web.workspace.search import Search
from canopy_web.workspace.where import Where, at_space

# So many more lamps at once are worth asking for.
MOST_MORE = 12
_LEANING = {"leaf": "bluish, for leaf", "fruit": "reddish, for flower and fruit", "both": "neutral"}
TOOLS = (
    ("dimmers", "Set the dimmers", "The least power that brings every plant into its daily window."),
    ("height", "Find the height", "All lamps moved up or down together, dimmers set anew for each height."),
    ("spacing", "Space the lamps", "Drawn together or apart about their middle, dimmers set anew."),
    ("move", "Move the lamps", "Each to another place, turned or tilted where that helps, dimmers set anew."),
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


def _find(where: Where, tool: str) -> Proposal | None:
    here = where.report.here
    if tool in _TOOLS:
        return _TOOLS[tool](here)
    if tool.startswith("more-"):
        return _more(here, tool)
    choice = next((item for item in choices_for(here, where.plan.stock) if _name(item) == tool), None)
    if choice is None:
        raise Http404
    found = try_choice(here, choice).proposal
    return settled(here, found) if found else None


def _more(here: Standing, tool: str) -> Proposal | None:
    """So many more of a class, as an offer's key says it."""
    class_id, _, count = tool.removeprefix("more-").rpartition("-")
    if not is_number(count) or not 1 <= int(count) <= MOST_MORE:
        raise Http404
    offer = more_of(here, class_id, int(count))
    if offer is None:
        raise Http404
    return replace(offer.proposal, unmet=unmet_with(here, offer.proposal)) if offer.proposal else None


_offers: Search[Offer, Offer] = Search(lambda offer: f"more-{offer.class_id}-{offer.count}")


@require_GET
@at_space
def more(request: HttpRequest, where: Where) -> HttpResponse:
    """Try more lamps beside those that hang, a slice a request; at the end three sets of different price."""
    here = where.report.here
    row = offers_for(here)
    done = _offers.go_on(key_of(where.plan, where.space, where.day), row, lambda offer: try_offer(here, offer))
    sets = [
        {
            "offer": offer,
            "bill": bill_of(where.plan, here, offer.adds_w, beside=True),
            "leaning": _LEANING[leaning(offer.spec)],
        }
        for offer in three_of(done.values())
    ]
    kinds = dict.fromkeys((lamp.spec.class_id, lamp.spec.name) for lamp in where.space.fixtures if lamp.spec.class_id)
    return render(
        request,
        "light/_more.html",
        {
            **place(where),
            "done": len(done),
            "all": len(row),
            "finished": len(done) >= len(row),
            "sets": sets,
            "kinds": list(kinds),
            "counts": range(1, 7),
            "currency": where.plan.site.currency,
        },
    )


@require_GET
@at_space
def more_chosen(request: HttpRequest, where: Where) -> HttpResponse:
    """So many more of a class, as a person asks for them."""
    return backward(
        request,
        plan_pk=where.row.pk,
        space_id=where.space.id,
        station=where.station,
        house=where.house,
        tool=f"more-{request.GET.get('class', '')}-{request.GET.get('count', '')}",
    )


@at_space
def backward(request: HttpRequest, where: Where, tool: str) -> HttpResponse:
    """Show what a tool proposes, before and after side by side; on POST, do it."""
    found, shown = _find(where, tool), dict[str, Any](tool=tool)
    if found is not None and request.method == "GET":
        reader = where.reader(where.report)
        changed = apply(where.plan, where.space.id, found.changes)
        after = report_of(changed, changed.space(where.space.id) or where.space, day=where.day)
        shown |= {
            "before": sheet(where.report, reader, own_tops=True).plan,
            "after": sheet(after, reader, own_tops=True).plan,
        }
    nothing = "There is nothing better to propose here now."
    return show_or_do(request, where, found, "light/_proposal.html", nothing=nothing, **shown)


@require_GET
@at_space
def choose(request: HttpRequest, where: Where) -> HttpResponse:
    """Try the lamps of the library over the plants, a slice a request, saying how far it has come."""
    here = where.report.here
    row = choices_for(here, where.plan.stock)
    done = _search.go_on(key_of(where.plan, where.space, where.day), row, lambda choice: try_choice(here, choice))
    return render(
        request,
        "light/_choices.html",
        {
            **place(where),
            "done": len(done),
            "all": len(row),
            "best": [
                (item, bill_of(where.plan, here, item.tried.power_w if item.tried else 0.0))
                for item in best_choices(done.values())[:6]
            ],
            "currency": where.plan.site.currency,
            "finished": len(done) >= len(row),
        },
    )
