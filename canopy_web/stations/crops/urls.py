"""Addresses of the Crops station."""

from django.urls import path

from canopy_web.stations.crops import feed, suits, views

urlpatterns = [
    path("add/", views.add_plants, name="add-plants"),
    path("many/", views.many, name="many"),
    path("feed/", feed.edit_feed, name="edit-feed"),
    path("feed/part/", feed.feed_part, name="feed-part"),
    path("suits/<slug:kind>/", suits.suits, name="suits"),
    path("suits/<slug:kind>/<slug:crop_id>/", suits.grow, name="grow-here"),
    path("plantings/move-kind/", views.move_kind, name="move-kind"),
    path("plantings/<slug:planting_id>/", views.edit_planting, name="edit-planting"),
    path("plantings/<slug:planting_id>/remove/", views.remove_planting, name="remove-planting"),
    path("plantings/<slug:planting_id>/train/", views.train, name="train"),
    path("plantings/<slug:planting_id>/copy/", views.copy_planting, name="copy-planting"),
    path("plantings/<slug:planting_id>/move-on/", views.move_on, name="move-on"),
]
