"""The Log station: what happened, what sensors showed, and how readings come in."""

from __future__ import annotations

from canopy_web.stations.log.alerts import alerts_tab
from canopy_web.stations.log.sensors import sensors_tab
from canopy_web.stations.log.traces import traces_tab
from canopy_web.stations.log.writing import writing_tab
from canopy_web.workspace.station import Station, Tab

LOG = Station(
    key="log",
    name="Log",
    urls="canopy_web.stations.log.urls",
    tabs=(
        Tab(key="write", name="Write down", template="log/_write.html", fill=writing_tab),
        Tab(key="traces", name="Traces", template="log/_traces.html", fill=traces_tab),
        Tab(key="alerts", name="Alerts", template="log/_alerts.html", fill=alerts_tab),
        Tab(key="sensors", name="Sensors", template="log/_sensors.html", fill=sensors_tab),
    ),
    judges=False,
)
