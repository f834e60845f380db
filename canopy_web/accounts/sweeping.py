"""Sessions that ran out, and wrong passwords that no longer count, are cleared away: they would gather for ever."""

from __future__ import annotations

from typing import Any

from django.contrib.sessions.models import Session
from django.utils import timezone

from canopy_web.accounts.throttle import REMEMBERED


def sweep(**signal: Any) -> None:
    """Clear away what has run out; three deletions by an index, with every sign-in."""
    from axes.models import AccessAttempt, AccessFailureLog

    now = timezone.now()
    Session.objects.filter(expire_date__lt=now).delete()
    for kind in (AccessAttempt, AccessFailureLog):
        kind.objects.filter(attempt_time__lt=now - REMEMBERED).delete()
