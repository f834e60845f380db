"""The demo's stand-ins for sensors: what they are, how they stand, and their clock."""

from __future__ import annotations

import asyncio
import datetime as dt
import json
from typing import Any

from django.conf import settings
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_http_methods

from canopy.errors import QuantityError
from canopy_web.logbook.fetch import fetch
from canopy_web.standins.names import ABOUT

_RUNS = {"week": (7, 60), "day": (1, 20)}


@require_http_methods(["GET", "POST"])
def standins(request: HttpRequest) -> HttpResponse:
    """Show the stand-ins; on POST let their clock go back and catch up. Only where this is a demo with them."""
    if not settings.STANDINS:
        raise Http404
    http, mqtt = settings.STANDINS
    base, given = f"http://127.0.0.1:{http}", {}
    try:
        if request.POST.get("run") in _RUNS:
            days, within = _RUNS[request.POST["run"]]
            asyncio.run(fetch(f"{base}/clock", json.dumps({"days": days, "within_s": within}).encode()))
        given = json.loads(asyncio.run(fetch(f"{base}/clock")))
        given["at"] = dt.datetime.fromisoformat(given["time"])
    except (QuantityError, ValueError) as error:
        given = {"wrong": str(error)}
    shown: dict[str, Any] = {"kinds": ABOUT, "base": base, "mqtt": mqtt, "given": given}
    return render(request, "household/standins.html", shown)
