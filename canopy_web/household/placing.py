"""Which of a household's spaces serves which crop: a list of crops laid over them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from canopy.designer.crops_for import CropFinder, Together
from canopy.designer.places import beside_each_other, best_spaces
from canopy.errors import CanopyError, PlanError
from canopy.evaluate import SpaceReport
from canopy.evaluate.kept import report_of
from canopy.library import Crop, crops
from canopy.plan.document import Plan, Space
from canopy.quantities import reader_of
from canopy.season import day_to_show
from canopy.words import capital
from canopy_web.accounts.context import preference_of, today
from canopy_web.forms.choices import crop_choices
from canopy_web.forms.pairs import Pairs
from canopy_web.forms.part import PartForm
from canopy_web.household.views import own_plan
from canopy_web.library.querysets import own_crops
from canopy_web.planning import actions
from canopy_web.planning.models import GrowPlan
from canopy_web.planning.store import to_plan

_CROPS = Pairs(what="crop", count="number", most=6, label="Crop", more="Crop", missing="Name one crop at least.")


class PlacesForm(PartForm):
    """Up to six crops with how many of each."""

    def __init__(self, data: Any, known: Mapping[str, Crop]) -> None:
        super().__init__({}, data, prefix="lay")
        self.known = known
        _CROPS.add_to(self, crop_choices(known))

    @property
    def pairs(self) -> list[tuple[Any, Any]]:
        """Fields of a crop and its number, row by row."""
        return _CROPS.fields(self)

    @property
    def wanted(self) -> list[tuple[Crop, int]]:
        """Crops with how many of each; the same crop twice is one crop with both."""
        found: dict[str, int] = {}
        for key, count in _CROPS.said(self):
            found[key] = found.get(key, 0) + (count or 1)
        return [(self.known[key], count) for key, count in found.items()]


@dataclass(frozen=True)
class Laid:
    """What was laid into a space: in words, and as the form's fields."""

    space: Space
    fit: Together
    words: str
    fields: list[tuple[str, Any]]


@require_GET
def which_space(request: HttpRequest, plan_pk: int) -> HttpResponse:
    """Ask for crops, and with the same address show which space serves each."""
    return _page(request, own_plan(request, plan_pk))


@require_POST
def grow_there(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Let the crops that were laid into a space stand there in place of what does now."""
    row = own_plan(request, plan_pk)
    form = PlacesForm(request.POST, _known(request))
    if not form.is_valid() or to_plan(row).space(space_id) is None:
        raise Http404
    if request.POST.get("state") != f"{row.head_id}":
        return _page(request, row, "This has changed meanwhile: look at it once more.")
    try:
        (report,) = _reports(request, to_plan(row), form, space_id)
        fit = CropFinder(report).together(form.wanted)
    except CanopyError as error:
        return _page(request, row, str(error))
    if fit is None:
        return _page(request, row, "There is no room for so many there.")
    mine = own_crops(request.user)
    own = [crop for crop, _ in form.wanted if crop.id in mine]
    label = f"{_words(fit)} in place of what stood here"
    try:
        actions.change_plants(row, space_id, fit.changes, label, *own)
    except PlanError as error:
        return _page(request, row, f"{capital(error.problems[0].message)}.")
    return redirect(reverse("crops:show", args=[row.pk, space_id]))


def _page(request: HttpRequest, row: GrowPlan, words: str = "") -> HttpResponse:
    plan = to_plan(row)
    # An act that was refused keeps what it was sent with.
    sent = request.POST or request.GET
    data = sent if any(key.startswith("lay-") for key in sent) else None
    form = PlacesForm(data, _known(request))
    reader = reader_of(preference_of(request).units)
    shown: dict[str, Any] = {"row": row, "plan": plan, "form": form, "wrong": words, "reader": reader}
    if data is not None and form.is_valid():
        try:
            reports = _reports(request, plan, form)
            found = best_spaces(reports, form.wanted)
            shown["placed"] = [(item, plan.space(item.space_id or "")) for item in found]
            shown["laid"] = [_laid(form, plan, fit) for fit in beside_each_other(reports, found)]
        except CanopyError as error:
            shown["wrong"] = str(error)
    return render(request, "household/which_space.html", shown)


def _laid(form: PlacesForm, plan: Plan, fit: Together) -> Laid:
    space = plan.space(fit.space_id)
    assert space is not None
    rows: list[tuple[str, int | None]] = [(crop.id, count) for crop, count in fit.crops]
    fields = [(f"{form.prefix}-{name}", value) for name, value in _CROPS.write(rows)]
    return Laid(space, fit, _words(fit), fields)


def _words(fit: Together) -> str:
    return " and ".join(f"{count} × {crop.name}" for crop, count in fit.crops)


def _known(request: HttpRequest) -> dict[str, Crop]:
    return {**crops(), **own_crops(request.user)}


def _reports(request: HttpRequest, plan: Plan, form: PlacesForm, only: str = "") -> list[SpaceReport]:
    """Reports of all spaces or of one, in a plan that knows the crops asked for."""
    day = day_to_show(plan, today(request, plan))
    known = {crop.id for crop in plan.crops} | set(crops())
    more = [crop for crop, _ in form.wanted if crop.id not in known] if form.is_valid() else []
    plan = plan.model_copy(update={"crops": (*plan.crops, *more)})
    return [report_of(plan, space, day=day, follow=True) for space in plan.spaces if only in ("", space.id)]
