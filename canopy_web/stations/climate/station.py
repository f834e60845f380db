"""The Climate station: a day followed, and what makes it."""

from __future__ import annotations

from canopy.design.shell.fresh import fresh_lid, fresh_wet
from canopy.evaluate import SpaceReport
from canopy.margin import Amount
from canopy.quantities import Reader
from canopy_web.stations.climate.controls import controls_tab
from canopy_web.stations.climate.day import day_tab
from canopy_web.stations.climate.forms import LidForm, WetForm
from canopy_web.stations.climate.rehearse import rehearse_tab
from canopy_web.workspace.station import Figure, PartKind, Station, Tab, plain


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
        Tab(key="rehearse", name="What if", template="climate/_rehearse.html", fill=rehearse_tab),
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
    parts=(
        PartKind(collection="lids", noun="lid", form=plain(LidForm), axes=("x_m", "y_m"), fresh=fresh_lid),
        PartKind(collection="wet", noun="wet surface", form=plain(WetForm), fresh=fresh_wet),
    ),
    follows=True,
)
