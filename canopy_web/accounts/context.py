"""What every page knows of the person."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.http import HttpRequest

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


def person(request: HttpRequest) -> dict[str, Any]:
    """Give templates the person's units and theme, and whether this is a demo."""
    chosen = preference_of(request)
    return {"units": chosen.units, "theme": chosen.theme, "is_demo": settings.DEMO}
