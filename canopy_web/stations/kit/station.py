"""The Kit station: what to buy, what to cut and drill, and how it is built."""

from __future__ import annotations

from canopy_web.stations.kit.build import build_tab
from canopy_web.stations.kit.holes import holes_tab
from canopy_web.stations.kit.list import list_tab
from canopy_web.stations.kit.stock import stock_tab
from canopy_web.workspace.station import Station, Tab

KIT = Station(
    key="kit",
    name="Kit",
    urls="canopy_web.stations.kit.urls",
    tabs=(
        Tab(key="list", name="To buy", template="kit/_list.html", fill=list_tab),
        Tab(key="holes", name="Cut and drill", template="kit/_holes.html", fill=holes_tab),
        Tab(key="stock", name="What you own", template="kit/_stock.html", fill=stock_tab),
        Tab(key="build", name="Build", template="kit/_build.html", fill=build_tab),
    ),
    judges=False,
)
