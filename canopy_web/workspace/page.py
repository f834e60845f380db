"""What the workspace page shows: drawing, margins, title block and the schedule of one station."""

from __future__ import annotations

import datetime as dt
from collections import ChainMap
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

from django.http import Http404, HttpRequest
from django.shortcuts import get_object_or_404

from canopy.evaluate import SpaceReport
from canopy.library import Crop
from canopy.light.scene import DEFAULT, Quality
from canopy.margin import Amount, Verdict
from canopy.plan import Plan, Space
from canopy.quantities import number, significant
from canopy.season import Cast, Growing, cast_of, day_to_show
from canopy_web.accounts.context import preference_of
from canopy_web.drawing.season import season_strip
from canopy_web.drawing.sheet import sheet
from canopy_web.library.querysets import own_crops
from canopy_web.planning.models import GrowPlan
from canopy_web.planning.store import to_plan
from canopy_web.workspace.reports import report_of

STATIONS = (("space", "Space"), ("crops", "Crops"), ("light", "Light"), ("air", "Air"), ("power", "Power"))
LEAVES = {
    "crops": (("plants", "Plants"), ("season", "Season"), ("together", "Together"), ("feed", "Feed")),
    "light": (
        ("lamps", "Lamps"),
        ("leaves", "On the leaves"),
        ("backwards", "Backwards"),
        ("survey", "Survey"),
        ("outdoors", "Outdoors"),
    ),
    "air": (("path", "Path and fan"), ("need", "How much"), ("stir", "Stirring"), ("sets", "Which fan and filter")),
}
ASSUMED = {
    "faces": ("space", "the linings"),
    "room": ("space", "the room's climate"),
    "openings": ("space", "the openings"),
    "air": ("air", "the air path"),
    "circuit": ("power", "the circuit"),
    "stage": ("crops", "the plants' stage"),
    "lamp": ("light", "the lamp"),
}


@dataclass(kw_only=True)
class Where:
    """The plan and space a request is about, the day, and how the person reads numbers."""

    row: GrowPlan
    plan: Plan
    space: Space
    station: str
    leaf: str
    system: str
    day: dt.date
    own: Mapping[str, Crop] = field(default_factory=dict)
    outdoors: Mapping[str, Any] = field(default_factory=dict)

    def again(self, row: GrowPlan) -> Where:
        """The same place in a changed plan."""
        plan = to_plan(row)
        space = plan.space(self.space.id)
        if space is None:
            raise Http404
        return Where(
            row=row,
            plan=plan,
            space=space,
            station=self.station,
            leaf=self.leaf,
            system=self.system,
            day=self.day,
            own=self.own,
            outdoors=self.outdoors,
        )

    @cached_property
    def cast(self) -> Cast:
        """Crops and plantings of the plan."""
        return cast_of(self.plan)

    @cached_property
    def crops(self) -> Mapping[str, Crop]:
        """All crops to choose from: the plan's, the person's own, the library's."""
        return ChainMap({crop.id: crop for crop in self.plan.crops}, dict(self.own), dict(self.cast.crops))

    @cached_property
    def grown(self) -> Mapping[str, Growing]:
        """The plants of the space on the day, by id."""
        return report_of(self.plan, self.space, day=self.day).here.by_id


def day_key(row: GrowPlan) -> str:
    """Where the session keeps the day a plan is looked at."""
    return f"day-{row.pk}"


def day_of(request: HttpRequest, row: GrowPlan, plan: Plan) -> dt.date:
    """Give the day a person looks at: the one they moved to, else today or the plan's own."""
    kept = request.session.get(day_key(row))
    return dt.date.fromisoformat(kept) if kept else day_to_show(plan, dt.date.today())


def locate(request: HttpRequest, plan_pk: int, space_id: str, station: str = "") -> Where:
    """Find a person's own plan and space, or answer 404."""
    row = get_object_or_404(GrowPlan.objects.for_owner(request.user), pk=plan_pk)
    plan = to_plan(row)
    space = plan.space(space_id)
    known = dict(STATIONS)
    chosen = station or request.POST.get("station") or request.GET.get("station") or "light"
    if space is None or chosen not in known:
        raise Http404
    leaves = [key for key, _ in LEAVES.get(chosen, ())]
    leaf = request.POST.get("leaf") or request.GET.get("leaf") or ""
    return Where(
        row=row,
        plan=plan,
        space=space,
        station=chosen,
        leaf=leaf if leaf in leaves else leaves[0] if leaves else "",
        system=preference_of(request).units,
        day=day_of(request, row, plan),
        own=own_crops(request.user) if chosen == "crops" else {},
        outdoors=request.session.get("outdoors", {}),
    )


