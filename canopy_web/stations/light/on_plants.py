"""The tab of the light on each plant, down its levels."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_POST

from canopy.evaluate import SpaceReport
from canopy.evaluate.light.leaf_levels import leaf_levels, strip_to_m
from canopy.margin import Amount, judge_window
from canopy.plan import LightGoal
from canopy.plan.changes import Add, Change, Remove
from canopy.quantities import LENGTH, LightUnit, show
from canopy.words import percent
from canopy_web.stations.light import forms as light_forms
from canopy_web.workspace.reply import change, page
from canopy_web.workspace.where import Where, at_space


def kinds_here(report: SpaceReport) -> list[tuple[str, str]]:
    """Give what grows here by crop and stage, as a target can be set for it: all stages of a crop first."""
    found: dict[str, str] = {}
    for plant in report.here.plants:
        found[plant.crop_id] = plant.crop.name
    for plant in report.here.plants:
        found[f"{plant.crop_id}/{plant.stage}"] = f"{plant.crop.name}, {plant.stage.replace('-', ' ')} only"
    return list(found.items())


def goal_row(where: Where, goal: LightGoal, unit: LightUnit) -> dict[str, str]:
    """Write a target of the person's own."""
    name = where.crops[goal.crop_id].name if goal.crop_id in where.crops else goal.crop_id
    low, high = unit.number(goal.low_umol_m2_s), unit.number(goal.high_umol_m2_s)
    return {
        "id": goal.id,
        "name": f"{name}, {goal.stage.replace('-', ' ')}" if goal.stage else name,
        "text": f"{low}–{high}\u00a0{unit.symbol}{unit.doubt_text}",
    }


@require_POST
@at_space
def set_goal(request: HttpRequest, where: Where) -> HttpResponse:
    """Keep a target of light; an empty one takes it back."""
    form = light_forms.GoalForm(kinds_here(where.report), where.reader(where.report).light, request.POST)
    if not form.is_valid():
        return page(request, where, bad={"goal": form})
    crop_id, _, stage = form.cleaned_data["kind"].partition("/")
    held = next((g for g in where.space.light_goals if (g.crop_id, g.stage) == (crop_id, stage)), None)
    window = form.cleaned_data["light"]
    if window is None:
        if held is None:
            form.add_error("light", "Type what it should get, such as 1500 fc.")
            return page(request, where, bad={"goal": form})
        return change(request, where, "Took a light target back", Remove(collection="light_goals", part_ids=(held.id,)))
    values = {"low_umol_m2_s": round(window.low, 2), "high_umol_m2_s": round(window.high, 2)}
    if held is not None:
        return change(
            request, where, "Set a light target", Change(collection="light_goals", part_id=held.id, values=values)
        )
    part = {"crop_id": crop_id, "stage": stage, **values}
    return change(request, where, "Set a light target", Add(collection="light_goals", parts=(part,), prefix="goal"))


@require_POST
@at_space
def strip(request: HttpRequest, where: Where, plant_id: str) -> HttpResponse:
    """Take the lower leaves off a plant and all of its kind that have such leaves; again, let them all grow back."""
    plants = where.report.here.by_id
    if plant_id not in plants:
        return page(request, where, words="This plant is no longer here.")
    kind = plants[plant_id].kind
    alike = [item for item in leaf_levels(where.report.here) if item.plant.kind == kind]
    changes = [
        Change(collection="plants", part_id=item.plant.id, values={"stripped_m": up_to})
        for item in alike
        if (up_to := strip_to_m(item))
    ]
    if not changes:
        changes = [
            Change(collection="plants", part_id=item.plant.id, values={"stripped_m": 0.0})
            for item in alike
            if item.plant.plant.stripped_m
        ]
        return change(request, where, "Lower leaves grow back", *changes)
    name = plants[plant_id].crop.name
    return change(request, where, f"Stripped the lower leaves of {len(changes)} × {name}", *changes)


# Where DEPTHS of the leaf levels lie, in words.
LEVELS = ("Top", "¼ down", "Middle", "¾ down", "Lowest")


def on_plants_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab."""
    light = {item.plant.id: item for item in report.lighting.plants}
    found, reader = [], where.reader(report)
    for item in leaf_levels(report.here):
        up_to = strip_to_m(item)
        want, dli = item.plant.want, light[item.plant.id].dli_mol_m2_d
        found.append(
            {
                "number": item.plant.number,
                "name": item.plant.crop.name,
                "levels": [
                    (name, reader.light.number(value, 0)) for name, value in zip(LEVELS, item.levels, strict=True)
                ],
                "mean": reader.light.number(item.mean_umol_m2_s, 0),
                "dli": f"{dli:.1f}",
                "window": Amount(value=want.dli_mol_m2_d.low, high=want.dli_mol_m2_d.high, unit="").text(),
                "walls": percent(light[item.plant.id].reflected_share),
                "lost": percent(item.lost_share) if item.lost_share >= 0.005 else "none",
                "idle": f"lowest {percent(item.idle_share)}" if item.idle_share > 0.02 else "none",
                "id": item.plant.id,
                "strip": show(up_to, LENGTH, where.system) if up_to else "",
                "fruit": item.plant.crop.first_fruit_m is not None and item.plant.stage in ("flower", "fruit"),
                "bare": show(item.plant.plant.stripped_m, LENGTH, where.system) if item.plant.plant.stripped_m else "",
                "least": reader.light.number(item.compensation_umol_m2_s, 0),
                "verdict": judge_window(dli, dli, want.dli_mol_m2_d.low, want.dli_mol_m2_d.high),
            }
        )
    kinds = kinds_here(report)
    size = where.space.size
    middle = {"x_m": size.width_m / 2, "y_m": size.depth_m / 2, "z_m": round(size.height_m / 4, 2)}
    return {
        "per_plant": found,
        "goals": [goal_row(where, goal, reader.light) for goal in where.space.light_goals],
        "goal_form": bad.get("goal") or light_forms.GoalForm(kinds, reader.light),
        "level_names": LEVELS,
        "probe_form": bad.get("probe") or light_forms.ProbeForm(middle, system=where.system, prefix="probe"),
        "delivered": report.margin("light.delivered"),
    }
