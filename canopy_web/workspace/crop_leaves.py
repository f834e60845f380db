"""The leaves of the Crops station: plants, season, who may live together, feed."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from canopy.design.crops.groups import propose, strife
from canopy.evaluate import SpaceReport
from canopy.evaluate.crops.company import conflicts, joint_window, kinds_of, quantities_for, window_of
from canopy.evaluate.naming import cite, stage_name
from canopy.feed import ppm_of_ec
from canopy.library import Window
from canopy.margin import Amount
from canopy.plan import Plant
from canopy.quantities import LENGTH, number, show
from canopy.season import Growing, harvest, spans
from canopy_web.workspace import furnish_forms, plant_forms
from canopy_web.workspace.forms import stage_choices
from canopy_web.workspace.page import Where

FIELDS = (
    ("x_m", "From left"),
    ("y_m", "From front"),
    ("base_m", "Stand"),
    ("pot_height_m", "Pot"),
    ("height_m", "Height"),
    ("spread_m", "Spread"),
)
BAR = 260.0


def crop_schedule(where: Where, report: SpaceReport, bad: dict[str, Any]) -> dict[str, Any]:
    """Fill the leaf that is shown."""
    return _LEAVES[where.leaf](where, report, bad)


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
                crop=crop.name,
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


def _places(where: Where) -> list[tuple[str, str]]:
    return [
        *plant_forms.level_choices(where.space.shelves),
        *((f"wall-{side}", f"on the {side} wall") for side in ("back", "left", "right")),
        *((f"column-{column.id}", f"round {column.name}") for column in where.space.columns),
    ]


def _plants_leaf(where: Where, report: SpaceReport, bad: dict[str, Any]) -> dict[str, Any]:
    shelves, system = where.space.shelves, where.system
    return {
        "rows": plant_rows(where, report, bad),
        "crops_here": [
            (key, where.cast.crops[key].name) for key in dict.fromkeys(p.crop_id for p in where.space.plants)
        ],
        "many_form": bad.get("many")
        or plant_forms.ManyForm({}, system=system, prefix="many", known=where.crops, shelves=shelves),
        "grid_form": bad.get("grid") or plant_forms.GridForm({}, system=system, prefix="grid", places=_places(where)),
        "add_form": bad.get("add")
        or plant_forms.AddPlantsForm({}, system=system, prefix="add", known=where.crops, shelves=shelves),
        "picked": bad.get("picked", ()),
        "targets": _targets(where, report),
    }


def _targets(where: Where, report: SpaceReport) -> list[dict[str, Any]]:
    """What each crop and stage that stands here wants."""
    found: dict[tuple[str, str], dict[str, Any]] = {}
    for plant in report.here.plants:
        key = (plant.crop_id, plant.stage)
        if key in found:
            found[key]["count"] += 1
            continue
        want = plant.want

        def span(window: Window, unit: str) -> str:
            return Amount(value=window.low, high=window.high, unit=unit).text(where.system)

        found[key] = {
            "count": 1,
            "crop": plant.crop,
            "stage": plant.stage.replace("-", " "),
            "ppfd": span(want.ppfd_umol_m2_s, ""),
            "dli": span(want.dli_mol_m2_d, ""),
            "hours": span(want.photoperiod_h, "h"),
            "day": span(want.air_day_c, "temperature"),
            "night": span(want.air_night_c, "temperature"),
            "root": span(want.root_c, "temperature"),
            "rh": span(want.rh_pct, "%"),
            "sources": list(dict.fromkeys(cite(cited) for cited in (want.light, want.climate, want.form))),
        }
    return list(found.values())


def _season_leaf(where: Where, report: SpaceReport, bad: dict[str, Any]) -> dict[str, Any]:
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


def other_spaces(where: Where) -> list[tuple[str, str]]:
    """The household's other spaces."""
    return [(space.id, space.name) for space in where.plan.spaces if space.id != where.space.id]


@dataclass(frozen=True, kw_only=True)
class SharedBar:
    """One kind's window on a scale that all kinds share (px)."""

    name: str
    text: str
    x: float
    w: float


@dataclass(frozen=True, kw_only=True)
class SharedRow:
    """One quantity: what all kinds share, each kind's bar, and the pairs that part."""

    title: str
    hard: bool
    joint: str
    joint_x: float
    joint_w: float
    bars: tuple[SharedBar, ...]
    pairs: tuple[str, ...]
    height: float


