"""What is to be done and looked at today, over all spaces: care due, what sensors showed last, what is picked."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_GET

from canopy.care import care_of, due
from canopy.errors import EvaluationError
from canopy.evaluate import SpaceReport
from canopy.evaluate.kept import kept_report, report_of
from canopy.evaluate.power.loads import circuit_load, household_tree
from canopy.logs.facts import CareMark
from canopy.plan import Plan, Space
from canopy_web.accounts.context import preference_of, today
from canopy_web.household.calendar import AHEAD_D
from canopy_web.household.trust import secure_address
from canopy_web.household.views import overloaded, own_plan
from canopy_web.logbook.models import AlertEvent, LogEntry, Sensor
from canopy_web.logbook.querysets import care_marks, care_marks_of
from canopy_web.logbook.readings import newest
from canopy_web.logbook.shown import last_shown
from canopy_web.logbook.watch import event_words, watch_plan
from canopy_web.planning.models import GrowPlan
from canopy_web.planning.store import to_plan

# Quantities in the order in which one looks at them; so many of a space are shown.
_ORDER = ("air_c", "rh_pct", "co2_ppm", "root_c", "soil_pct", "ph", "ec_ms_cm", "level_l", "ppfd", "power_w")
_SHOWN = 4
_KINDS = (("water", "Water"), ("harvest", "Harvest"), ("pests", "Pests"), ("note", "Note"))


@require_GET
def today_page(request: HttpRequest) -> HttpResponse:
    """Show today over all households of a person."""
    rows = list(GrowPlan.objects.for_owner(request.user))
    if not rows:
        return redirect("household:first-space")
    marks = care_marks_of(rows)
    return render(
        request,
        "household/today.html",
        {
            "households": [_household(request, row, marks.get(row.pk, ())) for row in rows],
            "secure": secure_address(request),
        },
    )


def _household(request: HttpRequest, row: GrowPlan, marks: Sequence[CareMark]) -> dict[str, Any]:
    plan, system = to_plan(row), preference_of(request).units
    day, now = today(request, plan), timezone.now()
    sensors: dict[str, list[Sensor]] = {}
    for sensor in Sensor.objects.filter(plan=row, struck=False):
        sensors.setdefault(sensor.space_id, []).append(sensor)
    watch_plan(row)
    ringing: dict[str, list[AlertEvent]] = {}
    for event in AlertEvent.objects.filter(plan=row, end=None).select_related("sensor", "seen_by"):
        ringing.setdefault(event.space_id, []).append(event)
    last = newest(sensor for group in sensors.values() for sensor in group)
    written = {
        entry.space_id: entry for entry in LogEntry.objects.filter(plan=row, struck=False).order_by("at", "pk")[:2000]
    }
    spaces = []
    for space in plan.spaces:
        report = kept_report(plan, space, day=day)
        ready = report is not None and report.climate is not None
        spaces.append(
            {
                "space": space,
                "log": reverse("log:show", args=[row.pk, space.id]),
                "readings": _readings(sensors.get(space.id, []), last, now, system),
                "ringing": [
                    {
                        "event": event,
                        "words": event_words(event, system),
                        "since": timezone.localtime(dt.datetime.fromtimestamp(event.begin, dt.UTC)),
                    }
                    for event in ringing.get(space.id, [])
                ],
                "written": written.get(space.id),
                "ready": ready,
                "care": _care(row, plan, space, report, marks, day, system) if ready and report is not None else None,
            }
        )
    tree = household_tree(plan)
    loads = {circuit.id: circuit_load(plan, circuit, tree) for circuit in plan.circuits}
    return {
        "row": row,
        "plan": plan,
        "day": day,
        "spaces": spaces,
        "kinds": _KINDS,
        # What can hurt somebody stands first on every page.
        "dangers": list(overloaded(row, plan, loads, tree)),
    }


def _readings(
    sensors: list[Sensor], last: dict[int, tuple[int, float]], now: dt.datetime, system: str
) -> list[dict[str, Any]]:
    known = [sensor for sensor in sensors if sensor.quantity in _ORDER and sensor.pk in last]
    # What hangs inside comes first.
    known.sort(key=lambda sensor: (sensor.place != "space", _ORDER.index(sensor.quantity)))
    return [{"name": sensor.name, **last_shown(sensor, last[sensor.pk], now, system)} for sensor in known[:_SHOWN]]


def _care(
    row: GrowPlan, plan: Plan, space: Space, report: SpaceReport, marks: Sequence[CareMark], day: dt.date, system: str
) -> list[dict[str, Any]]:
    found = due(care_of([report], day, AHEAD_D), marks, day, day)
    return [
        {
            "title": item.job.title,
            "what": item.job.what.say(system),
            "at": item.job.at,
            "late": item.late,
            "due": item.due,
            "family": item.job.family,
            "mark": reverse("day:care-mark", args=[row.pk, space.id]),
        }
        for item in found
    ]


@require_GET
def today_care(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Work out what is due in one space today, its climate followed."""
    row = own_plan(request, plan_pk)
    plan = to_plan(row)
    space = plan.space(space_id)
    if space is None:
        raise Http404
    day = today(request, plan)
    try:
        report = report_of(plan, space, day=day, follow=True)
    except EvaluationError as error:
        return render(request, "household/_today_care.html", {"wrong": str(error)})
    care = _care(row, plan, space, report, care_marks(row, [space.id]), day, preference_of(request).units)
    return render(request, "household/_today_care.html", {"care": care, "row": row, "space": space})
