"""Acts of the Air station: what is asked, ways of air and their parts, stirring fans, which fan and filter."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET, require_POST

from canopy.cache import ContentCache
from canopy.design.air.building import at_speed
from canopy.design.air.fan_sets import FanSet, best_sets, propose_set, sets_for, try_set
from canopy.design.air.parts import fresh_part, with_own, with_part
from canopy.design.air.presets import preset
from canopy.design.air.stirring import aimed
from canopy.design.change import Remedy, changes_between
from canopy.design.preview import preview
from canopy.equipment import StirSpec
from canopy.errors import PlanError
from canopy.library import find, stirrers
from canopy.plan import Airway, Space, Stirrer
from canopy.plan.changes import Change
from canopy_web.planning import actions
from canopy_web.workspace import air_forms, own_air_forms
from canopy_web.workspace.page import Where, locate
from canopy_web.workspace.reports import report_of
from canopy_web.workspace.views import attempt, page, said

_SLICE_S = 0.5
_tried: ContentCache[dict[str, FanSet]] = ContentCache(24, lambda item: 1)


@require_POST
def edit_need(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Change what the air is asked to do."""
    where = locate(request, plan_pk, space_id, "air")
    form = air_forms.NeedForm(where.space.air.model_dump(mode="json"), request.POST, system=where.system, prefix="need")

    def act() -> Any:
        values = {f"air.{key}": value for key, value in form.changes().items()}
        return actions.change_space(where.row, space_id, [Change(values=values)], "Changed what the air must do")

    return attempt(request, where, form, "need", act)


