"""The tab of the survey: what a meter read, and what each lamp really gives."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET, require_POST

from canopy.errors import CanopyError, PlanError
from canopy.evaluate import SpaceReport
from canopy.evaluate.light.lighting import crowns_of, survey_level_m
from canopy.light.spectra import reading_to_ppfd
from canopy.light.survey import ReadingFit, SurveyFit, fit_survey, followed, lies_inside, sheet_points
from canopy.logs.facts import LightReading, LightSurvey
from canopy.plan import Plan, Space
from canopy.plan.changes import Change
from canopy.quantities import LENGTH, show
from canopy.season import cast_of, standing_of
from canopy.words import is_number, percent
from canopy_web.drawing.scene import Dot
from canopy_web.drawing.sheet import sheet
from canopy_web.logbook import actions
from canopy_web.logbook.querysets import survey_record, surveys_of
from canopy_web.planning.store import state_to_plan
from canopy_web.stations.light import forms as light_forms
from canopy_web.workspace.proposals import place
from canopy_web.workspace.reply import answer, attempt, change, page, said
from canopy_web.workspace.where import Where, at_space

# What decides how light falls in a space; where one of these is another by now, so is the light that was measured.
_LIT_BY = ("size", "faces", "openings", "door_open", "fixtures", "shelves", "columns", "net", "daylight")
# A factor that has moved by less than this is the same one [share].
_SAME = 0.005


@dataclass(frozen=True, kw_only=True)
class Surveyed:
    """A space's newest survey, those before it, and the plan and space as they stood when its readings were taken."""

    survey: LightSurvey
    earlier: tuple[LightSurvey, ...]
    plan: Plan
    space: Space
    changed: bool

    def fit(self) -> SurveyFit | str:
        """What the readings say of the lamps as they hung then, or in words why there is no saying."""
        if not self.survey.counting:
            return ""
        here = standing_of(self.space, self.survey.taken_on, cast_of(self.plan))
        try:
            return fit_survey(self.space, self.survey, crowns=crowns_of(here))
        except CanopyError as error:
            return str(error)


def surveyed(where: Where) -> Surveyed:
    """Find the survey of the space that is looked at; an empty one where nobody took any."""
    rows = surveys_of(where.row, where.space.id)
    records = tuple(survey_record(row) for row in rows)
    state = rows[-1].state if rows else None
    plan = state_to_plan(state) if state is not None and state.pk != where.row.head_id else where.plan
    then = plan.space(where.space.id)
    if then is None:
        plan, then = where.plan, where.space
    return Surveyed(
        survey=records[-1] if records else LightSurvey(space_id=where.space.id, taken_on=where.day),
        earlier=tuple(record for record in records[:-1] if record.readings),
        plan=plan,
        space=then,
        changed=any(getattr(then, key) != getattr(where.space, key) for key in _LIT_BY),
    )


def _as_ppfd(survey: LightSurvey, value: float) -> str:
    found = reading_to_ppfd(value, survey.unit, survey.source_id, survey.cct_k)
    return f"{found.ppfd_umol_m2_s:.0f} ± {found.ppfd_umol_m2_s * found.uncertainty:.0f}"


