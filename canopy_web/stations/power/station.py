"""The Power station: what is plugged in, the circuit that carries it, what it costs."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from canopy.design.shell.fresh import fresh_device
from canopy.evaluate import SpaceReport
from canopy.evaluate.power.margins import circuit_share
from canopy.quantities import Reader, number
from canopy.words import percent
from canopy_web.stations.power.costs import costs_tab
from canopy_web.stations.power.forms import DeviceForm
from canopy_web.stations.power.hours import hours_tab
from canopy_web.stations.power.plugs import plugs_tab
from canopy_web.stations.power.settle import settle_tab
from canopy_web.stations.power.timers import timers_tab
from canopy_web.workspace.parts import rows_of
from canopy_web.workspace.station import Figure, PartKind, Station, Tab, plain
from canopy_web.workspace.where import Where


def devices_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the first tab: devices, the circuit, what runs and what it costs."""
    return {"rows": rows_of(where, "devices", bad), "circuit": report.circuit, "running": report.running}


def _circuit_share(report: SpaceReport, reader: Reader) -> str:
    return "no circuit" if report.circuit is None else percent(circuit_share(report.circuit))


POWER = Station(
    key="power",
    name="Power",
    urls="canopy_web.stations.power.urls",
    tabs=(
        Tab(key="devices", name="Devices", template="power/_devices.html", fill=devices_tab),
        Tab(key="plugs", name="Plugs", template="power/_plugs.html", fill=plugs_tab),
        Tab(key="timers", name="Timers", template="power/_timers.html", fill=timers_tab),
        Tab(key="hours", name="Hours", template="power/_hours.html", fill=hours_tab),
        Tab(key="cost", name="Cost", template="power/_costs.html", fill=costs_tab),
        Tab(key="settle", name="Spread", template="power/_settle.html", fill=settle_tab),
    ),
    parts=(
        PartKind(
            collection="devices",
            noun="device",
            form=plain(DeviceForm),
            axes=("x_m", "y_m", "z_m"),
            fresh=fresh_device,
        ),
    ),
    assumed={"circuit": "the circuit"},
    figures=(
        Figure(name="Power", text=lambda report, reader: f"{number(report.running.power_w)} W"),
        Figure(name="Circuit", text=_circuit_share, judged=("power.circuit",)),
        Figure(
            name="A month",
            text=lambda report, reader: f"{report.running.cost_per_month:.2f} {report.running.currency}",
        ),
    ),
)
