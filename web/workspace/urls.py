"""Addresses of the workspace."""

from django.urls import path

from web.workspace import plant_views, space_views, views

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
    path("day/", views.set_day, name="day"),
    path("add/plants/", plant_views.add_plants, name="add-plants"),
    path("many/", plant_views.many, name="many"),
    path("plantings/move-kind/", plant_views.move_kind, name="move-kind"),
    path("plantings/<slug:planting_id>/", plant_views.edit_planting, name="edit-planting"),
    path("plantings/<slug:planting_id>/remove/", plant_views.remove_planting, name="remove-planting"),
    path("plantings/<slug:planting_id>/train/", plant_views.train, name="train"),
    path("plantings/<slug:planting_id>/move-on/", plant_views.move_on, name="move-on"),
    path("ground/", space_views.edit_ground, name="edit-ground"),
    path("bearing/", space_views.edit_bearing, name="edit-bearing"),
    path("feed/", space_views.edit_feed, name="edit-feed"),
    path("feed/part/", space_views.feed_part, name="feed-part"),
    path("add/lamps/", views.add_lamps, name="add-lamps"),
    path("all-lamps/", views.set_all_lamps, name="all-lamps"),
    path("add/own-lamp/", views.add_own_lamp, name="add-own-lamp"),
    path("add/part/<str:kind>/", space_views.add_part, name="add-part"),
    path("part/<str:kind>/<str:part_id>/", views.edit_part, name="edit-part"),
    path("part/<str:kind>/<str:part_id>/move/", views.move, name="move"),
    path("part/<str:kind>/<str:part_id>/remove/", views.remove, name="remove"),
    path("<str:station>/", views.station, name="station"),
]
