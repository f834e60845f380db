"""The tab of the season: plantings with their days, training, moving on."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from canopy.evaluate import SpaceReport
from canopy.season import harvest, spans
from canopy_web.stations.crops import forms as plant_forms
from canopy_web.workspace.where import Where


def season_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab."""
    wanted = {plant.planting_id for plant in where.space.plants if plant.planting_id}
    found = []
    for planting in where.plan.plantings:
        if planting.id not in wanted:
            continue
        crop = where.cast.crops[planting.crop_id]
        laid = spans(planting, crop)
        record = planting.model_dump(mode="json")
        found.append(
            {
                "planting": planting,
                "crop": crop,
                "harvest": harvest(laid, crop),
                "count": sum(plant.planting_id == planting.id for plant in where.space.plants),
                "form": bad.get(f"planting/{planting.id}")
                or plant_forms.PlantingForm(record, prefix=planting.id, crop=crop),
                "training": bad.get(f"training/{planting.id}")
                or plant_forms.TrainingForm(
                    {"on": where.day.isoformat()}, system=where.system, prefix=f"t-{planting.id}"
                ),
                "copying": bad.get(f"copying/{planting.id}")
                or plant_forms.CopyForm(
                    {"starts_on": where.day.isoformat(), "to": where.space.id},
                    prefix=f"c-{planting.id}",
                    spaces=all_spaces(where),
                ),
                "moving": bad.get(f"moving/{planting.id}")
                or plant_forms.MoveOnForm(
                    {"on": where.day.isoformat()}, prefix=f"m-{planting.id}", spaces=other_spaces(where)
                ),
            }
        )
    undated = dict.fromkeys(plant.crop_id for plant in where.space.plants if plant.planting_id is None)
    return {
        "plantings": found,
        "undated": [(key, where.cast.crops[key].name) for key in undated],
        "add_form": bad.get("add")
        or plant_forms.AddPlantsForm(
            {"starts_on": where.day.isoformat()},
            system=where.system,
            prefix="add",
            known=where.crops,
            shelves=where.space.shelves,
        ),
        "others": other_spaces(where),
    }


def all_spaces(where: Where) -> list[tuple[str, str]]:
    """The household's spaces, this one first."""
    return [(where.space.id, f"{where.space.name}, here"), *other_spaces(where)]


def other_spaces(where: Where) -> list[tuple[str, str]]:
    """The household's other spaces."""
    return [(space.id, space.name) for space in where.plan.spaces if space.id != where.space.id]
