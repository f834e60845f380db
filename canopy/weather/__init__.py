"""The air outdoors through a year: invented places, a grower's own file, and how a room follows it."""

from canopy.weather.places import Place, places, short_of, year_of
from canopy.weather.year import DayAir, Year, YearInShort, in_short

__all__ = ["DayAir", "Place", "Year", "YearInShort", "in_short", "places", "short_of", "year_of"]
