"""What every page knows of the person: units, theme, and which day it is where they live."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable
from typing import Any
from zoneinfo import ZoneInfo

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from canopy.plan import Plan
from canopy.plan.site import known_zones
from canopy_web.accounts.models import Preference


def preference_of(request: HttpRequest) -> Preference:
    """Give the person's preference, once a request; defaults for a guest."""
    found = getattr(request, "_preference", None)
    if found is None:
        user = getattr(request, "user", None)
        found = Preference()
        if user is not None and user.is_authenticated:
            found = Preference.objects.filter(user=user).first() or Preference(user=user)
        request._preference = found  # type: ignore[attr-defined]
    return found


def zone_of(request: HttpRequest, plan: Plan | None = None) -> dt.tzinfo:
    """Give the time zone that counts: where the household lies, else the person's own, else the server's."""
    for name in (plan.site.time_zone if plan else "", preference_of(request).time_zone):
        if name in known_zones():
            return ZoneInfo(name)
    return timezone.get_default_timezone()


def today(request: HttpRequest, plan: Plan | None = None) -> dt.date:
    """Give the day it is where the household lies or the person lives."""
    return timezone.localdate(timezone=zone_of(request, plan))


def remember_zone(user: Any, name: str) -> None:
    """Keep the time zone that a browser says it is in, unless the person has one already."""
    if name not in known_zones():
        return
    chosen, _ = Preference.objects.get_or_create(user=user)
    if not chosen.time_zone:
        chosen.time_zone = name
        chosen.save()


class LocalTime:
    """Write every clock time of a page in the person's time zone."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer within the person's time zone; the zone is looked up when something asks for it."""
        if request.user.is_authenticated:
            with timezone.override(zone_of(request)):
                return self.get_response(request)
        return self.get_response(request)


def person(request: HttpRequest) -> dict[str, Any]:
    """Give templates the person's units and theme, and whether this is a demo."""
    chosen = preference_of(request)
    return {"units": chosen.units, "theme": chosen.theme, "light_units": Preference.LIGHTS, "is_demo": settings.DEMO}
