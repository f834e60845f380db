"""The tab of the kit: everything that the plan implies, what one has of it, and what is still to be bought."""

from __future__ import annotations

import csv
import re
from collections.abc import Mapping
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_POST

from canopy.errors import EvaluationError
from canopy.evaluate import SpaceReport
from canopy.evaluate.shell.margins import hung_parts
from canopy.kit import Kit, KitLine, kit_of
from canopy.kit.commands import as_row
from canopy.kit.line import GROUPS
from canopy.library import Window
from canopy.margin import Amount
from canopy_web.household.calendar import reports_of
from canopy_web.logbook import actions
from canopy_web.logbook.models import Tick
from canopy_web.logbook.said import said_at
from canopy_web.stations.kit.stock import swap_rows
from canopy_web.workspace.reply import page, said
from canopy_web.workspace.where import Where, at_space

HOUSEHOLD = "household"
_ORDERS = (
    ("group", "by what it is for"),
    ("dear", "dearest first"),
    ("heavy", "heaviest first"),
    ("left", "to buy first"),
)


def _kit(where: Where) -> tuple[Kit, list[SpaceReport]]:
    whole = where.look.more.get("whose") == HOUSEHOLD
    reports = reports_of(where.plan, where.day) if whole else [where.followed]
    return kit_of(reports), reports


def list_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab."""
    try:
        kit, reports = _kit(where)
    except EvaluationError as error:
        return {"unknown": said(error)}
    ticks = {tick.key: tick for tick in Tick.objects.filter(plan=where.row, what="have")}
    have = {key for key, tick in ticks.items() if tick.on} | {line.key for line in kit.lines if line.to_get <= 0}
    money, order = where.plan.site.currency, where.look.more.get("order", "group")
    rows = [_row(line, ticks.get(line.key), money, where.system) for line in kit.lines]
    for row in rows:
        row["wrong"], row["typed"] = bad.get(f"price-{row['key']}", ("", row["typed"]))
    whole = where.look.more.get("whose") == HOUSEHOLD
    if order in _SORTED:
        rows.sort(key=_SORTED[order])
    else:
        _headed(rows, whole=whole)
    to_buy, all_of_it = _whole(kit, ticks, have, optional=False), _whole(kit, ticks, have, optional=True)
    hung = [(item.space.name, sum(kg for _, kg in hung_parts(item.here)), item.space.load_limit_kg) for item in reports]
    return {
        "kit_rows": rows,
        "order": order,
        "orders": _ORDERS,
        "whole": whole,
        "to_buy": _span(to_buy, money),
        "with_optional": _span(all_of_it, money) if all_of_it != to_buy else "",
        "a_month": f"{sum(item.running.cost_per_month for item in reports):.2f} {money}",
        "watts": f"{kit.power_w:.0f} W",
        "hung": [
            (name, _kg(kg, where.system), _kg(limit, where.system) if limit else "", bool(limit and kg > limit))
            for name, kg, limit in hung
        ],
        "not_needed": [(space, what, why.say(where.system)) for space, what, why in kit.not_needed],
        "foreign": where.plan.site.price_rate is None,
        "rate": f"{where.plan.site.price_rate or 0:g}",
        "unpriced": sum(1 for line in kit.unpriced if _price_of(ticks.get(line.key)) is None),
        "swaps": swap_rows(where) if where.plan.stock and not whole else [],
        "left": sum(1 for line in kit.lines if line.key not in have and not line.optional),
        "all": sum(1 for line in kit.lines if not line.optional),
    }


_SORTED: dict[str, Any] = {
    "dear": lambda row: -row["dear"],
    "heavy": lambda row: -row["heavy"],
    "left": lambda row: row["have"],
}


def _headed(rows: list[dict[str, Any]], *, whole: bool) -> None:
    """Give the first line of each group its heading."""
    before = ("", "")
    for row in rows:
        here = (row["where"], row["group"])
        row["head"] = "" if here == before else f"{row['where']}: {row['group']}" if whole else row["group"]
        before = here


def _kg(value: float, system: str) -> str:
    return Amount(value=value, unit="weight").text(system)


def _span(span: Window, money: str) -> str:
    low, high = f"{span.low:.0f}", f"{span.high:.0f}"
    return f"{low} {money}" if low == high else f"{low} to {high} {money}"


def _whole(kit: Kit, ticks: Mapping[str, Tick], have: set[str], *, optional: bool) -> Window:
    """What is still to be bought, at typed prices where there are some."""
    low = high = 0.0
    for line in kit.lines:
        if line.key in have or (line.optional and not optional):
            continue
        tick = ticks.get(line.key)
        typed = _price_of(tick)
        if typed is not None:
            low, high = low + typed, high + typed
        elif line.cost is not None:
            low, high = low + line.cost.low, high + line.cost.high
    return Window(low=low, high=high)


def _price_of(tick: Tick | None) -> float | None:
    """What somebody typed a line to cost."""
    return tick.price if tick is not None else None


def _row(line: KitLine, tick: Tick | None, money: str, system: str) -> dict[str, Any]:
    typed = _price_of(tick)
    cost = line.cost
    number = f"{line.number:g}" + (f" {line.unit}" if line.unit else "")
    return {
        "key": line.key,
        "group": GROUPS[line.group],
        "where": line.where,
        "name": line.name,
        "number": number,
        "size": line.size.say(system) if line.size else "",
        "for": line.what_for,
        "weight": _kg(line.weight_all_kg, system) if line.weight_kg else "",
        "power": f"{line.power_w:g} W" + (" each" if line.number > 1 else "") if line.power_w else "",
        "bears": _kg(line.bears_kg, system) if line.bears_kg else "",
        "price": "owned" if line.to_get <= 0 else _span(cost, money) if cost else "no price known",
        "owned": _owned(line),
        "typed": "" if typed is None else f"{typed:g}",
        "have": bool(tick and tick.on) or line.to_get <= 0,
        "ticked": bool(tick and tick.on),
        "optional": line.optional,
        "text": line.text,
        "parts": line.parts,
        "dear": typed if typed is not None else cost.high if cost else 0.0,
        "heavy": line.weight_all_kg,
    }


def _owned(line: KitLine) -> str:
    """How much of it the household owns already."""
    if line.owned <= 0:
        return ""
    unit = f" {line.unit}" if line.unit else ""
    return "you own this" if line.to_get <= 0 else f"you own {line.owned:g}{unit}, {line.to_get:g}{unit} to get"


def _line(where: Where, key: str) -> KitLine | None:
    kit, _ = _kit(where)
    return next((line for line in kit.lines if line.key == key), None)


@require_POST
@at_space
def have(request: HttpRequest, where: Where) -> HttpResponse:
    """Tick a line off, or take the tick back."""
    key, there = request.POST.get("key", ""), request.POST.get("have") == "yes"
    if _line(where, key) is None:
        return page(request, where, words="The plan no longer asks for this.")
    actions.tick(where.row, "have", key, request.user, at=said_at(request), on=there)
    return page(request, where)


@require_POST
@at_space
def price(request: HttpRequest, where: Where) -> HttpResponse:
    """Keep what a line costs altogether; empty for the library's span."""
    key = request.POST.get("key", "")
    typed, money = request.POST.get(f"price-{key}", "").strip(), where.plan.site.currency
    text, foreign = amount_of(typed, money)
    if _line(where, key) is None:
        return page(request, where, words="The plan no longer asks for this.")
    try:
        value = float(text) if text else None
    except ValueError:
        value = -1.0
    if foreign or (value is not None and not 0 <= value <= 1_000_000):
        words = f"This household counts in {money}: type it in {money}, such as 24.90."
        if not foreign:
            words = f"“{typed}” is no price: type a number of {money}, such as 24.90."
        return page(request, where, bad={f"price-{key}": (words, typed)})
    actions.tick(where.row, "have", key, request.user, at=said_at(request), price=value)
    return page(request, where)


