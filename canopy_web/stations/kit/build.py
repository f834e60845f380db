"""The tab of the build: a checklist made from the plan, ticked on a phone, marked where the plan has changed since."""

from __future__ import annotations

from collections.abc import Mapping
from itertools import groupby
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_POST

from canopy.errors import EvaluationError
from canopy.evaluate import SpaceReport
from canopy.kit.build import BuildStep, build_of
from canopy.kit.dry import emptied
from canopy_web.logbook import actions
from canopy_web.logbook.models import Tick
from canopy_web.workspace.reply import page, said
from canopy_web.workspace.where import Where, at_space


def _steps(where: Where) -> tuple[BuildStep, ...]:
    return build_of(where.followed, emptied(where.plan, where.space, where.day))


def build_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab."""
    try:
        steps = _steps(where)
    except EvaluationError as error:
        return {"unknown": said(error)}
    begins = f"{where.space.id}."
    ticks = {t.key: t for t in Tick.objects.filter(plan=where.row, what="done", key__startswith=begins)}
    rows = [_row(where, number, step, ticks.get(begins + step.key)) for number, step in enumerate(steps, 1)]
    return {
        "phases": [(phase, list(items)) for phase, items in groupby(rows, key=lambda row: row["phase"])],
        "done": sum(1 for row in rows if row["done"]),
        "all": len(rows),
        "touched": sum(1 for row in rows if row["touched"]),
    }


def _row(where: Where, number: int, step: BuildStep, tick: Tick | None) -> dict[str, Any]:
    done = bool(tick and tick.on)
    return {
        "number": number,
        "key": step.key,
        "phase": step.phase,
        "title": step.title,
        "does": step.does.say(where.system),
        "right": step.right.say(where.system),
        "why": step.why,
        "cautions": step.cautions,
        "parts": step.parts,
        "done": done,
        "touched": done and tick is not None and tick.stamp != step.stamp,
        "note": tick.note if tick else "",
        "when": tick.written if done and tick else None,
    }


@require_POST
@at_space
def done(request: HttpRequest, where: Where) -> HttpResponse:
    """Tick a step, take its tick back, or write a note to it."""
    key = request.POST.get("key", "")
    step = next((step for step in _steps(where) if step.key == key), None)
    if step is None:
        return page(request, where, words="The plan no longer asks for this step.")
    whole = f"{where.space.id}.{key}"
    before = Tick.objects.filter(plan=where.row, what="done", key=whole).first()
    note = request.POST.get(f"note-{key}")
    if note is not None:
        values: dict[str, Any] = {"note": note.strip()[:300], "on": bool(before and before.on)}
    else:
        values = {"on": request.POST.get("done") == "yes", "stamp": step.stamp}
    actions.tick(where.row, "done", whole, request.user, **values)
    return page(request, where)
