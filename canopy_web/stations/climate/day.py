"""The tab of the simulated day: traces, the path in the VPD field, and a table."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, cast

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from canopy.air.room_balance import DRY_SHARE
from canopy.climate.columns import ROOM_OUT_COOLING, ROOM_OUT_HEATING
from canopy.evaluate import SpaceReport
from canopy.evaluate.climate.days import Simulated, simulated
from canopy.evaluate.climate.rehearsal.rehearsed import in_season
from canopy.evaluate.kept import report_of
from canopy.margin import Amount
from canopy.plan.rooms import Season
from canopy.quantities import Reader
from canopy.words import is_number
from canopy_web.drawing.traces import trace_sheet, vpd_field
from canopy_web.planning.store import state_to_plan
from canopy_web.workspace.proposals import place
from canopy_web.workspace.where import Where, at_space


def day_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab; nothing but a word where the climate is still being followed."""
    if report.climate is None and _hour(where) is not None:
        # A pinned hour stands in the drawing, which comes with the page.
        report = where.followed
    found = report.climate
    if found is None or found.overheats_s is not None:
        return {"climate": found}
    reader, plants = where.reader(report), report.here.plants
    names = _names(report)
    hour = _hour(where)
    return {
        "climate": found,
        "traces": trace_sheet(found, plants, reader, names, hours=24),
        "all_traces": trace_sheet(found, plants, reader, names, hours=72),
        "field": vpd_field(found, plants, reader),
        "hourly": _hourly(found, reader),
        "room_follows": report.here.around.room.floor_m2 is not None,
        "choices": [(key, name) for key, name in _COMPARED.items() if _can(where, report, key)],
        "pinned": pinned(found, hour, reader) if hour is not None else (),
        "pinned_hour": f"{hour:02d}:00" if hour is not None else "",
        "room_runs": _room_runs(found),
        "closed": f"{100 * max(found.days.closure.heat, found.days.closure.water):.4f} %",
    }


# What a small air conditioner takes of heat for each watt-hour it draws (usual labels: 2.5 to 3).
_EER = 2.7


def _room_runs(found: Simulated) -> list[tuple[str, str, str]]:
    """What the room's own heater and air conditioner do in a day: name, share of the day, energy."""
    system, rows = found.days.system, found.last
    out = []
    for number, node in enumerate(system.rooms):
        for name, watts, column in (
            ("heater", node.heating_w, ROOM_OUT_HEATING),
            ("air conditioner", node.cooling_w / DRY_SHARE / _EER, ROOM_OUT_COOLING),
        ):
            if watts > 0:
                share = float(found.days.rooms[rows, number, column].mean())
                out.append((name, f"{100 * share:.0f} %", f"{watts * share * 24 / 1000:.1f} kWh"))
    return out


# What the day can be held against.
_COMPARED = {
    "coldest": "the coldest day of the year",
    "hottest": "the hottest day of the year",
    "without": "the same without devices",
    "before": "as it was before the last change",
}


def _names(report: SpaceReport) -> list[tuple[str, str]]:
    return [(device.id, device.spec.name) for device in report.space.devices]


def _hour(where: Where) -> int | None:
    """The hour of the day that is pinned in the address."""
    asked = where.look.more.get("hour", "")
    return int(asked) if is_number(asked) and int(asked) < 24 else None


def _can(where: Where, report: SpaceReport, key: str) -> bool:
    """Whether there is such a day to hold it against."""
    around, head = report.here.around, where.row.head
    if key in ("coldest", "hottest"):
        return around.hourly is not None or getattr(around.room, key) is not None
    if key == "without":
        return any(device.spec.on_demand for device in report.space.devices)
    return head is not None and head.parent is not None


def _other(where: Where, report: SpaceReport, key: str) -> Simulated | None:
    """The day to hold it against, followed."""
    plan, here = where.plan, report.here
    if key in ("coldest", "hottest"):
        return simulated(plan, in_season(plan, here, cast(Season, key)), report.lighting)
    if key == "without":
        kept = tuple(device for device in report.space.devices if not device.spec.on_demand)
        space = report.space.model_copy(update={"devices": kept})
        return simulated(plan, here.moved(space), report.lighting)
    head = where.row.head
    if head is None or head.parent is None:
        return None
    before = state_to_plan(head.parent)
    space_before = before.space(where.space.id)
    if space_before is None:
        return None
    return report_of(before, space_before, day=where.day, follow=True).climate


@require_GET
@at_space
def compare(request: HttpRequest, where: Where) -> HttpResponse:
    """Hold the day against another: both as lines."""
    key, report = request.GET.get("with", ""), where.followed
    found = report.climate
    shown: dict[str, Any] = {**place(where), "name": "beside", "last": 143, "start": 72}
    if key in _COMPARED and found is not None and found.overheats_s is None and _can(where, report, key):
        other = _other(where, report, key)
        if other is not None and len(other.traces.hours) == len(found.traces.hours):
            names = {"coldest": "coldest", "hottest": "hottest", "without": "without", "before": "before"}
            shown["sheet"] = trace_sheet(
                found, report.here.plants, where.reader(report), _names(report), hours=24, beside=(other, names[key])
            )
            shown["against"] = _COMPARED[key]
    return render(request, "climate/_compared.html", shown)


def pinned(found: Simulated, hour: int, reader: Reader) -> list[tuple[str, str]]:
    """What an hour is like, by where in the drawing it stands: air, leaf, roots, wall, what moves."""
    traces = found.traces
    rows = found.last & (traces.hours % 24 >= hour) & (traces.hours % 24 < hour + 1)

    def text(name: str, unit: str, decimals: int | None = None) -> str:
        return Amount(value=float(getattr(traces, name)[rows].mean()), unit=unit, decimals=decimals).text(reader)

    return [
        ("air", f"{text('air_c', 'temperature')}, {text('rh_pct', '%', 0)}"),
        ("leaf", f"leaves {text('leaf_c', 'temperature')}"),
        ("root", f"roots {text('root_c', 'temperature')}"),
        ("wall", f"coldest wall {text('cold_c', 'temperature')}"),
        ("flow", f"in {text('flow_m3_h', 'airflow')}"),
    ]


def _hourly(found: Simulated, reader: Reader) -> list[dict[str, Any]]:
    """The last day's hours, for those who read."""
    traces, rows = found.traces, []
    for hour in range(24):
        part = found.last & (traces.hours % 24 >= hour) & (traces.hours % 24 < hour + 1)

        def mean(name: str, unit: str, decimals: int | None = None, part: Any = part) -> str:
            value = float(getattr(traces, name)[part].mean())
            return Amount(value=value, unit=unit, decimals=decimals).text(reader)

        rows.append(
            {
                "hour": f"{hour:02d}:00",
                "lit": float(traces.lit[part].mean()) > 0.5,
                "air": mean("air_c", "temperature"),
                "rh": mean("rh_pct", "%", 0),
                "vpd": mean("vpd_kpa", "kPa", 2),
                "leaf": mean("leaf_c", "temperature"),
                "root": mean("root_c", "temperature"),
                "co2": mean("co2_ppm", "ppm", 0),
                "water": mean("given_g_h", "g/h", 0),
            }
        )
    return rows