# Kept in place of a height where the map shows each plant's own top.
ON_CANOPY = "canopy"


def level_key(where: Where) -> str:
    """Where the session keeps the height of a space's map."""
    return f"level-{where.row.pk}-{where.space.id}"


def canopy_scale(*reports: SpaceReport) -> float:
    """Give the PPFD of the strongest colour where plants are coloured by the light on their own tops."""
    return max((light.ppfd_umol_m2_s for report in reports for light in report.lighting.plants), default=0.0)


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
    from canopy_web.workspace.schedules import schedule_of

    space, level = where.space, request.session.get(level_key(where))
    on_canopy = level == ON_CANOPY
    report = report_of(where.plan, space, day=where.day, quality=quality, map_height_m=None if on_canopy else level)
    selected = request.POST.get("selected") or request.GET.get("selected") or ""
    return {
        "row": where.row,
        "plan": where.plan,
        "space": space,
        "station": where.station,
        "leaf": where.leaf,
        "leaves": LEAVES.get(where.station, ()),
        "day": where.day,
        "season": season_strip(where.plan, space, where.cast, where.day) if schedule else None,
        "stations": [(key, name, report.station_verdict(key)) for key, name in STATIONS],
        "report": report,
        "pressing": [m for m in report.margins if m.verdict != "good"],
        "calm": [m for m in report.margins if m.verdict == "good" and not m.information],
        "notes": [m for m in report.margins if m.information],
        "sheet": sheet(
            report,
            where.system,
            selected,
            cut=_cut(request, where) if schedule else None,
            canopy_scale=canopy_scale(report) if on_canopy else 0.0,
            air=where.station == "air",
        ),
        "on_canopy": on_canopy,
        "at_level": level is not None and not on_canopy,
        "cut": _cut(request, where),
        "level_m": report.lighting.map.height_m if report.lighting.map else 0,
        "title": title_block(where, report),
        "assumed": [(key, *ASSUMED[key]) for key in space.assumed if key in ASSUMED],
        "system": where.system,
        "selected": selected,
        "words": words,
        "can_undo": where.row.head is not None and where.row.head.parent_id is not None,
        "can_redo": where.row.head is not None and where.row.head.children.exists(),
        **(schedule_of(where, report, bad or {}) if schedule else {}),
    }


def cut_key(where: Where) -> str:
    """Where the session keeps the depth at which the front view shows the light."""
    return f"cut-{where.row.pk}-{where.space.id}"


def _cut(request: HttpRequest, where: Where) -> float | None:
    kept = request.session.get(cut_key(where))
    return min(float(kept), where.space.size.depth_m) if kept is not None else None


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
        Cell(
            station="light",
            name="Light",
            verdict=report.station_verdict("light"),
            text=f"{significant(light.mean_ppfd_umol_m2_s)} µmol/m²/s · {significant(light.dli_mol_m2_d)} mol/m²/d",
        ),
        Cell(
            station="air",
            name="Air",
            verdict=report.station_verdict("air"),
            text=Amount(value=air.delivered_m3_h, unit="airflow").text(system),
        ),
        Cell(
            station="air", name="Day, about", text=f"{temperature(air.day.temperature_c)} · {air.day.vpd_kpa:.1f} kPa"
        ),
        Cell(
            station="air",
            name="Night, about",
            text=f"{temperature(air.night.temperature_c)} · {air.night.vpd_kpa:.1f} kPa",
        ),
        Cell(station="power", name="Power", text=f"{number(run.power_w)} W"),
        Cell(station="power", name="Circuit", text=share, verdict=report.station_verdict("power")),
        Cell(station="power", name="A month", text=f"{run.cost_per_month:.2f} {run.currency}"),
    ]
