"""The demo's mail as it would have been sent."""

from __future__ import annotations

from itertools import islice

from django.conf import settings
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from canopy_web.accounts.context import preference_of
from canopy_web.logbook.mailbox import mail_to

_SHOWN = 20


@require_GET
def written_mail(request: HttpRequest) -> HttpResponse:
    """Show what would have been mailed to this person; only where this is a demo."""
    if settings.MAILS != "demo":
        raise Http404
    address = preference_of(request).mail
    letters = [
        {"subject": letter["Subject"], "date": letter["Date"], "text": letter.get_content()}
        for letter in islice(mail_to(address), _SHOWN)
    ]
    return render(request, "household/mail.html", {"letters": letters, "address": address})
