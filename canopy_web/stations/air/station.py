"""The Air station: ways of air, how much is asked for, what stirs it, which fan and filter."""

from __future__ import annotations

from canopy.evaluate import SpaceReport
from canopy.margin import Amount
from canopy.quantities import Reader
from canopy_web.stations.air.need import need_tab
from canopy_web.stations.air.own_forms import StirForm
from canopy_web.stations.air.path import path_tab
from canopy_web.stations.air.sets import sets_tab
from canopy_web.stations.air.stir import stir_tab
from canopy_web.workspace.station import Figure, PartKind, Station, Tab, plain


def _flow(report: SpaceReport, reader: Reader) -> str:
    return Amount(value=report.breathing.delivered_m3_h, unit="airflow").text(reader)


AIR = Station(
    key="air",
    name="Air",
    urls="canopy_web.stations.air.urls",
    tabs=(
        Tab(key="path", name="Path and fan", template="air/_path.html", fill=path_tab),
        Tab(key="need", name="How much", template="air/_need.html", fill=need_tab),
        Tab(key="stir", name="Circulation", template="air/_stir.html", fill=stir_tab),
        Tab(key="sets", name="Which fan and filter", template="air/_sets.html", fill=sets_tab),
    ),
    parts=(
        PartKind(collection="airways", noun="way of air"),
        PartKind(
            collection="stirrers",
            noun="circulation fan",
            form=plain(StirForm),
            axes=("x_m", "y_m", "z_m"),
        ),
    ),
    assumed={"air": "the air path"},
    layers=frozenset({"air", "ports"}),
    figures=(Figure(name="Air", text=_flow, judged=("air.flow",)),),
)
