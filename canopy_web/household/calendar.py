"""A household's work and hours as a calendar: a file to take, and a private address to fetch it from."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from typing import TYPE_CHECKING
from zoneinfo import ZoneInfo

from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse
from django.utils import timezone
from django.utils.text import slugify
from django.views.decorators.http import require_safe

from canopy.care import Job, care_of
from canopy.errors import EvaluationError
from canopy.evaluate import SpaceReport
from canopy.evaluate.kept import report_of
from canopy.plan import Plan
from canopy.plan.site import known_zones
from canopy_web.accounts.models import Preference
from canopy_web.household.views import own_plan
from canopy_web.logbook.models import AlertEvent, CalendarFeed, CareMark
from canopy_web.logbook.querysets import care_marks
from canopy_web.logbook.watch import event_words
from canopy_web.planning.models import GrowPlan
from canopy_web.planning.store import to_plan

if TYPE_CHECKING:
    from canopy.care.ics import Rang

AHEAD_D = 365
# Alerts of so many days back, at most so many, stand in the calendar.
_RANG_D, _MOST_RANG = 30, 200


def reports_of(plan: Plan, day: dt.date) -> list[SpaceReport]:
    """Judge all spaces of a plan with their climate; those that cannot be computed are left out."""
    found = []
    for space in plan.spaces:
        try:
            found.append(report_of(plan, space, day=day, follow=True))
        except EvaluationError:
            continue
    return found


def work_of(plan: Plan, day: dt.date, days: int = AHEAD_D) -> tuple[Job, ...]:
    """Derive the work of all spaces of a plan."""
    return care_of(reports_of(plan, day), day, days)


def named(row: GrowPlan, plan: Plan) -> Plan:
    """Give a plan the key by which calendars know it: its own, unless an earlier plan of the person has it."""
    own = plan.key or f"household-{row.pk}"
    earlier = GrowPlan.objects.filter(owner_id=row.owner_id, pk__lt=row.pk).select_related("head")
    if plan.key and any(to_plan(other).key == plan.key for other in earlier):
        own = f"{plan.key[:28]}-{row.pk}"
    return plan.model_copy(update={"key": own})


def calendar_of(row: GrowPlan) -> bytes:
    """Write a plan's calendar in its owner's units, on the clock where the household lies."""
    from canopy.care.ics import Stamp, written

    plan = named(row, to_plan(row))
    liked = Preference.objects.filter(user_id=row.owner_id).first()
    names = (plan.site.time_zone, liked.time_zone if liked else "")
    zone = next((name for name in names if name in known_zones()), "")
    today = timezone.localdate(timezone=ZoneInfo(zone) if zone else None)
    last = CareMark.objects.filter(plan=row).order_by("-written").values_list("written", flat=True).first()
    begun = dt.datetime.combine(today, dt.time(), tzinfo=dt.UTC)
    head = row.head.created if row.head else begun
    made = max(head, begun, last or begun).astimezone(dt.UTC).replace(microsecond=0)
    marks = care_marks(row, [space.id for space in plan.spaces])
    return written(
        plan,
        work_of(plan, today),
        today,
        AHEAD_D,
        Stamp(made=made, zone=zone),
        marks=marks,
        reader=liked.units if liked else "metric",
        rang=rang_of(row, plan, ZoneInfo(zone) if zone else dt.UTC, liked.units if liked else "metric"),
    )


def rang_of(row: GrowPlan, plan: Plan, zone: dt.tzinfo, system: str) -> Iterator[Rang]:
    """The alerts of the last weeks; what rang in quiet hours makes no sound unless it was set to."""
    from canopy.care.ics import Rang

    now = timezone.now()
    since = int((now - dt.timedelta(days=_RANG_D)).timestamp())
    for event in AlertEvent.objects.filter(plan=row, rang__gte=since).order_by("rang", "pk")[:_MOST_RANG]:
        space = plan.space(event.space_id)
        rang = dt.datetime.fromtimestamp(event.rang, dt.UTC)
        here = rang.astimezone(zone)
        quiet = plan.quiet is not None and plan.quiet.holds(60 * here.hour + here.minute)
        rule = next((rule for rule in space.alerts if rule.id == event.rule_id), None) if space else None
        yield Rang(
            key=str(event.pk),
            where=space.name if space else event.space_id,
            words=event_words(event, system),
            rang=rang,
            over=dt.datetime.fromtimestamp(event.end, dt.UTC) if event.end is not None else None,
            loud=not quiet or (rule is not None and rule.in_quiet),
        )


def _answer(row: GrowPlan) -> HttpResponse:
    response = HttpResponse(calendar_of(row), content_type="text/calendar; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{slugify(row.name) or "household"}.ics"'
    response["Cache-Control"] = "private, no-store"
    response["X-Robots-Tag"] = "noindex"
    return response


@require_safe
def download(request: HttpRequest, plan_pk: int) -> HttpResponse:
    """Give the calendar as a file."""
    return _answer(own_plan(request, plan_pk))


@login_not_required
@require_safe
def feed(request: HttpRequest, token: str) -> HttpResponse:
    """Give the calendar to whoever knows its private address; a forged one leads nowhere."""
    found = CalendarFeed.objects.select_related("plan__head").filter(token=token).first()
    if found is None:
        raise Http404
    return _answer(found.plan)
