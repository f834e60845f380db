"""Addresses of the Light station."""

from django.urls import path

from canopy_web.stations.light import backwards, lamps, on_plants, outdoors, survey, views

urlpatterns = [
    path("point/", views.read_point, name="point"),
    path("lamps/add/", lamps.add_lamps, name="add-lamps"),
    path("lamps/all/", lamps.set_all_lamps, name="all-lamps"),
    path("lamps/pose/", lamps.pose_lamp, name="pose-lamp"),
    path("lamps/age/<str:lamp_id>/", lamps.age_lamp, name="age-lamp"),
    path("lamps/own/", lamps.add_own_lamp, name="add-own-lamp"),
    path("lamps/bars/", lamps.line_bars, name="line-bars"),
    path("lamps/link/<slug:what>/", lamps.link_lamps, name="link-lamps"),
    path("lamps/file/", lamps.lamp_from_file, name="lamp-file"),
    path("backward/choose/", backwards.choose, name="choose"),
    path("backward/more/", backwards.more, name="more"),
    path("backward/more/chosen/", backwards.more_chosen, name="more-chosen"),
    path("backward/<slug:tool>/", backwards.backward, name="backward"),
    path("goal/", on_plants.set_goal, name="goal"),
    path("strip/<str:plant_id>/", on_plants.strip, name="strip"),
    path("outdoors/", outdoors.set_outdoors, name="outdoors"),
    path("survey/edit/", survey.edit_survey, name="edit-survey"),
    path("survey/readings/", survey.add_readings, name="add-readings"),
    path("survey/act/", survey.act_on_survey, name="act-on-survey"),
    path("survey/sheet/", survey.survey_sheet, name="survey-sheet"),
]