_SIGNS = {"€": "EUR", "$": "USD", "US$": "USD", "£": "GBP", "¥": "JPY"}


def amount_of(typed: str, money: str) -> tuple[str, str]:
    """Part a typed price from its currency.

    Parameters
    ----------
    typed : such as "24,90", "24.90 €" or "CHF 30"
    money : the household's currency

    Returns
    -------
    str : the number's text, with a point
    str : the currency that was named, where it is another one
    """
    found = re.fullmatch(r"([^\d.,\s-]*)\s*([\d.,' -]*?)\s*([^\d.,\s-]*)", typed.strip())
    if found is None:
        return typed, ""
    named = found[1] or found[3]
    code = _SIGNS.get(named, named.upper())
    text = found[2].replace("'", "").replace(" ", "")
    # Before three digits a point or comma parts thousands, before one or two it is the decimal one.
    text = re.sub(r"(?<!^0)[.,](?=\d{3}(\D|$))", "", text)
    return text.replace(",", "."), named if named and code != _SIGNS.get(money, money.upper()) else ""


@require_GET
@at_space
def as_csv(request: HttpRequest, where: Where) -> HttpResponse:
    """Give the kit as a table."""
    kit, _ = _kit(where)
    ticks = {tick.key: tick for tick in Tick.objects.filter(plan=where.row, what="have")}
    response = HttpResponse(content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{slugify(where.space.name) or "kit"}-kit.csv"'
    rows = []
    for line in kit.lines:
        tick = ticks.get(line.key)
        typed = "" if tick is None or tick.price is None else f"{tick.price:.2f}"
        rows.append({**as_row(line, where.system), "have": "yes" if tick and tick.on else "", "price_typed": typed})
    if rows:
        writer = csv.DictWriter(response, fieldnames=list(rows[0]))
        writer.writeheader()
        writer.writerows(rows)
    return response
