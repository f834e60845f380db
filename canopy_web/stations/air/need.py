"""The tab of how much air is asked for, by what, and of the room that takes it up."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_POST

from canopy.air import BY_NIGHT, Demand, exchange_flow_m3_h, leak_m2
from canopy.evaluate import SpaceReport
from canopy.evaluate.air.amounts import NAMES
from canopy.evaluate.air.breathing import Half, filtered
from canopy.margin import Amount
from canopy.words import percent
from canopy_web.stations.air import forms as air_forms
from canopy_web.stations.air.path import flow_text
from canopy_web.workspace.edits import edit_listed, edit_record
from canopy_web.workspace.where import Where, at_space

_BAR_PX = 240.0
_MINUTES = (1, 2, 3, 4, 5)


def _bars(half: Half, where: Where, *, lit: bool) -> dict[str, Any]:
    there = half.air.shut_m3_h
    asked = [d for d in half.demands if lit or d.criterion in BY_NIGHT]
    widest = max([there, *(d.flow_m3_h or 0.0 for d in asked)]) or 1.0
    return {
        "bars": [
            {
                "name": NAMES[demand.criterion],
                "text": "no flow will do" if demand.flow_m3_h is None else flow_text(demand.flow_m3_h, where),
                "width": round(_BAR_PX * (demand.flow_m3_h or 0.0) / widest, 1),
                "governs": demand is half.governing,
                "reason": demand.reason or _other_school(demand, where),
            }
            for demand in asked
        ],
        "there": _bar("comes in, about", there, widest, where),
        "besides": [
            _bar(name, value, widest, where)
            for name, value in (
                ("of it fresh: for exchange and CO₂", half.air.shut_fresh_m3_h),
                ("of it past the plants", half.past_share * there),
            )
            if abs(value - (there if "fresh" in name else 0.0)) > _WORTH_M3_H
        ],
    }


_WORTH_M3_H = 0.5


def _bar(name: str, value: float, widest: float, where: Where) -> dict[str, Any]:
    return {"name": name, "text": flow_text(value, where), "width": round(_BAR_PX * value / widest, 1)}


def _other_school(demand: Demand, where: Where) -> str:
    if demand.plain_m3_h is None or demand.flow_m3_h is None:
        return ""
    plain = flow_text(demand.plain_m3_h, where)
    if demand.criterion == "heat":
        return f"{plain} if walls and leaves took up nothing"
    return f"{plain} {'with' if demand.plain_m3_h > demand.flow_m3_h else 'without'} a flat filter allowance"


def need_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab: demands by day and night, both schools of exchange, the room."""
    space, air = where.space, report.breathing
    data = space.air.model_dump(mode="json")
    volume = air.needs.volume_m3
    room = air.lit.room
    return {
        "halves": [
            ("Lamps on", _bars(air.lit, where, lit=True)),
            ("Lamps off", _bars(air.dark, where, lit=False)),
        ],
        "schools": [
            {
                "minutes": minutes,
                "plain": flow_text(exchange_flow_m3_h(volume, minutes, 0.0), where),
                "padded": flow_text(exchange_flow_m3_h(volume, minutes, space.air.filter_allowance), where),
                "now": abs(minutes - space.air.exchange_minutes) < 0.01,
            }
            for minutes in _MINUTES
        ],
        "seams": f"{1e4 * leak_m2(space):.0f} cm²" if space.air.leak_cm2 is None else "",
        "allowance": percent(space.air.filter_allowance),
        "need_form": bad.get("need") or air_forms.NeedForm(data, system=where.system, prefix="need"),
        "room_form": bad.get("room-air")
        or air_forms.RoomAirForm(where.room.model_dump(mode="json"), system=where.system, prefix="room-air"),
        "room": None
        if room is None
        else {
            "rise": Amount(value=room.rise_k, unit="temperature rise").text(where.system),
            "t": Amount(value=room.temperature_c, unit="temperature").text(where.system),
            "rh": f"{room.rh_pct:.0f} %",
            "q": flow_text(room.exchange_m3_h, where),
        },
        "door": {
            "shut": flow_text(air.lit.air.shut_m3_h, where),
            "open": flow_text(air.lit.air.held_open_m3_h, where),
            "mean": flow_text(air.lit.air.total_m3_h, where),
        }
        if air.lit.air.door_m3_h > 0
        else None,
        "filter_counted": filtered(space),
    }


@require_POST
@at_space
def edit_need(request: HttpRequest, where: Where) -> HttpResponse:
    """Change what the air is asked to do."""
    label = "Changed what the air must do"
    return edit_record(request, where, air_forms.NeedForm, under="air", key="need", label=label)


@require_POST
@at_space
def edit_room_air(request: HttpRequest, where: Where) -> HttpResponse:
    """Change how much heat and water the room takes."""
    return edit_listed(
        request,
        where,
        lambda record: air_forms.RoomAirForm(record, request.POST, system=where.system, prefix="room-air"),
        collection="rooms",
        part_id=where.space.room_id,
        key="room-air",
        label=lambda record: f"Changed {record['name']}",
    )
