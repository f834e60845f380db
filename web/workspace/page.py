"""What the workspace page shows: drawing, margins, title block and the schedule of one station."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from django.http import Http404, HttpRequest
from django.shortcuts import get_object_or_404

from canopy.air import Demand
from canopy.evaluate import SpaceReport
from canopy.evaluate.lighting import targets_of
from canopy.library import crops
from canopy.light.photometry import ppf
from canopy.light.scene import DEFAULT, Quality
from canopy.margin import Amount, Verdict, judge_window
from canopy.plan import FACES, Plan, Space
from canopy.quantities import number, significant
from web.accounts.context import preference_of
from web.drawing.sheet import sheet
from web.planning.models import GrowPlan
from web.planning.store import to_plan
from web.workspace import forms
from web.workspace.reports import report_of

STATIONS = (("space", "Space"), ("crops", "Crops"), ("light", "Light"), ("air", "Air"), ("power", "Power"))
PARTS = {
    "fixtures": forms.LampForm, "plants": forms.PlantForm, "openings": forms.OpeningForm, "devices": forms.DeviceForm
}  # fmt: skip
ASSUMED = {
    "faces": ("space", "the linings"), "room": ("space", "the room's climate"), "openings": ("space", "the openings"),
    "air": ("air", "the air path"), "circuit": ("power", "the circuit"), "stage": ("crops", "the plants' stage"),
    "lamp": ("light", "the lamp"),
}  # fmt: skip


@dataclass(kw_only=True)
class Where:
    """The plan and space a request is about, and how the person reads numbers."""

    row: GrowPlan
    plan: Plan
    space: Space
    station: str
    system: str

    def again(self, row: GrowPlan) -> Where:
        """The same place in a changed plan."""
        plan = to_plan(row)
        space = plan.space(self.space.id)
        if space is None:
            raise Http404
        return Where(row=row, plan=plan, space=space, station=self.station, system=self.system)


def locate(request: HttpRequest, plan_pk: int, space_id: str, station: str = "") -> Where:
    """Find a person's own plan and space, or answer 404."""
    row = get_object_or_404(GrowPlan.objects.for_owner(request.user), pk=plan_pk)
    plan = to_plan(row)
    space = plan.space(space_id)
    known = dict(STATIONS)
    chosen = station or request.POST.get("station") or request.GET.get("station") or "light"
    if space is None or chosen not in known:
        raise Http404
    return Where(row=row, plan=plan, space=space, station=chosen, system=preference_of(request).units)


def level_key(where: Where) -> str:
    """Where the session keeps the height of a space's map."""
    return f"level-{where.row.pk}-{where.space.id}"


def context(
    request: HttpRequest,
    where: Where,
    *,
    quality: Quality = DEFAULT,
    bad: dict[str, Any] | None = None,
    words: str = "",
    schedule: bool = True,
) -> dict[str, Any]:
    """Gather what the page shows; ``bad`` holds forms that were refused, by key; a preview needs no schedule."""
    space, level = where.space, request.session.get(level_key(where))
    report = report_of(where.plan, space, quality=quality, map_height_m=level)
    selected = request.POST.get("selected") or request.GET.get("selected") or ""
    return {
        "row": where.row,
        "plan": where.plan,
        "space": space,
        "station": where.station,
        "stations": [(key, name, report.station_verdict(key)) for key, name in STATIONS],
        "report": report,
        "pressing": [m for m in report.margins if m.verdict != "good"],
        "calm": [m for m in report.margins if m.verdict == "good" and not m.information],
        "notes": [m for m in report.margins if m.information],
        "sheet": sheet(report, where.system, selected),
        "level_m": report.lighting.map.height_m if report.lighting.map else 0,
        "title": title_block(where, report),
        "assumed": [(key, *ASSUMED[key]) for key in space.assumed if key in ASSUMED],
        "system": where.system,
        "selected": selected,
        "words": words,
        "can_undo": where.row.head is not None and where.row.head.parent_id is not None,
        "can_redo": where.row.head is not None and where.row.head.children.exists(),
        **(_SCHEDULES[where.station](where, report, bad or {}) if schedule else {}),
    }


