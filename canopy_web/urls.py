"""All addresses of the application."""

from django.urls import include, path

from canopy_web.logbook.push import receive

urlpatterns = [
    path("account/", include("canopy_web.accounts.urls")),
    path("library/", include("canopy_web.library.urls")),
    path("readings/", receive),
    path("trainer/", include("canopy_web.trainer.urls")),
    path("", include("canopy_web.household.urls")),
    path("plans/<int:plan_pk>/spaces/<slug:space_id>/", include("canopy_web.stations.urls")),
]
handler404 = "canopy_web.accounts.views.not_found"
handler500 = "canopy_web.accounts.views.server_error"
