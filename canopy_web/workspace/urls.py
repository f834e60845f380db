"""Addresses that every station has: the frame's own acts, mounted under each station's key."""

from django.urls import path

from canopy_web.workspace import mend_all, part_views, views

patterns = [
    path("", views.show, name="show"),
    path("follow/", views.follow, name="follow"),
    path("undo/", views.undo, name="undo"),
    path("redo/", views.redo, name="redo"),
    path("delete/", views.delete, name="delete"),
    path("confirm/<str:what>/", views.confirm, name="confirm"),
    path("margin/<str:margin_id>/", views.margin, name="margin"),
    path("remedy/<str:margin_id>/", views.remedy, name="remedy"),
    path("mend-all/", mend_all.mend_all, name="mend-all"),
    path("group/<str:group_key>/", views.mend_group, name="mend-group"),
    path("part/<str:kind>/add/", part_views.add_part, name="add-part"),
    path("part/<str:kind>/<str:part_id>/", part_views.edit_part, name="edit-part"),
    path("part/<str:kind>/<str:part_id>/move/", part_views.move, name="move"),
    path("part/<str:kind>/<str:part_id>/remove/", part_views.remove, name="remove"),
]
