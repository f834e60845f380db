"""Show, add and remove photographs of a space."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.views.decorators.http import require_GET, require_POST

from canopy_web.photos import actions
from canopy_web.photos.models import SpacePhoto
from canopy_web.photos.pictures import PictureError
from canopy_web.planning.models import GrowPlan


def _own(request: HttpRequest, plan_pk: int, photo_pk: int) -> SpacePhoto:
    plan = get_object_or_404(GrowPlan.objects.for_owner(request.user), pk=plan_pk)
    found: SpacePhoto = get_object_or_404(SpacePhoto, plan=plan, pk=photo_pk)
    return found


@require_GET
def show(request: HttpRequest, plan_pk: int, photo_pk: int) -> HttpResponse:
    """Give a photograph; ``?small`` a small one."""
    photo = _own(request, plan_pk, photo_pk)
    response = HttpResponse(bytes(photo.small if "small" in request.GET else photo.image), content_type="image/jpeg")
    response["Cache-Control"] = "private, max-age=31536000, immutable"
    return response


@require_POST
def add(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Keep a photograph; says at the field why it was not taken."""
    from canopy_web.workspace.page import locate
    from canopy_web.workspace.views import page

    where = locate(request, plan_pk, space_id, "space")
    file = request.FILES.get("photo")
    if file is None:
        return page(request, where, bad={"photo": "Choose a picture first."})
    try:
        actions.add_photo(where.row, space_id, file, request.POST.get("caption", ""))
    except PictureError as error:
        return page(request, where, bad={"photo": str(error)})
    return redirect("workspace:station", plan_pk=plan_pk, space_id=space_id, station="space")


@require_POST
def remove(request: HttpRequest, plan_pk: int, photo_pk: int) -> HttpResponse:
    """Remove a photograph."""
    photo = _own(request, plan_pk, photo_pk)
    space_id = photo.space_id
    actions.remove_photo(photo)
    return redirect("workspace:station", plan_pk=plan_pk, space_id=space_id, station="space")
