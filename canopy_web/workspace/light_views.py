"""Acts of the Light station's leaves: backwards, survey, files, lines of bars, points, outdoors."""

from __future__ import annotations

import time
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET, require_POST

from canopy.cache import ContentCache
from canopy.design.change import Remedy
from canopy.design.light.choose import Choice, choices_for, settled, try_choice
from canopy.design.light.dimmers import set_dimmers
from canopy.design.light.hanging import line_up
from canopy.design.light.heights import find_height, space_lamps
from canopy.design.light.places import place_plants
from canopy.design.light.proposal import Proposal
from canopy.design.preview import preview
from canopy.errors import GeometryError, PhotometricError, PlanError, PlanProblem
from canopy.evaluate.light.lighting import Probe, probe
from canopy.library import fixtures
from canopy.light.photometric_file import read_photometric
from canopy.light.spectra import read_spectrum
from canopy.light.survey import sheet_points, taken
from canopy.plan import Survey
from canopy.plan.changes import Change
from canopy.plan.edit import apply, fresh_id
from canopy.quantities import LENGTH, show
from canopy.season import Standing
from canopy_web.drawing.sheet import sheet
from canopy_web.planning import actions
from canopy_web.workspace import light_forms
from canopy_web.workspace.light_leaves import survey_fit
from canopy_web.workspace.page import Where, canopy_scale, cut_key, locate
from canopy_web.workspace.reports import report_of
from canopy_web.workspace.views import attempt, hang_lamps, hang_specs, page, said

_TOOLS = {"dimmers": set_dimmers, "height": find_height, "spacing": space_lamps, "places": place_plants}
_SLICE_S = 0.6
_tried: ContentCache[dict[str, Choice]] = ContentCache(24, lambda item: 1)


def _here(where: Where) -> Standing:
    return report_of(where.plan, where.space, day=where.day).here


def _find(where: Where, tool: str) -> Proposal | None:
    here = _here(where)
    if tool in _TOOLS:
        return _TOOLS[tool](here)
    choice = next((c for c in choices_for(here) if f"lamps-{c.class_id}-{c.count}" == tool), None)
    if choice is None:
        raise Http404
    found = try_choice(here, choice).proposal
    return settled(here, found) if found else None


def backward(request: HttpRequest, plan_pk: int, space_id: str, tool: str) -> HttpResponse:
    """Show what a tool proposes, before and after side by side; on POST, do it."""
    where = locate(request, plan_pk, space_id, "light")
    found = _find(where, tool)
    if request.method == "POST":
        if found is None:
            return page(request, where, words="There is nothing better to propose here now.")
        label = found.label.say(where.system)
        return page(request, where.again(actions.change_space(where.row, space_id, found.changes, label)))
    shown: dict[str, Any] = {
        "proposal": found,
        "tool": tool,
        "row": where.row,
        "space": where.space,
        "system": where.system,
        "station": "light",
        "leaf": "backwards",
    }
    if found is not None:
        remedy = Remedy(label=found.label, changes=found.changes)
        changed = apply(where.plan, space_id, found.changes)
        after = changed.space(space_id)
        assert after is not None
        before_report, after_report = (
            report_of(p, s, day=where.day) for p, s in ((where.plan, where.space), (changed, after))
        )
        scale = canopy_scale(before_report, after_report)
        shown |= {
            "label": found.label.say(where.system),
            "before": sheet(before_report, where.system, canopy_scale=scale).plan,
            "after": sheet(after_report, where.system, canopy_scale=scale).plan,
            "moved": preview(before_report, remedy),
        }
    return render(request, "workspace/_proposal.html", shown)


