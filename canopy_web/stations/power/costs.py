"""The tab of cost: by device, space, month and run; and two options side by side."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_POST

from canopy.errors import EvaluationError, PlanError
from canopy.evaluate import SpaceReport
from canopy.evaluate.kept import report_of
from canopy.evaluate.power.costs import by_load, by_month, by_run, by_space
from canopy.evaluate.power.options import Option, side_by_side
from canopy.library import Window
from canopy.plan.edit import with_space
from canopy.quantities import number
from canopy_web.planning import actions
from canopy_web.planning.models import GrowPlan, PlanVariant
from canopy_web.planning.store import document_to_plan, to_plan
from canopy_web.stations.power.forms import VariantForm, YieldForm
from canopy_web.workspace.edits import edit_listed
from canopy_web.workspace.reply import answer, page
from canopy_web.workspace.where import Where, at_space


def costs_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab."""
    plan, money = where.plan, where.plan.site.currency
    reports = [report if each.id == where.space.id else _report(where, each.id) for each in plan.spaces]
    kinds = list(_others(where))
    chosen = where.look.more.get("against", "")
    return {
        "money": money,
        "by_load": by_load(plan, report.running.loads),
        "by_space": by_space(plan, [item for item in reports if item is not None]),
        "by_month": by_month(plan, report.running.loads, where.day),
        "by_run": [
            (run, bad.get(f"yield/{run.planting.id}") or _yield_form(run.planting.model_dump(mode="json")))
            for run in by_run(report)
        ],
        "tariff_rates": plan.tariff.rates,
        "followed": report.climate is not None,
        "variants": PlanVariant.objects.filter(plan=where.row, space_id=where.space.id).defer("document"),
        "variant_form": bad.get("variant") or VariantForm({}, prefix="variant"),
        "against": [(key, name) for key, name, _ in kinds],
        "chosen": chosen,
        "one_price": where.look.more.get("one_price", ""),
        "two_price": where.look.more.get("two_price", ""),
        "beside": _beside(where, report, next((item for item in kinds if item[0] == chosen), None)),
    }


def _report(where: Where, space_id: str) -> SpaceReport | None:
    space = where.plan.space(space_id)
    try:
        return report_of(where.plan, space, day=where.day) if space else None
    except EvaluationError:
        return None


def _others(where: Where) -> Iterator[tuple[str, str, Any]]:
    """What the space can be held against: variants that were kept, other spaces, spaces of other plans."""
    for variant in PlanVariant.objects.filter(plan=where.row, space_id=where.space.id):
        yield f"variant-{variant.pk}", f"Variant: {variant.name}", variant
    for space in where.plan.spaces:
        if space.id != where.space.id:
            yield f"space-{space.id}", space.name, (where.plan, space.id)
    for row in GrowPlan.objects.filter(owner_id=where.row.owner_id).exclude(pk=where.row.pk).select_related("head"):
        plan = to_plan(row)
        for space in plan.spaces:
            yield f"plan-{row.pk}-{space.id}", f"{plan.name}: {space.name}", (plan, space.id)


def _price(text: str) -> float | None:
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        return None
    return value if 0 <= value <= 1_000_000 else None


def _beside(where: Where, report: SpaceReport, other: tuple[str, str, Any] | None) -> dict[str, Any] | None:
    if other is None:
        return None
    _, name, what = other
    typed = _price(where.look.more.get("two_price", ""))
    if isinstance(what, PlanVariant):
        # One household for both: what is compared is the kit.
        space_id = what.space_id
        try:
            plan = with_space(where.plan, document_to_plan(what.document), space_id)
        except PlanError as error:
            return {"wrong": str(error)}
        typed = what.price if typed is None else typed
    else:
        plan, space_id = what
    space = plan.space(space_id)
    if space is None:
        return None
    try:
        theirs = report_of(plan, space, day=where.day, follow=True)
        mine = where.followed
    except EvaluationError as error:
        return {"wrong": str(error)}
    prices = (_price(where.look.more.get("one_price", "")), typed)
    found = side_by_side(mine, theirs, ("As it is now", name), prices)
    money = where.plan.site.currency
    back = found.payback_months
    return {
        "rows": [_row(found.one, money), _row(found.two, money)],
        "payback": _span(back, "") if back else "",
        "dearer": found.dearer.name,
        "saves": f"{abs(found.one.cost_month - found.two.cost_month):.2f} {money}",
        "cheaper": found.one.name if found.one.cost_month <= found.two.cost_month else found.two.name,
    }


def _span(span: Window, unit: str) -> str:
    low, high = f"{span.low:.0f}", f"{span.high:.0f}"
    return f"{low if low == high else f'{low} to {high}'} {unit}".strip()


def _row(option: Option, money: str) -> dict[str, Any]:
    return {
        "name": option.name,
        "purchase": _span(option.purchase, money) if option.purchase.high else "nothing",
        "unpriced": option.unpriced,
        "buys": [f"{count} × {name}" if count > 1 else name for name, count, _ in option.buys],
        "cost": f"{option.cost_month:.2f} {money}",
        "kwh": f"{option.kwh_month:.0f} kWh",
        "power": f"{option.power_w:.0f} W",
        "ppfd": f"{number(option.ppfd, 0)} µmol/m²/s",
        "dli": f"{option.dli:.1f} mol/m²/d",
        "evenness": f"{option.evenness:.2f}",
        "noise": f"{option.noise_dba:.0f} dB(A)" if option.noise_dba is not None else "—",
        "worst": option.worst,
    }


def _yield_form(record: Mapping[str, Any], data: Any = None) -> YieldForm:
    return YieldForm(record, data, prefix=f"yield-{record['id']}")


@require_POST
@at_space
def edit_yield(request: HttpRequest, where: Where, key: str) -> HttpResponse:
    """Say what is expected of a planting."""
    return edit_listed(
        request,
        where,
        lambda record: _yield_form(record, request.POST),
        collection="plantings",
        part_id=key,
        key=f"yield/{key}",
        label=lambda record: f"Expected harvest of {record['name']}",
    )


@require_POST
@at_space
def keep(request: HttpRequest, where: Where) -> HttpResponse:
    """Keep the space as it stands under a name."""
    form = VariantForm({}, request.POST, prefix="variant")
    if not form.is_valid():
        return page(request, where, bad={"variant": form})
    got = form.cleaned_data
    try:
        actions.keep_variant(where.row, where.space.id, got["name"], got.get("price"))
    except PlanError as error:
        form.take(error)
        return page(request, where, bad={"variant": form})
    return page(request, where, words=f"Kept: {got['name']}. Change the space, then hold both side by side.")


@require_POST
@at_space
def drop(request: HttpRequest, where: Where, pk: int) -> HttpResponse:
    """Take a variant out, or put it in the place of the space as it is."""
    variant = PlanVariant.objects.filter(plan=where.row, pk=pk, space_id=where.space.id).first()
    if variant is None:
        return page(request, where, words="This variant is gone.")
    if not request.POST.get("use"):
        actions.drop_variant(where.row, pk)
        return page(request, where, words=f"Dropped: {variant.name}.")
    return answer(request, where, lambda: where.again(actions.use_variant(where.row, pk)))
