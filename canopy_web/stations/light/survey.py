"""The tab of the survey: what a meter read, and what each lamp really gives."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET, require_POST

from canopy.errors import CanopyError, PlanError
from canopy.evaluate import SpaceReport
from canopy.evaluate.light.lighting import crowns_of, survey_level_m
from canopy.light.spectra import reading_to_ppfd
from canopy.light.survey import SurveyFit, fit_survey, sheet_points, taken
from canopy.plan import Survey
from canopy.plan.changes import Change, Remove
from canopy.quantities import LENGTH, show
from canopy_web.drawing.sheet import sheet
from canopy_web.planning import actions
from canopy_web.stations.light import forms as light_forms
from canopy_web.workspace.proposals import place
from canopy_web.workspace.reply import attempt, change, page, said
from canopy_web.workspace.where import Where, at_space


def survey_fit(where: Where, report: SpaceReport) -> SurveyFit | str:
    """A survey's fit, or in words why there is none."""
    survey = where.space.survey
    if survey is None or not survey.readings:
        return ""
    try:
        return fit_survey(where.space, survey, crowns=crowns_of(report.here))
    except CanopyError as error:
        return str(error)


def _as_ppfd(survey: Survey, value: float) -> str:
    found = reading_to_ppfd(value, survey.unit, survey.source_id, survey.cct_k)
    return f"{found.ppfd_umol_m2_s:.0f} ± {found.ppfd_umol_m2_s * found.uncertainty:.0f}"


def survey_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab."""
    survey = where.space.survey or Survey(taken_on=where.day)
    fit = survey_fit(where, report)
    names = {lamp.id: f"{number} {lamp.spec.name}" for number, lamp in enumerate(where.space.fixtures, 1)}
    by_id = {item.reading_id: item for item in fit.readings} if isinstance(fit, SurveyFit) else {}

    def say(value: float) -> str:
        return show(value, LENGTH, where.system)

    return {
        "survey": survey,
        "survey_form": bad.get("survey")
        or light_forms.SurveyForm(survey.model_dump(mode="json"), system=where.system, prefix="survey"),
        "readings_form": bad.get("readings") or light_forms.ReadingsForm(),
        "fit": fit if isinstance(fit, SurveyFit) else None,
        "fit_wrong": fit if isinstance(fit, str) else "",
        "fit_lamps": [(names.get(item.fixture_id, item.fixture_id), item) for item in fit.lamps]
        if isinstance(fit, SurveyFit)
        else [],
        "readings": [
            {
                "number": n,
                "reading": r,
                "x": say(r.x_m),
                "y": say(r.y_m),
                "z": say(r.z_m),
                "fit": by_id.get(r.id),
                "ppfd": _as_ppfd(survey, r.value),
            }
            for n, r in enumerate(survey.readings, 1)
        ],
    }


@require_POST
@at_space
def edit_survey(request: HttpRequest, where: Where) -> HttpResponse:
    """Change the day, the meter's unit or the kind of light."""
    old = where.drawn_space.survey or Survey(taken_on=where.day)
    form = light_forms.SurveyForm(old.model_dump(mode="json"), request.POST, system=where.system, prefix="survey")

    def act() -> Where:
        values, was = form.changes(), form.seen()
        return where.again(actions.change_survey(where.row, where.space.id, where.day, values, was))

    return attempt(request, where, form, "survey", act)


@require_POST
@at_space
def add_readings(request: HttpRequest, where: Where) -> HttpResponse:
    """Take readings in, typed or pasted, one a line."""
    size = where.space.size
    form = light_forms.ReadingsForm(request.POST, system=where.system, size=(size.width_m, size.depth_m, size.height_m))
    if not form.is_valid():
        return page(request, where, bad={"readings": form})
    lines = form.cleaned_data["lines"]
    try:
        return page(request, where.again(actions.take_readings(where.row, where.space.id, where.day, lines)))
    except PlanError as error:
        form.add_error("lines", said(error))
        return page(request, where, bad={"readings": form})


_UNFITTED = {"survey.applied": False, "survey.factors": []}


@require_POST
@at_space
def act_on_survey(request: HttpRequest, where: Where) -> HttpResponse:
    """Apply the fitted factors, set them aside, take one reading out, or begin anew."""
    survey, what = where.space.survey, request.POST.get("what", "")
    if survey is None:
        raise Http404
    if what == "apply":
        fit = survey_fit(where, where.report)
        if isinstance(fit, str):
            return page(request, where, words=fit or "Take some readings first.")
        return change(request, where, "Applied the survey", Change(values=taken(where.space, fit, where.day)))
    if what == "drop":
        key = request.POST.get("reading", "")
        gone = Remove(at=("survey",), collection="readings", part_ids=(key,))
        return change(request, where, "Took a reading out", gone, Change(values=_UNFITTED))
    simple: dict[str, tuple[str, dict[str, Any]]] = {
        "aside": ("Set the survey aside", {"survey.applied": False}),
        "clear": ("Cleared the survey", {"survey": None}),
    }
    if what not in simple:
        raise Http404
    label, values = simple[what]
    return change(request, where, label, Change(values=values))


@require_GET
@at_space
def survey_sheet(request: HttpRequest, where: Where) -> HttpResponse:
    """A sheet to print and take to the tent: numbered points on the plan, and a line for each reading."""
    report = where.report
    level = survey_level_m(report.here)
    view = sheet(report, where.system).plan
    points = [
        {
            "number": n,
            "x": show(x, LENGTH, where.system),
            "y": show(y, LENGTH, where.system),
            "px": round(view.box.x + x * view.scale, 1),
            "py": round(view.box.y + (where.space.size.depth_m - y) * view.scale, 1),
        }
        for n, (x, y, _) in enumerate(sheet_points(where.space, level), 1)
    ]
    return render(
        request,
        "light/survey_sheet.html",
        {
            **place(where),
            "view": view,
            "points": points,
            "level": show(level, LENGTH, where.system),
            "day": where.day,
        },
    )
