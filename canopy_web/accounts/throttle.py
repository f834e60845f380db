"""How long somebody who types wrong passwords has to wait: longer each time, by name and address together.

Whoever tries from elsewhere locks nobody out of their own house: another address has a count of its own.
"""

from __future__ import annotations

import datetime as dt
from typing import Any

from django.contrib.auth.decorators import login_not_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone

# So many tries are free; then the wait doubles with each round of as many, up to a quarter of an hour.
FREE = 5
FIRST, MOST = dt.timedelta(seconds=20), dt.timedelta(minutes=15)
# Failures of so long ago no longer count.
REMEMBERED = dt.timedelta(days=1)


def wait(request: HttpRequest) -> dt.timedelta:
    """Give how long is to be waited after the last failure, by how many there were in a day."""
    from axes.helpers import get_client_ip_address, get_client_username
    from axes.models import AccessFailureLog

    name = get_client_username(request, {}) or ""
    failures = AccessFailureLog.objects.filter(
        username=name,
        ip_address=get_client_ip_address(request),
        attempt_time__gte=timezone.now() - REMEMBERED,
    ).count()
    return delay(failures)


def delay(failures: int) -> dt.timedelta:
    """Give the wait for so many failures."""
    rounds = max(0, failures // FREE - 1)
    return min(MOST, FIRST * int(2 ** min(rounds, 16)))


@login_not_required
def too_often(request: HttpRequest, *args: Any, **more: Any) -> HttpResponse:
    """Say that one has to wait, and for how long at most."""
    seconds = int(wait(request).total_seconds())
    long = f"{seconds} seconds" if seconds < 60 else f"{-(-seconds // 60)} minutes"
    words = (
        f"Too many wrong passwords for this name from here: wait {long}, then try again. What is in the account is "
        "safe, and it can be signed in to from elsewhere meanwhile."
    )
    answer = render(request, "trouble.html", {"title": "Wait a little", "words": words}, status=429)
    answer["Retry-After"] = str(seconds)
    return answer
