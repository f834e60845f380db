"""Show, add and remove photographs of a space."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.utils.dateparse import parse_date
from django.views.decorators.http import require_GET, require_POST

from canopy_web.accounts.context import today
from canopy_web.photos import actions
from canopy_web.photos.models import SpacePhoto
from canopy_web.photos.pictures import PictureError
from canopy_web.workspace.reply import page
from canopy_web.workspace.where import Where, at_space


def _photo(where: Where, photo_pk: int) -> SpacePhoto:
    found: SpacePhoto = get_object_or_404(SpacePhoto, plan=where.row, space_id=where.space.id, pk=photo_pk)
    return found


@require_GET
@at_space
def show(request: HttpRequest, where: Where, photo_pk: int) -> HttpResponse:
    """Give a photograph; ``?small`` a small one."""
    photo = _photo(where, photo_pk)
    response = HttpResponse(bytes(photo.small if "small" in request.GET else photo.image), content_type="image/jpeg")
    response["Cache-Control"] = "private, max-age=31536000, immutable"
    return response


@require_POST
@at_space
def add(request: HttpRequest, where: Where) -> HttpResponse:
    """Keep a photograph; says at the field why it was not taken."""
    file = request.FILES.get("photo")
    if file is None:
        return page(request, where, bad={"photo": "Choose a picture first."})
    try:
        typed = request.POST.get("day", "")
        day = parse_date(typed) if typed else None
        if typed and day is None:
            raise ValueError
        now = today(request, where.plan)
        actions.add_photo(where.row, where.space.id, file, request.POST.get("caption", ""), today=now, day=day)
    except ValueError as error:
        words = str(error) if isinstance(error, PictureError) else "Type the day as 2026-03-14."
        return page(request, where, bad={"photo": words})
    return redirect(where.url("show"))


@require_POST
@at_space
def date(request: HttpRequest, where: Where, photo_pk: int) -> HttpResponse:
    """Say on which day a photograph was taken."""
    try:
        day = parse_date(request.POST.get("day", ""))
    except ValueError:
        day = None
    if day is None:
        return page(request, where, bad={"photo": "Type the day as 2026-03-14."})
    actions.date_photo(_photo(where, photo_pk), day)
    return page(request, where)


@require_POST
@at_space
def remove(request: HttpRequest, where: Where, photo_pk: int) -> HttpResponse:
    """Remove a photograph."""
    actions.remove_photo(_photo(where, photo_pk))
    return redirect(where.url("show"))
