"""Acts of the Crops station: add, sow, change many, arrange, train, move on."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.views.decorators.http import require_POST

from canopy.design.crops.placing import arranged, changed, copied, places_at, spread_out
from canopy.errors import CanopyError, GeometryError, PlanError
from canopy.library import Crop, containers
from canopy.plan import Planting
from canopy.plan.changes import Add, Change, Remove
from canopy.plan.layout import aligned
from canopy.season import Sowing, standing_of, undated_kinds
from canopy.words import counted, short_name
from canopy_web.planning import actions
from canopy_web.stations.crops import forms as plant_forms
from canopy_web.stations.crops.plants import places
from canopy_web.stations.crops.season import all_spaces, other_spaces
from canopy_web.workspace.edits import edit_listed
from canopy_web.workspace.reply import answer, attempt, change, page, said
from canopy_web.workspace.where import Where, at_space


def _add_form(request: HttpRequest, where: Where) -> plant_forms.AddPlantsForm:
    return plant_forms.AddPlantsForm(
        {"starts_on": where.day.isoformat()} if where.tab == "season" else {},
        request.POST,
        system=where.system,
        prefix="add",
        known=where.crops,
        shelves=where.space.shelves,
    )


@require_POST
@at_space
def add_plants(request: HttpRequest, where: Where) -> HttpResponse:
    """Add plants of one crop, evenly spread: as they stand, or begun on a day."""
    form = _add_form(request, where)

    def act() -> Where:
        got = form.cleaned_data
        crop = where.crops[got["crop_id"]]
        container = containers().get(got["container"] or "")
        if got["starts_on"]:
            sowing = Sowing(
                crop=crop,
                name=short_name(crop.name),
                starts_on=got["starts_on"],
                count=got["count"],
                first_stage=got["stage"] or "",
                times=got["times"] or 1,
                every_days=got["every_days"] or 10,
                container=container,
            )
            level, own = got["level"] or "", _own(where, crop)
            return where.again(actions.sow_in_space(where.row, where.space.id, sowing, level, own=own))
        parts = spread_out(where.space, crop, got["stage"] or "", got["count"], got["level"] or "", container)
        label = f"Added {got['count']} × {crop.name}"
        return where.again(actions.add_plants(where.row, where.space.id, parts, label, own=_own(where, crop)))

    return attempt(request, where, form, "add", act)


def _own(where: Where, crop: Crop) -> Crop | None:
    """The crop, where it is the person's own and comes with the plants."""
    return crop if crop.id in where.own else None


def _picked(request: HttpRequest, where: Where) -> list[str]:
    known = {plant.id for plant in where.space.plants}
    return [key for key in dict.fromkeys(request.POST.getlist("pick")) if key in known]


@require_POST
@at_space
def many(request: HttpRequest, where: Where) -> HttpResponse:
    """Do one thing with all plants that are picked."""
    picked, act = _picked(request, where), request.POST.get("act", "")
    if not picked:
        return page(
            request, where, words="Pick some plants first: tick their lines, or draw a frame round them in the plan."
        )
    if act not in _MANY:
        raise Http404
    return _MANY[act](request, where, picked)


def _set(request: HttpRequest, where: Where, picked: list[str]) -> HttpResponse:
    shelves = where.space.shelves
    form = plant_forms.ManyForm(
        {}, request.POST, system=where.system, prefix="many", known=where.crops, shelves=shelves
    )

    def act() -> Where:
        got = form.given()
        fresh = where.crops[got["crop_id"]] if "crop_id" in got else None
        changes = [
            Change(collection="plants", part_id=plant.id, values=values)
            for plant in where.space.plants
            if plant.id in picked
            and (
                values := changed(
                    where.space, plant, where.cast.crop(plant), where.grown.get(plant.id), got, where.day, fresh
                )
            )
        ]
        own = where.own.get(got.get("crop_id", ""))
        label = f"Changed {counted(len(picked), 'plant')}"
        return where.again(actions.change_plants(where.row, where.space.id, changes, label, own))

    if form.is_valid():
        try:
            return page(request, act(), words=f"{counted(len(picked), 'plant')} changed.", bad={"picked": picked})
        except PlanError as error:
            form.take(error)
    return page(request, where, bad={"many": form, "picked": picked})


