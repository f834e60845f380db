"""Acts of the Space station: openings, shelves, columns, windows, floor, load; and of the feed."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.views.decorators.http import require_POST

from canopy.equipment import DeviceSpec
from canopy.errors import PlanError
from canopy.plan import Column, Daylight, Device, HungItem, Opening, Shelf, Space
from canopy.plan.changes import Change, Collection
from canopy.plan.edit import fresh_id
from canopy_web.planning import actions
from canopy_web.workspace import furnish_forms
from canopy_web.workspace.forms import PartForm
from canopy_web.workspace.page import Where, locate
from canopy_web.workspace.views import attempt, page, said


def _opening(space: Space, key: str) -> Opening:
    size = space.size
    d = min(0.1, size.depth_m / 3, size.height_m / 3)
    return Opening(
        id=key, face="right", u_m=round(size.depth_m / 2, 3), v_m=round(d, 3), diameter_m=round(d, 3), use="intake"
    )


def _shelf(space: Space, key: str) -> Shelf:
    highest = max((shelf.z_m for shelf in space.shelves), default=0.0)
    room = space.size.height_m - highest
    return Shelf(
        id=key,
        name=f"Shelf {len(space.shelves) + 1}",
        z_m=round(highest + room / 2, 2),
        width_m=space.size.width_m,
        depth_m=space.size.depth_m,
    )


def _column(space: Space, key: str) -> Column:
    d = min(0.2, space.size.width_m / 3, space.size.depth_m / 3)
    return Column(
        id=key,
        name=f"Column {len(space.columns) + 1}",
        x_m=round(space.size.width_m / 2, 3),
        y_m=round(space.size.depth_m / 2, 3),
        height_m=round(space.size.height_m * 0.8, 2),
        diameter_m=round(d, 3),
    )


def _window(space: Space, key: str) -> Daylight:
    size = space.size
    return Daylight(
        id=key,
        face="front",
        u_m=round(size.width_m / 2, 3),
        v_m=round(size.height_m / 2, 3),
        width_m=round(size.width_m * 0.8, 3),
        height_m=round(size.height_m * 0.8, 3),
    )


_FRESH: dict[str, tuple[str, str, Callable[[Space, str], Any]]] = {
    "openings": ("port", "an opening", _opening),
    "shelves": ("shelf", "a shelf", _shelf),
    "columns": ("column", "a column", _column),
    "daylight": ("window", "a window", _window),
    "hung": ("hung", "something hung", lambda space, key: HungItem(id=key, name="Something else", weight_kg=1.0)),
    "devices": (
        "device",
        "a device",
        lambda space, key: Device(id=key, spec=DeviceSpec(name="New device", power_w=10, hours_per_day=24)),
    ),
}


@require_POST
def add_part(request: HttpRequest, plan_pk: int, space_id: str, kind: Collection) -> HttpResponse:
    """Add a part with sensible measures, to be changed from there."""
    where = locate(request, plan_pk, space_id)
    if kind not in _FRESH:
        raise Http404
    prefix, words, make = _FRESH[kind]
    part = make(where.space, fresh_id(prefix, (item.id for item in getattr(where.space, kind))))
    try:
        row = actions.add_to_space(where.row, space_id, kind, [part.model_dump(mode="json")], f"Added {words}")
        return page(request, where.again(row))
    except PlanError as error:
        return page(request, where, words=said(error))


def _edit_record(request: HttpRequest, where: Where, key: str, make: type[PartForm], label: str) -> HttpResponse:
    """Change one record of the space from its form."""
    form = make(getattr(where.space, key).model_dump(mode="json"), request.POST, system=where.system, prefix=key)

    def act() -> Any:
        values = {f"{key}.{name}": value for name, value in form.changes().items()}
        return actions.change_space(where.row, where.space.id, [Change(values=values)], label)

    return attempt(request, where, form, key, act)


@require_POST
def edit_ground(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Change what lies under the plants."""
    return _edit_record(
        request, locate(request, plan_pk, space_id), "ground", furnish_forms.GroundForm, "Changed the floor"
    )


@require_POST
def edit_bearing(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Change what the frame bears, the net, and whether the fan hangs."""
    where = locate(request, plan_pk, space_id)
    space = where.space
    record = {
        "load_limit_kg": space.load_limit_kg,
        "net_m": space.net.z_m if space.net else None,
        "fan_hung": space.air.hung,
    }
    form = furnish_forms.BearingForm(record, request.POST, system=where.system, prefix="bearing")

    def act() -> Any:
        got, values = form.changes(), {}
        if "load_limit_kg" in got:
            values["load_limit_kg"] = got["load_limit_kg"]
        if "fan_hung" in got:
            values["air.hung"] = got["fan_hung"]
        if "net_m" in got:
            values["net"] = None if got["net_m"] is None else {"z_m": got["net_m"]}
        return actions.change_space(where.row, space_id, [Change(values=values)], "Changed net and load")

    return attempt(request, where, form, "bearing", act)


@require_POST
def edit_feed(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Change how plants are fed."""
    return _edit_record(request, locate(request, plan_pk, space_id), "feed", furnish_forms.FeedForm, "Changed the feed")


@require_POST
def feed_part(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Add, change or remove one part of the feed."""
    where = locate(request, plan_pk, space_id)
    parts = [part.model_dump(mode="json") for part in where.space.feed.parts]
    what, key = request.POST.get("what", ""), request.POST.get("part", "")
    if what == "add":
        names = ("Part A", "Part B", "Part C")
        name = names[len(parts)] if len(parts) < len(names) else f"Part {len(parts) + 1}"
        parts.append({"id": fresh_id("part", (part["id"] for part in parts)), "name": name, "ec_ms_cm_per_ml_l": 0.25})
        return _store_parts(request, where, parts, f"Added {name}")
    chosen = next((part for part in parts if part["id"] == key), None)
    if chosen is None:
        raise Http404
    if what == "remove":
        return _store_parts(request, where, [part for part in parts if part is not chosen], f"Removed {chosen['name']}")
    form = furnish_forms.FeedPartForm(chosen, request.POST, prefix=f"feed-{key}")

    def act() -> Any:
        chosen.update(form.changes())
        change = Change(values={"feed.parts": parts})
        return actions.change_space(where.row, space_id, [change], f"Changed {chosen['name']}")

    return attempt(request, where, form, f"feed-part/{key}", act)


def _store_parts(request: HttpRequest, where: Any, parts: list[dict[str, Any]], label: str) -> HttpResponse:
    try:
        row = actions.change_space(where.row, where.space.id, [Change(values={"feed.parts": parts})], label)
        return page(request, where.again(row))
    except PlanError as error:
        return page(request, where, words=said(error))