@dataclass(frozen=True, kw_only=True)
class Cell:
    """One cell of the title block: a figure that leads to its station."""

    station: str
    name: str
    text: str
    verdict: Verdict | None = None


def title_block(where: Where, report: SpaceReport) -> list[Cell]:
    """Fill in the title block."""
    light, air, run, system = report.lighting, report.breathing, report.running, where.system

    def temperature(value: float) -> str:
        return Amount(value=value, unit="temperature").text(system)

    share = "no circuit" if report.circuit is None else f"{report.circuit.share:.0%}"
    return [
        Cell(station="light", name="Light", verdict=report.station_verdict("light"),
             text=f"{significant(light.mean_ppfd_umol_m2_s)} µmol/m²/s · {significant(light.dli_mol_m2_d)} mol/m²/d"),
        Cell(station="air", name="Air", verdict=report.station_verdict("air"),
             text=Amount(value=air.delivered_m3_h, unit="airflow").text(system)),
        Cell(station="air", name="Day, about", text=f"{temperature(air.day.temperature_c)} · {air.day.vpd_kpa:.1f} kPa"),
        Cell(station="air", name="Night, about",
             text=f"{temperature(air.night.temperature_c)} · {air.night.vpd_kpa:.1f} kPa"),
        Cell(station="power", name="Power", text=f"{number(run.power_w)} W"),
        Cell(station="power", name="Circuit", text=share, verdict=report.station_verdict("power")),
        Cell(station="power", name="A month", text=f"{run.cost_per_month:.2f} {run.currency}"),
    ]  # fmt: skip


def _rows(where: Where, kind: str, bad: dict[str, Any]) -> list[dict[str, Any]]:
    form_class = PARTS[kind]
    found = []
    for count, part in enumerate(getattr(where.space, kind), 1):
        data = part.model_dump(mode="json")
        record = data["spec"] if kind == "devices" else data
        form = bad.get(f"{kind}/{part.id}") or form_class(record, system=where.system, prefix=part.id)
        found.append({"number": count, "part": part, "form": form, "kind": kind})
    return found


def _space_schedule(where: Where, report: SpaceReport, bad: dict[str, Any]) -> dict[str, Any]:
    space, system = where.space, where.system
    data = space.model_dump(mode="json")
    return {
        "space_form": bad.get("space") or forms.SpaceForm({**data, **data["size"]}, system=system, prefix="space"),
        "room_form": bad.get("room") or forms.RoomForm(data["room"], system=system, prefix="room"),
        "faces": [
            (face, bad.get(f"face/{face}") or forms.FaceForm(data["faces"][face], system=system, prefix=f"face-{face}"))
            for face in FACES
        ],
        "rows": _rows(where, "openings", bad),
    }


def _crops_schedule(where: Where, report: SpaceReport, bad: dict[str, Any]) -> dict[str, Any]:
    return {
        "rows": _rows(where, "plants", bad),
        "restage_form": bad.get("restage")
        or forms.RestageForm(
            {"crop_ids": list(dict.fromkeys(plant.crop_id for plant in where.space.plants))},
            system=where.system,
            prefix="restage",
        ),
        "add_form": bad.get("add") or forms.AddPlantsForm({}, system=where.system, prefix="add"),
        "targets": _targets(where, report),
    }


def _targets(where: Where, report: SpaceReport) -> list[dict[str, Any]]:
    """What each crop and stage that stands here wants."""
    from canopy.evaluate.light_margins import cite

    found: dict[tuple[str, str], dict[str, Any]] = {}
    for plant in where.space.plants:
        key = (plant.crop_id, plant.stage)
        if key in found:
            found[key]["count"] += 1
            continue
        want, crop = targets_of(plant), crops()[plant.crop_id]

        def span(low: float, high: float, unit: str) -> str:
            return Amount(value=low, high=high, unit=unit).text(where.system)

        found[key] = {
            "count": 1, "crop": crop, "stage": plant.stage.replace("-", " "),
            "ppfd": span(want.ppfd_umol_m2_s.low, want.ppfd_umol_m2_s.high, ""),
            "dli": span(want.dli_mol_m2_d.low, want.dli_mol_m2_d.high, ""),
            "hours": span(want.photoperiod_h.low, want.photoperiod_h.high, "h"),
            "day": span(want.air_day_c.low, want.air_day_c.high, "temperature"),
            "night": span(want.air_night_c.low, want.air_night_c.high, "temperature"),
            "rh": span(want.rh_pct.low, want.rh_pct.high, "%"),
            "sources": [cite(want.light), cite(want.climate)],
        }  # fmt: skip
    return list(found.values())


