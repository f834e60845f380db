"""The crop library: a list that narrows as one types, and a page for each crop."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from canopy.evaluate.light_margins import cite
from canopy.library import GROUPS, Crop, crops
from web.accounts.context import preference_of
from web.drawing.ranges import range_charts
from web.workspace.forms import GROUP_NAMES

DAY_LENGTH = {
    "neutral": "flowers at any day length", "long": "long days make it flower or grow on",
    "short": "flowers under short days", "unknown": "day length: not known to us",
}  # fmt: skip


def _matches(crop: Crop, words: str) -> bool:
    """Whether every word typed is found in a crop's names or group."""
    text = f"{crop.name} {crop.botanical} {GROUP_NAMES[crop.group]} {crop.group}".lower()
    return all(word in text for word in words.lower().split())


@require_GET
def crop_list(request: HttpRequest) -> HttpResponse:
    """List the crops by group; htmx asks again for each letter typed."""
    words = request.GET.get("q", "")[:60]
    found = [crop for crop in crops().values() if _matches(crop, words)]
    groups = [(GROUP_NAMES[group], [crop for crop in found if crop.group == group]) for group in GROUPS]
    context: dict[str, Any] = {"words": words, "groups": [item for item in groups if item[1]], "count": len(found)}
    part = "library/_crops.html" if request.htmx else "library/crops.html"  # type: ignore[attr-defined]
    return render(request, part, context)


@require_GET
def crop_page(request: HttpRequest, crop_id: str) -> HttpResponse:
    """Show a crop's windows, stage against stage, and where they come from."""
    crop = crops().get(crop_id)
    if crop is None:
        raise Http404
    sources: dict[str, set[str]] = {}
    for stage in crop.stages:
        for family in ("light", "climate", "form", "feed"):
            cited = getattr(stage, family)
            if cited:
                sources.setdefault(cite(cited), set()).add(family)
    context = {
        "crop": crop,
        "group": GROUP_NAMES[crop.group],
        "day_length": DAY_LENGTH[crop.day_length],
        "charts": range_charts(crop, preference_of(request).units),
        "sources": [(text, ", ".join(sorted(families))) for text, families in sources.items()],
    }
    return render(request, "library/crop.html", context)
