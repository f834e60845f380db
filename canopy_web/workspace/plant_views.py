"""Acts of the Crops station: add, sow, change many, arrange, train, move on."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.views.decorators.http import require_POST

from canopy.design.crops.arranging import arrange, main_stage
from canopy.errors import CanopyError, GeometryError, PlanError, PlanProblem
from canopy.library import Crop, containers
from canopy.plan import Planting, Size
from canopy.plan.changes import Change
from canopy.plan.edit import fresh_id
from canopy.plan.layout import Place, aligned, grid, on_wall, round_column
from canopy.season import Sowing, container_values, ground_of
from canopy_web.planning import actions
from canopy_web.workspace import plant_forms
from canopy_web.workspace.crop_leaves import other_spaces
from canopy_web.workspace.page import Where, locate
from canopy_web.workspace.views import attempt, page, said


def _add_form(request: HttpRequest, where: Where) -> plant_forms.AddPlantsForm:
    return plant_forms.AddPlantsForm(
        {"starts_on": where.day.isoformat()} if where.leaf == "season" else {},
        request.POST,
        system=where.system,
        prefix="add",
        known=where.crops,
        shelves=where.space.shelves,
    )


@require_POST
def add_plants(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Add plants of one crop, evenly spread: as they stand, or begun on a day."""
    where = locate(request, plan_pk, space_id, "crops")
    form = _add_form(request, where)

    def act() -> Any:
        got = form.cleaned_data
        crop = where.crops[got["crop_id"]]
        container = containers().get(got["container"] or "")
        if got["starts_on"]:
            sowing = Sowing(
                crop=crop,
                name=crop.name.partition(",")[0],
                starts_on=got["starts_on"],
                count=got["count"],
                first_stage=got["stage"] or "",
                times=got["times"] or 1,
                every_days=got["every_days"] or 10,
                container=container,
            )
            return actions.sow_in_space(where.row, space_id, sowing, got["level"] or "", own=_own(where, crop))
        stage = crop.stage(got["stage"]) or main_stage(crop)
        ground, base = ground_of(where.space, got["level"] or "")
        taken = tuple(plant.id for plant in where.space.plants)
        flat = Size.model_construct(
            width_m=ground.width_m, depth_m=ground.depth_m, height_m=where.space.size.height_m - base
        )
        made = arrange(flat, crop, stage, got["count"], taken)
        pot = container_values(container, crop) if container else {}
        parts = [
            plant.model_dump(mode="json")
            | {"x_m": round(plant.x_m + ground.x_m, 4), "y_m": round(plant.y_m + ground.y_m, 4), "base_m": base}
            | pot
            for plant in made
        ]
        label = f"Added {got['count']} × {crop.name}"
        return actions.add_plants(where.row, space_id, parts, label, own=_own(where, crop))

    return attempt(request, where, form, "add", act)


def _own(where: Where, crop: Crop) -> Crop | None:
    """The crop, where it is the person's own and comes with the plants."""
    return crop if crop.id in where.own else None


def _picked(request: HttpRequest, where: Where) -> list[str]:
    known = {plant.id for plant in where.space.plants}
    return [key for key in dict.fromkeys(request.POST.getlist("pick")) if key in known]