def _copy(request: HttpRequest, where: Where, picked: list[str]) -> HttpResponse:
    parts = tuple(copied(where.space, picked))
    known, label = {plant.id for plant in where.space.plants}, f"Copied {counted(len(parts), 'plant')}"
    after = where.do(label, Add(collection="plants", parts=parts, prefix="plant"))
    fresh = [plant.id for plant in after.space.plants if plant.id not in known]
    return page(request, after, words=f"{label}; the copies are picked.", bad={"picked": fresh})


def _remove(request: HttpRequest, where: Where, picked: list[str]) -> HttpResponse:
    gone = Remove(collection="plants", part_ids=tuple(picked))
    words = f"{counted(len(picked), 'plant')} removed."
    return change(request, where, f"Removed {counted(len(picked), 'plant')}", gone, words=words)


def _line_up(request: HttpRequest, where: Where, picked: list[str]) -> HttpResponse:
    axis, how = {
        "left": ("x_m", "low"),
        "middle": ("x_m", "middle"),
        "right": ("x_m", "high"),
        "front": ("y_m", "low"),
        "row": ("y_m", "middle"),
        "back": ("y_m", "high"),
        "spread-x": ("x_m", "spread"),
        "spread-y": ("y_m", "spread"),
    }.get(request.POST.get("how", ""), ("", ""))
    if not axis:
        raise Http404
    plants = [plant for plant in where.space.plants if plant.id in picked]
    values = aligned([getattr(plant, axis) for plant in plants], how)
    changes = [
        Change(collection="plants", part_id=plant.id, values={axis: value})
        for plant, value in zip(plants, values, strict=True)
    ]
    return change(request, where, f"Lined {counted(len(plants), 'plant')} up", *changes, bad={"picked": picked})


def _grid(request: HttpRequest, where: Where, picked: list[str]) -> HttpResponse:
    form = plant_forms.GridForm({}, request.POST, system=where.system, prefix="grid", places=places(where))
    bad: dict[str, Any] = {"grid": form, "picked": picked}
    if not form.is_valid():
        return page(request, where, bad=bad)
    got = form.cleaned_data
    spot, plants = got["where"] or "", [plant for plant in where.space.plants if plant.id in picked]
    try:
        found = places_at(where.space, spot, len(plants), got["columns"], got["spacing_m"])
        after = where.do(f"Arranged {counted(len(plants), 'plant')}", *arranged(plants, found, spot))
        return page(request, after, bad={"picked": picked})
    except GeometryError as error:
        form.add_error("spacing_m", str(error))
    except PlanError as error:
        form.take(error)
    return page(request, where, bad=bad)


def _begin(request: HttpRequest, where: Where, picked: list[str]) -> HttpResponse:
    """Give plants without days a planting that begins in their stage on the day that is shown."""
    kinds = undated_kinds(where.space, picked)
    if not kinds:
        return page(request, where, words="These plants grow by date already.", bad={"picked": picked})
    words = "They grow by date from now on; change the first day under Season."
    return answer(
        request,
        where,
        lambda: where.again(actions.begin_season(where.row, where.space.id, picked, where.day)),
        words=words,
        bad={"picked": picked},
    )


_MANY = {"set": _set, "copy": _copy, "remove": _remove, "line": _line_up, "grid": _grid, "begin": _begin}


def _planting(where: Where, planting_id: str) -> Planting:
    found = where.plan.planting(planting_id)
    if found is None:
        raise Http404
    return found


