"""When something was said that may have waited on a person's device."""

from __future__ import annotations

import datetime as dt

from django.http import HttpRequest


def said_at(request: HttpRequest) -> dt.datetime | None:
    """When a person said it, where that waited on their device; None for now."""
    try:
        found = dt.datetime.fromisoformat(request.POST.get("at", ""))
    except ValueError:
        return None
    return found if found.tzinfo is not None else None
