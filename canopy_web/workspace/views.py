"""The workspace: show a station, and take one change at a time."""

from __future__ import annotations

import datetime as dt
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from canopy.design.light.hanging import hang
from canopy.design.preview import preview
from canopy.design.remedies import remedy_for
from canopy.errors import PlanError, QuantityError
from canopy.library import fixtures
from canopy.light.scene import PREVIEW
from canopy.plan import Fixture
from canopy.plan.changes import Change, Collection
from canopy.plan.edit import COLLECTIONS, apply, fresh_id
from canopy.quantities import LENGTH, parse_between
from canopy_web.planning import actions
from canopy_web.workspace import forms
from canopy_web.workspace.crop_leaves import shown_record
from canopy_web.workspace.page import ON_CANOPY, Where, context, day_key, level_key, locate
from canopy_web.workspace.plant_forms import PlantForm
from canopy_web.workspace.reports import report_of
from canopy_web.workspace.rows import PARTS

NOUNS = {
    "fixtures": "lamp",
    "plants": "plant",
    "openings": "opening",
    "devices": "device",
    "shelves": "shelf",
    "columns": "column",
    "hung": "hung thing",
    "daylight": "window",
    "airways": "way of air",
    "stirrers": "stirring fan",
}


def page(request: HttpRequest, where: Where, **more: Any) -> HttpResponse:
    """Answer with the workspace: the whole page, or only its inside when htmx asks."""
    inside = bool(request.htmx) and not request.htmx.boosted  # type: ignore[attr-defined]
    template = "workspace/_workspace.html" if inside else "workspace/workspace.html"
    return render(request, template, context(request, where, **more))


@require_GET
def station(request: HttpRequest, plan_pk: int, space_id: str, station: str) -> HttpResponse:
    """Show a station."""
    return page(request, locate(request, plan_pk, space_id, station))


def _collection(name: str) -> Collection:
    if name not in COLLECTIONS:
        raise Http404
    return name


def _title(where: Where, kind: str, part_id: str) -> str:
    for count, part in enumerate(getattr(where.space, kind), 1):
        if part.id == part_id:
            return f"{NOUNS[kind]} {count}"
    return NOUNS[kind]


def _record(where: Where, kind: str, part_id: str) -> dict[str, Any]:
    for part in getattr(where.space, kind):
        if part.id == part_id:
            data: dict[str, Any] = part.model_dump(mode="json")
            if kind == "plants":
                return shown_record(part, where.grown.get(part_id))
            return data["spec"] if kind == "devices" else data
    raise Http404


def attempt(request: HttpRequest, where: Where, form: forms.PartForm, key: str, act: Any) -> HttpResponse:
    """Do an act with a form; when it is refused show the page with what was typed and why."""
    if form.is_valid():
        try:
            return page(request, where.again(act()))
        except PlanError as error:
            form.take(error)
    return page(request, where, bad={key: form})


@require_POST
def edit_part(request: HttpRequest, plan_pk: int, space_id: str, kind: str, part_id: str) -> HttpResponse:
    """Change one lamp, plant, opening or device from its row."""
    where, collection = locate(request, plan_pk, space_id), _collection(kind)
    record = _record(where, kind, part_id)
    if kind == "plants":
        crop = where.cast.crops[record["crop_id"]]
        form: forms.PartForm = PlantForm(record, request.POST, system=where.system, prefix=part_id, crop=crop)
    elif kind in PARTS:
        form = PARTS[kind](record, request.POST, system=where.system, prefix=part_id)
    else:
        raise Http404

    def act() -> Any:
        values = form.changes()
        if kind == "devices":
            values = {f"spec.{name}": value for name, value in values.items()}
        if kind == "plants" and record["planting_id"] and ("height_m" in values or "spread_m" in values):
            # A size typed for a dated plant is what was seen on the day that is shown.
            values = {
                "height_m": record["height_m"],
                "spread_m": record["spread_m"],
                **values,
                "seen_on": where.day.isoformat(),
            }
        change = Change(collection=collection, part_id=part_id, values=values)
        return actions.change_space(where.row, space_id, [change], f"Changed {_title(where, kind, part_id)}")

    return attempt(request, where, form, f"{kind}/{part_id}", act)


