"""The Crops station: plants, their season, who may live together, what would suit, feed."""

from __future__ import annotations

from canopy_web.stations.crops.feed import feed_tab
from canopy_web.stations.crops.plants import plant_form, plants_tab
from canopy_web.stations.crops.season import season_tab
from canopy_web.stations.crops.short import short_tab
from canopy_web.stations.crops.suits import suits_tab
from canopy_web.stations.crops.together import together_tab
from canopy_web.workspace.station import PartKind, Station, Tab

CROPS = Station(
    key="crops",
    name="Crops",
    urls="canopy_web.stations.crops.urls",
    tabs=(
        Tab(key="plants", name="Plants", template="crops/_plants.html", fill=plants_tab),
        Tab(key="short", name="At a glance", template="crops/_short.html", fill=short_tab),
        Tab(key="season", name="Season", template="crops/_season.html", fill=season_tab),
        Tab(key="together", name="Together", template="crops/_together.html", fill=together_tab),
        Tab(key="suits", name="What suits", template="crops/_suits.html", fill=suits_tab),
        Tab(key="feed", name="Feed", template="crops/_feed.html", fill=feed_tab),
    ),
    parts=(PartKind(collection="plants", noun="plant", form=plant_form, axes=("x_m", "y_m")),),
    assumed={"stage": "the plants' stage"},
)