def shared_rows(report: SpaceReport, system: str) -> Iterator[SharedRow]:
    """Each quantity's windows against each other."""
    members = kinds_of(report.here)
    for quantity in quantities_for(report.here.space):
        held = [(plant, window) for plant in members if (window := window_of(plant.want, quantity))]
        if not held:
            continue
        low, high = min(w.low for _, w in held), max(w.high for _, w in held)
        per = BAR / max(high - low, 1e-9)
        unit, gap_unit = quantity.unit, "temperature rise" if quantity.unit == "temperature" else quantity.unit
        joint = joint_window([window for _, window in held])

        def say(a: float, b: float | None = None, unit: str = unit) -> str:
            return Amount(value=a, high=b, unit=unit).text(system)

        pairs = []
        windows = {plant.id: window for plant, window in held}
        for item in conflicts(held):
            most, least = windows[item.lower.id].high, windows[item.higher.id].low
            pairs.append(
                f"{stage_name(item.lower)}: at most {say(most)}; {stage_name(item.higher)}: at least {say(least)}; "
                f"{Amount(value=item.gap, unit=gap_unit).text(system)} apart"
            )
        yield SharedRow(
            title=quantity.title[0].upper() + quantity.title[1:],
            hard=quantity.hard,
            joint=say(joint.low, joint.high) if joint else "nothing shared",
            joint_x=round((joint.low - low) * per, 1) if joint else 0.0,
            joint_w=round(max(2.0, (joint.high - joint.low) * per), 1) if joint else 0.0,
            bars=tuple(
                SharedBar(
                    name=stage_name(plant),
                    text=say(window.low, window.high),
                    x=round((window.low - low) * per, 1),
                    w=round(max(2.0, (window.high - window.low) * per), 1),
                )
                for plant, window in held
            ),
            pairs=tuple(pairs[:6]),
            height=len(held) * 12.0,
        )


def _together_leaf(where: Where, report: SpaceReport, bad: dict[str, Any]) -> dict[str, Any]:
    found = propose(where.plan, where.day)
    names = {space.id: space.name for space in where.plan.spaces}
    moves = [
        {
            "kind": move.kind,
            "from": names[move.kind.space_id],
            "to": names[move.to_space_id],
            "to_id": move.to_space_id,
            "from_id": move.kind.space_id,
        }
        for move in found.moves
    ]
    left = [f"{pull.one.name} and {pull.two.name}, over {pull.quantity.title}" for pull in found.left]
    groups = [
        {
            "kinds": [kind.name for kind in group],
            "strain": round(sum(strife(a, b) for a in group for b in group) / 2, 1),
        }
        for group in found.groups
    ]
    return {
        "shared": list(shared_rows(report, where.system)),
        "groups": groups,
        "moves": moves,
        "left": left,
        "strife": (number(found.strife_before, 1), number(found.strife_after, 1)),
        "bar": BAR,
    }


def _feed_leaf(where: Where, report: SpaceReport, bad: dict[str, Any]) -> dict[str, Any]:
    feed, found = where.space.feed, report.feeding
    data = feed.model_dump(mode="json")
    target = found.target_ec_ms_cm

    def window(item: Window | None, unit: str) -> str:
        return Amount(value=item.low, high=item.high, unit=unit).text(where.system) if item else "not in the library"

    return {
        "feed_form": bad.get("feed") or furnish_forms.FeedForm(data, system=where.system, prefix="feed"),
        "feed_parts": [
            (
                part,
                bad.get(f"feed-part/{part.id}")
                or furnish_forms.FeedPartForm(data["parts"][n], prefix=f"feed-{part.id}"),
            )
            for n, part in enumerate(feed.parts)
        ],
        "feed": found,
        "solution": feed.way == "solution",
        "ec": window(found.ec, "mS/cm"),
        "ph": window(found.ph, ""),
        "target": None if target is None else Amount(value=target, unit="mS/cm").text(),
        "ppm": None if target is None else (number(ppm_of_ec(target, 500)), number(ppm_of_ec(target, 700))),
        "windows": [
            (stage_name(plant), window(plant.want.ec_ms_cm, "mS/cm"), window(plant.want.ph, ""), plant.want.water)
            for plant in kinds_of(report.here)
        ],
        "wetting": Amount(value=found.wetting_l, unit="volume").text(where.system),
        "mix_l": Amount(value=found.mix_l, unit="volume").text(where.system),
        "uptake": Amount(value=found.uptake_l_d, unit="volume").text(where.system),
        "caution": (
            "Acids and concentrates: gloves and glasses, acid into water, never the other way; keep them from children."
        ),
    }


_LEAVES = {"plants": _plants_leaf, "season": _season_leaf, "together": _together_leaf, "feed": _feed_leaf}
