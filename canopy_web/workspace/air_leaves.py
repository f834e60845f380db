"""The leaves of the Air station: ways of air, how much is asked for, stirring, and which fan and filter."""

from __future__ import annotations

from typing import Any

from canopy.air import BY_NIGHT, Demand, exchange_flow_m3_h, leak_m2
from canopy.air.noise import together_db
from canopy.air.operating import fan_curves, operating_points, system_curve
from canopy.design.air.building import at_speed
from canopy.evaluate import SpaceReport
from canopy.evaluate.air.amounts import NAMES, SPARE
from canopy.evaluate.air.breathing import Half
from canopy.evaluate.air.noise import noise_of
from canopy.evaluate.air.paths import PathReport
from canopy.evaluate.air.stir_margins import reach_of, stirred
from canopy.margin import Amount
from canopy.plan import Airway
from canopy.plan.airways import usual_away
from canopy_web.drawing.air_symbols import part_name
from canopy_web.drawing.airpath import LETTERS
from canopy_web.drawing.fan_chart import fan_chart
from canopy_web.workspace import air_forms, own_air_forms
from canopy_web.workspace.page import Where
from canopy_web.workspace.rows import rows_of

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
        "Air goes round through another space that dries or cools it; ten minutes an hour a purge brings fresh air.",
    ),
)
_BAR_PX = 240.0
_MINUTES = (1, 2, 3, 4, 5)


def air_schedule(where: Where, report: SpaceReport, bad: dict[str, Any]) -> dict[str, Any]:
    """Fill the leaf that is shown."""
    return _LEAVES[where.leaf](where, report, bad)


def _flow(value: float, where: Where) -> str:
    return Amount(value=value, unit="airflow").text(where.system)


def _pressure(value: float, where: Where) -> str:
    return Amount(value=value, unit="pressure").text(where.system)


def _path(where: Where, report: SpaceReport, bad: dict[str, Any]) -> dict[str, Any]:
    shown = [_way(where, report, airway, LETTERS[number], bad) for number, airway in enumerate(where.space.airways)]
    presets = [item for item in PRESETS if item[0] != "loop" or len(where.plan.spaces) > 1]
    return {
        "ways": shown,
        "presets": presets,
        "rows": rows_of(where, "openings", bad),
        "gas": any(way.ends == "outdoors" and way.way == "out" for way in where.space.airways),
        "filtered": any(way.filters for way in where.space.airways),
    }


def _way(where: Where, report: SpaceReport, airway: Airway, letter: str, bad: dict[str, Any]) -> dict[str, Any]:
    path = next((item for item in report.paths if item.airway.id == airway.id), None)
    record = airway.model_dump(mode="json")
    key = f"way/{airway.id}"
    form = bad.get(key) or air_forms.WayForm(
        record, plan=where.plan, space=where.space, system=where.system, prefix=f"way-{airway.id}"
    )
    away = None
    if airway.ends != "room" and airway.way == "in":
        kept = record["away"] or usual_away(airway).model_dump()
        away = bad.get(f"away/{airway.id}") or air_forms.AwayForm(kept, system=where.system, prefix=f"away-{airway.id}")
    can_pass = airway.port is None and bool(air_forms.opening_choices(where.space))

    def own(what: str, make: Any) -> Any:
        return bad.get(f"own-{what}/{airway.id}") or make({}, system=where.system, prefix=f"{what}-{airway.id}")

    return {
        "airway": airway,
        "letter": letter,
        "form": form,
        "away_form": away,
        "path": path,
        "parts": [_part(where, airway, n, part, path, bad) for n, part in enumerate(record["parts"])],
        "add_form": bad.get(f"add/{airway.id}")
        or air_forms.AddAirPartForm({}, system=where.system, prefix=f"add-{airway.id}", can_pass=can_pass),
        "fan_form": own("fan", own_air_forms.OwnFanForm),
        "filter_form": own("filter", own_air_forms.OwnFilterForm),
        "fitting_form": own("fitting", own_air_forms.OwnFittingForm),
        "needed": path.chain.needed if path else (),
        "summary": _summary(where, report, path),
        **_speeds(where, report, airway),
    }


def _part(
    where: Where, airway: Airway, number: int, record: dict[str, Any], path: PathReport | None, bad: dict[str, Any]
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
        curve, speed = path.chain.fans[place].curve, path.flow.way.speeds[place]
        lift = curve.pressure_pa(path.flow.flow_m3_s / part.count, speed)
        notes.append(f"adds {_pressure(lift, where)}" if lift >= 0 else f"takes {_pressure(-lift, where)}")
    if drop:
        speed_text = Amount(value=drop.speed_m_s, unit="air speed").text(where.system)
        notes.append(f"takes {_pressure(drop.drop_pa, where)} at {speed_text}")
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
    found = [_flow(path.flow_m3_h, where)]
    if path.point:
        found += [
            f"fan {100 * path.point.speed:.0f} %, {_pressure(path.point.lift_pa, where)}",
            f"{path.point.power_w:.1f} W",
        ]
        if path.point.stalls:
            found.append("the fan stalls")
    if path.filters and path.aged_m3_h < path.flow_m3_h - 0.5:
        found.append(f"{_flow(path.aged_m3_h, where)} once the filter has aged")
    if abs(path.night_m3_h - path.flow_m3_h) > 0.5:
        found.append(f"{_flow(path.night_m3_h, where)} by night")
    if path.airway.duty < 1:
        found.append(f"{100 * path.airway.duty:.0f} % of the time")
    return found


def _speeds(where: Where, report: SpaceReport, airway: Airway) -> dict[str, Any]:
    """Every speed step, and the chart."""
    points = operating_points(where.plan, where.space, airway)
    if not points:
        return {"steps": (), "chart": None}
    now = max(fan.speed for fan in airway.fans)
    need = report.breathing.governing.flow_m3_h
    curves = fan_curves(airway)
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
                "flow": _flow(point.flow_m3_h, where),
                "lift": _pressure(point.lift_pa, where),
                "inside": _pressure(point.space_pa, where),
                "power": f"{point.power_w:.1f} W",
                "noise": f"{noise:.0f} dB(A)" if noise > 0 else "—",
                "now": abs(point.speed - now) < 1e-6,
                "stalls": point.stalls,
                "enough": need is not None and point.flow_m3_h * airway.duty >= need,
            }
        )
    return {"steps": steps, "chart": chart}


