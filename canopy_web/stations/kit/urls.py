"""Addresses of the Kit station."""

from django.urls import path

from canopy_web.stations.kit import build, list

urlpatterns = [
    path("have/", list.have, name="kit-have"),
    path("price/", list.price, name="kit-price"),
    path("kit.csv", list.as_csv, name="kit-csv"),
    path("done/", build.done, name="build-done"),
]
