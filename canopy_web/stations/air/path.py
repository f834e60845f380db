"""The tab of ways of air: their parts, what each takes, every speed step."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from canopy.air.noise import together_db
from canopy.air.operating import at_speed, fan_curves, operating_points, system_curve
from canopy.evaluate import SpaceReport
from canopy.evaluate.air.amounts import is_enough
from canopy.evaluate.air.noise import noise_of
from canopy.evaluate.air.paths import PathReport
from canopy.margin import Amount
from canopy.plan import Airway
from canopy.plan.airways import usual_away
from canopy.plan.learnt import factor_on
from canopy.psychrometrics import density_share
from canopy_web.drawing.air_symbols import part_name
from canopy_web.drawing.airpath import LETTERS
from canopy_web.drawing.fan_chart import fan_chart
from canopy_web.stations.air import forms as air_forms
from canopy_web.stations.air import own_forms as own_air_forms
from canopy_web.workspace.parts import rows_of
from canopy_web.workspace.where import Where

PRESETS = (
    ("exhaust", "Exhaust", "A fan draws air out through a port; it comes in through openings. Slight suction inside."),
    ("filtered", "Exhaust with a carbon filter", "The same behind a filter, which holds odour while there is suction."),
    (
        "intake",
        "Active intake",
        "A fan blows room air in; it leaves through openings. Slight pressure inside, so that no dust is drawn in.",
    ),
    ("push-pull", "Push-pull", "A fan blows in, a stronger one draws out."),
    (
        "loop",
        "Closed loop with a purge",
        "Air goes round through another space that dries or cools it. Meshes and vents of both are shut; ten minutes "
        "an hour a purge brings fresh air.",
    ),
)


def flow_text(value: float, where: Where) -> str:
    """Write a flow of air in the person's units."""
    return Amount(value=value, unit="airflow").text(where.system)


def pressure_text(value: float, where: Where) -> str:
    """Write a pressure in the person's units."""
    return Amount(value=value, unit="pressure").text(where.system)


def path_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab: each way with its parts and its chart, and what else can be laid out."""
    shown = [_way(where, report, airway, LETTERS[number], bad) for number, airway in enumerate(where.space.airways)]
    presets = [item for item in PRESETS if item[0] != "loop" or len(where.plan.spaces) > 1]
    return {
        "ways": shown,
        "joined": _joined(where, report),
        "presets": presets,
        "rows": rows_of(where, "openings", bad),
        "gas": any(way.ends == "outdoors" and way.way == "out" for way in where.space.airways),
        "filtered": any(way.filters for way in where.space.airways),
    }


def _way(where: Where, report: SpaceReport, airway: Airway, letter: str, bad: Mapping[str, Any]) -> dict[str, Any]:
    path = next((item for item in report.paths if item.airway.id == airway.id), None)
    record = airway.model_dump(mode="json")
    key = f"way/{airway.id}"
    form = bad.get(key) or air_forms.WayForm(
        record, plan=where.plan, space=where.space, system=where.system, prefix=f"way-{airway.id}"
    )
    away = None
    if airway.ends != "room" and airway.way == "in":
        kept = record["away"] or _found_away(report, airway)
        away = bad.get(f"away/{airway.id}") or air_forms.AwayForm(kept, system=where.system, prefix=f"away-{airway.id}")
    can_pass = airway.port is None and bool(air_forms.opening_choices(where.space))

    def own(what: str, make: Any) -> Any:
        return bad.get(f"own-{what}/{airway.id}") or make({}, system=where.system, prefix=f"{what}-{airway.id}")

    return {
        "airway": airway,
        "letter": letter,
        "form": form,
        "away_form": away,
        "far": _far_name(where, airway) if airway.ends == "space" else "",
        "computed": airway.ends == "space" and airway.away is None,
        "path": path,
        "parts": [_part(where, airway, n, part, path, bad) for n, part in enumerate(record["parts"])],
        "add_form": bad.get(f"add/{airway.id}")
        or air_forms.AddAirPartForm(
            {},
            system=where.system,
            prefix=f"add-{airway.id}",
            can_pass=can_pass,
            hoods=air_forms.hood_choices(where.space),
        ),
        "fan_form": own("fan", own_air_forms.OwnFanForm),
        "filter_form": own("filter", own_air_forms.OwnFilterForm),
        "fitting_form": own("fitting", own_air_forms.OwnFittingForm),
        "needed": path.chain.needed if path else (),
        "summary": _summary(where, report, path),
        **_speeds(where, report, airway),
    }


def _far_name(where: Where, airway: Airway) -> str:
    far = where.plan.space(airway.space_id or "")
    return far.name if far else "another space"


def _found_away(report: SpaceReport, airway: Airway) -> dict[str, float]:
    """The air at the other end where nothing was typed: a joined space's as computed, else a usual one."""
    day = report.breathing.lit.linked.get(airway.space_id or "")
    night = report.breathing.dark.linked.get(airway.space_id or "")
    if airway.ends != "space" or day is None or night is None:
        return usual_away(airway).model_dump()
    return {
        "day_c": round(day.temperature_c, 1),
        "day_rh_pct": round(max(1.0, day.rh_pct)),
        "night_c": round(night.temperature_c, 1),
        "night_rh_pct": round(max(1.0, night.rh_pct)),
    }