def _bars(half: Half, there: float, where: Where, *, lit: bool) -> dict[str, Any]:
    asked = [d for d in half.demands if lit or d.criterion in BY_NIGHT]
    widest = max([there, *(d.flow_m3_h or 0.0 for d in asked)]) or 1.0
    return {
        "bars": [
            {
                "name": NAMES[demand.criterion],
                "text": "no flow will do" if demand.flow_m3_h is None else _flow(demand.flow_m3_h, where),
                "width": round(_BAR_PX * (demand.flow_m3_h or 0.0) / widest, 1),
                "governs": demand is half.governing,
                "reason": demand.reason or _other_school(demand, where),
            }
            for demand in asked
        ],
        "there": {"text": _flow(there, where), "width": round(_BAR_PX * there / widest, 1)},
    }


def _other_school(demand: Demand, where: Where) -> str:
    if demand.plain_m3_h is None or demand.flow_m3_h is None:
        return ""
    plain = _flow(demand.plain_m3_h, where)
    if demand.criterion == "heat":
        return f"{plain} if walls and leaves took up nothing"
    return f"{plain} {'with' if demand.plain_m3_h > demand.flow_m3_h else 'without'} a flat filter allowance"


def _need(where: Where, report: SpaceReport, bad: dict[str, Any]) -> dict[str, Any]:
    space, air = where.space, report.breathing
    data = space.air.model_dump(mode="json")
    volume = air.needs.volume_m3
    room = air.lit.room
    return {
        "halves": [
            ("Lamps on", _bars(air.lit, air.lit.air.total_m3_h, where, lit=True)),
            ("Lamps off", _bars(air.dark, air.dark.air.total_m3_h, where, lit=False)),
        ],
        "schools": [
            {
                "minutes": minutes,
                "plain": _flow(exchange_flow_m3_h(volume, minutes, 0.0), where),
                "padded": _flow(exchange_flow_m3_h(volume, minutes, space.air.filter_allowance), where),
                "now": abs(minutes - space.air.exchange_minutes) < 0.01,
            }
            for minutes in _MINUTES
        ],
        "seams": f"{1e4 * leak_m2(space):.0f} cm²" if space.air.leak_cm2 is None else "",
        "allowance": f"{space.air.filter_allowance:.0%}",
        "need_form": bad.get("need") or air_forms.NeedForm(data, system=where.system, prefix="need"),
        "room_form": bad.get("room-air")
        or air_forms.RoomAirForm(space.room.model_dump(mode="json"), system=where.system, prefix="room-air"),
        "room": None
        if room is None
        else {
            "rise": Amount(value=room.rise_k, unit="temperature rise").text(where.system),
            "t": Amount(value=room.temperature_c, unit="temperature").text(where.system),
            "rh": f"{room.rh_pct:.0f} %",
            "q": _flow(room.exchange_m3_h, where),
        },
        "door": _flow(air.lit.air.door_m3_h, where) if air.lit.air.door_m3_h > 0 else "",
    }


def _stir(where: Where, report: SpaceReport, bad: dict[str, Any]) -> dict[str, Any]:
    found = stirred(report.here)

    def speed(value: float) -> str:
        return Amount(value=value, unit="air speed").text(where.system)

    return {
        "rows": rows_of(where, "stirrers", bad),
        "mean": speed(found.mean_m_s),
        "mixing": f"{found.mixing_per_min:.1f}",
        "reached": [
            {
                "number": item.plant.number,
                "name": item.plant.crop.name,
                "speed": speed(item.speed_m_s),
                "want": Amount(
                    value=item.plant.want.air_speed_m_s.low, high=item.plant.want.air_speed_m_s.high, unit="air speed"
                ).text(where.system),
                "word": reach_of(item),
            }
            for item in sorted(found.plants, key=lambda plant: plant.speed_m_s)
        ],
        "add_form": bad.get("add-stir") or own_air_forms.AddStirForm({}, system=where.system, prefix="add-stir"),
        "own_form": bad.get("own-stir") or own_air_forms.OwnStirForm({}, system=where.system, prefix="own-stir"),
    }


def _sets(where: Where, report: SpaceReport, bad: dict[str, Any]) -> dict[str, Any]:
    need = report.breathing.governing.flow_m3_h
    return {
        "need": _flow(need, where) if need else "",
        "wanted": _flow(SPARE * need, where) if need else "",
        "strained": any(way.filters for way in where.space.airways),
        "reason": report.breathing.governing.reason,
    }


_LEAVES = {"path": _path, "need": _need, "stir": _stir, "sets": _sets}
