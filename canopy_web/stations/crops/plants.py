"""The tab of plants: a line each, many at once, and what they want."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from canopy.evaluate import SpaceReport
from canopy.evaluate.naming import cite
from canopy.library import Window
from canopy.margin import Amount
from canopy.plan import Plant
from canopy.quantities import LENGTH, show
from canopy.season import Growing
from canopy_web.forms.choices import stage_choices
from canopy_web.stations.crops import forms as plant_forms
from canopy_web.workspace.where import Where

FIELDS = (
    ("x_m", "From left"),
    ("y_m", "From front"),
    ("base_m", "Stand"),
    ("pot_height_m", "Pot"),
    ("height_m", "Height"),
    ("spread_m", "Spread"),
)


@dataclass(frozen=True, kw_only=True)
class PlantCell:
    """One input of a plant's line."""

    name: str
    label: str
    value: str
    wrong: str = ""


@dataclass(frozen=True, kw_only=True)
class PlantRow:
    """One plant's line, written without a form of its own: there may be two hundred."""

    plant: Plant
    number: int
    crop: str
    state: str
    stage: str
    stages: tuple[tuple[str, str, bool], ...]
    cells: tuple[PlantCell, ...]
    wrong: str
    here: bool


def shown_record(plant: Plant, grown: Growing | None) -> dict[str, Any]:
    """A plant's record as its line shows it: dated plants with the size they have on the day."""
    record: dict[str, Any] = plant.model_dump(mode="json")
    if grown is not None and plant.planting_id:
        record |= {"height_m": round(grown.form.height_m, 4), "spread_m": round(grown.form.spread_m, 4)}
    return record


def plant_rows(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> list[PlantRow]:
    """The lines of all plants."""
    grown, found = report.here.by_id, []
    choices: dict[str, list[tuple[str, Any]]] = {}
    for count, plant in enumerate(where.space.plants, 1):
        crop, now, form = where.cast.crops[plant.crop_id], grown.get(plant.id), bad.get(f"plants/{plant.id}")
        record = shown_record(plant, now)
        if plant.crop_id not in choices:
            choices[plant.crop_id] = stage_choices(crop)
        cells = []
        for name, label in FIELDS:
            value = record[name]
            text = "" if value is None else show(value, LENGTH, where.system).replace("\u00a0", " ")
            wrong = ""
            if form is not None:
                text, wrong = str(form[name].value() or ""), " ".join(form.errors.get(name, ()))
            cells.append(PlantCell(name=f"{plant.id}-{name}", label=label, value=text, wrong=wrong))
        general = " ".join(form.non_field_errors()) if form is not None else ""
        found.append(
            PlantRow(
                plant=plant,
                number=count,
                crop=f"{plant.cells} × {crop.name}" if plant.cells else crop.name,
                state=_state(where, plant, now),
                stage=_stage_words(where, now),
                stages=() if plant.planting_id else tuple((k, t, k == plant.stage) for k, t in choices[plant.crop_id]),
                cells=tuple(cells),
                wrong=general,
                here=now is not None,
            )
        )
    return found


def _state(where: Where, plant: Plant, now: Growing | None) -> str:
    planting = where.cast.plantings.get(plant.planting_id or "")
    if planting is None:
        return "" if now else "not here on this day"
    if now is None:
        gone = planting.starts_on <= where.day
        return f"{planting.name}: {'gone by' if gone else 'not yet on'} this day"
    return planting.name


def _stage_words(where: Where, now: Growing | None) -> str:
    if now is None or now.span is None:
        return ""
    return f"{now.stage.replace('-', ' ')}, day {(where.day - now.span.starts).days + 1}"


def places(where: Where) -> list[tuple[str, str]]:
    """Where a grid of plants may be: floor, shelves, pockets on walls, columns, and what climbers climb."""
    return [
        *plant_forms.level_choices(where.space.shelves),
        *((f"wall-{side}", f"on the {side} wall") for side in ("back", "left", "right")),
        *((f"column-{column.id}", f"round {column.name}") for column in where.space.columns),
        *((f"climb-{side}", f"climbing the {side} wall") for side in ("back", "left", "right")),
        *((f"trellis-{trellis.id}", f"climbing {trellis.name}") for trellis in where.space.trellises),
    ]


def plants_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab."""
    shelves, system = where.space.shelves, where.system
    return {
        "rows": plant_rows(where, report, bad),
        "crops_here": [
            (key, where.cast.crops[key].name) for key in dict.fromkeys(p.crop_id for p in where.space.plants)
        ],
        "many_form": bad.get("many")
        or plant_forms.ManyForm({}, system=system, prefix="many", known=where.crops, shelves=shelves),
        "grid_form": bad.get("grid") or plant_forms.GridForm({}, system=system, prefix="grid", places=places(where)),
        "add_form": bad.get("add")
        or plant_forms.AddPlantsForm({}, system=system, prefix="add", known=where.crops, shelves=shelves),
        "picked": bad.get("picked", ()),
        "targets": _targets(where, report),
    }


def _targets(where: Where, report: SpaceReport) -> list[dict[str, Any]]:
    """What each crop and stage that stands here wants."""
    found: dict[tuple[str, str], dict[str, Any]] = {}
    unit = where.reader(report).light
    for plant in report.here.plants:
        key = (plant.crop_id, plant.stage)
        if key in found:
            found[key]["count"] += plant.count
            continue
        want = plant.want

        def span(window: Window, unit: str) -> str:
            return Amount(value=window.low, high=window.high, unit=unit).text(where.system)

        found[key] = {
            "count": plant.count,
            "crop": plant.crop,
            "stage": plant.stage.replace("-", " "),
            "ppfd": "–".join(unit.number(end) for end in (want.ppfd_umol_m2_s.low, want.ppfd_umol_m2_s.high)),
            "dli": span(want.dli_mol_m2_d, ""),
            "hours": span(want.photoperiod_h, "h"),
            "day": span(want.air_day_c, "temperature"),
            "night": span(want.air_night_c, "temperature"),
            "root": span(want.root_c, "temperature"),
            "rh": span(want.rh_pct, "%"),
            "sources": list(dict.fromkeys(cite(cited) for cited in (want.light, want.climate, want.form))),
        }
    return list(found.values())


def plant_form(where: Where, part: Plant, data: Any = None) -> plant_forms.PlantForm:
    """Make the form of a plant's line: a dated plant with the size it has on the day."""
    shown = shown_record(part, where.grown.get(part.id))
    return plant_forms.PlantForm(
        part.model_dump(mode="json"),
        data,
        shown={"height_m": shown["height_m"], "spread_m": shown["spread_m"]},
        crop=where.cast.crop(part),
        day=where.day,
        system=where.system,
        prefix=part.id,
    )