@require_POST
def edit_room_air(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Change how much heat and water the room takes."""
    where = locate(request, plan_pk, space_id, "air")
    record = where.space.room.model_dump(mode="json")
    form = air_forms.RoomAirForm(record, request.POST, system=where.system, prefix="room-air")

    def act() -> Any:
        values = {f"room.{key}": value for key, value in form.changes().items()}
        return actions.change_space(where.row, space_id, [Change(values=values)], "Changed the room")

    return attempt(request, where, form, "room-air", act)


def _airway(where: Where, airway_id: str) -> Airway:
    found = next((way for way in where.space.airways if way.id == airway_id), None)
    if found is None:
        raise Http404
    return found


def _store(where: Where, airway_id: str, values: dict[str, Any], label: str) -> Any:
    change = Change(collection="airways", part_id=airway_id, values=values)
    return actions.change_space(where.row, where.space.id, [change], label)


def _try(request: HttpRequest, where: Where, act: Callable[[], Any]) -> HttpResponse:
    try:
        return page(request, where.again(act()))
    except PlanError as error:
        return page(request, where, words=said(error))


@require_POST
def add_way(request: HttpRequest, plan_pk: int, space_id: str, kind: str) -> HttpResponse:
    """Lay out ways of air of a usual kind, sized for what is asked."""
    where = locate(request, plan_pk, space_id, "air")
    report = report_of(where.plan, where.space, day=where.day)
    made = preset(report, kind)
    if made is None:
        words = "There is no other space to lead a loop through: add one to the household first."
        return page(request, where, words=words)
    changes = changes_between(where.space, made, ("airways", "openings"))
    return _try(request, where, lambda: actions.change_space(where.row, space_id, changes, f"Laid out {kind}"))


@require_POST
def edit_way(request: HttpRequest, plan_pk: int, space_id: str, airway_id: str) -> HttpResponse:
    """Change where a way of air leads, its cycle, or a measured flow."""
    where = locate(request, plan_pk, space_id, "air")
    airway = _airway(where, airway_id)
    record = airway.model_dump(mode="json")
    form = air_forms.WayForm(
        record, request.POST, plan=where.plan, space=where.space, system=where.system, prefix=f"way-{airway_id}"
    )
    return attempt(
        request,
        where,
        form,
        f"way/{airway_id}",
        lambda: _store(where, airway_id, form.changes(), f"Changed {airway.name}"),
    )


@require_POST
def edit_away(request: HttpRequest, plan_pk: int, space_id: str, airway_id: str) -> HttpResponse:
    """Change what the air is like at a way's other end."""
    where = locate(request, plan_pk, space_id, "air")
    airway = _airway(where, airway_id)
    kept = airway.model_dump(mode="json")["away"]
    form = air_forms.AwayForm(kept or {}, request.POST, system=where.system, prefix=f"away-{airway_id}")

    def act() -> Any:
        values = {"away": {**(kept or {}), **form.cleaned_data}}
        return _store(where, airway_id, values, f"Changed the air at the end of {airway.name}")

    return attempt(request, where, form, f"away/{airway_id}", act)


@require_POST
def edit_air_part(request: HttpRequest, plan_pk: int, space_id: str, airway_id: str, part_id: str) -> HttpResponse:
    """Change one part of a way of air."""
    where = locate(request, plan_pk, space_id, "air")
    airway = _airway(where, airway_id)
    parts = airway.model_dump(mode="json")["parts"]
    record = next((part for part in parts if part["id"] == part_id), None)
    if record is None:
        raise Http404
    form = air_forms.AirPartForm(
        record, request.POST, space=where.space, system=where.system, prefix=f"{airway_id}-{part_id}"
    )

    def act() -> Any:
        record.update(form.changes())
        values: dict[str, Any] = {"parts": parts}
        return _store(where, airway_id, values, f"Changed a part of {airway.name}")

    return attempt(request, where, form, f"air-part/{airway_id}/{part_id}", act)


@require_POST
def act_on_air_part(
    request: HttpRequest, plan_pk: int, space_id: str, airway_id: str, part_id: str, what: str
) -> HttpResponse:
    """Move a part towards the beginning or the end of its way, or to another part's place; or take it out."""
    where = locate(request, plan_pk, space_id, "air")
    airway = _airway(where, airway_id)
    parts = airway.model_dump(mode="json")["parts"]
    place = next((n for n, part in enumerate(parts) if part["id"] == part_id), None)
    if place is None:
        raise Http404
    part = parts.pop(place)
    if what in ("sooner", "later"):
        parts.insert(max(0, place + (1 if what == "later" else -1)), part)
    elif what == "to":
        parts.insert(_place_of(airway, request.POST.get("onto", "")), part)
    elif what != "remove":
        raise Http404
    label = f"Removed a part of {airway.name}" if what == "remove" else f"Moved a part of {airway.name}"
    return _try(request, where, lambda: _store(where, airway_id, {"parts": parts}, label))


def _place_of(airway: Airway, part_id: str) -> int:
    place = next((n for n, part in enumerate(airway.parts) if part.id == part_id), None)
    if place is None:
        raise Http404
    return place


@require_POST
def add_air_part(request: HttpRequest, plan_pk: int, space_id: str, airway_id: str) -> HttpResponse:
    """Put a part of the library into a way of air."""
    where = locate(request, plan_pk, space_id, "air")
    airway = _airway(where, airway_id)
    form = air_forms.AddAirPartForm({}, request.POST, system=where.system, prefix=f"add-{airway_id}", can_pass=True)

    def act() -> Any:
        kind, _, key = form.cleaned_data["what"].partition(":")
        wider = with_part(airway, fresh_part(where.space, airway, kind, key))
        return _store(where, airway_id, {"parts": wider.model_dump(mode="json")["parts"]}, f"Added a {kind}")

    return attempt(request, where, form, f"add/{airway_id}", act)


@require_POST
def own_fan(request: HttpRequest, plan_pk: int, space_id: str, airway_id: str) -> HttpResponse:
    """Put a fan of the person's own data into a way: in place of its first fan, or as its first."""
    where = locate(request, plan_pk, space_id, "air")
    form = own_air_forms.OwnFanForm({}, request.POST, system=where.system, prefix=f"fan-{airway_id}")
    return _own(request, where, airway_id, form, "fan")


@require_POST
def own_filter(request: HttpRequest, plan_pk: int, space_id: str, airway_id: str) -> HttpResponse:
    """Put a filter of the person's own data into a way: in place of its first filter, or before all else."""
    where = locate(request, plan_pk, space_id, "air")
    form = own_air_forms.OwnFilterForm({}, request.POST, system=where.system, prefix=f"filter-{airway_id}")
    return _own(request, where, airway_id, form, "filter")


@require_POST
def own_fitting(request: HttpRequest, plan_pk: int, space_id: str, airway_id: str) -> HttpResponse:
    """Put a fitting of the person's own data at the end of a way."""
    where = locate(request, plan_pk, space_id, "air")
    form = own_air_forms.OwnFittingForm({}, request.POST, system=where.system, prefix=f"fitting-{airway_id}")
    return _own(request, where, airway_id, form, "fitting")


def _own(request: HttpRequest, where: Where, airway_id: str, form: Any, kind: str) -> HttpResponse:
    airway = _airway(where, airway_id)

    def act() -> Any:
        spec = form.spec()
        return _store(where, airway_id, {"parts": with_own(airway, kind, spec)}, f"Fitted {spec['name']}")

    return attempt(request, where, form, f"own-{kind}/{airway_id}", act)


@require_POST
def set_speed(request: HttpRequest, plan_pk: int, space_id: str, airway_id: str) -> HttpResponse:
    """Set a way's fans to a speed step."""
    where = locate(request, plan_pk, space_id, "air")
    airway = _airway(where, airway_id)
    try:
        speed = min(1.0, max(0.0, float(request.POST.get("speed", ""))))
    except ValueError:
        raise Http404 from None
    after = at_speed(where.space, airway, speed)
    changes = changes_between(where.space, after, ("airways",))
    return _try(
        request, where, lambda: actions.change_space(where.row, space_id, changes, f"Set {airway.name} to {speed:.0%}")
    )


@require_POST
def add_stirrer(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Hang a stirring fan of the library, aimed over the plants."""
    where = locate(request, plan_pk, space_id, "air")
    form = own_air_forms.AddStirForm({}, request.POST, system=where.system, prefix="add-stir")

    def act() -> Any:
        spec = find(stirrers(), form.cleaned_data["class_id"], "stirring fan").spec
        return _hang(where, spec)

    return attempt(request, where, form, "add-stir", act)


@require_POST
def own_stirrer(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Hang a stirring fan of the person's own data."""
    where = locate(request, plan_pk, space_id, "air")
    form = own_air_forms.OwnStirForm({}, request.POST, system=where.system, prefix="own-stir")
    return attempt(request, where, form, "own-stir", lambda: _hang(where, StirSpec.model_validate(form.spec())))


def _hang(where: Where, spec: StirSpec) -> Any:
    here = report_of(where.plan, where.space, day=where.day).here
    made: Stirrer = aimed(here, spec)
    data = made.model_dump(mode="json")
    return actions.add_to_space(where.row, where.space.id, "stirrers", [data], f"Hung {spec.name}")


def _needed(where: Where) -> tuple[Any, float]:
    report = report_of(where.plan, where.space, day=where.day)
    need = report.breathing.governing.flow_m3_h
    if not need:
        raise Http404
    return report, need


@require_GET
def sets(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Try fans and filters of the library in the space's path, a slice a request, saying how far it has come."""
    where = locate(request, plan_pk, space_id, "air")
    _, need = _needed(where)
    filtered = request.GET.get("filter", "1") == "1"
    space: Space = where.space
    row = sets_for(space, need, filtered=filtered)
    done = _tried.get((space.model_dump_json(), round(need, 3), filtered, where.plan.model_dump_json()), dict)
    begin = time.monotonic()
    for choice in row:
        if choice.key not in done:
            done[choice.key] = try_set(where.plan, space, choice, need)
            if time.monotonic() - begin > _SLICE_S:
                break
    return render(
        request,
        "workspace/_sets.html",
        {
            "row": where.row,
            "space": space,
            "done": len(done),
            "all": len(row),
            "best": best_sets(done.values()),
            "finished": len(done) >= len(row),
            "filter": "1" if filtered else "0",
            "system": where.system,
            "need": need,
            "left": sum(1 for item in done.values() if item.trial is None),
        },
    )


def fit_set(request: HttpRequest, plan_pk: int, space_id: str, key: str) -> HttpResponse:
    """Show what a set would move; on POST, fit it."""
    where = locate(request, plan_pk, space_id, "air")
    report, need = _needed(where)
    filtered = not key.endswith(".none")
    choice = next((item for item in sets_for(where.space, need, filtered=filtered) if item.key == key), None)
    if choice is None:
        raise Http404
    found = propose_set(report, try_set(where.plan, where.space, choice, need), need)
    if request.method == "POST":
        if found is None:
            return page(request, where, words="This set is what is fitted already, or no longer serves.")
        label = found.label.say(where.system)
        return page(request, where.again(actions.change_space(where.row, space_id, found.changes, label)))
    shown: dict[str, Any] = {
        "proposal": found,
        "key": key,
        "row": where.row,
        "space": where.space,
        "system": where.system,
        "station": "air",
        "leaf": "sets",
    }
    if found is not None:
        remedy = Remedy(label=found.label, changes=found.changes)
        shown |= {
            "label": found.label.say(where.system),
            "moved": preview(report, remedy),
        }
    return render(request, "workspace/_set.html", shown)
