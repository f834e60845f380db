"""Addresses of the household."""

from django.urls import path

from canopy_web.household import calendar, mail, placing, reach, settings_views, standins, today, trust, variants, views
from canopy_web.household.archive import packing, taking
from canopy_web.household.whole import views as whole

app_name = "household"
urlpatterns = [
    path("", views.home, name="home"),
    path("start/", views.first_space, name="first-space"),
    path("start/whole/", whole.whole, name="start-whole-ask"),
    path("start/whole/answers/", whole.answers, name="start-whole-answers"),
    path("start/whole/make/", whole.make, name="start-whole-make"),
    path("plans/<int:plan_pk>/whole/", whole.whole, name="whole-ask"),
    path("plans/<int:plan_pk>/whole/answers/", whole.answers, name="whole-answers"),
    path("plans/<int:plan_pk>/whole/make/", whole.make, name="whole-make"),
    path("plans/<int:plan_pk>/variants/<str:space_id>/", variants.variants, name="variants"),
    path("plans/<int:plan_pk>/variants/<str:space_id>/keep/", variants.keep, name="keep-variant"),
    path("plans/<int:plan_pk>/variants/<str:space_id>/<int:pk>/", variants.use, name="use-variant"),
    path("plans/<int:plan_pk>/which-space/", placing.which_space, name="which-space"),
    path("plans/<int:plan_pk>/which-space/<str:space_id>/", placing.grow_there, name="grow-there"),
    path("reach.js", reach.worker, name="reach"),
    path("mail/", mail.written_mail, name="mail"),
    path("stand-ins/", standins.standins, name="stand-ins"),
    path("trust/", trust.trust, name="trust"),
    path("trust/authority.crt", trust.authority, name="authority"),
    path("today/", today.today_page, name="today"),
    path("plans/<int:plan_pk>/today/<str:space_id>/", today.today_care, name="today-care"),
    path("take-away/", packing.take_away, name="take-away"),
    path("take-in/", taking.take_in, name="take-in"),
    path("take-in/piece/", taking.take_piece, name="take-piece"),
    path("plans/import/", views.import_file, name="import"),
    path("plans/<int:plan_pk>/", settings_views.household, name="household"),
    path("plans/<int:plan_pk>/card/<str:space_id>/", views.card, name="card"),
    path("plans/<int:plan_pk>/export/", views.export, name="export"),
    path("plans/<int:plan_pk>/calendar.ics", calendar.download, name="calendar"),
    path("calendar/<str:token>.ics", calendar.feed, name="feed"),
    path("plans/<int:plan_pk>/undo/", views.undo, name="undo"),
    path("plans/<int:plan_pk>/delete/", settings_views.delete, name="delete"),
    path("plans/<int:plan_pk>/spaces/new/", views.new_space, name="new-space"),
]
