"""Everything mended: looked for a slice a request, shown in order, done step by step or at once."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from canopy.designer.mending import Mender, MendStep
from canopy.errors import EvaluationError
from canopy.words import is_number
from canopy_web.workspace.proposals import place
from canopy_web.workspace.reply import change, page
from canopy_web.workspace.slices import Slice, Slices
from canopy_web.workspace.where import Where, at_space

_menders: Slices[Mender] = Slices()


def _mending(where: Where) -> Slice[Mender]:
    """How far it has come for this state of the plan."""
    key = (where.row.pk, where.row.head_id, where.space.id, where.day)
    return _menders.get(key, lambda: Mender(where.followed))


@at_space
def mend_all(request: HttpRequest, where: Where) -> HttpResponse:
    """Go on for a moment and show the steps found so far; on POST do one of them, or all."""
    try:
        found = _mending(where)
    except EvaluationError as error:
        return page(request, where, words=str(error))
    if request.method == "POST":
        return _do(request, where, found)
    if told := found.heed(request):
        return told
    with found.lock:
        mending, mender = found.work.found, found.work
        reader = where.reader(where.report)
        money = where.plan.site.currency
        shown = {
            "steps": [_row(step, number, reader, money) for number, step in enumerate(mending.steps)],
            "tries": mender.tries,
            "finished": mender.finished,
            "stopped": found.stopped,
            "remains": mending.remains if mender.finished else (),
            "mended": len(mending.mended),
            "outside": len(mending.before.bad),
            "low": sum(step.purchase.low for step in mending.steps if step.buys),
            "high": sum(step.purchase.high for step in mending.steps if step.buys),
            "money": money,
        }
    return render(request, "workspace/_mend_all.html", {**shown, **place(where, reader)})


def _row(step: MendStep, number: int, reader: Any, money: str) -> dict[str, Any]:
    costs = "costs nothing"
    if step.buys:
        costs = f"{step.purchase.low:.0f}–{step.purchase.high:.0f} {money} to buy"
    if abs(step.cost_month) >= 0.01:
        costs += f", {abs(step.cost_month):.2f} {money} {'more' if step.cost_month > 0 else 'less'} a month"
    return {
        "number": number,
        "label": step.label.say(reader),
        "costs": costs,
        "mends": step.mends,
        "worse": [item.after or item.before for item in step.worse],
        # The first stands on the plan as it is; others where they help by themselves.
        "alone": number == 0 or step.alone,
    }


def _do(request: HttpRequest, where: Where, found: Slice[Mender]) -> HttpResponse:
    wanted = request.POST.get("step", "")
    with found.lock:
        steps = found.work.found.steps
    if wanted == "all" and steps:
        acts = [act for step in steps for act in step.remedy.changes]
        return change(request, where, f"Mended everything in {where.space.name}", *acts)
    if is_number(wanted) and int(wanted) < len(steps):
        step = steps[int(wanted)]
        return change(request, where, step.label.say(where.reader(where.report)), *step.remedy.changes)
    return page(request, where, words="This has changed meanwhile: look for it once more.")
