"""The rules a plan keeps beyond the shape of its fields."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping

from canopy.errors import PlanProblem
from canopy.library import Crop, crops, light_sources, materials, mixes, rule_sets
from canopy.plan.air_checks import airway_problems
from canopy.plan.changes import PREFIXES
from canopy.plan.document import Plan, Space
from canopy.plan.plants import Plant, Planting
from canopy.plan.plugs import plug_problems
from canopy.plan.pose import corners
from canopy.plan.shell import FACES, Surface

TOLERANCE_M = 1e-6


def problems(plan: Plan) -> list[PlanProblem]:
    """Find every breach of the rules in a plan whose fields are well formed.

    Returns
    -------
    list of PlanProblem : empty when the plan is sound; each names the place and what would be accepted
    """
    found = list(_twice("circuits", (circuit.id for circuit in plan.circuits)))
    found += _twice("spaces", (space.id for space in plan.spaces))
    found += _twice("rooms", (room.id for room in plan.rooms))
    found += _twice("stock", (item.id for item in plan.stock))
    room_ids = {room.id for room in plan.rooms}
    for number, room in enumerate(plan.rooms):
        for key, what in (("heating_w", "heater"), ("cooling_w", "air conditioner")):
            if getattr(room, key) is not None and room.floor_m2 is None:
                message = f"give the room's floor area first: what a {what} does to it depends on its size"
                found.append(PlanProblem(path=f"rooms[{number}].{key}", message=message))
    for number, circuit in enumerate(plan.circuits):
        if circuit.rule_set_id not in rule_sets():
            found.append(_unknown(f"circuits[{number}].rule_set_id", "rule set", circuit.rule_set_id, rule_sets()))
    known = {**crops(), **{crop.id: crop for crop in plan.crops}}
    found += _own_crops(plan)
    found += _plantings(plan, known)
    plantings = {planting.id: planting for planting in plan.plantings}
    circuit_ids = {circuit.id for circuit in plan.circuits}
    for number, space in enumerate(plan.spaces):
        path = f"spaces[{number}]"
        if space.circuit_id is not None and space.circuit_id not in circuit_ids:
            found.append(_unknown(f"{path}.circuit_id", "circuit", space.circuit_id, circuit_ids))
        if space.room_id not in room_ids:
            found.append(_unknown(f"{path}.room_id", "room", space.room_id, room_ids))
        found += _space(path, space)
        found += _plants(path, space, known, plantings)
    found += airway_problems(plan)
    found += plug_problems(plan.outlets, plan.carriers, circuit_ids, room_ids)
    found += _plugs(plan)
    return found


def _plugs(plan: Plan) -> Iterator[PlanProblem]:
    """What is plugged into something that is not there."""
    known = {outlet.id for outlet in plan.outlets} | {carrier.id for carrier in plan.carriers}
    for number, space in enumerate(plan.spaces):
        parts = [(f"fixtures[{n}]", lamp.spec.name, lamp.plug) for n, lamp in enumerate(space.fixtures)]
        parts += [(f"devices[{n}]", item.spec.name, item.plug) for n, item in enumerate(space.devices)]
        parts += [(f"stirrers[{n}]", item.spec.name, item.plug) for n, item in enumerate(space.stirrers)]
        parts += [
            (f"airways[{w}].parts[{n}]", part.spec.name, part.plug)
            for w, way in enumerate(space.airways)
            for n, part in enumerate(way.parts)
            if part.kind == "fan"
        ]
        for path, name, plug in parts:
            if plug is not None and plug not in known:
                message = f"there is no outlet, strip or timer “{plug}” to plug {name} into"
                yield PlanProblem(path=f"spaces[{number}].{path}.plug", message=message)


def _own_crops(plan: Plan) -> Iterator[PlanProblem]:
    yield from _twice("crops", (crop.id for crop in plan.crops))
    names = {crop.name.casefold(): crop.name for crop in crops().values()}
    for number, crop in enumerate(plan.crops):
        if crop.id in crops():
            yield PlanProblem(
                path=f"crops[{number}].id",
                message=(
                    f"“{crop.id}” is a crop of the library: a crop of your own needs another id, such as "
                    f"“own-{crop.id}”"
                ),
            )
        if crop.name.casefold() in names:
            yield PlanProblem(
                path=f"crops[{number}].name",
                message=f"“{crop.name}” is the name of a crop of the library: give your copy a name of its own",
            )


def _plantings(plan: Plan, known: Mapping[str, Crop]) -> Iterator[PlanProblem]:
    yield from _twice("plantings", (planting.id for planting in plan.plantings))
    for number, planting in enumerate(plan.plantings):
        here, crop = f"plantings[{number}]", known.get(planting.crop_id)
        if crop is None:
            yield _unknown(f"{here}.crop_id", "crop", planting.crop_id, known)
            continue
        yield from _twice(f"{here}.trainings", (item.id for item in planting.trainings))
        stages = [stage.kind for stage in crop.stages]
        for kind in (planting.first_stage or stages[0], *planting.stage_days):
            if kind not in stages:
                path = f"{here}.stage_days" if kind in planting.stage_days else f"{here}.first_stage"
                yield PlanProblem(path=path, message=f"{crop.name} has no stage “{kind}”: use {', '.join(stages)}")
        if planting.cleared_on and planting.cleared_on < planting.starts_on:
            yield PlanProblem(path=f"{here}.cleared_on", message="it is cleared before it begins")


def _space(path: str, space: Space) -> Iterator[PlanProblem]:
    for face in FACES:
        yield from _surface(f"{path}.faces.{face}", getattr(space.faces, face))
    if space.feed.mix_id not in mixes():
        yield _unknown(f"{path}.feed.mix_id", "growing mix", space.feed.mix_id, mixes())
    for kind in (key for key in PREFIXES if key in Space.model_fields):
        yield from _twice(f"{path}.{kind}", (part.id for part in getattr(space, kind)))
    yield from _openings(path, space)
    yield from _furnishing(path, space)
    yield from _fixtures(path, space)


def _surface(path: str, surface: Surface) -> Iterator[PlanProblem]:
    if surface.material_id not in materials():
        yield _unknown(f"{path}.material_id", "material", surface.material_id, materials())


def _face_m(space: Space, face: str) -> tuple[float, float]:
    size = space.size
    across = size.depth_m if face in ("left", "right") else size.width_m
    return across, size.depth_m if face in ("floor", "ceiling") else size.height_m


def _openings(path: str, space: Space) -> Iterator[PlanProblem]:
    holes = [
        (f"{path}.openings[{n}]", "hole", o.face, o.u_m, o.v_m, o.across_m, o.up_m)
        for n, o in enumerate(space.openings)
    ]
    holes += [
        (f"{path}.daylight[{n}]", "window", w.face, w.u_m, w.v_m, w.width_m, w.height_m)
        for n, w in enumerate(space.daylight)
    ]
    for here, what, face, u, v, wide, high in holes:
        across, up = _face_m(space, face)
        slack = TOLERANCE_M
        if not (wide / 2 - slack <= u <= across - wide / 2 + slack and high / 2 - slack <= v <= up - high / 2 + slack):
            yield PlanProblem(
                path=here,
                message=(
                    f"this {what} reaches over the edge of the {face} face, which is {across * 100:.0f} × "
                    f"{up * 100:.0f} cm{_largest(u, v, across, up)}"
                ),
            )


def _largest(u: float, v: float, across: float, up: float) -> str:
    """Say how large a hole could be around its middle; nothing where that lies on or beyond the edge."""
    wide, high = 2 * min(u, across - u), 2 * min(v, up - v)
    return f"; around its middle it could be {wide * 100:.0f} × {high * 100:.0f} cm" if min(wide, high) >= 0.01 else ""


def _furnishing(path: str, space: Space) -> Iterator[PlanProblem]:
    size = space.size
    for number, shelf in enumerate(space.shelves):
        here = f"{path}.shelves[{number}]"
        yield from _surface(f"{here}.top", shelf.top)
        yield from _surface(f"{here}.under", shelf.under)
        limits = (
            ("x_m", shelf.x_m + shelf.width_m, size.width_m, "across"),
            ("y_m", shelf.y_m + shelf.depth_m, size.depth_m, "deep"),
            ("z_m", shelf.z_m, size.height_m, "high"),
        )
        for key, reach, most, word in limits:
            if reach > most + TOLERANCE_M:
                yield PlanProblem(
                    path=f"{here}.{key}",
                    message=f"this shelf reaches to {reach * 100:.0f} cm and the space is {most * 100:.0f} cm {word}",
                )
    for number, device in enumerate(space.devices):
        for key, at, most in (
            ("x_m", device.x_m, size.width_m),
            ("y_m", device.y_m, size.depth_m),
            ("z_m", device.z_m, size.height_m),
        ):
            if at is not None and at > most + TOLERANCE_M:
                yield PlanProblem(
                    path=f"{path}.devices[{number}].{key}",
                    message=f"this device stands at {at * 100:.0f} cm and the space ends at {most * 100:.0f} cm",
                )
    for number, lid in enumerate(space.lids):
        here = f"{path}.lids[{number}]"
        for key, reach, most in (
            ("width_m", lid.x_m + lid.width_m, size.width_m),
            ("depth_m", lid.y_m + lid.depth_m, size.depth_m),
            ("height_m", lid.z_m + lid.height_m, size.height_m),
        ):
            if reach > most + TOLERANCE_M:
                yield PlanProblem(
                    path=f"{here}.{key}",
                    message=f"this lid reaches to {reach * 100:.0f} cm and the space ends at {most * 100:.0f} cm",
                )
    for number, column in enumerate(space.columns):
        here, radius = f"{path}.columns[{number}]", column.diameter_m / 2
        if not (radius <= column.x_m <= size.width_m - radius and radius <= column.y_m <= size.depth_m - radius):
            yield PlanProblem(path=f"{here}.x_m", message="this column reaches through a wall")
        if column.z_m + column.height_m > size.height_m + TOLERANCE_M:
            yield PlanProblem(
                path=f"{here}.height_m",
                message=f"this column ends at {(column.z_m + column.height_m) * 100:.0f} cm and the space at "
                f"{size.height_m * 100:.0f} cm",
            )
    for number, trellis in enumerate(space.trellises):
        here, half = f"{path}.trellises[{number}]", trellis.width_m / 2
        middle, most = (trellis.x_m, size.width_m) if trellis.along == "width" else (trellis.y_m, size.depth_m)
        if middle - half < -TOLERANCE_M or middle + half > most + TOLERANCE_M:
            yield PlanProblem(path=f"{here}.width_m", message="this trellis reaches through a wall")
        if trellis.x_m > size.width_m or trellis.y_m > size.depth_m:
            yield PlanProblem(path=f"{here}.x_m", message="this trellis stands outside the space")
        if trellis.z_m + trellis.height_m > size.height_m + TOLERANCE_M:
            yield PlanProblem(
                path=f"{here}.height_m",
                message=f"this trellis ends at {(trellis.z_m + trellis.height_m) * 100:.0f} cm and the space at "
                f"{size.height_m * 100:.0f} cm",
            )
    if space.net and space.net.z_m > size.height_m:
        yield PlanProblem(
            path=f"{path}.net.z_m", message=f"the net hangs above the space, which is {size.height_m * 100:.0f} cm high"
        )


def _plants(
    path: str, space: Space, known: Mapping[str, Crop], plantings: Mapping[str, Planting]
) -> Iterator[PlanProblem]:
    size = space.size
    for number, plant in enumerate(space.plants):
        here = f"{path}.plants[{number}]"
        crop = known.get(plant.crop_id)
        if crop is None:
            yield _unknown(f"{here}.crop_id", "crop", plant.crop_id, known)
        elif plant.stage is not None and crop.stage(plant.stage) is None:
            stages = ", ".join(stage.kind for stage in crop.stages)
            yield PlanProblem(path=f"{here}.stage", message=f"{crop.name} has no stage “{plant.stage}”: use {stages}")
        if plant.planting_id is not None:
            planting = plantings.get(plant.planting_id)
            if planting is None:
                yield _unknown(f"{here}.planting_id", "planting", plant.planting_id, plantings)
            elif planting.crop_id != plant.crop_id:
                yield PlanProblem(
                    path=f"{here}.crop_id",
                    message=f"its planting “{planting.name}” is of another crop, {planting.crop_id}",
                )
        if plant.x_m > size.width_m + TOLERANCE_M or plant.y_m > size.depth_m + TOLERANCE_M:
            yield PlanProblem(
                path=f"{here}.{'x_m' if plant.x_m > size.width_m else 'y_m'}",
                message=f"this plant stands outside: x up to {size.width_m * 100:.0f} cm, "
                f"y up to {size.depth_m * 100:.0f} cm",
            )
        yield from _too_tall(here, space, plant)


def _too_tall(here: str, space: Space, plant: Plant) -> Iterator[PlanProblem]:
    """A plant without days must fit; what a dated one outgrows is a margin, with its day."""
    most, rim = space.size.height_m, plant.base_m + plant.pot_height_m
    if rim > most + TOLERANCE_M:
        yield PlanProblem(
            path=f"{here}.base_m",
            message=f"its pot's rim is at {rim * 100:.0f} cm and the space ends at {most * 100:.0f} cm",
        )
        return
    grows_up = plant.habit in ("stand", "pole", "wall") and plant.planting_id is None
    held = bool(space.net and plant.habit == "stand" and rim < space.net.z_m)
    if grows_up and not held and rim + (plant.height_m or 0.0) > most + TOLERANCE_M:
        yield PlanProblem(
            path=f"{here}.height_m",
            message=f"this plant's top is at {(rim + (plant.height_m or 0.0)) * 100:.0f} cm and the space ends at "
            f"{most * 100:.0f} cm: pot and plant together can be at most {(most - plant.base_m) * 100:.0f} cm",
        )


def _fixtures(path: str, space: Space) -> Iterator[PlanProblem]:
    size = space.size
    limits = (size.width_m, size.depth_m, size.height_m)
    for number, fixture in enumerate(space.fixtures):
        here = f"{path}.fixtures[{number}]"
        output = fixture.spec.output
        if output.kind == "lumens" and output.source_id not in light_sources():
            yield _unknown(f"{here}.spec.output.source_id", "light source", output.source_id, light_sources())
        box = corners(fixture)
        for axis, (key, word) in enumerate((("x_m", "across"), ("y_m", "deep"), ("z_m", "high"))):
            low, high = float(box[:, axis].min()), float(box[:, axis].max())
            if low < -TOLERANCE_M or high > limits[axis] + TOLERANCE_M:
                value = getattr(fixture, key)
                least, most = value - low, limits[axis] - (high - value)
                advice = (
                    f"give {least * 100:.1f} to {most * 100:.1f} cm"
                    if most >= least
                    else f"it is {(high - low) * 100:.0f} cm {word} and the space only {limits[axis] * 100:.0f} cm"
                )
                yield PlanProblem(
                    path=f"{here}.{key}", message=f"this light reaches outside the space ({key[0]}): {advice}"
                )


def _twice(path: str, ids: Iterable[str]) -> Iterator[PlanProblem]:
    for key, count in Counter(ids).items():
        if count > 1:
            yield PlanProblem(path=path, message=f"the id “{key}” stands {count} times; each must be its own")


def _unknown(path: str, what: str, key: str, known: Iterable[str]) -> PlanProblem:
    import difflib

    near = difflib.get_close_matches(key, list(known), n=3)
    hint = f": did you mean {' or '.join(near)}?" if near else ""
    return PlanProblem(path=path, message=f"there is no {what} “{key}”{hint}")