def _light_schedule(where: Where, report: SpaceReport, bad: dict[str, Any]) -> dict[str, Any]:
    rows = _rows(where, "fixtures", bad)
    for row in rows:
        row["ppf"] = significant(ppf(row["part"].spec))
    per_plant = []
    for count, light in enumerate(report.lighting.plants, 1):
        want = targets_of(light.plant)
        dli = light.dli_mol_m2_d
        per_plant.append(
            {
                "number": count, "plant": light.plant, "name": crops()[light.plant.crop_id].name,
                "ppfd": f"{light.ppfd_umol_m2_s:.0f}", "dli": f"{dli:.1f}",
                "window": Amount(value=want.dli_mol_m2_d.low, high=want.dli_mol_m2_d.high, unit="").text(),
                "walls": f"{light.reflected_share:.0%}",
                "verdict": judge_window(dli, dli, want.dli_mol_m2_d.low, want.dli_mol_m2_d.high),
            }
        )  # fmt: skip
    own = bad.get("own") or forms.OwnLampForm({}, system=where.system, prefix="own")
    return {
        "rows": rows,
        "per_plant": per_plant,
        "add_form": bad.get("add") or forms.AddLampForm({}, system=where.system, prefix="add"),
        "own_form": own,
        "all_form": bad.get("all") or forms.AllLampsForm({}, system=where.system, prefix="all"),
        "hot": any(lamp.spec.technology in ("hps", "metal-halide", "incandescent") for lamp in where.space.fixtures),
    }


def _air_schedule(where: Where, report: SpaceReport, bad: dict[str, Any]) -> dict[str, Any]:
    from canopy.evaluate.air_margins import NAMES

    data = where.space.air.model_dump(mode="json")
    air = report.breathing
    largest = max((d.flow_m3_h or 0.0 for d in air.demands), default=0.0) or 1.0
    widest = max(largest, air.delivered_m3_h)
    bars = [
        {
            "name": NAMES[demand.criterion],
            "text": "no flow will do"
            if demand.flow_m3_h is None
            else Amount(value=demand.flow_m3_h, unit="airflow").text(where.system),
            "width": round(240 * (demand.flow_m3_h or 0.0) / widest, 1),
            "governs": demand is air.governing,
            "reason": demand.reason or _plain_heat(demand, where.system),
        }
        for demand in air.demands
    ]
    return {
        "air_form": bad.get("air") or forms.AirForm(data, system=where.system, prefix="air"),
        "own_form": bad.get("own") or forms.OwnFanForm({}, system=where.system, prefix="own"),
        "bars": bars,
        "delivered": {"text": Amount(value=air.delivered_m3_h, unit="airflow").text(where.system),
                      "width": round(240 * air.delivered_m3_h / widest, 1), "fan": air.fan_m3_h > 0},
        "rows": _rows(where, "openings", bad),
    }  # fmt: skip


def _plain_heat(demand: Demand, system: str) -> str:
    """The heat demand as catalogues count it, beside the credited one."""
    if demand.plain_m3_h is None:
        return ""
    plain = Amount(value=demand.plain_m3_h, unit="airflow").text(system)
    return f"{plain} if walls and leaves took up nothing"


def _power_schedule(where: Where, report: SpaceReport, bad: dict[str, Any]) -> dict[str, Any]:
    return {"rows": _rows(where, "devices", bad), "circuit": report.circuit, "running": report.running}


_SCHEDULES = {
    "space": _space_schedule, "crops": _crops_schedule, "light": _light_schedule, "air": _air_schedule,
    "power": _power_schedule,
}  # fmt: skip
