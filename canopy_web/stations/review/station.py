"""The Review station: what the log teaches, and plan against log."""

from __future__ import annotations

from canopy_web.stations.review.against import against_tab
from canopy_web.stations.review.ail import ail_tab
from canopy_web.stations.review.harvest import harvest_tab
from canopy_web.stations.review.learn import learn_tab
from canopy_web.stations.review.pictures import pictures_tab
from canopy_web.stations.review.runs import runs_tab
from canopy_web.workspace.station import Station, Tab

REVIEW = Station(
    key="review",
    name="Review",
    urls="canopy_web.stations.review.urls",
    tabs=(
        Tab(key="ail", name="What ails it", template="review/_ail.html", fill=ail_tab),
        Tab(key="learn", name="What it really does", template="review/_learn.html", fill=learn_tab),
        Tab(key="against", name="Plan against log", template="review/_against.html", fill=against_tab),
        Tab(key="pictures", name="Pictures", template="review/_pictures.html", fill=pictures_tab),
        Tab(key="harvest", name="Harvest and money", template="review/_harvest.html", fill=harvest_tab),
        Tab(key="runs", name="Runs compared", template="review/_runs.html", fill=runs_tab),
    ),
    judges=False,
)
