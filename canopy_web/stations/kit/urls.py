"""Addresses of the Kit station."""

from django.urls import path

from canopy_web.stations.kit import build, cuts, list, pack, stock

urlpatterns = [
    path("have/", list.have, name="kit-have"),
    path("price/", list.price, name="kit-price"),
    path("kit.csv", list.as_csv, name="kit-csv"),
    path("pack/", pack.show, name="kit-pack"),
    path("labels/", pack.labels, name="kit-labels"),
    path("drawing/<str:view>.svg", pack.view_svg, name="kit-drawing"),
    path("kit/stock/", stock.add_stock, name="add-stock"),
    path("kit/stock/own/", stock.own_stock, name="own-stock"),
    path("kit/stock/<slug:item_id>/", stock.edit_stock, name="edit-stock"),
    path("kit/stock/<slug:item_id>/strike/", stock.remove_stock, name="remove-stock"),
    path("kit/swap/<slug:item_id>/<slug:lamp_id>/", stock.swap, name="swap"),
    path("template/", pack.templates, name="kit-template"),
    path("pack.css", pack.paper, name="kit-paper"),
    path("sizes/", cuts.edit_sizes, name="kit-sizes"),
    path("done/", build.done, name="build-done"),
    path("done/photo/", build.photo, name="step-photo"),
    path("done/photo/<int:photo_pk>/drop/", build.drop_photo, name="drop-step-photo"),
]
