"""All addresses of the application."""

from django.urls import include, path

urlpatterns = [
    path("account/", include("web.accounts.urls")),
    path("library/", include("web.library.urls")),
    path("", include("web.planning.urls")),
    path("", include("web.photos.urls")),
    path("plans/<int:plan_pk>/spaces/<slug:space_id>/", include("web.workspace.urls")),
]
handler404 = "web.accounts.views.not_found"
handler500 = "web.accounts.views.server_error"
