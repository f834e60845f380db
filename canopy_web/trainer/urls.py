"""Addresses of the trainer."""

from django.urls import path

from canopy_web.trainer import views

app_name = "trainer"
urlpatterns = [
    path("", views.scenario_list, name="list"),
    path("<slug:scenario_id>/", views.scenario, name="play"),
    path("<slug:scenario_id>/run/", views.run, name="run"),
    path("<slug:scenario_id>/finish/", views.finish, name="finish"),
]
