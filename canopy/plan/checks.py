"""The rules a plan keeps beyond the shape of its fields."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator

from canopy.errors import PlanProblem
from canopy.library import air_paths, crops, light_sources, materials, rule_sets
from canopy.plan.document import FACES, Plan, Space
from canopy.plan.pose import corners

TOLERANCE_M = 1e-6


def problems(plan: Plan) -> list[PlanProblem]:
    """Find every breach of the rules in a plan whose fields are well formed.

    Parameters
    ----------
    plan : the plan

    Returns
    -------
    list of PlanProblem : empty when the plan is sound; each names the place and what would be accepted
    """
    found = list(_twice("circuits", (circuit.id for circuit in plan.circuits)))
    found += _twice("spaces", (space.id for space in plan.spaces))
    for number, circuit in enumerate(plan.circuits):
        if circuit.rule_set_id not in rule_sets():
            found.append(_unknown(f"circuits[{number}].rule_set_id", "rule set", circuit.rule_set_id, rule_sets()))
    circuit_ids = {circuit.id for circuit in plan.circuits}
    for number, space in enumerate(plan.spaces):
        path = f"spaces[{number}]"
        if space.circuit_id is not None and space.circuit_id not in circuit_ids:
            found.append(_unknown(f"{path}.circuit_id", "circuit", space.circuit_id, circuit_ids))
        found += _space(path, space)
    return found


def _space(path: str, space: Space) -> Iterator[PlanProblem]:
    for face in FACES:
        surface = getattr(space.faces, face)
        if surface.material_id not in materials():
            yield _unknown(f"{path}.faces.{face}.material_id", "material", surface.material_id, materials())
    if space.air.path_id not in air_paths():
        yield _unknown(f"{path}.air.path_id", "air path", space.air.path_id, air_paths())
    for kind in ("openings", "plants", "fixtures", "devices"):
        yield from _twice(f"{path}.{kind}", (part.id for part in getattr(space, kind)))
    yield from _openings(path, space)
    yield from _plants(path, space)
    yield from _fixtures(path, space)


def _openings(path: str, space: Space) -> Iterator[PlanProblem]:
    size = space.size
    for number, hole in enumerate(space.openings):
        across = size.depth_m if hole.face in ("left", "right") else size.width_m
        up = size.depth_m if hole.face in ("floor", "ceiling") else size.height_m
        half = hole.diameter_m / 2 - TOLERANCE_M
        if not (half <= hole.u_m <= across - half and half <= hole.v_m <= up - half):
            yield PlanProblem(
                path=f"{path}.openings[{number}]",
                message=f"this hole reaches over the edge of the {hole.face} face, which is "
                f"{across * 100:.0f} × {up * 100:.0f} cm",
            )


def _plants(path: str, space: Space) -> Iterator[PlanProblem]:
    size = space.size
    for number, plant in enumerate(space.plants):
        here = f"{path}.plants[{number}]"
        crop = crops().get(plant.crop_id)
        if crop is None:
            yield _unknown(f"{here}.crop_id", "crop", plant.crop_id, crops())
        elif crop.stage(plant.stage) is None:
            known = ", ".join(stage.kind for stage in crop.stages)
            yield PlanProblem(path=f"{here}.stage", message=f"{crop.name} has no stage “{plant.stage}”: use {known}")
        if plant.x_m > size.width_m + TOLERANCE_M or plant.y_m > size.depth_m + TOLERANCE_M:
            yield PlanProblem(
                path=f"{here}.{'x_m' if plant.x_m > size.width_m else 'y_m'}",
                message=f"this plant stands outside: x up to {size.width_m * 100:.0f} cm, "
                f"y up to {size.depth_m * 100:.0f} cm",
            )
        if plant.top_m > size.height_m + TOLERANCE_M:
            yield PlanProblem(
                path=f"{here}.height_m",
                message=f"this plant's top is at {plant.top_m * 100:.0f} cm and the space ends at "
                f"{size.height_m * 100:.0f} cm: pot and plant together can be at most "
                f"{(size.height_m - plant.base_m) * 100:.0f} cm",
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
