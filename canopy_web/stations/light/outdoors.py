"""The tab of the light outdoors: which month it is like, and how to harden plants off."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_POST

from canopy.evaluate import SpaceReport
from canopy.light.outdoors import SKIES, hardening_off, like_outdoors, outdoor_dli_mol_m2_d
from canopy.plan.changes import Change
from canopy.words import is_number
from canopy_web.stations.light import forms as light_forms
from canopy_web.workspace.reply import change, page
from canopy_web.workspace.where import Where, at_space

USUAL_DAYS, _MOST_DAYS = 10, 30
_MONTHS = (
    "January",
    "February",
    "March",
    "April",
    "May",
    "June",
    "July",
    "August",
    "September",
    "October",
    "November",
    "December",
)


def outdoors_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab; where plants go out stands in the address, where the garden lies in the plan."""
    form = bad.get("outdoors")
    site = where.plan.site
    latitude = site.shown_latitude_deg
    dli = report.lighting.dli_mol_m2_d
    likes = (
        [
            {"month": _MONTHS[item.month - 1], "sky": item.sky, "dli": f"{item.dli_mol_m2_d:.0f}"}
            for item in like_outdoors(dli, latitude)
        ]
        if dli > 0
        else []
    )
    year = [
        {
            "month": _MONTHS[m - 1],
            "skies": [
                f"{outdoor_dli_mol_m2_d(latitude, where.day.replace(month=m, day=15), sky):.0f}" for sky in SKIES
            ],
        }
        for m in range(1, 13)
    ]
    start, days = _out(where)
    steps = hardening_off(dli, latitude, start, days=days) if dli > 0 else ()
    shown = {"latitude_deg": latitude, "start": start.isoformat(), "days": days}
    return {
        "outdoors_form": form or light_forms.OutdoorsForm(shown, prefix="outdoors"),
        "likes": likes,
        "year": year,
        "skies": list(SKIES),
        "steps": steps,
        "dim_outdoors": bool(steps) and all(step.dli_mol_m2_d <= dli for step in steps),
        "indoor": f"{dli:.1f}",
        "latitude": latitude,
    }


def _out(where: Where) -> tuple[dt.date, int]:
    """The first day out and over how many days, from the address."""
    more = where.look.more
    try:
        start = dt.date.fromisoformat(more.get("start", ""))
    except ValueError:
        start = where.day
    days = more.get("days", "")
    return start, min(_MOST_DAYS, max(2, int(days))) if is_number(days) else USUAL_DAYS


@require_POST
@at_space
def set_outdoors(request: HttpRequest, where: Where) -> HttpResponse:
    """Say where the garden lies, which the plan keeps, and when plants go out, which the address keeps."""
    site = where.plan.site.model_dump(mode="json")
    form = light_forms.OutdoorsForm(site, request.POST, prefix="outdoors")
    if not form.is_valid():
        return page(request, where, bad={"outdoors": form})
    got = form.cleaned_data
    out = {"start": got["start"].isoformat(), "days": str(got["days"])}
    where.look = replace(where.look, tab="outdoors", more=out)
    latitude = Change(at=("site",), values={"latitude_deg": got["latitude_deg"]})
    answer = change(request, where, "Said where the garden lies", latitude)
    answer["HX-Push-Url"] = where.url("show") + where.look.query()
    return answer
