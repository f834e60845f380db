"""Take an archive in through the page Account."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_POST

from canopy.errors import PlanError
from canopy.words import counted
from canopy_web.accounts.views import account_page
from canopy_web.household.archive.unpacking import TakenIn, unpack


@require_POST
def take_in(request: HttpRequest) -> HttpResponse:
    """Take a file in, and say what came out of it, or why nothing did."""
    file = request.FILES.get("archive")
    if file is None:
        return account_page(request, archive_wrong="Choose an archive first.")
    try:
        done = unpack(request.user, file)
    except PlanError as error:
        return account_page(request, archive_wrong=f"Nothing was taken in: {error.problems[0]}.")
    return account_page(request, archive_done=f"Taken in: {told(done)}.")


def told(done: TakenIn) -> str:
    """Say what came out of an archive."""
    return (
        f"{counted(done.households, 'household')} with {counted(done.states, 'state')} of their history, "
        f"{counted(done.readings, 'reading')} and {counted(done.photographs, 'photograph')}"
    )
