"""Addresses of the Power station."""

from django.urls import path

from canopy_web.stations.power import costs, plugs, settle, views

urlpatterns = [
    path("circuit/", views.choose_circuit, name="circuit"),
    path("plug/", plugs.plug_in, name="plug"),
    path("trace/", plugs.trace, name="trace"),
    path("outlets/add/", plugs.add_outlet, name="add-outlet"),
    path("outlets/<str:key>/", plugs.edit_outlet, name="edit-outlet"),
    path("carriers/add/", plugs.add_carrier, name="add-carrier"),
    path("carriers/<str:key>/", plugs.edit_carrier, name="edit-carrier"),
    path("unplug/<slug:what>/<str:key>/", plugs.remove_plug, name="remove-plug"),
    path("variant/", costs.keep, name="keep-variant"),
    path("variant/<int:pk>/", costs.drop, name="drop-variant"),
    path("yield/<str:key>/", costs.edit_yield, name="edit-yield"),
    path("spread/", settle.spread_out, name="spread"),
    path("stagger/", settle.stagger_out, name="stagger"),
]
