"""Addresses of the Climate station."""

from django.urls import path

from canopy_web.stations.climate import controls, day, rehearse, settings

urlpatterns = [
    path("control/<str:device_id>/", controls.edit_control, name="control"),
    path("place/<str:device_id>/", controls.edit_place, name="place"),
    path("fan/<str:way_id>/", controls.edit_fan, name="fan"),
    path("cut-off/", controls.edit_cut_off, name="cut-off"),
    path("stage/<str:device_id>/", controls.add_stage, name="stage"),
    path("offer/", controls.add_offer, name="offer"),
    path("compare/", day.compare, name="compare"),
    path("sizing/", settings.sizing, name="sizing"),
    path("settings/", settings.settings, name="settings"),
    path("settings/<str:choice>/", settings.take_settings, name="take_settings"),
    path("rehearsal/<str:fault>/", rehearse.rehearsal, name="rehearsal"),
    path("alert/<str:fault>/", rehearse.keep_alert, name="keep_alert"),
    path("drop-alert/<str:alert>/", rehearse.drop_alert, name="drop_alert"),
    path("guard/<str:fault>/<int:number>/", rehearse.take_guard, name="take_guard"),
    path("five-minutes/", rehearse.five_minutes, name="five_minutes"),
    path("five-minutes/follow/", rehearse.follow_five_minutes, name="follow_five_minutes"),
]