_AXES = {
    "fixtures": ("x_m", "y_m", "z_m"),
    "plants": ("x_m", "y_m"),
    "stirrers": ("x_m", "y_m", "z_m"),
    "openings": ("u_m", "v_m"),
}


@require_POST
def move(request: HttpRequest, plan_pk: int, space_id: str, kind: str, part_id: str) -> HttpResponse:
    """Move a part to where it was dragged; with ``preview`` only show what would move."""
    where, collection = locate(request, plan_pk, space_id), _collection(kind)
    _record(where, kind, part_id)
    try:
        values = {axis: round(float(request.POST[axis]), 4) for axis in _AXES.get(kind, ()) if request.POST.get(axis)}
        if kind == "fixtures" and request.POST.get("dim"):
            values["dim"] = min(1.0, max(0.0, float(request.POST["dim"])))
    except ValueError:
        raise Http404 from None
    changes = [Change(collection=collection, part_id=part_id, values=values)]
    changes += _alike(where, kind, part_id, values, request.POST.getlist("with"))
    if request.POST.get("preview"):
        return _preview(request, where, changes)
    label = f"Moved {len(changes)} {NOUNS[kind]}s" if len(changes) > 1 else f"Moved {_title(where, kind, part_id)}"
    try:
        row = actions.change_space(where.row, space_id, changes, label)
        return page(request, where.again(row))
    except PlanError as error:
        return page(request, where, words=said(error))


def _alike(where: Where, kind: str, part_id: str, values: dict[str, float], others: list[str]) -> list[Change]:
    """What else is picked moves by the same distance."""
    parts = {part.id: part for part in getattr(where.space, kind)}
    shift = {axis: value - getattr(parts[part_id], axis) for axis, value in values.items()}
    collection = _collection(kind)
    return [
        Change(
            collection=collection,
            part_id=key,
            values={axis: round(max(0.0, getattr(parts[key], axis) + by), 4) for axis, by in shift.items()},
        )
        for key in dict.fromkeys(others)
        if key in parts and key != part_id
    ]


def _preview(request: HttpRequest, where: Where, changes: list[Change]) -> HttpResponse:
    """What would move, computed more coarsely and not stored: light, margins and title block only."""
    words = ""
    try:
        space = apply(where.plan, where.space.id, changes).space(where.space.id)
        where.space = space or where.space
    except PlanError as error:
        words = said(error)
    found = context(request, where, quality=PREVIEW, words=words, schedule=False)
    return render(request, "workspace/_preview.html", found)


def said(error: PlanError) -> str:
    message = error.problems[0].message
    return f"{message[0].upper()}{message[1:]}."


@require_POST
def remove(request: HttpRequest, plan_pk: int, space_id: str, kind: str, part_id: str) -> HttpResponse:
    """Take a part out."""
    where, collection = locate(request, plan_pk, space_id), _collection(kind)
    label = f"Removed {_title(where, kind, part_id)}"
    return page(request, where.again(actions.remove_from_space(where.row, space_id, collection, [part_id], label)))