@require_POST
@at_space
def edit_planting(request: HttpRequest, where: Where, planting_id: str) -> HttpResponse:
    """Change a planting's name, days or stage lengths."""
    crop = where.cast.crops[_planting(where, planting_id).crop_id]
    return edit_listed(
        request,
        where,
        lambda record: plant_forms.PlantingForm(record, request.POST, prefix=planting_id, crop=crop),
        collection="plantings",
        part_id=planting_id,
        key=f"planting/{planting_id}",
        label=lambda record: f"Changed {record['name']}",
    )


@require_POST
@at_space
def remove_planting(request: HttpRequest, where: Where, planting_id: str) -> HttpResponse:
    """Take a planting out with its plants."""
    name = _planting(where, planting_id).name
    return answer(request, where, lambda: where.again(actions.drop_planting(where.row, planting_id, name)))


@require_POST
@at_space
def train(request: HttpRequest, where: Where, planting_id: str) -> HttpResponse:
    """Cut a planting back or hold it from a day on; or take such a note out again."""
    planting, at = _planting(where, planting_id), ("plantings", planting_id)
    drop = request.POST.get("drop", "")
    if drop:
        gone = Remove(at=at, collection="trainings", part_ids=(drop,))
        return change(request, where, f"Untrained {planting.name}", gone)
    form = plant_forms.TrainingForm({}, request.POST, system=where.system, prefix=f"t-{planting_id}")

    def act() -> Where:
        got = form.cleaned_data
        fresh = {"on": got["on"].isoformat(), "height_m": got["height_m"], "how": got["how"]}
        noted = Add(at=at, collection="trainings", parts=(fresh,), prefix="training")
        return where.do(f"Trained {planting.name}", noted)

    return attempt(request, where, form, f"training/{planting_id}", act)


@require_POST
@at_space
def move_on(request: HttpRequest, where: Where, planting_id: str) -> HttpResponse:
    """Move a planting to another space on a day."""
    planting = _planting(where, planting_id)
    form = plant_forms.MoveOnForm({}, request.POST, prefix=f"m-{planting_id}", spaces=other_spaces(where))

    def act() -> Where:
        got = form.cleaned_data
        members = [
            plant.id for plant in where.space.plants if plant.planting_id == planting_id and plant.until_day is None
        ]
        row = actions.move_plants(
            where.row,
            where.space.id,
            got["to"],
            members,
            got["on"],
            f"{planting.name} moves on",
            container=containers().get(got["container"] or ""),
            crop=where.cast.crops[planting.crop_id],
        )
        return where.again(row)

    return attempt(request, where, form, f"moving/{planting_id}", act)


@require_POST
@at_space
def copy_planting(request: HttpRequest, where: Where, planting_id: str) -> HttpResponse:
    """Begin a planting again with the same plants, on another day."""
    planting = _planting(where, planting_id)
    form = plant_forms.CopyForm({}, request.POST, prefix=f"c-{planting_id}", spaces=all_spaces(where))

    def act() -> Where:
        got = form.cleaned_data
        label = f"Copied {planting.name}"
        return where.again(
            actions.copy_planting(where.row, where.space.id, planting_id, got["to"], got["starts_on"], label)
        )

    return attempt(request, where, form, f"copying/{planting_id}", act)


@require_POST
@at_space
def move_kind(request: HttpRequest, where: Where) -> HttpResponse:
    """Follow a proposal: move all plants of a crop and stage to another space."""
    source, target = request.POST.get("from", ""), request.POST.get("to", "")
    crop_id, stage = request.POST.get("crop", ""), request.POST.get("stage", "")
    space = where.plan.space(source)
    if space is None:
        raise Http404
    here = standing_of(space, where.day, where.cast)
    members = [plant.id for plant in here.by_kind.get((crop_id, stage), ())]
    try:
        row = actions.move_plants(where.row, source, target, members, where.day, "Moved to better company")
    except CanopyError as error:
        return page(request, where, words=said(error) if isinstance(error, PlanError) else str(error))
    return page(request, where.again(row), words="Moved; Undo takes it back.")
