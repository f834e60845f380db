"""Addresses of the Day station."""

from django.urls import path

from canopy_web.stations.day import calendar, care, clock

urlpatterns = [
    path("care/mark/", care.mark, name="care-mark"),
    path("care/strike/<int:pk>/", care.strike, name="care-strike"),
    path("care/watering/", care.edit_watering, name="edit-watering"),
    path("care/settle/<str:name>/", care.settle, name="care-settle"),
    path("care/leave-out/<str:name>/", care.leave_out, name="care-leave-out"),
    path("care/own/", care.add_own, name="add-own-care"),
    path("care/own/<str:key>/", care.edit_own, name="own-care"),
    path("clock/try/", clock.try_edge, name="try-edge"),
    path("clock/move/", clock.move_edge, name="move-edge"),
    path("clock/quiet/", clock.edit_quiet, name="edit-quiet"),
    path("clock/lane/<slug:whose>/<str:lane_id>/", clock.edit_lane, name="edit-lane"),
    path("calendar/", calendar.open_feed, name="open-feed"),
]
