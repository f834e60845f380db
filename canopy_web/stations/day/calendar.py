"""The tab of the calendar: its file, its private address, and a new address in place of a leaked one."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.urls import reverse
from django.views.decorators.http import require_POST

from canopy.evaluate import SpaceReport
from canopy_web.logbook import actions
from canopy_web.logbook.models import CalendarFeed
from canopy_web.workspace.reply import page
from canopy_web.workspace.where import Where, at_space


def calendar_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab."""
    feed = CalendarFeed.objects.filter(plan=where.row).first()
    return {
        "file_url": reverse("household:calendar", args=[where.row.pk]),
        "feed_path": reverse("household:feed", args=[feed.token]) if feed else "",
        "zone": where.plan.site.time_zone,
    }


@require_POST
@at_space
def open_feed(request: HttpRequest, where: Where) -> HttpResponse:
    """Make the private address, or put a new one in place of the old."""
    if request.POST.get("renew"):
        actions.renew_feed(where.row)
        return page(request, where, words="There is a new address; the old one leads nowhere from now on.")
    actions.feed_of(where.row)
    return page(request, where)
