"""Addresses of the Log station."""

from django.urls import path

from canopy_web.stations.log import addresses, alerts, plugs, sensors, tables, traces, writing

urlpatterns = [
    path("write/<slug:kind>/", writing.write, name="log-write"),
    path("entry/<str:key>/", writing.strike, name="log-strike"),
    path("photo/", writing.photo, name="log-photo"),
    path("series.json", traces.series, name="log-series"),
    path("glance.json", traces.glance, name="log-glance"),
    path("readings.csv", traces.as_csv, name="log-csv"),
    path("alerts/add/", alerts.add_alert, name="log-alert-add"),
    path("alerts/take/", alerts.take_proposal, name="log-alert-take"),
    path("alerts/<slug:alert_id>/", alerts.edit_alert, name="log-alert"),
    path("alerts/<slug:alert_id>/count/", alerts.count, name="log-alert-count"),
    path("alerts/<slug:alert_id>/drop/", alerts.drop_alert, name="log-alert-drop"),
    path("event/<int:pk>/seen/", alerts.seen, name="log-seen"),
    path("sensor/<int:pk>/", sensors.edit_sensor, name="log-sensor"),
    path("sensor/<int:pk>/strike/", sensors.strike_sensor, name="log-sensor-strike"),
    path("address/", addresses.try_address, name="log-address"),
    path("address/take/", addresses.take_address, name="log-address-take"),
    path("plug/<int:pk>/", plugs.ask, name="log-plug"),
    path("plug/<int:pk>/switch/", plugs.switch, name="log-plug-switch"),
    path("source/", sensors.add_source, name="log-source"),
    path("source/<int:pk>/", sensors.edit_source, name="log-source-edit"),
    path("source/<int:pk>/drop/", sensors.drop_source, name="log-source-drop"),
    path("table/", tables.lay_down, name="log-table"),
    path("table/piece/", tables.piece, name="log-table-piece"),
    path("table/<int:pk>/", tables.show, name="log-table-shape"),
    path("table/<int:pk>/start/", tables.start, name="log-table-start"),
    path("table/<int:pk>/go/", tables.go, name="log-table-go"),
    path("table/<int:pk>/stop/", tables.stop, name="log-table-stop"),
]