@require_POST
def add_lamps(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Hang lamps from the library, side by side over the plants."""
    where = locate(request, plan_pk, space_id)
    form = forms.AddLampForm({}, request.POST, system=where.system, prefix="add")

    def act() -> Any:
        spec = fixtures()[form.cleaned_data["class_id"]].spec
        return hang_lamps(where, spec.model_dump(mode="json"), form.cleaned_data["count"])

    return attempt(request, where, form, "add", act)


@require_POST
def set_all_lamps(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Bring all lamps to one height, dimmer or day."""
    where = locate(request, plan_pk, space_id)
    form = forms.AllLampsForm({}, request.POST, system=where.system, prefix="all")

    def act() -> Any:
        values = form.values()
        lamps = where.space.fixtures if values else ()
        changes = [Change(collection="fixtures", part_id=lamp.id, values=values) for lamp in lamps]
        return actions.change_space(where.row, space_id, changes, "Set all lamps")

    return attempt(request, where, form, "all", act)


@require_POST
def add_own_lamp(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Hang a lamp of the person's own data."""
    where = locate(request, plan_pk, space_id)
    form = forms.OwnLampForm({}, request.POST, system=where.system, prefix="own")
    return attempt(request, where, form, "own", lambda: hang_lamps(where, form.spec(), 1))


def hang_lamps(where: Where, spec: dict[str, Any], count: int) -> Any:
    from canopy.equipment import FixtureSpec
    from canopy.errors import PlanProblem

    space = where.space
    lamp = FixtureSpec.model_validate(spec)
    here = report_of(where.plan, space, day=where.day).here
    top = max((plant.top_m for plant in here.plants), default=0.2 * space.size.height_m)
    hours = next((fixture.hours for fixture in space.fixtures), 14.0)
    made = hang(space.size, lamp, count, top, hours)
    if not made:
        words = (
            f"{count} × {lamp.name} do not fit side by side in this space"
            if count > 1
            else f"{lamp.name} is larger than this space"
        )
        raise PlanError([PlanProblem(path="class_id", message=words)])
    return hang_specs(where, made, f"Hung {count} × {lamp.name}")


def hang_specs(where: Where, made: list[Fixture], label: str) -> Any:
    """Add lamps to a space under ids that are not taken."""
    taken, parts = [fixture.id for fixture in where.space.fixtures], []
    for fixture in made:
        taken.append(fresh_id("lamp", taken))
        parts.append({**fixture.model_dump(mode="json"), "id": taken[-1]})
    return actions.add_to_space(where.row, where.space.id, "fixtures", parts, label)


@require_POST
def edit_space(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Change name, kind, size or door."""
    where = locate(request, plan_pk, space_id)
    data = where.space.model_dump(mode="json")
    form = forms.SpaceForm({**data, **data["size"]}, request.POST, system=where.system, prefix="space")

    def act() -> Any:
        got = form.changes()
        values = {f"size.{key}" if key.endswith("_m") else key: value for key, value in got.items()}
        if "door_side" in values:
            values["door_side"] = values["door_side"] or None
        return actions.change_space(where.row, space_id, [Change(values=values)], "Changed the space")

    return attempt(request, where, form, "space", act)


@require_POST
def edit_room(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Change the room around the space."""
    where = locate(request, plan_pk, space_id)
    form = forms.RoomForm(where.space.room.model_dump(), request.POST, system=where.system, prefix="room")

    def act() -> Any:
        values = {f"room.{key}": value for key, value in form.changes().items()}
        return actions.change_space(where.row, space_id, [Change(values=values)], "Changed the room")

    return attempt(request, where, form, "room", act)


@require_POST
def edit_face(request: HttpRequest, plan_pk: int, space_id: str, face: str) -> HttpResponse:
    """Change one face's lining."""
    where = locate(request, plan_pk, space_id)
    data = where.space.faces.model_dump(mode="json")
    if face not in data:
        raise Http404
    form = forms.FaceForm(data[face], request.POST, system=where.system, prefix=f"face-{face}")

    def act() -> Any:
        values = {f"faces.{face}.{key}": value for key, value in form.changes().items()}
        return actions.change_space(where.row, space_id, [Change(values=values)], f"Changed the {face} lining")

    return attempt(request, where, form, f"face/{face}", act)


@require_POST
def choose_circuit(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Plug the space into another circuit."""
    where = locate(request, plan_pk, space_id)
    chosen = request.POST.get("circuit_id") or None
    if chosen and where.plan.circuit(chosen) is None:
        raise Http404
    change = Change(values={"circuit_id": chosen})
    return page(request, where.again(actions.change_space(where.row, space_id, [change], "Chose a circuit")))


@require_POST
def set_level(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Draw the map at another height; the plan itself does not change."""
    where = locate(request, plan_pk, space_id)
    typed = request.POST.get("level", "").strip()
    if not typed:
        request.session.pop(level_key(where), None)
        return page(request, where)
    if typed == ON_CANOPY:
        request.session[level_key(where)] = ON_CANOPY
        return page(request, where)
    display = "inch" if where.system == "us" else "centimeter"
    try:
        unit = "meter" if request.POST.get("metres") else display
        level = parse_between(typed, LENGTH, 0, where.space.size.height_m, default_unit=unit, what="map height")
    except QuantityError as error:
        return page(request, where, words=str(error)[0].upper() + str(error)[1:] + ".")
    request.session[level_key(where)] = level
    return page(request, where)


@require_POST
def set_day(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Look at the plan on another day; the plan itself does not change."""
    where = locate(request, plan_pk, space_id)
    typed, ahead = request.POST.get("day", "").strip(), request.POST.get("ahead", "").strip()
    if not typed:
        request.session.pop(day_key(where.row), None)
        return page(request, locate(request, plan_pk, space_id))
    try:
        day = dt.date.fromisoformat(typed) + dt.timedelta(days=int(ahead or 0))
    except (ValueError, OverflowError):
        return page(request, where, words=f"“{typed}” is not a day: type it as 2026-03-14.")
    if not 1990 <= day.year <= 2200:
        return page(request, where, words="Choose a day between 1990 and 2200.")
    request.session[day_key(where.row)] = day.isoformat()
    where.day = day
    return page(request, where)


@require_POST
def confirm(request: HttpRequest, plan_pk: int, space_id: str, what: str) -> HttpResponse:
    """Take an assumption as settled."""
    where = locate(request, plan_pk, space_id)
    return page(request, where.again(actions.confirm_assumption(where.row, space_id, what)))


def remedy(request: HttpRequest, plan_pk: int, space_id: str, margin_id: str) -> HttpResponse:
    """Show what would mend a margin and what else it would move; on POST, do it."""
    where = locate(request, plan_pk, space_id)
    report = report_of(where.plan, where.space, day=where.day)
    found = remedy_for(report, margin_id)
    if request.method == "POST":
        if found is None:
            return page(request, where, words="This has changed meanwhile; there is nothing to mend here now.")
        label = found.label.say(where.system)
        return page(request, where.again(actions.change_space(where.row, space_id, found.changes, label)))
    moved = [item for item in preview(report, found) if item.before or item.after] if found else []
    return render(
        request,
        "workspace/_remedy.html",
        {
            "remedy": found,
            "moved": moved,
            "margin_id": margin_id,
            "row": where.row,
            "space": where.space,
            "station": where.station,
            "label": found.label.say(where.system) if found else "",
            "system": where.system,
        },
    )


@require_POST
def undo(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Take the last change back."""
    return _travel(request, plan_pk, space_id, back=True)


@require_POST
def redo(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Take a change up again."""
    return _travel(request, plan_pk, space_id, back=False)


def _travel(request: HttpRequest, plan_pk: int, space_id: str, *, back: bool) -> HttpResponse:
    where = locate(request, plan_pk, space_id)
    label = actions.undo(where.row) if back else actions.redo(where.row)
    where.row.refresh_from_db()
    words = f"{'Undone' if back else 'Done again'}: {label}." if label else "There is nothing more to undo."
    try:
        return page(request, where.again(where.row), words=words)
    except Http404:
        # The space itself is what was undone: back to the household.
        response: HttpResponse = redirect("planning:home")
        if request.htmx:  # type: ignore[attr-defined]
            response = HttpResponse()
            response["HX-Redirect"] = "/"
        return response


@require_POST
def delete(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Take the space out of the plan; undo on the household page brings it back."""
    where = locate(request, plan_pk, space_id)
    actions.delete_space(where.row, space_id, where.space.name)
    return redirect("planning:home")
