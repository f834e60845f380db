"""Addresses of the Review station."""

from django.urls import path

from canopy_web.stations.review import against, ail, guided, harvest, learn, picture_words, pictures, runs

urlpatterns = [
    path("found/", learn.found, name="review-found"),
    path("take/", learn.take, name="review-take"),
    path("learnt/<slug:part_id>/aside/", learn.set_aside, name="review-aside"),
    path("learnt/<slug:part_id>/forget/", learn.forget, name="review-forget"),
    path("test/begin/", guided.begin, name="review-test-begin"),
    path("test/<int:pk>/", guided.watch, name="review-test"),
    path("test/<int:pk>/fan/", guided.fan_on, name="review-test-fan"),
    path("test/<int:pk>/end/", guided.end, name="review-test-end"),
    path("test/<int:pk>/take/", guided.take, name="review-test-take"),
    path("days/", against.days, name="review-days"),
    path("check/", against.check, name="review-check"),
    path("run/<str:key>/", harvest.edit_run, name="review-run"),
    path("run/<str:key>/report/", harvest.report, name="review-report"),
    path("run/<str:key>/next/<slug:what>/", harvest.take_next, name="review-next"),
    path("pictures/add/", pictures.add, name="review-picture-add"),
    path("pictures/<int:pk>/mark/", pictures.mark, name="review-picture-mark"),
    path("pictures/<int:pk>/read/", pictures.read, name="review-picture-read"),
    path("pictures/<int:pk>/laid/", pictures.laid, name="review-picture-laid"),
    path("pictures/<int:pk>/forget/", pictures.forget, name="review-picture-forget"),
    path("pictures/<int:pk>/follow/", picture_words.follow, name="review-picture-follow"),
    path("runs/", runs.compared, name="review-runs"),
    path("runs/back/", runs.set_back, name="review-back"),
    path("trial/", runs.trial, name="review-trial"),
    path("ailing/", ail.ailing, name="review-ailing"),
    path("ailing/note/", ail.write_down, name="review-ail-note"),
    path("course/", ail.begin_course, name="review-course"),
    path("course/<slug:part_id>/end/", ail.end_course, name="review-course-end"),
]