@require_POST
def many(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Do one thing with all plants that are picked."""
    where = locate(request, plan_pk, space_id, "crops")
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

    def act() -> Any:
        got = form.given()
        changes = [
            Change(collection="plants", part_id=key, values=values)
            for key in picked
            if (values := _values(where, key, got))
        ]
        own = where.own.get(got.get("crop_id", ""))
        return actions.change_plants(where.row, where.space.id, changes, f"Changed {len(picked)} plants", own=own)

    if form.is_valid():
        try:
            return page(request, where.again(act()), words=f"{len(picked)} plants changed.", bad={"picked": picked})
        except PlanError as error:
            form.take(error)
    return page(request, where, bad={"many": form, "picked": picked})


def _values(where: Where, key: str, got: dict[str, Any]) -> dict[str, Any]:
    """What one plant takes of a change for many."""
    plant = next(plant for plant in where.space.plants if plant.id == key)
    crop, now = where.cast.crops[plant.crop_id], where.grown.get(key)
    out: dict[str, Any] = {}
    if "crop_id" in got and plant.planting_id is not None:
        raise PlanError(
            [PlanProblem(path="crop_id", message="a planting is of one crop: begin another, or leave these out")]
        )
    if "crop_id" in got:
        crop = where.crops[got["crop_id"]]
        fresh = crop.stage(got.get("stage") or plant.stage or "") or main_stage(crop)
        out |= {"crop_id": crop.id, "stage": fresh.kind, "height_m": fresh.height_m, "spread_m": fresh.spread_m}
    elif "stage" in got and plant.planting_id is None:
        stage = crop.stage(got["stage"])
        if stage is None:
            kinds = ", ".join(item.kind for item in crop.stages)
            raise PlanError(
                [PlanProblem(path="stage", message=f"{crop.name} has no stage “{got['stage']}”: use {kinds}")]
            )
        out |= {"stage": stage.kind, "height_m": stage.height_m, "spread_m": stage.spread_m}
    size: dict[str, Any] = {name: got[name] for name in ("height_m", "spread_m") if name in got}
    if size and plant.planting_id is not None:
        if now is None:
            return out
        size = {"height_m": now.form.height_m, "spread_m": now.form.spread_m, **size, "seen_on": where.day.isoformat()}
    out |= size
    if got.get("container"):
        out |= container_values(containers()[got["container"]], crop)
    if got.get("level"):
        out["base_m"] = ground_of(where.space, "" if got["level"] == "floor" else got["level"])[1]
    return out | {name: got[name] for name in ("base_m", "pot_volume_l", "habit", "facing_deg") if name in got}


def _copy(request: HttpRequest, where: Where, picked: list[str]) -> HttpResponse:
    size, taken, parts = where.space.size, [plant.id for plant in where.space.plants], []
    for plant in where.space.plants:
        if plant.id in picked:
            taken.append(fresh_id("plant", taken))
            step = max(0.06, (plant.pot_width_m or plant.spread_m or 0.1) * 0.5)
            parts.append(
                plant.model_dump(mode="json")
                | {
                    "id": taken[-1],
                    "x_m": round(min(size.width_m, plant.x_m + step), 4),
                    "y_m": round(min(size.depth_m, plant.y_m + step / 2), 4),
                }
            )
    fresh = [part["id"] for part in parts]
    label = f"Copied {len(parts)} plants"
    row = actions.add_to_space(where.row, where.space.id, "plants", parts, label)
    return page(request, where.again(row), words=f"{label}; the copies are picked.", bad={"picked": fresh})


def _remove(request: HttpRequest, where: Where, picked: list[str]) -> HttpResponse:
    row = actions.remove_from_space(where.row, where.space.id, "plants", picked, f"Removed {len(picked)} plants")
    return page(request, where.again(row), words=f"{len(picked)} plants removed.")


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
    row = actions.change_space(where.row, where.space.id, changes, f"Lined {len(plants)} plants up")
    return page(request, where.again(row), bad={"picked": picked})


def _grid_places(where: Where, spot: str, count: int, columns: int | None, spacing: float | None) -> list[Place]:
    size = where.space.size
    kind, _, name = spot.partition("-")
    if kind == "wall" and name in ("back", "left", "right"):
        return on_wall(name, (size.width_m, size.depth_m, size.height_m), count, columns=columns)
    if kind == "column":
        column = next((column for column in where.space.columns if f"column-{column.id}" == spot), None)
        if column is not None:
            each = columns or 5
            return round_column(column, count, max(1, -(-count // each)))
    ground, base = ground_of(where.space, spot)
    return [
        Place(x_m=place.x_m, y_m=place.y_m, base_m=base)
        for place in grid(ground, count, columns=columns, spacing_m=spacing)
    ]


def _grid(request: HttpRequest, where: Where, picked: list[str]) -> HttpResponse:
    from canopy_web.workspace.crop_leaves import _places

    form = plant_forms.GridForm({}, request.POST, system=where.system, prefix="grid", places=_places(where))
    if not form.is_valid():
        return page(request, where, bad={"grid": form, "picked": picked})
    got = form.cleaned_data
    spot, plants = got["where"] or "", [plant for plant in where.space.plants if plant.id in picked]
    outward = spot.startswith(("wall-", "column-"))
    try:
        places = _grid_places(where, spot, len(plants), got["columns"], got["spacing_m"])
    except GeometryError as error:
        form.add_error("spacing_m", str(error))
        return page(request, where, bad={"grid": form, "picked": picked})
    changes = []
    for plant, place in zip(plants, places, strict=True):
        values: dict[str, Any] = {"x_m": place.x_m, "y_m": place.y_m, "base_m": place.base_m}
        if outward:
            values |= {"habit": "outward", "facing_deg": place.facing_deg}
        elif plant.habit == "outward":
            values |= {"habit": "stand"}
        changes.append(Change(collection="plants", part_id=plant.id, values=values))
    try:
        row = actions.change_space(where.row, where.space.id, changes, f"Arranged {len(plants)} plants")
        return page(request, where.again(row), bad={"picked": picked})
    except PlanError as error:
        form.take(error)
        return page(request, where, bad={"grid": form, "picked": picked})


def _begin(request: HttpRequest, where: Where, picked: list[str]) -> HttpResponse:
    """Give plants without days a planting that begins in their stage on the day that is shown."""
    plants = [plant for plant in where.space.plants if plant.id in picked and plant.planting_id is None]
    kinds = dict.fromkeys((plant.crop_id, plant.stage or "") for plant in plants)
    if not kinds:
        return page(request, where, words="These plants follow days already.", bad={"picked": picked})
    row = where.row
    for crop_id, stage in kinds:
        taken = [item.id for item in where.plan.plantings]
        planting = Planting(
            id=fresh_id("planting", taken),
            name=where.cast.crops[crop_id].name.partition(",")[0],
            crop_id=crop_id,
            starts_on=where.day,
            first_stage=stage,
        )
        members = [plant.id for plant in plants if (plant.crop_id, plant.stage) == (crop_id, stage)]
        row = actions.begin_season(row, where.space.id, members, planting)
        where = where.again(row)
    return page(
        request,
        where,
        words="They follow their days from now on; change the first day under Season.",
        bad={"picked": picked},
    )


_MANY = {"set": _set, "copy": _copy, "remove": _remove, "line": _line_up, "grid": _grid, "begin": _begin}


def _planting(where: Where, planting_id: str) -> Planting:
    found = where.plan.planting(planting_id)
    if found is None:
        raise Http404
    return found


@require_POST
def edit_planting(request: HttpRequest, plan_pk: int, space_id: str, planting_id: str) -> HttpResponse:
    """Change a planting's name, days or stage lengths."""
    where = locate(request, plan_pk, space_id, "crops")
    planting = _planting(where, planting_id)
    crop = where.cast.crops[planting.crop_id]
    form = plant_forms.PlantingForm(planting.model_dump(mode="json"), request.POST, prefix=planting_id, crop=crop)

    def act() -> Any:
        change = Change(collection="plantings", part_id=planting_id, values=form.values())
        return actions.change_space(where.row, space_id, [change], f"Changed {planting.name}")

    return attempt(request, where, form, f"planting/{planting_id}", act)


@require_POST
def remove_planting(request: HttpRequest, plan_pk: int, space_id: str, planting_id: str) -> HttpResponse:
    """Take a planting out with its plants."""
    where = locate(request, plan_pk, space_id, "crops")
    row = actions.drop_planting(where.row, planting_id, _planting(where, planting_id).name)
    return page(request, where.again(row))


@require_POST
def train(request: HttpRequest, plan_pk: int, space_id: str, planting_id: str) -> HttpResponse:
    """Cut a planting back or hold it from a day on; or take such a note out again."""
    where = locate(request, plan_pk, space_id, "crops")
    planting = _planting(where, planting_id)
    kept = [item.model_dump(mode="json") for item in planting.trainings]
    form = plant_forms.TrainingForm({}, request.POST, system=where.system, prefix=f"t-{planting_id}")
    undo = request.POST.get("drop", "")
    if undo.isdigit() and int(undo) < len(kept):
        del kept[int(undo)]
        change = Change(collection="plantings", part_id=planting_id, values={"trainings": kept})
        return page(
            request, where.again(actions.change_space(where.row, space_id, [change], f"Untrained {planting.name}"))
        )

    def act() -> Any:
        got = form.cleaned_data
        fresh = {"on": got["on"].isoformat(), "height_m": got["height_m"], "how": got["how"]}
        change = Change(collection="plantings", part_id=planting_id, values={"trainings": [*kept, fresh]})
        return actions.change_space(where.row, space_id, [change], f"Trained {planting.name}")

    return attempt(request, where, form, f"training/{planting_id}", act)


@require_POST
def move_on(request: HttpRequest, plan_pk: int, space_id: str, planting_id: str) -> HttpResponse:
    """Move a planting to another space on a day."""
    where = locate(request, plan_pk, space_id, "crops")
    planting = _planting(where, planting_id)
    form = plant_forms.MoveOnForm({}, request.POST, prefix=f"m-{planting_id}", spaces=other_spaces(where))

    def act() -> Any:
        got = form.cleaned_data
        members = [
            plant.id for plant in where.space.plants if plant.planting_id == planting_id and plant.until_day is None
        ]
        return actions.move_plants(
            where.row,
            space_id,
            got["to"],
            members,
            got["on"],
            f"{planting.name} moves on",
            container=containers().get(got["container"] or ""),
            crop=where.cast.crops[planting.crop_id],
        )

    return attempt(request, where, form, f"moving/{planting_id}", act)


@require_POST
def move_kind(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Follow a proposal: move all plants of a crop and stage to another space."""
    where = locate(request, plan_pk, space_id, "crops")
    source, target = request.POST.get("from", ""), request.POST.get("to", "")
    crop_id, stage = request.POST.get("crop", ""), request.POST.get("stage", "")
    space = where.plan.space(source)
    if space is None:
        raise Http404
    from canopy_web.workspace.reports import report_of

    members = [
        plant.id
        for plant in report_of(where.plan, space, day=where.day).here.plants
        if (plant.crop_id, plant.stage) == (crop_id, stage)
    ]
    try:
        row = actions.move_plants(where.row, source, target, members, where.day, "Moved to better company")
    except CanopyError as error:
        return page(request, where, words=said(error) if isinstance(error, PlanError) else str(error))
    return page(request, where.again(row), words="Moved; Undo takes it back.")
