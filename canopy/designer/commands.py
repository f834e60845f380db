"""The command that answers a request."""

from __future__ import annotations

import argparse
import datetime as dt
import json
import time
from pathlib import Path
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from canopy.designer.answers import Alternative
    from canopy.designer.design import Designer
    from canopy.designer.request import Request
    from canopy.plan.document import Plan


def design_command(args: argparse.Namespace) -> None:
    """Print whole kits for a request, and write their plans where a folder is given.

    Parameters
    ----------
    args : with ``request``, ``tries``, ``seconds``, ``format``, ``plans`` and ``units``

    Raises
    ------
    CanopyError : the request cannot be read, or no plan could answer it
    """
    from canopy.designer.design import Designer
    from canopy.designer.request import household_for, read_request

    request = read_request(args.request)
    household = household_for(request, dt.date.today())
    found: list[dict[str, Any]] = []
    for number in range(len(request.spaces)):
        # What is refused is refused before anything is searched.
        Designer(request, household, number)
    for number in range(len(request.spaces)):
        designer = _answered(request, household, number, args)
        row = designer.answers()
        found.append(_as_data(designer, row, args.units))
        for alternative in row:
            if args.plans:
                _write(args.plans, f"{number + 1}-{_slug(alternative)}", alternative.outcome.report.plan)
        # What comes next stands beside what was chosen first: the best over two years.
        chosen = next((item for item in row if "thriftiest" in item.kinds), None)
        household = chosen.outcome.report.plan if chosen else household
    if args.format == "json":
        print(json.dumps({"assumed": request.assumed, "spaces": found}, indent=1, ensure_ascii=False))
        return
    for item in found:
        _say(item)
    if request.assumed:
        print(f"Assumed: {'; '.join(request.assumed)}.")


def _answered(request: Request, household: Plan, number: int, args: argparse.Namespace) -> Designer:
    from canopy.designer.design import Designer

    designer = Designer(request, household, number, args.tries)
    begin = time.monotonic()
    while designer.go_on():
        if args.seconds and time.monotonic() - begin > args.seconds:
            break
    return designer


def _slug(item: Alternative) -> str:
    return "-".join(item.kinds) or f"between-{item.key}"


def _write(folder: Path, name: str, plan: Plan) -> None:
    from canopy.plan.files import dumps

    folder.mkdir(parents=True, exist_ok=True)
    (folder / f"{name}.json").write_text(dumps(plan), encoding="utf-8")


def _as_data(designer: Designer, row: tuple[Alternative, ...], units: str) -> dict[str, Any]:
    search = designer.search
    return {
        "space": search.maker.answers.name if search else "",
        "tried": len(search.tried) if search else 0,
        "working": len(search.working) if search else 0,
        "notes": [note.say(units) for note in designer.notes],
        "dearer": [words.say(units) for words in designer.dearer],
        "unmet": [
            {"title": item.title, "need": item.need.say(units), "there": item.there.say(units)}
            for item in designer.unmet
        ],
        "would": [item.label.say(units) for item in designer.would],
        "alternatives": [_alternative(item, units) for item in row],
    }


def _alternative(item: Alternative, units: str) -> dict[str, Any]:
    found = item.outcome
    return {
        "name": item.name,
        "kinds": item.kinds,
        "works": found.weight < 1e-9,
        "purchase": [round(found.purchase.low, 2), round(found.purchase.high, 2)],
        "currency": found.report.plan.site.currency,
        "cost_month": round(found.cost_month, 2),
        "kwh_month": round(found.kwh_month, 1),
        "noise_dba": None if found.noise_dba is None else round(found.noise_dba, 1),
        "evenness": round(found.evenness, 2),
        "tending_h_month": round(found.tending_h_month, 1),
        "buys": [
            {"what": line.name, "number": line.to_get, "unit": line.unit}
            for line in found.kit.lines
            if line.to_get > 0 and not line.optional
        ],
        "tight": [{"title": margin.title, "there": margin.there.say(units)} for margin in found.tight],
        "unsaid": [margin.title for margin in found.unknown],
        "why": [words.say(units) for words in item.why],
    }


def _say(item: dict[str, Any]) -> None:
    print(f"{item['space']}: {item['tried']} whole kits tried, {item['working']} work")
    for note in item["notes"]:
        print(f"  {note}")
    for words in item["dearer"]:
        print(f"  {words}")
    for margin in item["unmet"]:
        print(f"  outside: {margin['title']}: {margin['there']} (needs {margin['need']})")
    for words in item["would"]:
        print(f"  would do: {words}")
    for each in item["alternatives"]:
        money = each["currency"]
        low, high = each["purchase"]
        noise = "nothing heard" if each["noise_dba"] is None else f"{each['noise_dba']:.0f} dB(A)"
        print(f"\n  {each['name']}")
        print(f"    {low:.0f} to {high:.0f} {money} to buy, {each['cost_month']:.2f} {money} a month, {noise},")
        print(f"    evenness {each['evenness']:.2f}, {each['tending_h_month']:.1f} h of work a month")
        for words in each["why"]:
            print(f"    {words}")
        if each["tight"]:
            print(f"    tight: {', '.join(margin['title'] for margin in each['tight'])}")
        print(f"    {', '.join(_bought(line) for line in each['buys'])}")
    print()


def _bought(line: dict[str, Any]) -> str:
    number, unit = line["number"], line["unit"]
    if unit:
        return f"{number:g} {unit} {line['what']}"
    return line["what"] if number == 1 else f"{number:g} × {line['what']}"
