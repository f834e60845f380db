"""The tab of what stirs the air inside."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_POST

from canopy.design.air.stirring import aimed
from canopy.equipment import StirSpec
from canopy.evaluate import SpaceReport
from canopy.evaluate.air.stir_margins import reach_of, stirred
from canopy.library import find, stirrers
from canopy.margin import Amount
from canopy.plan import Stirrer
from canopy.plan.changes import Add
from canopy_web.stations.air import own_forms as own_air_forms
from canopy_web.workspace.parts import rows_of
from canopy_web.workspace.reply import attempt
from canopy_web.workspace.where import Where, at_space


def stir_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab: the fans, and the air at each plant."""
    found = stirred(report.here)

    def speed(value: float) -> str:
        return Amount(value=value, unit="air speed").text(where.system)

    return {
        "rows": rows_of(where, "stirrers", bad),
        "mean": speed(found.mean_m_s),
        "mixing": f"{found.mixing_per_min:.1f}",
        "reached": [
            {
                "number": item.plant.number,
                "name": item.plant.crop.name,
                "speed": speed(item.speed_m_s),
                "want": Amount(
                    value=item.plant.want.air_speed_m_s.low, high=item.plant.want.air_speed_m_s.high, unit="air speed"
                ).text(where.system),
                "word": reach_of(item),
            }
            for item in sorted(found.plants, key=lambda plant: plant.speed_m_s)
        ],
        "add_form": bad.get("add-stir") or own_air_forms.AddStirForm({}, system=where.system, prefix="add-stir"),
        "own_form": bad.get("own-stir") or own_air_forms.OwnStirForm({}, system=where.system, prefix="own-stir"),
    }


@require_POST
@at_space
def add_stirrer(request: HttpRequest, where: Where) -> HttpResponse:
    """Hang a circulation fan of the library, aimed over the plants."""
    form = own_air_forms.AddStirForm({}, request.POST, system=where.system, prefix="add-stir")

    def act() -> Where:
        spec = find(stirrers(), form.cleaned_data["class_id"], "circulation fan").spec
        return _hang(where, spec)

    return attempt(request, where, form, "add-stir", act)


@require_POST
@at_space
def own_stirrer(request: HttpRequest, where: Where) -> HttpResponse:
    """Hang a circulation fan of the person's own data."""
    form = own_air_forms.OwnStirForm({}, request.POST, system=where.system, prefix="own-stir")
    return attempt(request, where, form, "own-stir", lambda: _hang(where, StirSpec.model_validate(form.spec())))


def _hang(where: Where, spec: StirSpec) -> Where:
    made: Stirrer = aimed(where.report.here, spec)
    hung = Add(collection="stirrers", parts=(made.model_dump(mode="json"),), prefix="stirrer")
    return where.do(f"Hung {spec.name}", hung)
