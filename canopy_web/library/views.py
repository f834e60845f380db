"""The crop library: a list that narrows as one types, and a page for each crop."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from canopy.evaluate.naming import cite
from canopy.library import GROUPS, Crop, cautions, crops
from canopy.margin import Amount
from canopy_web.accounts.context import preference_of
from canopy_web.drawing.ranges import range_charts
from canopy_web.forms.choices import GROUP_NAMES
from canopy_web.library import actions
from canopy_web.library.forms import CropForm
from canopy_web.library.models import OwnCrop
from canopy_web.library.querysets import own_crops, own_rows

DAY_LENGTH = {
    "neutral": "flowers at any day length",
    "long": "long days make it flower or grow on",
    "short": "flowers under short days",
    "unknown": "day length: not known to us",
}


def _matches(crop: Crop, words: str) -> bool:
    """Whether every word typed is found in a crop's names, other usual ones and botanical among them, or its group."""
    text = f"{' '.join(crop.called)} {GROUP_NAMES[crop.group]} {crop.group}".lower()
    return all(word in text for word in words.lower().split())


@require_GET
def crop_list(request: HttpRequest) -> HttpResponse:
    """List the crops by group; htmx asks again for each letter typed."""
    words = request.GET.get("q", "")[:60]
    found = [crop for crop in crops().values() if _matches(crop, words)]
    own = [crop for crop in own_crops(request.user).values() if _matches(crop, words)]
    groups = [("Your own", own)] + [
        (GROUP_NAMES[group], [crop for crop in found if crop.group == group]) for group in GROUPS
    ]
    context: dict[str, Any] = {
        "words": words,
        "groups": [item for item in groups if item[1]],
        "count": len(found) + len(own),
    }
    part = "library/_crops.html" if request.htmx else "library/crops.html"  # type: ignore[attr-defined]
    return render(request, part, context)


_HARVEST = {
    "once": "harvested all at once",
    "cut-again": "cut again and again",
    "picking": "picked over weeks",
    "transplant": "moved on when ready",
    "keep": "kept for its looks",
}


def _find(request: HttpRequest, crop_id: str) -> Crop:
    crop = crops().get(crop_id) or own_crops(request.user).get(crop_id)
    if crop is None:
        raise Http404
    return crop


@require_GET
def crop_page(request: HttpRequest, crop_id: str) -> HttpResponse:
    """Show a crop's windows, stage against stage, and where they come from."""
    crop = _find(request, crop_id)
    sources: dict[str, set[str]] = {}
    for stage in crop.stages:
        for family in ("light", "climate", "form", "feed"):
            cited = getattr(stage, family)
            if cited:
                sources.setdefault(cite(cited), set()).add(family)
    context = {
        "crop": crop,
        "own": crop.id not in crops(),
        "origin": crops().get(crop.copied_from),
        "group": GROUP_NAMES[crop.group],
        "day_length": DAY_LENGTH[crop.day_length],
        "harvest": _HARVEST[crop.harvest],
        "first_harvest": _first_harvest(crop),
        "base": Amount(value=crop.base_c, unit="temperature").text(preference_of(request).units),
        "cautions": [cautions()[key] for key in crop.cautions],
        "charts": range_charts(crop, preference_of(request).units),
        "sources": [(text, ", ".join(sorted(families))) for text, families in sources.items()],
    }
    return render(request, "library/crop.html", context)


_SINCE = {"sown": "from sowing", "planted": "from planting out"}


def _first_harvest(crop: Crop) -> list[str]:
    """Days to the first harvest, in words."""
    return [
        f"{row.days.low:.0f} to {row.days.high:.0f} days {_SINCE[row.since]}{f', {row.what}' if row.what else ''}"
        for row in crop.first_harvest
    ]


@require_GET
def caution_list(request: HttpRequest) -> HttpResponse:
    """List all cautions."""
    return render(request, "library/cautions.html", {"cautions": cautions().values()})


def copy_crop(request: HttpRequest, crop_id: str) -> HttpResponse:
    """Make a copy of a crop and change it."""
    crop = _find(request, crop_id)
    return _edit(request, crop.model_copy(update={"name": f"{crop.name}, mine"}), crop, None)


def edit_crop(request: HttpRequest, crop_id: str) -> HttpResponse:
    """Change a crop of one's own."""
    row = get_object_or_404(own_rows(request.user), key=crop_id)
    crop = Crop.model_validate(row.document)
    return _edit(request, crop, crop, row)


def _edit(request: HttpRequest, crop: Crop, shown: Crop, row: OwnCrop | None) -> HttpResponse:
    others = own_rows(request.user)
    taken = tuple((others.exclude(pk=row.pk) if row else others).values_list("name", flat=True))
    form = CropForm(crop, request.POST or None, system=preference_of(request).units, taken=taken)
    if request.method == "POST" and form.is_valid():
        made = form.made(row.key if row else actions.key_for(request.user, form.cleaned_data["name"]))
        if made is not None:
            actions.keep_crop(request.user, made)
            return redirect("library:crop", crop_id=made.id)
    return render(request, "library/copy.html", {"form": form, "crop": shown, "row": row})


@require_POST
def drop_crop(request: HttpRequest, crop_id: str) -> HttpResponse:
    """Forget a crop of one's own."""
    actions.drop_crop(get_object_or_404(own_rows(request.user), key=crop_id))
    return redirect("library:crops")