@require_GET
def choose(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Try the lamps of the library over the plants, a slice a request, saying how far it has come."""
    where = locate(request, plan_pk, space_id, "light")
    here = _here(where)
    row = choices_for(here)
    key = (where.space.model_dump_json(), where.day, tuple(p.plant for p in here.plants))
    done = _tried.get(key, dict)
    begin = time.monotonic()
    for choice in row:
        name = f"lamps-{choice.class_id}-{choice.count}"
        if name not in done:
            done[name] = try_choice(here, choice)
            if time.monotonic() - begin > _SLICE_S:
                break
    able = sorted(
        (c for c in done.values() if c.tried),
        key=lambda c: (round(c.tried.miss, 1), c.tried.power_w) if c.tried else (9, 0),
    )
    return render(
        request,
        "workspace/_choices.html",
        {
            "row": where.row,
            "space": where.space,
            "done": len(done),
            "all": len(row),
            "best": able[:6],
            "finished": len(done) >= len(row),
        },
    )


@require_POST
def line_bars(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Link bars end to end along a side."""
    where = locate(request, plan_pk, space_id, "light")
    form = light_forms.LineUpForm({}, request.POST, system=where.system, prefix="line")

    def act() -> Any:
        got = form.cleaned_data
        spec = fixtures()[got["class_id"]].spec
        made = line_up(
            where.space,
            spec,
            along=got["along"],
            gap_m=got["gap_m"],
            z_m=got["z_m"],
            count=got["count"] or 0,
            length_m=got["length_m"] or 0.0,
        )
        if not made:
            raise PlanError([PlanProblem(path="class_id", message=f"not even one {spec.name} fits there")])
        return hang_specs(where, made, f"Linked {len(made)} × {spec.name}")

    return attempt(request, where, form, "line", act)


@require_POST
def lamp_from_file(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Hang a lamp from its photometric file."""
    where = locate(request, plan_pk, space_id, "light")
    form = light_forms.LampFileForm(request.POST, request.FILES)
    if form.is_valid():
        power, light = form.number("power_w"), form.number("ppf_umol_s")
        try:
            file = form.cleaned_data["photometry"]
            found = read_photometric(file.read(), file.name.rpartition(".")[0])
            waves = read_spectrum(form.cleaned_data["spectrum"].read()) if form.cleaned_data.get("spectrum") else ()
            if form.errors:
                raise PhotometricError("")
            if power is None and found.power_w is None:
                form.add_error("power_w", "the file does not say what the lamp draws: type it")
            if light is None and found.flux_lm is None:
                form.add_error("ppf_umol_s", "the file does not say how much light it gives: type its PPF")
            if not form.errors:
                output = {"kind": "ppf", "ppf_umol_s": light} if light else {"kind": "lumens", "flux_lm": found.flux_lm}
                spec = {
                    "name": found.name,
                    "power_w": power or found.power_w,
                    "output": output,
                    "emission": "photometric",
                    "photometry": found.photometry.model_dump(mode="json"),
                    "shape": "disc" if found.round else "rectangle",
                    "length_m": max(found.length_m, 0.02),
                    "width_m": max(found.width_m, 0.02),
                    "spectrum": waves,
                }
                return page(
                    request,
                    where.again(hang_lamps(where, spec, 1)),
                    words=f"{found.name} hangs over the plants; drag it from there.",
                )
        except PhotometricError as error:
            if str(error):
                form.add_error("photometry", str(error)[0].upper() + str(error)[1:] + ".")
        except PlanError as error:
            form.add_error(None, said(error))
    return page(request, where, bad={"file": form})


@require_GET
def read_point(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Read the light at a point: in all, from each lamp, and by way of the walls."""
    where = locate(request, plan_pk, space_id, "light")
    typed = any(key.startswith("probe-") for key in request.GET)
    try:
        if typed:
            form = light_forms.ProbeForm({}, request.GET, system=where.system, prefix="probe")
            if not form.is_valid():
                return render(
                    request,
                    "workspace/_probe.html",
                    {"wrong": " ".join(str(w) for e in form.errors.values() for w in e)},
                )
            point = tuple(form.cleaned_data[key] for key in ("x_m", "y_m", "z_m"))
        else:
            point = tuple(float(request.GET.get(key, "nan")) for key in ("x", "y", "z"))
        if point[2] is None:
            return render(request, "workspace/_column.html", _column(where, *point[:2]))
        found = probe(_here(where), *point)
    except (ValueError, GeometryError):
        return render(request, "workspace/_probe.html", {"wrong": "That point lies outside the space."})
    return render(
        request,
        "workspace/_probe.html",
        {
            "total": f"{found.total:.0f}",
            "lamps": _lamp_parts(where, found),
            "walls": f"{found.reflected_umol_m2_s:.0f}",
        },
    )


def _lamp_parts(where: Where, found: Probe) -> list[tuple[str, str]]:
    """What each lamp and window gives at a point, those that give anything."""
    lamps, direct = len(where.space.fixtures), found.direct_umol_m2_s
    names = [*(f"lamp {number}" for number in range(1, lamps + 1)), *("daylight" for _ in direct[lamps:])]
    return [(name, f"{value:.0f}") for name, value in zip(names, direct, strict=True) if value >= 0.5]


def _column(where: Where, x_m: float, y_m: float) -> dict[str, Any]:
    """The light on an upright line, in even steps from the top down."""
    here, height = _here(where), where.space.size.height_m
    steps = max(6, min(24, round(height / 0.1)))
    levels = [height * (number + 0.5) / steps for number in reversed(range(steps))]
    found = [(level, probe(here, x_m, y_m, level)) for level in levels]
    return {
        "x": show(x_m, LENGTH, where.system),
        "y": show(y_m, LENGTH, where.system),
        "levels": [
            {
                "z": show(level, LENGTH, where.system),
                "total": f"{item.total:.0f}",
                "parts": _lamp_parts(where, item),
                "walls": f"{item.reflected_umol_m2_s:.0f}",
            }
            for level, item in found
        ],
    }


@require_POST
def set_cut(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Show the light on an upright plane in the front view, or hide it."""
    where = locate(request, plan_pk, space_id, "light")
    typed = request.POST.get("cut", "")
    try:
        if typed:
            request.session[cut_key(where)] = min(max(float(typed), 0.0), where.space.size.depth_m)
        else:
            request.session.pop(cut_key(where), None)
    except ValueError:
        raise Http404 from None
    return page(request, where)


@require_POST
def set_outdoors(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Remember where the garden lies and when plants go out."""
    where = locate(request, plan_pk, space_id, "light")
    form = light_forms.OutdoorsForm({}, request.POST, prefix="outdoors")
    if not form.is_valid():
        return page(request, where, bad={"outdoors": form})
    got = form.cleaned_data
    request.session["outdoors"] = {
        "latitude_deg": got["latitude_deg"],
        "start": got["start"].isoformat(),
        "days": got["days"],
    }
    where.outdoors = request.session["outdoors"]
    return page(request, where)


def _survey_of(where: Where) -> Survey:
    return where.space.survey or Survey(taken_on=where.day)


def _store(where: Where, survey: Survey, label: str, **more: Any) -> Any:
    values = {"survey": survey.model_dump(mode="json"), **more}
    return actions.change_space(where.row, where.space.id, [Change(values=values)], label)


@require_POST
def edit_survey(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Change the day, the meter's unit or the kind of light."""
    where = locate(request, plan_pk, space_id, "light")
    old = _survey_of(where)
    form = light_forms.SurveyForm(old.model_dump(mode="json"), request.POST, system=where.system, prefix="survey")

    def act() -> Any:
        got = form.cleaned_data
        fresh = old.model_copy(update={**got, "applied": False, "factors": ()})
        return _store(where, fresh, "Changed the survey")

    return attempt(request, where, form, "survey", act)


@require_POST
def add_readings(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Take readings in, typed or pasted, one a line."""
    where = locate(request, plan_pk, space_id, "light")
    size = where.space.size
    form = light_forms.ReadingsForm(request.POST, system=where.system, size=(size.width_m, size.depth_m, size.height_m))
    if not form.is_valid():
        return page(request, where, bad={"readings": form})
    old = _survey_of(where)
    readings = list(old.readings)
    for x, y, z, value in form.cleaned_data["lines"]:
        key = fresh_id("reading", (item["id"] if isinstance(item, dict) else item.id for item in readings))
        readings.append({"id": key, "x_m": x, "y_m": y, "z_m": z, "value": value})  # type: ignore[arg-type]
    data = old.model_dump(mode="json") | {
        "readings": [item if isinstance(item, dict) else item.model_dump(mode="json") for item in readings],
        "applied": False,
        "factors": [],
    }
    try:
        count = len(form.cleaned_data["lines"])
        row = actions.change_space(where.row, space_id, [Change(values={"survey": data})], f"Took {count} readings")
        return page(request, where.again(row))
    except PlanError as error:
        form.add_error("lines", said(error))
        return page(request, where, bad={"readings": form})


@require_POST
def act_on_survey(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Apply the fitted factors, set them aside, take one reading out, or begin anew."""
    where = locate(request, plan_pk, space_id, "light")
    survey, what = where.space.survey, request.POST.get("what", "")
    if survey is None:
        raise Http404
    if what == "apply":
        fit = survey_fit(where, report_of(where.plan, where.space, day=where.day))
        if isinstance(fit, str):
            return page(request, where, words=fit or "Take some readings first.")
        change = Change(values=taken(where.space, fit, where.day))
        return page(request, where.again(actions.change_space(where.row, space_id, [change], "Applied the survey")))
    if what == "aside":
        change = Change(values={"survey.applied": False})
        return page(request, where.again(actions.change_space(where.row, space_id, [change], "Set the survey aside")))
    if what == "drop":
        left = tuple(item for item in survey.readings if item.id != request.POST.get("reading"))
        fresh = survey.model_copy(update={"readings": left, "factors": (), "applied": False})
        return page(request, where.again(_store(where, fresh, "Took a reading out")))
    if what == "clear":
        change = Change(values={"survey": None})
        return page(request, where.again(actions.change_space(where.row, space_id, [change], "Cleared the survey")))
    raise Http404


@require_GET
def survey_sheet(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """A sheet to print and take to the tent: numbered points on the plan, and a line for each reading."""
    where = locate(request, plan_pk, space_id, "light")
    report = report_of(where.plan, where.space, day=where.day)
    # Above all leaves: among them a hand's breadth changes the reading.
    level = round(max((plant.top_m for plant in report.here.plants), default=where.space.size.height_m / 4), 2)
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
        "workspace/survey_sheet.html",
        {
            "row": where.row,
            "space": where.space,
            "view": view,
            "points": points,
            "level": show(level, LENGTH, where.system),
            "day": where.day,
        },
    )
