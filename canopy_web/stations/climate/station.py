"""The Climate station: a day followed, and what makes it."""

from __future__ import annotations

from canopy.evaluate import SpaceReport
from canopy.margin import Amount
from canopy.quantities import Reader
from canopy_web.stations.climate.controls import controls_tab
from canopy_web.stations.climate.day import day_tab
from canopy_web.workspace.station import Figure, Station, Tab


def _air(report: SpaceReport, reader: Reader, *, day: bool) -> str:
    found = report.climate
    if found is None:
        return "being followed"
    if found.overheats_s is not None:
        return "overheats"
    warm = Amount(value=found.mean("air_c", day=day), unit="temperature").text(reader)
    return f"{warm} · {found.mean('vpd_kpa', day=day):.1f} kPa"


CLIMATE = Station(
    key="climate",
    name="Climate",
    urls="canopy_web.stations.climate.urls",
    tabs=(
        Tab(key="day", name="The day", template="climate/_day.html", fill=day_tab),
        Tab(key="controls", name="Devices and settings", template="climate/_controls.html", fill=controls_tab),
    ),
    figures=(
        Figure(
            name="Day",
            text=lambda report, reader: _air(report, reader, day=True),
            judged=("climate.air-day", "climate.vpd"),
        ),
        Figure(
            name="Night", text=lambda report, reader: _air(report, reader, day=False), judged=("climate.air-night",)
        ),
    ),
    follows=True,
)
