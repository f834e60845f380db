"""Addresses of the library."""

from django.urls import path

from web.library import views

app_name = "library"
urlpatterns = [
    path("crops/", views.crop_list, name="crops"),
    path("crops/<slug:crop_id>/", views.crop_page, name="crop"),
]
