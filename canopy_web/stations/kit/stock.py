"""The tab of what the household owns, over all its spaces; and lamps of it tried in place of bought ones."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django import forms
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_POST

from canopy.design.change import Remedy
from canopy.design.light.from_stock import Swap, swaps_for
from canopy.design.preview import preview
from canopy.errors import EvaluationError
from canopy.evaluate import SpaceReport
from canopy.kit import kit_of
from canopy.kit.owning import ownable
from canopy.light.photometry import ppf
from canopy.plan.changes import Add, Change, Remove
from canopy.plan.owned import planned
from canopy.plan.stock import StockItem
from canopy_web.forms.choices import owned_choices
from canopy_web.forms.fields import NumberField
from canopy_web.forms.own_lamp import OwnLampForm
from canopy_web.forms.part import PartForm, offer
from canopy_web.planning import actions
from canopy_web.workspace.proposals import place
from canopy_web.workspace.reply import answer, attempt, change, page
from canopy_web.workspace.where import Where, at_space

_MOST = 10_000


class StockForm(PartForm):
    """How many of a thing there are."""

    number = NumberField(min_value=0.01, max_value=_MOST, label="how many")


class AddStockForm(PartForm):
    """A thing that one owns: of the library, or anything that this space asks for."""

    thing = forms.ChoiceField(label="what")
    number = NumberField(min_value=0.01, max_value=_MOST, initial=1, label="how many")

    def __init__(self, lines: list[tuple[str, str]], data: Any = None, **more: Any) -> None:
        super().__init__({"number": 1}, data, **more)
        asked = [("Of this space's kit", lines)] if lines else []
        others = [(name, [(f"other:{key}", words) for key, words in rows]) for name, rows in owned_choices()]
        offer(self, thing=[*asked, *others])


class OwnStockForm(OwnLampForm):
    """A lamp that one owns, by its data sheet."""

    number = NumberField(min_value=1, max_value=_MOST, initial=1, label="how many")


def _lines(where: Where) -> list[tuple[str, str]]:
    """What this space's kit asks for, each thing once; water and feed lie in no store for long."""
    try:
        kit = kit_of([where.followed])
    except EvaluationError:
        return []
    found: dict[str, str] = {}
    for line in kit.lines:
        if line.group != "water" and line.key.rpartition(".")[2] != "space":
            size = f", {line.size.say(where.system)}" if line.size else ""
            found.setdefault(line.like, f"{line.name}{size}")
    return [(f"line:{like}", words) for like, words in found.items()]


def _add_form(where: Where, data: Any = None) -> AddStockForm:
    return AddStockForm(_lines(where), data, system=where.system, prefix="stock")


def _own_form(where: Where, data: Any = None) -> OwnStockForm:
    return OwnStockForm({"number": 1}, data, system=where.system, prefix="ownstock")


