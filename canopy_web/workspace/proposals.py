"""Show what a proposal would move, or do it: the same for remedies, backward tools and sets."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from canopy.design.change import Remedy
from canopy.design.preview import preview
from canopy.quantities import Reader
from canopy_web.workspace.reply import change, page
from canopy_web.workspace.where import Where


def place(where: Where, reader: Reader | None = None) -> dict[str, Any]:
    """What every fragment of the workspace needs to write its addresses, and how figures are read there."""
    return {
        "where": where,
        "row": where.row,
        "space": where.space,
        "station": where.station,
        "tab": where.tab,
        "system": where.system,
        "reader": reader or where.reader(where.report),
    }


def show_or_do(
    request: HttpRequest, where: Where, found: Any, template: str, *, nothing: str, **more: Any
) -> HttpResponse:
    """Answer with what a proposal (a label and its changes, or None) would move; on POST do it.

    It is made anew from the plan as it is at each request, so what is done is what fits now.
    """
    label = found.label.say(where.reader(where.report)) if found else ""
    if request.method == "POST":
        if found is None:
            return page(request, where, words=nothing)
        return change(request, where, label, *found.changes)
    moved: list[Any] = []
    if found is not None:
        remedy = Remedy(label=found.label, changes=found.changes)
        moved = [item for item in preview(where.report, remedy) if item.before or item.after]
    shown = {"proposal": found, "label": label, "moved": moved, "worse": [item for item in moved if item.worse]}
    return render(request, template, {**shown, **place(where), **more})
