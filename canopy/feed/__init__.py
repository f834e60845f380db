"""Feed: doses for a solution, changes and top-ups, and what soil growing needs."""

from canopy.feed.schedule import FeedEvent, feed_events
from canopy.feed.soil import soil_water_l
from canopy.feed.solution import USUAL_STRENGTH_MS_CM, Dose, doses, ec_of_ppm, in_order, ppm_of_ec

__all__ = [
    "USUAL_STRENGTH_MS_CM",
    "Dose",
    "FeedEvent",
    "doses",
    "ec_of_ppm",
    "feed_events",
    "in_order",
    "ppm_of_ec",
    "soil_water_l",
]
