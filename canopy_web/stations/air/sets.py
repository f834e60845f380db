"""The tab of which fan and filter to fit."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from canopy.design.air.fan_sets import FanSet, best_sets, propose_set, sets_for, try_set
from canopy.evaluate import SpaceReport
from canopy.evaluate.air.amounts import SPARE
from canopy.evaluate.kept import key_of
from canopy_web.stations.air.path import flow_text
from canopy_web.workspace.proposals import place, show_or_do
from canopy_web.workspace.search import Search
from canopy_web.workspace.where import Where, at_space


def sets_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab: what is asked for, and how much a set must give."""
    need = report.breathing.governing.flow_m3_h
    return {
        "need": flow_text(need, where) if need else "",
        "wanted": flow_text(SPARE * need, where) if need else "",
        "strained": any(way.filters for way in where.space.airways),
        "reason": report.breathing.governing.reason,
    }


_search: Search[FanSet, FanSet] = Search(lambda choice: choice.key)


def _needed(where: Where) -> float:
    need = where.report.breathing.governing.flow_m3_h
    if not need:
        raise Http404
    return need


@require_GET
@at_space
def sets(request: HttpRequest, where: Where) -> HttpResponse:
    """Try fans and filters of the library in the space's path, a slice a request, saying how far it has come."""
    need, filtered, space = _needed(where), request.GET.get("filter", "1") == "1", where.space
    row = sets_for(space, need, filtered=filtered)
    key = (key_of(where.plan, space, where.day), round(need, 3), filtered)
    done = _search.go_on(key, row, lambda choice: try_set(where.plan, space, choice, need))
    return render(
        request,
        "air/_sets_tried.html",
        {
            **place(where),
            "done": len(done),
            "all": len(row),
            "best": best_sets(done.values()),
            "finished": len(done) >= len(row),
            "filter": "1" if filtered else "0",
            "need": need,
            "left": sum(1 for item in done.values() if item.trial is None),
        },
    )


@at_space
def fit_set(request: HttpRequest, where: Where, key: str) -> HttpResponse:
    """Show what a set would move; on POST, fit it."""
    need = _needed(where)
    filtered = not key.endswith(".none")
    choice = next((item for item in sets_for(where.space, need, filtered=filtered) if item.key == key), None)
    if choice is None:
        raise Http404
    found = propose_set(where.report, try_set(where.plan, where.space, choice, need), need)
    nothing = "This set is what is fitted already, or no longer serves."
    return show_or_do(request, where, found, "air/_set.html", nothing=nothing, key=key)
