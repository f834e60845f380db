"""Variants of a space side by side: kept by name, held against what stands, sent as an address, printed."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from django import forms
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from canopy.designer.beside import MOST, Beside, beside
from canopy.designer.outcome import Outcome, of_report
from canopy.errors import CanopyError, PlanError
from canopy.evaluate.kept import report_of
from canopy.plan.document import Plan
from canopy.plan.edit import with_space
from canopy.quantities import Reader, reader_of
from canopy.season import day_to_show
from canopy.words import capital
from canopy_web.accounts.context import preference_of, today
from canopy_web.household.views import own_plan
from canopy_web.planning import actions
from canopy_web.planning.models import GrowPlan, PlanVariant
from canopy_web.planning.store import document_to_plan, to_plan

NOW = "As it is now"


class KeepForm(forms.Form):
    """A name for the space as it stands."""

    name = forms.CharField(max_length=120, label="Keep it as")


@require_GET
def variants(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Show what stands and the variants that were kept, as far as they differ."""
    return _page(request, own_plan(request, plan_pk), space_id, KeepForm())


def _page(request: HttpRequest, row: GrowPlan, space_id: str, form: KeepForm, words: str = "") -> HttpResponse:
    plan = to_plan(row)
    space = plan.space(space_id)
    if space is None:
        raise Http404
    kept = list(PlanVariant.objects.filter(plan=row, space_id=space_id)[:MOST])
    reader = reader_of(preference_of(request).units)
    shown: dict[str, Any] = {"row": row, "space": space, "form": form, "words": words, "kept": kept, "most": MOST}
    day = day_to_show(plan, today(request, plan))
    try:
        rows, laid, broken = [(NOW, _outcome(plan, space_id, day))], [], []
    except CanopyError as error:
        return render(request, "household/variants.html", shown | {"wrong": str(error)})
    for item in kept:
        try:
            theirs = with_space(plan, document_to_plan(item.document), space_id)
            rows.append((item.name, _outcome(theirs, space_id, day)))
            laid.append(item)
        except CanopyError as error:
            broken.append((item, str(error)))
    shown |= _table(beside(rows), laid, reader) | {"broken": broken, "day": day}
    return render(request, "household/variants.html", shown)


def _outcome(plan: Plan, space_id: str, day: Any) -> Outcome:
    space = plan.space(space_id)
    if space is None:
        raise Http404
    return of_report(report_of(plan, space, day=day, follow=True))


def _table(found: Beside, kept: list[PlanVariant], reader: Reader) -> dict[str, Any]:
    first = found.outcomes[0].report
    money = first.plan.site.currency
    rows = [
        (
            "To buy, all of it",
            [f"{o.purchase.low:.0f}–{o.purchase.high:.0f} {money}" for o in found.outcomes],
        ),
        ("A month", [f"{o.cost_month:.2f} {money}, {o.kwh_month:.0f} kWh" for o in found.outcomes]),
        (
            "Noise",
            ["nothing heard" if o.noise_dba is None else f"{o.noise_dba:.0f} dB(A)" for o in found.outcomes],
        ),
        ("Evenness", [f"{o.evenness:.2f}" for o in found.outcomes]),
        ("To tend", [f"{o.tending_h_month:.1f} h a month" for o in found.outcomes]),
    ]
    stands = {margin.id: margin.verdict for margin in first.margins}
    back = ["" if span is None else f"{span.low:.0f} to {span.high:.0f} months" for span in found.paybacks]
    return {
        "names": list(zip(found.names, [None, *kept], strict=True)),
        "sums": [(title, _named(found, cells)) for title, cells in rows if len(set(cells)) > 1],
        "paybacks": _named(found, back) if any(back) else [],
        "things": [{"name": row.name, "unit": row.unit, "cells": _named(found, row.numbers)} for row in found.things],
        # A cell is turned where its verdict is another than that of what stands.
        "margins": [
            {
                "title": row.title,
                "cells": [
                    (name, cell, cell is not None and stands.get(cell.id, cell.verdict) != cell.verdict)
                    for name, cell in _named(found, row.cells)
                ],
            }
            for row in found.margins
        ],
        "reader": reader,
        "same": len(kept) > 0 and not found.things and not found.margins,
    }


def _named(found: Beside, cells: Sequence[Any]) -> list[tuple[str, Any]]:
    return list(zip(found.names, cells, strict=True))


@require_POST
def keep(request: HttpRequest, plan_pk: int, space_id: str) -> HttpResponse:
    """Keep the space as it stands under a name."""
    row, form = own_plan(request, plan_pk), KeepForm(request.POST)
    if to_plan(row).space(space_id) is None:
        raise Http404
    if form.is_valid():
        try:
            actions.keep_variant(row, space_id, form.cleaned_data["name"], None)
            return redirect(reverse("household:variants", args=[row.pk, space_id]))
        except PlanError as error:
            return _page(request, row, space_id, form, f"{capital(error.problems[0].message)}.")
    return _page(request, row, space_id, form)


@require_POST
def use(request: HttpRequest, plan_pk: int, space_id: str, pk: int) -> HttpResponse:
    """Put a variant in the place of the space, or drop it."""
    row = own_plan(request, plan_pk)
    get_object_or_404(PlanVariant, plan=row, pk=pk, space_id=space_id)
    if request.POST.get("drop"):
        actions.drop_variant(row, pk)
        return redirect(reverse("household:variants", args=[row.pk, space_id]))
    try:
        actions.use_variant(row, pk)
    except PlanError as error:
        return _page(request, row, space_id, KeepForm(), f"{capital(error.problems[0].message)}.")
    return redirect(reverse("space:show", args=[row.pk, space_id]))