def _joined(where: Where, report: SpaceReport) -> list[dict[str, str]]:
    """What ways of air of other spaces bring here or draw from here, as this space's own network has it."""
    own = {way.id for way in where.space.airways}
    found = []
    for flow in report.breathing.lit.air.running.ways:
        into = flow.way.to_id == where.space.id
        far_id = flow.way.from_id if into else flow.way.to_id
        if flow.airway.id in own and flow.airway in where.space.airways:
            continue
        far = where.plan.space(far_id or "")
        moved = flow.flow_m3_h if into else -flow.flow_m3_h
        air = report.breathing.lit.linked.get(far_id or "")
        text = Amount(value=air.temperature_c, unit="temperature").text(where.system) if air else ""
        found.append(
            {
                "name": flow.airway.name,
                "space": far.name if far else "another space",
                "space_id": far_id or "",
                "into": "arrive" if moved >= 0 else "are drawn off",
                "flow": flow_text(abs(moved), where),
                "air": f"{text}, {air.rh_pct:.0f} %" if air and moved >= 0 else "",
            }
        )
    return found


def _part(
    where: Where, airway: Airway, number: int, record: dict[str, Any], path: PathReport | None, bad: Mapping[str, Any]
) -> dict[str, Any]:
    part = airway.parts[number]
    key = f"air-part/{airway.id}/{part.id}"
    form = bad.get(key) or air_forms.AirPartForm(
        record, space=where.space, system=where.system, prefix=f"{airway.id}-{part.id}"
    )
    drop = next((d for d in path.drops if d.element.part_id == part.id), None) if path else None
    notes = [] if airway.is_inside(part.id) or part.kind == "port" else ["outside"]
    if part.kind == "fan" and path and path.running:
        place = [fan.part_id for fan in path.chain.fans].index(part.id)
        lift = path.chain.fan_lift_pa(place, path.flow.flow_m3_s, path.flow.way.speeds[place])
        notes.append(f"adds {pressure_text(lift, where)}" if lift >= 0 else f"takes {pressure_text(-lift, where)}")
    if drop:
        speed_text = Amount(value=drop.speed_m_s, unit="air speed").text(where.system)
        notes.append(f"takes {pressure_text(drop.drop_pa, where)} at {speed_text}")
    load = next((item for item in path.filters if item.part_id == part.id), None) if path else None
    if load and load.contact_s is not None:
        notes.append(f"{load.contact_s:.2f} s in the carbon")
    return {
        "id": part.id,
        "number": number + 1,
        "kind": part.kind,
        "name": part_name(part),
        "notes": " · ".join(notes),
        "form": form,
        "first": number == 0,
        "last": number == len(airway.parts) - 1,
    }


def _summary(where: Where, report: SpaceReport, path: PathReport | None) -> list[str]:
    if path is None:
        return []
    found = [flow_text(path.flow_m3_h, where)]
    if path.point:
        found += [
            f"fan {100 * path.point.speed:.0f} %, {pressure_text(path.point.lift_pa, where)}",
            f"{path.point.power_w:.1f} W",
        ]
        if path.point.stalls:
            found.append("the fan stalls")
    if path.filters and path.aged_m3_h < path.flow_m3_h - 0.5:
        found.append(f"{flow_text(path.aged_m3_h, where)} once the filter has aged")
    if abs(path.night_m3_h - path.flow_m3_h) > 0.5:
        found.append(f"{flow_text(path.night_m3_h, where)} by night")
    duty = path.airway.duty(where.space.lit)
    if duty < 1:
        found.append(f"{100 * duty:.0f} % of the time")
    return found


def _speeds(where: Where, report: SpaceReport, airway: Airway) -> dict[str, Any]:
    """Every speed step, and the chart."""
    points = operating_points(where.plan, where.space, airway)
    if not points:
        return {"steps": (), "chart": None}
    now = airway.lead.speed if airway.lead else 0.0
    need = report.breathing.governing.flow_m3_h
    curves = fan_curves(airway, density_share(where.plan.site.altitude_m), factor_on(where.space, "airflow", airway.id))
    reach = max(q for curve in curves for q, _ in curve.points)
    chart = fan_chart(curves, system_curve(where.plan, where.space, airway, reach), points, now, need, where.system)
    steps = []
    for point in points:
        set_to = at_speed(where.space, airway, point.speed)
        own = {fan.id for fan in airway.fans}
        noise = together_db(item.heard_dba for item in noise_of(set_to).sources if item.part_id in own)
        steps.append(
            {
                "speed": point.speed,
                "percent": f"{100 * point.speed:.0f} %",
                "flow": flow_text(point.flow_m3_h, where),
                "lift": pressure_text(point.lift_pa, where),
                "inside": pressure_text(point.space_pa, where),
                "power": f"{point.power_w:.1f} W",
                "noise": f"{noise:.0f} dB(A)" if noise > 0 else "—",
                "now": abs(point.speed - now) < 1e-6,
                "stalls": point.stalls,
                "enough": is_enough(where.space, airway, point, need),
            }
        )
    return {"steps": steps, "chart": chart}
