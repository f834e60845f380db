"""Addresses of the Power station."""

from django.urls import path

from canopy_web.stations.power import views

urlpatterns = [
    path("circuit/", views.choose_circuit, name="circuit"),
]
