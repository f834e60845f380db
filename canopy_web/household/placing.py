"""Which of a household's spaces serves which crop: a list of crops laid over them."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from canopy.designer.places import Placed, best_spaces
from canopy.errors import CanopyError
from canopy.evaluate.kept import report_of
from canopy.library import Crop, crops
from canopy.plan.document import Plan
from canopy.season import day_to_show
from canopy_web.accounts.context import today
from canopy_web.forms.choices import crop_choices
from canopy_web.forms.pairs import Pairs
from canopy_web.forms.part import PartForm
from canopy_web.household.views import own_plan
from canopy_web.library.querysets import own_crops
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


@require_GET
def which_space(request: HttpRequest, plan_pk: int) -> HttpResponse:
    """Ask for crops, and with the same address show which space serves each."""
    row = own_plan(request, plan_pk)
    plan = to_plan(row)
    data = request.GET if any(key.startswith("lay-") for key in request.GET) else None
    form = PlacesForm(data, {**crops(), **own_crops(request.user)})
    shown: dict[str, Any] = {"row": row, "plan": plan, "form": form}
    if data is not None and form.is_valid():
        try:
            found = _laid(request, plan, form.wanted)
            shown["placed"] = [(item, plan.space(item.space_id or "")) for item in found]
        except CanopyError as error:
            shown["wrong"] = str(error)
    return render(request, "household/which_space.html", shown)


def _laid(request: HttpRequest, plan: Plan, wanted: list[tuple[Crop, int]]) -> tuple[Placed, ...]:
    day = day_to_show(plan, today(request, plan))
    known = {crop.id for crop in plan.crops}
    plan = plan.model_copy(
        update={"crops": (*plan.crops, *(c for c, _ in wanted if c.id not in known and c.id not in crops()))}
    )
    return best_spaces([report_of(plan, space, day=day, follow=True) for space in plan.spaces], wanted)
