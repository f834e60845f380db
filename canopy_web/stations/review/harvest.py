"""The tab of harvest and money: each planting for its ground, light, power and cost, against what is expected."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_POST

from canopy.evaluate import SpaceReport
from canopy.plan import Planting
from canopy.quantities import Reader
from canopy.review.harvest import Run, runs_of
from canopy_web.forms.fields import NumberField
from canopy_web.forms.part import PartForm
from canopy_web.logbook.entries import entries_of
from canopy_web.workspace.edits import edit_listed
from canopy_web.workspace.where import Where, at_space


class RunForm(PartForm):
    """How many were sown, what was spent on them, and what their harvest costs in a shop."""

    sown = NumberField(min_value=1, max_value=100_000, required=False, label="sown")
    spent = NumberField(min_value=0, max_value=1_000_000, required=False, label="spent on seeds and mix")
    shop_price = NumberField(min_value=0, max_value=100_000, required=False, label="a kilogram in a shop")


def harvest_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab."""
    reader, log = where.reader(report), entries_of(where.row, [where.space.id])
    runs = runs_of(report, log, where.day)
    return {
        "runs": [{**shown_run(run, reader), "form": _form_of(run.planting, bad)} for run in runs],
        "money": where.plan.site.currency,
    }


def _form_of(planting: Planting, bad: Mapping[str, Any]) -> RunForm:
    form: RunForm = bad.get(f"run/{planting.id}") or _form(planting.model_dump(mode="json"))
    return form


def _form(record: Mapping[str, Any], data: Any = None) -> RunForm:
    return RunForm(record, data, prefix=f"run-{record['id']}")


def _weight(kg: float, reader: Reader) -> str:
    """A harvest's weight: small ones in grams or ounces."""
    if reader.system == "us":
        ounces = kg / 0.028349523125
        return f"{ounces:.1f} oz" if ounces < 16 else f"{ounces / 16:.1f} lb"
    return f"{1000 * kg:.0f} g" if kg < 1 else f"{kg:.2f} kg"


def shown_run(run: Run, reader: Reader) -> dict[str, Any]:
    """Write what came of a run."""
    us, heap = reader.system == "us", 0.45359237 if reader.system == "us" else 1.0
    told: dict[str, Any] = {
        "run": run,
        "heap": "lb" if us else "kg",
        "kg": _weight(run.reaped.kg, reader) if run.reaped.kg else "",
        "per_m2": "",
        "g_mol": "" if run.g_mol is None else f"{run.g_mol:.1f} g",
        "kwh_kg": "" if run.kwh_kg is None else f"{run.kwh_kg * heap:.0f} kWh",
        "cost_kg": "" if run.cost_kg is None else f"{run.cost_kg * heap:.2f}",
        "kwh": f"{run.kwh:.0f} kWh",
        "cost": f"{run.cost:.2f}",
        "verdict": _against(run, reader),
    }
    if run.per_m2 is not None:
        told["per_m2"] = _weight(run.per_m2 * (0.09290304 if us else 1.0), reader) + (" a ft²" if us else " a m²")
    if run.saved is not None:
        told["saved"] = f"{abs(run.saved):.2f}"
        told["dearer"] = run.saved < 0
    if run.lost is not None:
        told["germinated"] = f"{run.living} of {run.planting.sown} stand"
    return told


def _against(run: Run, reader: Reader) -> str:
    """The harvest beside what could be expected, in words; nothing is judged before it is over."""
    if run.expected_kg is None:
        return ""
    low, high = run.expected_kg
    span = _weight(low, reader) if low == high else f"{_weight(low, reader)} to {_weight(high, reader)}"
    source = "you expect" if low == high else "so much light makes of its kind, roughly"
    if not run.reaped.kg:
        return f"{span} {source}"
    state = "less than" if run.reaped.kg < low else "more than" if run.reaped.kg > high else "within"
    return f"{state} {span}, which {source}" + ("" if run.over else "; not over yet")


@require_POST
@at_space
def edit_run(request: HttpRequest, where: Where, key: str) -> HttpResponse:
    """Say how many were sown, what was spent, what a shop asks."""
    return edit_listed(
        request,
        where,
        lambda record: _form(record, request.POST),
        collection="plantings",
        part_id=key,
        key=f"run/{key}",
        label=lambda record: f"Changed what {record['name']} cost",
    )
