"""Addresses of the Air station."""

from django.urls import path

from canopy_web.stations.air import need, sets, stir, views

urlpatterns = [
    path("need/", need.edit_need, name="edit-need"),
    path("room/", need.edit_room_air, name="edit-room-air"),
    path("sets/", sets.sets, name="sets"),
    path("sets/<str:key>/", sets.fit_set, name="fit-set"),
    path("stir/add/", stir.add_stirrer, name="add-stirrer"),
    path("stir/own/", stir.own_stirrer, name="own-stirrer"),
    path("add/<slug:kind>/", views.add_way, name="add-way"),
    path("way/<slug:airway_id>/", views.edit_way, name="edit-way"),
    path("way/<slug:airway_id>/away/", views.edit_away, name="edit-away"),
    path("way/<slug:airway_id>/away/clear/", views.clear_away, name="clear-away"),
    path("way/<slug:airway_id>/speed/", views.set_speed, name="set-speed"),
    path("way/<slug:airway_id>/fan/", views.own_fan, name="own-fan"),
    path("way/<slug:airway_id>/filter/", views.own_filter, name="own-filter"),
    path("way/<slug:airway_id>/fitting/", views.own_fitting, name="own-fitting"),
    path("way/<slug:airway_id>/add/", views.add_air_part, name="add-air-part"),
    path("way/<slug:airway_id>/part/<slug:part_id>/", views.edit_air_part, name="edit-air-part"),
    path("way/<slug:airway_id>/part/<slug:part_id>/<slug:what>/", views.act_on_air_part, name="act-on-air-part"),
]
