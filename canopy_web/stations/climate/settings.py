"""Which settings: a search through setpoints, speeds and triggers, and the best beside what is set."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET, require_POST

from canopy.design.climate.settings import Choice, Tried, best_of, choices_for, try_choice
from canopy.design.climate.sizing import NAMES, sizes_for
from canopy.evaluate.kept import key_of
from canopy_web.workspace.proposals import place
from canopy_web.workspace.reply import change
from canopy_web.workspace.search import Search
from canopy_web.workspace.where import Where, at_space

_search: Search[Choice, Tried] = Search(lambda choice: choice.key)


@require_GET
@at_space
def settings(request: HttpRequest, where: Where) -> HttpResponse:
    """Try some more settings, a slice a request; at the end the best beside what is set now."""
    report = where.report
    row = choices_for(report)
    done = _search.go_on(key_of(where.plan, where.space, where.day), row, lambda choice: try_choice(report, choice))
    shown: list[dict[str, Any]] = []
    if row and len(done) >= 2:
        reader = where.reader(report)
        now = done["now"]
        for item in (now, *best_of(done.values())):
            shown.append({"tried": item, "label": item.choice.label.say(reader), "now": item is now})
    return render(
        request,
        "climate/_settings.html",
        {
            **place(where),
            "done": len(done),
            "all": len(row),
            "finished": len(done) >= len(row),
            "sets": shown,
            "figures": _figures([item["tried"] for item in shown]),
        },
    )


def _figures(row: list[Tried]) -> list[tuple[str, list[str]]]:
    """Hours outside, a line a quantity."""
    return [(name, [_said(name, item.outside_h[name]) for item in row]) for name in row[0].outside_h] if row else []


def _said(name: str, hours: float) -> str:
    if name == "wet walls":
        return "dry" if hours < 0.05 else f"wet for {hours:.1f} h"
    return "inside" if hours < 0.05 else f"{hours:.1f} h outside"


@require_GET
@at_space
def sizing(request: HttpRequest, where: Where) -> HttpResponse:
    """Say what it would take, and which class does it."""
    reader = where.reader(where.report)
    rows = []
    for size in sizes_for(where.report):
        rows.append(
            {
                "name": NAMES[size.kind],
                "need": size.need.text(reader) if size.need else "",
                "on": size.on,
                "said": size.said.say(reader),
                "spec": size.spec,
                "missing": size.need is not None and size.spec is None and size.kind != "exhaust",
                "refill": f"{size.refill_days:.1f}" if size.refill_days else "",
            }
        )
    return render(request, "climate/_sizing.html", {**place(where), "rows": rows})


@require_POST
@at_space
def take_settings(request: HttpRequest, where: Where, choice: str) -> HttpResponse:
    """Set it all so."""
    found = next((item for item in choices_for(where.report) if item.key == choice and item.changes), None)
    if found is None:
        raise Http404
    label = found.label.say(where.reader(where.report))
    return change(request, where, f"Set: {label}", *found.changes)
