"""Mail what rings: a letter a household, what waits for the end of quiet hours with it; each alert once."""

from __future__ import annotations

import datetime as dt
import logging
from collections.abc import Sequence
from zoneinfo import ZoneInfo

from django.conf import settings
from django.core.mail import EmailMessage
from django.utils import timezone

from canopy.plan import Plan
from canopy.words import counted
from canopy_web.accounts.models import Preference
from canopy_web.logbook.models import AlertEvent
from canopy_web.planning.models import GrowPlan
from canopy_web.planning.store import to_plan

_log = logging.getLogger(__name__)
# What rang longer ago is no news [s].
_NEWS_S = 16 * 3600
_CAUTION = "An alert is no smoke alarm and no safety cut-off."


def tell(now: dt.datetime | None = None) -> int:
    """Mail all that rang and nobody was told of; gives how many letters went. One that does not leave is tried again.

    A letter is marked once it has left: where the worker is ended in between, it leaves twice rather than never.
    """
    if not settings.MAILS:
        return 0
    moment = timezone.now() if now is None else now
    fresh = AlertEvent.objects.filter(told=None, seen=None, rang__gte=int(moment.timestamp()) - _NEWS_S)
    sent = 0
    for row in GrowPlan.objects.filter(pk__in=fresh.values("plan")).select_related("head"):
        liked = Preference.objects.filter(user_id=row.owner_id).first()
        if liked is None or not liked.mail:
            continue
        try:
            sent += _tell(row, liked, list(fresh.filter(plan=row).select_related("sensor").order_by("rang")), moment)
        except Exception:
            _log.exception("mail of %s did not leave", row.pk)
    return sent


def _tell(row: GrowPlan, liked: Preference, events: Sequence[AlertEvent], now: dt.datetime) -> int:
    plan = to_plan(row)
    zone = ZoneInfo(plan.site.time_zone or liked.time_zone or settings.TIME_ZONE)
    news = [event for event in events if not _waits(plan, event, now.astimezone(zone))]
    if not news:
        return 0
    names = {space.id: space.name for space in plan.spaces}
    lines = [_line(event, names, zone) for event in news]
    first = f"{names.get(news[0].space_id, 'a space')}: {news[0].words}"
    subject = first if len(news) == 1 else f"{first}, and {counted(len(news) - 1, 'other')}"
    EmailMessage(subject[:120], "\n".join([row.name, "", *lines, "", _CAUTION]), to=[liked.mail]).send()
    AlertEvent.objects.filter(pk__in=[event.pk for event in news]).update(told=now)
    return 1


def _waits(plan: Plan, event: AlertEvent, here: dt.datetime) -> bool:
    """Whether an alert waits for the end of quiet hours."""
    if plan.quiet is None or not plan.quiet.holds(60 * here.hour + here.minute):
        return False
    space = plan.space(event.space_id)
    rule = next((rule for rule in space.alerts if rule.id == event.rule_id), None) if space else None
    return rule is None or not rule.in_quiet


def _line(event: AlertEvent, names: dict[str, str], zone: ZoneInfo) -> str:
    def clock(second: int) -> str:
        return f"{dt.datetime.fromtimestamp(second, zone):%d %b %H:%M}"

    until = f", over since {clock(event.end)}" if event.end is not None else ", still so"
    at = f" at {event.sensor.name}" if event.sensor else ""
    return f"- {names.get(event.space_id, event.space_id)}: {event.words}{at}; since {clock(event.begin)}{until}"
