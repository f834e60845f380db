"""Addresses of the Space station."""

from django.urls import path

from canopy_web.stations.space import photo_views, views

urlpatterns = [
    path("size/", views.edit_space, name="edit-space"),
    path("which-room/", views.which_room, name="which-room"),
    path("room/", views.edit_room, name="edit-room"),
    path("face/<str:face>/", views.edit_face, name="edit-face"),
    path("window/estimate/", views.estimate_window, name="estimate-window"),
    path("ground/", views.edit_ground, name="edit-ground"),
    path("bearing/", views.edit_bearing, name="edit-bearing"),
    path("photos/add/", photo_views.add, name="add-photo"),
    path("photos/<int:photo_pk>/", photo_views.show, name="photo"),
    path("photos/<int:photo_pk>/day/", photo_views.date, name="date-photo"),
    path("photos/<int:photo_pk>/remove/", photo_views.remove, name="remove-photo"),
]
