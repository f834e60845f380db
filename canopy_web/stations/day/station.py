"""The Day station: one clock for all that runs, the work that comes again, and a calendar of both."""

from __future__ import annotations

from canopy_web.stations.day.calendar import calendar_tab
from canopy_web.stations.day.care import care_tab
from canopy_web.stations.day.clock import clock_tab
from canopy_web.workspace.station import Station, Tab

DAY = Station(
    key="day",
    name="Day",
    urls="canopy_web.stations.day.urls",
    tabs=(
        Tab(key="clock", name="Clock", template="day/_clock.html", fill=clock_tab),
        Tab(key="care", name="Care", template="day/_care.html", fill=care_tab),
        Tab(key="calendar", name="Calendar", template="day/_calendar.html", fill=calendar_tab),
    ),
)
