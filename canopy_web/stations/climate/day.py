"""The tab of the simulated day: traces, the path in the VPD field, and a table."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from canopy.evaluate import SpaceReport
from canopy.evaluate.climate.days import Simulated
from canopy.margin import Amount
from canopy.quantities import Reader
from canopy_web.drawing.traces import trace_sheet, vpd_field
from canopy_web.workspace.where import Where


def day_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab; nothing but a word where the climate is still being followed."""
    found = report.climate
    if found is None or found.overheats_s is not None:
        return {"climate": found}
    reader, plants = where.reader(report), report.here.plants
    names = [(device.id, device.spec.name) for device in report.space.devices]
    return {
        "climate": found,
        "traces": trace_sheet(found, plants, reader, names, hours=24),
        "all_traces": trace_sheet(found, plants, reader, names, hours=72),
        "field": vpd_field(found, plants, reader),
        "hourly": _hourly(found, reader),
        "room_follows": report.here.around.room.floor_m2 is not None,
        "closed": f"{100 * max(found.days.closure.heat, found.days.closure.water):.4f} %",
    }


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
