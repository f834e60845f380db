"""Addresses of the Climate station."""

from django.urls import path

from canopy_web.stations.climate import controls

urlpatterns = [
    path("control/<str:device_id>/", controls.edit_control, name="control"),
    path("offer/<str:offer>/", controls.add_offer, name="offer"),
]
