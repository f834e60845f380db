"""Addresses of photographs."""

from django.urls import path

from canopy_web.photos import views

app_name = "photos"
urlpatterns = [
    path("plans/<int:plan_pk>/photos/<int:photo_pk>/", views.show, name="show"),
    path("plans/<int:plan_pk>/photos/<int:photo_pk>/remove/", views.remove, name="remove"),
    path("plans/<int:plan_pk>/spaces/<slug:space_id>/photos/add/", views.add, name="add"),
]
