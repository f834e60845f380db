"""Acts of the Space station: size, the room it stands in, linings, floor, what it bears."""

from __future__ import annotations

import datetime as dt

from django.http import Http404, HttpRequest, HttpResponse
from django.views.decorators.http import require_POST

from canopy.light.outdoors import window_dli_mol_m2_d
from canopy.plan import FACES
from canopy.plan.changes import Change
from canopy_web.stations.space import forms, furnish_forms
from canopy_web.workspace.edits import edit_listed, edit_record
from canopy_web.workspace.reply import change, page
from canopy_web.workspace.where import Where, at_space


@require_POST
@at_space
def edit_space(request: HttpRequest, where: Where) -> HttpResponse:
    """Change name, kind, size or door."""
    return edit_record(request, where, forms.SpaceForm, under="", key="space", label="Changed the space")


@require_POST
@at_space
def which_room(request: HttpRequest, where: Where) -> HttpResponse:
    """Say which room of the household the space stands in."""
    rooms = where.plan.rooms
    label = "Moved to another room"
    return edit_record(request, where, forms.WhichRoomForm, under="", key="which-room", label=label, rooms=rooms)


@require_POST
@at_space
def edit_room(request: HttpRequest, where: Where) -> HttpResponse:
    """Change the room that the space stands in, for all that stands there."""
    return edit_listed(
        request,
        where,
        lambda record: forms.RoomForm(record, request.POST, system=where.system, prefix="room"),
        collection="rooms",
        part_id=where.space.room_id,
        key="room",
        label=lambda record: f"Changed {record['name']}",
    )


@require_POST
@at_space
def edit_face(request: HttpRequest, where: Where, face: str) -> HttpResponse:
    """Change one face's lining."""
    if face not in FACES:
        raise Http404
    label = f"Changed the {face} lining"
    return edit_record(request, where, forms.FaceForm, under=f"faces.{face}", key=f"face/{face}", label=label)


@require_POST
@at_space
def estimate_window(request: HttpRequest, where: Where) -> HttpResponse:
    """Fill a window's months from the way it faces, the sky, its glass and the household's latitude."""
    form = furnish_forms.EstimateForm(where.space.daylight, request.POST)
    if not form.is_valid():
        return page(request, where, bad={"estimate": form})
    got = form.cleaned_data
    year = where.day.year
    months = [
        window_dli_mol_m2_d(
            where.plan.site.shown_latitude_deg,
            dt.date(year, month, 15),
            got["facing"],
            got["sky"],
            panes=int(got["panes"]),
            open_share=got["open_share"],
        )
        for month in range(1, 13)
    ]
    values = {"by_month": [round(value, 1) for value in months]}
    return change(
        request,
        where,
        "Estimated a window's light",
        Change(collection="daylight", part_id=got["window"], values=values),
    )


@require_POST
@at_space
def edit_ground(request: HttpRequest, where: Where) -> HttpResponse:
    """Change what lies under the plants."""
    return edit_record(
        request, where, furnish_forms.GroundForm, under="ground", key="ground", label="Changed the floor"
    )


@require_POST
@at_space
def edit_bearing(request: HttpRequest, where: Where) -> HttpResponse:
    """Change what the frame bears, the net, and whether the fan hangs."""
    return edit_record(request, where, furnish_forms.BearingForm, under="", key="bearing", label="Changed net and load")
