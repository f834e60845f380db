"""What a measured picture says, in words, and the changes by which a plan follows it."""

from __future__ import annotations

import datetime as dt
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404

from canopy.design.change import Remedy
from canopy.margin import Amount, sentence
from canopy.pictures.measured import Reading
from canopy.plan import Space
from canopy.quantities import Reader
from canopy.review.finding import Finding
from canopy.review.pictured import leaf_areas, spread_changes, spreads
from canopy.review.trends import Trend
from canopy.season import standing_of
from canopy.season.standing import Standing, leaf_group
from canopy_web.photos.models import PictureMeasure
from canopy_web.stations.review.following import correcting
from canopy_web.workspace.proposals import show_or_do
from canopy_web.workspace.where import Where, at_space


def hue_words(found: Trend) -> str:
    """How leaves change their colour, in a week."""
    if found.why_not:
        return ""
    if not found.sure:
        return "their colour does not change beyond chance"
    way = "greener" if found.a_day > 0 else "yellower"
    return f"they turn {way}, by {abs(7 * found.a_day):.1f}° of hue a week"


def plants_told(here: Standing, reading: Reading, reader: Reader) -> list[dict[str, Any]]:
    """The spread of each plant in the picture and in the plan."""
    return [
        {
            "number": item.plant.number,
            "name": item.plant.crop.name,
            "planned": _length(item.plant.spread_m, reader),
            "seen": ("at least " if item.at_least else "") + _length(item.seen.spread_m, reader),
            "differs": item.differs,
            "lai": "" if item.seen.lai is None or item.at_least else f"{item.seen.lai:.1f} ± {item.seen.lai_error:.1f}",
            "planned_lai": f"{item.plant.lai:.1f}",
        }
        for item in spreads(here, reading)
    ]


def _length(value: float, reader: Reader) -> str:
    return Amount(value=value, unit="length", decimals=0).text(reader)


def follow_rows(space: Space, here: Standing, reading: Reading, day: dt.date, reader: Reader) -> dict[str, Any]:
    """What the plan can follow on a click: spreads, and leaf area by planting; why not where it cannot."""
    areas = []
    for item in leaf_areas(here, reading, day):
        name = _group_name(here, item.target or "")
        taken = any(one.about == ("leaf-area", item.target or "") and one.found_on == day for one in space.learnt)
        row = {"key": item.target, "name": name, "why": item.limits, "taken": taken, "found": ""}
        if item.grade != "unknown" and item.found is not None and item.off is not None:
            row |= {
                "found": f"{item.found:.1f} ± {item.off:.1f}",
                "computed": f"{item.computed:.1f}",
                "same": abs((item.factor or 1) - 1) < max(0.05, 0.5 * (item.standard_error or 0)),
            }
        elif item.found is not None:
            row["why"] = "too unsure to follow"
        areas.append(row)
    return {"spreads": len(spread_changes(spreads(here, reading), day)), "areas": areas}


def _group_name(here: Standing, key: str) -> str:
    plant = next(plant for plant in here.plants if leaf_group(plant.plant) == key)
    return plant.planting.name if plant.planting else plant.crop.name


@at_space
def follow(request: HttpRequest, where: Where, pk: int) -> HttpResponse:
    """Show what following a picture would move; on POST follow it: all its spreads, or a planting's leaf area."""
    kept = get_object_or_404(
        PictureMeasure.objects.select_related("photo").defer("flat", "mask", "photo__image", "photo__small"),
        photo__plan=where.row,
        photo__space_id=where.space.id,
        photo__pk=pk,
    )
    what = (request.POST if request.method == "POST" else request.GET).get("what", "")
    day = kept.photo.day
    here, reading = standing_of(where.space, day, where.cast), Reading.model_validate(kept.reading)
    proposal = _spreading(here, reading, day) if what == "spreads" else _leafing(where, here, reading, day, what)
    over, how = "The plan follows this picture already.", "review-picture-follow"
    return show_or_do(request, where, proposal, "review/_take.html", nothing=over, over=over, how=how, pk=pk, key=what)


def _spreading(here: Standing, reading: Reading, day: dt.date) -> Remedy | None:
    changes = spread_changes(spreads(here, reading), day)
    n = len(changes)
    label = sentence(f"Follow the spread of {n} plant{'s' if n != 1 else ''} in the picture of {day.day} {day:%b}")
    return Remedy(label=label, changes=changes) if changes else None


def _leafing(where: Where, here: Standing, reading: Reading, day: dt.date, key: str) -> Remedy | None:
    found: Finding | None = next((item for item in leaf_areas(here, reading, day) if item.target == key), None)
    if found is None:
        raise Http404
    if found.grade == "unknown" or found.found is None:
        return None
    words = f"Follow the leaf area of {_group_name(here, key)}: {found.found:.1f} instead of {found.computed:.1f}"
    return Remedy(label=sentence(words), changes=correcting(where, found))
