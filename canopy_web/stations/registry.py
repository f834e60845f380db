"""The stations, in the order in which a grower settles things: one line each."""

from __future__ import annotations

from canopy_web.stations.air.station import AIR
from canopy_web.stations.climate.station import CLIMATE
from canopy_web.stations.crops.station import CROPS
from canopy_web.stations.day.station import DAY
from canopy_web.stations.kit.station import KIT
from canopy_web.stations.light.station import LIGHT
from canopy_web.stations.log.station import LOG
from canopy_web.stations.power.station import POWER
from canopy_web.stations.review.station import REVIEW
from canopy_web.stations.space.station import SPACE
from canopy_web.workspace.station import House

HOUSE = House(
    stations=(
        SPACE,
        CROPS,
        LIGHT,
        AIR,
        CLIMATE,
        POWER,
        DAY,
        KIT,
        LOG,
        REVIEW,
    )
)
