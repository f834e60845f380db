"""Every station under its own key: the frame's addresses and the station's, handed the station's record."""

from importlib import import_module

from django.urls import URLPattern, URLResolver, include, path

from canopy_web.stations.registry import HOUSE
from canopy_web.workspace import urls as frame
from canopy_web.workspace.station import House, Station


def mounted(station: Station, house: House) -> URLResolver:
    """Mount one station."""
    own: list[URLPattern] = import_module(station.urls).urlpatterns
    return path(
        f"{station.key}/",
        include(([*own, *frame.patterns], station.key)),
        {"station": station, "house": house},
    )


urlpatterns = [mounted(station, HOUSE) for station in HOUSE.stations]
