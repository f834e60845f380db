"""The tab of feed: a solution with its parts, or a mix with its first water."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.views.decorators.http import require_POST

from canopy.evaluate import SpaceReport
from canopy.evaluate.crops.company import kinds_of
from canopy.evaluate.crops.feeding import ph_window
from canopy.evaluate.naming import stage_name
from canopy.feed import USUAL_STRENGTH_MS_CM, in_order, ppm_of_ec
from canopy.library import Window, cautions
from canopy.margin import Amount
from canopy.plan.changes import Add, Remove
from canopy.quantities import number
from canopy_web.stations.crops import feed_forms
from canopy_web.workspace.edits import edit_listed, edit_record
from canopy_web.workspace.reply import change
from canopy_web.workspace.where import Where, at_space


def feed_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab."""
    feed, found = where.space.feed, report.feeding
    data = feed.model_dump(mode="json")
    target = found.target_ec_ms_cm

    def window(item: Window | None, unit: str) -> str:
        return Amount(value=item.low, high=item.high, unit=unit).text(where.system) if item else "not in the library"

    return {
        "feed_form": bad.get("feed") or feed_forms.FeedForm(data, system=where.system, prefix="feed"),
        "feed_parts": [
            (
                part,
                bad.get(f"feed-part/{part.id}") or feed_forms.FeedPartForm(data["parts"][n], prefix=f"feed-{part.id}"),
            )
            for n, part in enumerate(feed.parts)
        ],
        "feed": found,
        "solution": feed.way == "solution",
        "ec": window(found.ec, "mS/cm"),
        "ph": window(found.ph, ""),
        "target": None if target is None else Amount(value=target, unit="mS/cm").text(),
        "ppm": None if target is None else (number(ppm_of_ec(target, 500)), number(ppm_of_ec(target, 700))),
        "windows": [
            (
                stage_name(plant),
                window(plant.want.ec_ms_cm, "mS/cm"),
                window(ph_window(plant, feed), ""),
                plant.want.water,
            )
            for plant in kinds_of(report.here)
        ],
        "wetting": Amount(value=found.wetting_l, unit="volume").text(where.system),
        "mix_l": Amount(value=found.mix_l, unit="volume").text(where.system),
        "uptake": Amount(value=found.uptake_l_d, unit="volume").text(where.system),
        "order": [part.name for part in in_order(feed.parts)],
        "top_up_ec": ""
        if target is None
        else Amount(
            value=(0.0 if feed.above_water else feed.water_ec_ms_cm)
            + (target - (0.0 if feed.above_water else feed.water_ec_ms_cm)) * feed.top_up_share,
            unit="mS/cm",
            decimals=2,
        ).text(),
        "ph_dose": None
        if feed.ph_dose_ml_l is None or not feed.reservoir_l
        else Amount(value=feed.ph_dose_ml_l * feed.reservoir_l, unit="mL", decimals=0).text(),
        "caution": cautions()["acids"].text,
    }


@require_POST
@at_space
def edit_feed(request: HttpRequest, where: Where) -> HttpResponse:
    """Change how plants are fed."""
    return edit_record(request, where, feed_forms.FeedForm, under="feed", key="feed", label="Changed the feed")


_NAMES = ("Part A", "Part B", "Part C")


@require_POST
@at_space
def feed_part(request: HttpRequest, where: Where) -> HttpResponse:
    """Add, change or remove one part of the feed."""
    parts, at = where.space.feed.parts, ("feed",)
    what, key = request.POST.get("what", ""), request.POST.get("part", "")
    if what == "add":
        name = _NAMES[len(parts)] if len(parts) < len(_NAMES) else f"Part {len(parts) + 1}"
        fresh = {"name": name, "ec_ms_cm_per_ml_l": USUAL_STRENGTH_MS_CM}
        return change(request, where, f"Added {name}", Add(at=at, collection="parts", parts=(fresh,), prefix="part"))
    if what == "remove":
        going = next((part.name for part in parts if part.id == key), None)
        if going is None:
            raise Http404
        return change(request, where, f"Removed {going}", Remove(at=at, collection="parts", part_ids=(key,)))
    return edit_listed(
        request,
        where,
        lambda record: feed_forms.FeedPartForm(record, request.POST, prefix=f"feed-{key}"),
        at=at,
        collection="parts",
        part_id=key,
        key=f"feed-part/{key}",
        label=lambda record: f"Changed {record['name']}",
    )