def survey_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab."""
    found = surveyed(where)
    survey, fit = found.survey, found.fit()
    names = {lamp.id: f"{number} {lamp.spec.name}" for number, lamp in enumerate(found.space.fixtures, 1)}
    by_number = {item.number: item for item in fit.readings} if isinstance(fit, SurveyFit) else {}

    def say(value: float) -> str:
        return show(value, LENGTH, where.system)

    return {
        "survey": survey,
        "survey_seen": survey.model_dump(mode="json", include=_METER),
        "survey_form": bad.get("survey") or _survey_form(where, survey, None),
        "readings_form": bad.get("readings") or light_forms.ReadingsForm(),
        "fit": fit if isinstance(fit, SurveyFit) else None,
        "fit_wrong": fit if isinstance(fit, str) else "",
        "fit_lamps": [(names.get(item.fixture_id, item.fixture_id), item) for item in fit.lamps]
        if isinstance(fit, SurveyFit)
        else [],
        "fit_changed": found.changed and bool(survey.counting),
        "dots": tuple(_dot(r, by_number.get(r.number)) for r in survey.counting),
        "fit_odd": isinstance(fit, SurveyFit) and odd_lamps(fit, names),
        "fit_newer": isinstance(fit, SurveyFit) and _newer(where.space, fit),
        "earlier": found.earlier,
        "readings": [
            {
                "number": r.number,
                "reading": r,
                "x": say(r.x_m),
                "y": say(r.y_m),
                "z": say(r.z_m),
                "fit": by_number.get(r.number),
                "outside": not lies_inside(found.space, r),
                "ppfd": _as_ppfd(survey, r.value),
            }
            for r in survey.readings
        ],
    }


# Beyond these shares of what is stated something else is likelier than the lamp: the unit, a dimmer, a place.
_LEAST_FACTOR, _MOST_FACTOR = 0.4, 1.5


def odd_lamps(fit: SurveyFit, names: Mapping[str, str]) -> str:
    """Say which lamps would give so little or so much that one should ask first; nothing where none does."""
    odd = [lamp for lamp in fit.lamps if lamp.seen and not _LEAST_FACTOR <= lamp.factor <= _MOST_FACTOR]
    return "; ".join(f"{names.get(lamp.fixture_id, lamp.fixture_id)} {percent(lamp.factor)}" for lamp in odd)


def _dot(reading: LightReading, fit: ReadingFit | None) -> Dot:
    """A reading on the plan: how far it lies from what the lamps are stated to give."""
    if fit is None or fit.stated <= 0:
        return Dot(x_m=reading.x_m, y_m=reading.y_m, text=str(reading.number), title=f"Reading {reading.number}")
    off = fit.measured / fit.stated - 1
    return Dot(
        x_m=reading.x_m,
        y_m=reading.y_m,
        text=f"{'+' if off >= 0 else '−'}{percent(abs(off))}",
        title=f"Reading {reading.number}: {fit.measured:.0f} measured, {fit.stated:.0f} stated",
        odd=fit.outlier,
    )


def _newer(space: Space, fit: SurveyFit) -> bool:
    """Say whether readings tell otherwise by now than what the plan follows."""
    kept = space.survey
    return kept is not None and any(
        lamp.seen and abs(lamp.factor - kept.stated(lamp.fixture_id)) > _SAME for lamp in fit.lamps
    )


_METER = {"taken_on", "unit", "source_id", "cct_k"}


def _survey_form(where: Where, seen: LightSurvey | Mapping[str, Any], data: Any) -> light_forms.SurveyForm:
    record = seen.model_dump(mode="json") if isinstance(seen, LightSurvey) else seen
    return light_forms.SurveyForm(record, data, system=where.system, prefix="survey")


@require_POST
@at_space
def edit_survey(request: HttpRequest, where: Where) -> HttpResponse:
    """Change the day, the meter's unit or the kind of light. What stands typed among the readings stays there."""
    now = surveyed(where).survey.model_dump(mode="json", include=_METER)
    seen = {key: request.POST.get(f"was-{key}", value) for key, value in now.items()}
    form = _survey_form(where, seen, request.POST)
    typed = light_forms.ReadingsForm(initial={"lines": request.POST.get("lines", "")})

    def act() -> Where:
        actions.change_survey(where.row, where.space.id, where.day, form.changes(), form.seen())
        return where

    return attempt(request, where, form, "survey", act, bad={"readings": typed})


@require_POST
@at_space
def add_readings(request: HttpRequest, where: Where) -> HttpResponse:
    """Take readings in, typed or pasted, one a line."""
    size = where.space.size
    form = light_forms.ReadingsForm(request.POST, system=where.system, size=(size.width_m, size.depth_m, size.height_m))
    if not form.is_valid():
        return page(request, where, bad={"readings": form})
    try:
        actions.take_readings(where.row, where.space.id, where.day, form.cleaned_data["lines"])
        return page(request, where)
    except PlanError as error:
        form.add_error("lines", said(error))
        return page(request, where, bad={"readings": form})


@require_POST
@at_space
def act_on_survey(request: HttpRequest, where: Where) -> HttpResponse:
    """Let the plan follow the fitted factors or set them aside; strike a reading, or begin a new survey."""
    what, number = request.POST.get("what", ""), request.POST.get("reading", "")
    space_id = where.space.id
    if what == "apply":
        found = surveyed(where)
        fit = found.fit()
        if isinstance(fit, str):
            return page(request, where, words=fit or "Take some readings first.")
        if odd_lamps(fit, {}) and not request.POST.get("sure"):
            return page(request, where, words="Answer first whether unit and lamps are as said: see below.")
        keep = followed(where.space, fit, found.survey.taken_on, where.day).model_dump(mode="json")
        return change(request, where, "Follow the survey", Change(values={"survey": keep}))
    if what == "aside" and where.space.survey is not None:
        return change(request, where, "Set the survey aside", Change(values={"survey.applied": False}))
    if what in ("strike", "restore") and is_number(number):
        actions.strike_reading(where.row, space_id, int(number), what == "strike")
    elif what == "anew":
        actions.begin_survey(where.row, space_id, where.day)
    elif what == "now":
        actions.taken_as_set_now(where.row, space_id)
    else:
        raise Http404
    return answer(request, where, lambda: where)


@require_GET
@at_space
def survey_sheet(request: HttpRequest, where: Where) -> HttpResponse:
    """A sheet to print and take to the tent: numbered points on the plan, and a line for each reading."""
    report = where.report
    level = survey_level_m(report.here)
    view = sheet(report, where.reader(report)).plan
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
