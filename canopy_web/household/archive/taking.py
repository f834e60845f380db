"""Take an archive in through the page Account, large ones in pieces."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_POST

from canopy.errors import PlanError, QuantityError
from canopy.words import capital, counted
from canopy_web.accounts.views import account_page
from canopy_web.household.archive.unpacking import TakenIn, unpack
from canopy_web.logbook.pieces import add_piece, part_of

_MOST_BYTES = 2_000_000_000


@require_POST
def take_in(request: HttpRequest) -> HttpResponse:
    """Take a file in, and say what came out of it, or why nothing did."""
    file = request.FILES.get("archive")
    if file is None:
        return _shown(request, archive_wrong="Choose an archive first.")
    return _taken(request, file)


@require_POST
def take_piece(request: HttpRequest) -> HttpResponse:
    """Take a piece of a large archive; with the last one it is taken in. Says how much is there."""
    key, owner = request.POST.get("upload", ""), f"account-{request.user.pk}"
    file, at, size = request.FILES.get("piece"), request.POST.get("at", ""), request.POST.get("size", "")
    if file is None or not at.isdigit() or not size.isdigit():
        return HttpResponse("a piece needs its place and the whole's size", status=400)
    try:
        there = add_piece(owner, key, int(at), file, _MOST_BYTES)
    except QuantityError as error:
        return HttpResponse(f"{capital(str(error))}.", status=400, content_type="text/plain; charset=utf-8")
    if there < int(size):
        return HttpResponse(str(there), content_type="text/plain")
    path = part_of(owner, key)
    try:
        with path.open("rb") as whole:
            return _taken(request, whole)
    finally:
        path.unlink(missing_ok=True)


def _taken(request: HttpRequest, file: Any) -> HttpResponse:
    try:
        done = unpack(request.user, file)
    except PlanError as error:
        return _shown(request, archive_wrong=f"Nothing was taken in: {error.problems[0]}.")
    return _shown(request, archive_done=f"Taken in: {told(done)}.")


def _shown(request: HttpRequest, **words: Any) -> HttpResponse:
    """The form with what became of it; without scripts the whole page."""
    if "upload" in request.POST or request.headers.get("HX-Request"):
        return render(request, "accounts/_archive.html", words)
    return account_page(request, **words)


def told(done: TakenIn) -> str:
    """Say what came out of an archive."""
    return (
        f"{counted(done.households, 'household')} with {counted(done.states, 'state')} of their history, "
        f"{counted(done.readings, 'reading')} and {counted(done.photographs, 'photograph')}"
    )
