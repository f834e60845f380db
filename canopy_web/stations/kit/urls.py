"""Addresses of the Kit station."""

from django.urls import path

from canopy_web.stations.kit import build, list, pack

urlpatterns = [
    path("have/", list.have, name="kit-have"),
    path("price/", list.price, name="kit-price"),
    path("kit.csv", list.as_csv, name="kit-csv"),
    path("pack/", pack.show, name="kit-pack"),
    path("labels/", pack.labels, name="kit-labels"),
    path("drawing/<str:view>.svg", pack.view_svg, name="kit-drawing"),
    path("done/", build.done, name="build-done"),
]