def stock_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab."""
    rows = []
    for item in where.plan.stock:
        form = bad.get(f"stock-{item.id}") or _row_form(where, item)
        rows.append({"item": item, "form": form, "gives": _gives(item), **_used(where, item)})
    return {
        "stock_rows": rows,
        "stock_form": bad.get("stock") or _add_form(where),
        "own_stock_form": bad.get("own-stock") or _own_form(where),
    }


def _row_form(where: Where, item: StockItem, data: Any = None) -> StockForm:
    return StockForm(item.model_dump(mode="json"), data, system=where.system, prefix=f"stock-{item.id}")


def _gives(item: StockItem) -> str:
    return f"{item.lamp.power_w:g} W, {ppf(item.lamp):.0f} µmol/s" if item.lamp else ""


def _used(where: Where, item: StockItem) -> dict[str, Any]:
    """In which spaces the plan has it; only of what the plan counts."""
    if item.kind not in ("lamp", "fan", "case-fan", "filter", "stirrer", "device"):
        return {"stands": "", "free": ""}
    found = [(space.name, sum(1 for like in planned(space) if like == item.like)) for space in where.plan.spaces]
    stands = [(name, count) for name, count in found if count]
    free = item.number - sum(count for _, count in stands)
    return {
        "stands": ", ".join(f"{count} in {name}" for name, count in stands) or "in no space",
        "free": f"{free:g} free" if free > 0 else f"{-free:g} more than there are" if free < 0 else "",
    }


@require_POST
@at_space
def add_stock(request: HttpRequest, where: Where) -> HttpResponse:
    """Write down something that one owns."""
    form = _add_form(where, request.POST)

    def act() -> Where:
        key, _, what = form.cleaned_data["thing"].partition(":")
        number = form.cleaned_data["number"]
        if key == "other":
            part = ownable()[what].item(number).model_dump(mode="json", exclude={"id"})
        else:
            part = _of_line(where, what)
        return _stored(where, {**part, "number": number})

    return attempt(request, where, form, "stock", act)


def _of_line(where: Where, like: str) -> dict[str, Any]:
    line = next(line for line in kit_of([where.followed]).lines if line.like == like)
    part: dict[str, Any] = {
        "kind": like.partition("|")[0],
        "name": line.name,
        "size": line.size.say() if line.size else "",
    }
    if part["kind"] == "lamp":
        lamp = next(lamp for lamp in where.space.fixtures if lamp.spec.name == line.name)
        part["lamp"] = lamp.spec.model_dump(mode="json")
    return part


def _stored(where: Where, part: dict[str, Any]) -> Where:
    """Add to what is there of the same thing, or begin with it."""
    item = StockItem.model_validate({"id": "new", **part})
    same = next((each for each in where.plan.stock if each.like == item.like and each.lamp == item.lamp), None)
    if same is not None:
        values = {"number": same.number + item.number}
        acts: list[Any] = [Change(collection="stock", part_id=same.id, values=values)]
    else:
        acts = [Add(collection="stock", parts=({"id": "new", **part},), prefix="stock")]
    return where.again(actions.change_household(where.row, acts, f"Wrote down {item.name}"))


@require_POST
@at_space
def own_stock(request: HttpRequest, where: Where) -> HttpResponse:
    """Write down a lamp that one owns, by its data sheet."""
    form = _own_form(where, request.POST)

    def act() -> Where:
        spec = form.spec()
        return _stored(
            where, {"kind": "lamp", "name": spec["name"], "number": form.cleaned_data["number"], "lamp": spec}
        )

    return attempt(request, where, form, "own-stock", act)


def _item(where: Where, item_id: str) -> StockItem:
    found = next((item for item in where.plan.stock if item.id == item_id), None)
    if found is None:
        raise Http404
    return found


@require_POST
@at_space
def edit_stock(request: HttpRequest, where: Where, item_id: str) -> HttpResponse:
    """Say anew how many there are."""
    item = _item(where, item_id)
    form = _row_form(where, item, request.POST)

    def act() -> Where:
        acts = [Change(collection="stock", part_id=item.id, values=form.changes(), was=form.seen())]
        return where.again(actions.change_household(where.row, acts, f"Counted {item.name}"))

    return attempt(request, where, form, f"stock-{item.id}", act)


@require_POST
@at_space
def remove_stock(request: HttpRequest, where: Where, item_id: str) -> HttpResponse:
    """Strike something that one no longer owns."""
    item = _item(where, item_id)
    acts = [Remove(collection="stock", part_ids=(item.id,))]

    def act() -> Where:
        return where.again(actions.change_household(where.row, acts, f"No longer own {item.name}"))

    return answer(request, where, act)


def swap_rows(where: Where) -> list[dict[str, str]]:
    """What could be hung from stock in place of a bought lamp, to be looked at."""
    return [
        {
            "item": swap.item.id,
            "lamp": swap.lamps[0].id,
            "label": swap.label.say(where.system),
            "light": f"{100 * swap.light_share:.0f} % of the light",
            "power": f"draws {abs(swap.adds_w):.0f} W {'more' if swap.adds_w > 0 else 'less'}",
        }
        for swap in swaps_for(where.plan, where.space)
    ]


@at_space
def swap(request: HttpRequest, where: Where, item_id: str, lamp_id: str) -> HttpResponse:
    """Show what lamps from stock would move in place of those of the plan; on POST hang them."""
    found = next((s for s in swaps_for(where.plan, where.space) if _is(s, item_id, lamp_id)), None)
    if found is None:
        return page(request, where, words="These lamps are no longer free, or what they replace is no longer there.")
    if request.method == "POST":
        return change(request, where, found.label.say(where.system), *found.changes)
    moved = preview(where.report, Remedy(label=found.label, changes=found.changes))
    shown = {
        "swap": found,
        "moved": list(moved),
        "worse": [item for item in moved if item.worse],
        "label": found.label.say(where.system),
        "lamp_id": lamp_id,
    }
    return render(request, "kit/_swap.html", {**place(where), **shown})


def _is(swap: Swap, item_id: str, lamp_id: str) -> bool:
    return swap.item.id == item_id and lamp_id in {lamp.id for lamp in swap.lamps}
