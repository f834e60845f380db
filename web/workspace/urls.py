"""Addresses of the workspace."""

from django.urls import path

from web.workspace import views

app_name = "workspace"
urlpatterns = [
    path("undo/", views.undo, name="undo"),
    path("redo/", views.redo, name="redo"),
    path("delete/", views.delete, name="delete"),
    path("size/", views.edit_space, name="edit-space"),
    path("room/", views.edit_room, name="edit-room"),
    path("face/<str:face>/", views.edit_face, name="edit-face"),
    path("fan/", views.edit_air, name="edit-air"),
    path("fan/own/", views.own_fan, name="own-fan"),
    path("circuit/", views.choose_circuit, name="circuit"),
    path("level/", views.set_level, name="level"),
    path("confirm/<str:what>/", views.confirm, name="confirm"),
    path("remedy/<str:margin_id>/", views.remedy, name="remedy"),
    path("add/plants/", views.add_plants, name="add-plants"),
    path("restage/", views.restage, name="restage"),
    path("add/lamps/", views.add_lamps, name="add-lamps"),
    path("all-lamps/", views.set_all_lamps, name="all-lamps"),
    path("add/own-lamp/", views.add_own_lamp, name="add-own-lamp"),
    path("add/opening/", views.add_opening, name="add-opening"),
    path("add/device/", views.add_device, name="add-device"),
    path("part/<str:kind>/<str:part_id>/", views.edit_part, name="edit-part"),
    path("part/<str:kind>/<str:part_id>/move/", views.move, name="move"),
    path("part/<str:kind>/<str:part_id>/remove/", views.remove, name="remove"),
    path("<str:station>/", views.station, name="station"),
]
