"""Addresses of the library."""

from django.urls import path

from canopy_web.library import views

app_name = "library"
urlpatterns = [
    path("cautions/", views.caution_list, name="cautions"),
    path("crops/", views.crop_list, name="crops"),
    path("crops/<slug:crop_id>/", views.crop_page, name="crop"),
    path("crops/<slug:crop_id>/copy/", views.copy_crop, name="copy"),
    path("crops/<slug:crop_id>/edit/", views.edit_crop, name="edit"),
    path("crops/<slug:crop_id>/drop/", views.drop_crop, name="drop"),
]
