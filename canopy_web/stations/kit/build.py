"""The tab of the build: a checklist made from the plan, ticked on a phone, marked where the plan has changed since."""

from __future__ import annotations

from collections.abc import Mapping
from itertools import groupby
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.views.decorators.http import require_POST

from canopy.errors import EvaluationError
from canopy.evaluate import SpaceReport
from canopy.kit.build import BuildStep, build_of
from canopy.kit.dry import emptied
from canopy_web.accounts.context import today
from canopy_web.logbook import actions
from canopy_web.logbook.models import Tick
from canopy_web.logbook.said import said_at
from canopy_web.photos import actions as photo_actions
from canopy_web.photos.models import SpacePhoto
from canopy_web.photos.pictures import PictureError
from canopy_web.photos.querysets import step_photos
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
    photos = step_photos(where.row, where.space.id)
    rows = [
        {**_row(where, number, step, ticks.get(begins + step.key)), "photos": photos.get(step.key, [])}
        for number, step in enumerate(steps, 1)
    ]
    for row in rows:
        row["wrong"] = bad.get(f"photo-{row['key']}", "")
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
        "stamp": step.stamp,
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
    note = request.POST.get(f"note-{key}")
    if note is not None:
        values: dict[str, Any] = {"note": note.strip()[:300]}
    else:
        # What waited on a phone is stamped with what of the plan its page was made from.
        stamp = request.POST.get("stamp", "")[:12] or step.stamp
        values = {"on": request.POST.get("done") == "yes", "stamp": stamp}
    actions.tick(where.row, "done", whole, request.user, at=said_at(request), **values)
    return page(request, where)


@require_POST
@at_space
def photo(request: HttpRequest, where: Where) -> HttpResponse:
    """Keep a photograph of a step; says at the step why it was not taken."""
    key, file = request.POST.get("key", ""), request.FILES.get("photo")
    if all(step.key != key for step in _steps(where)):
        return page(request, where, words="The plan no longer asks for this step.")
    if file is None:
        return page(request, where, bad={f"photo-{key}": "Choose a picture first."})
    try:
        photo_actions.add_photo(where.row, where.space.id, file, today=today(request, where.plan), step=key)
    except PictureError as error:
        return page(request, where, bad={f"photo-{key}": str(error)})
    return page(request, where)


@require_POST
@at_space
def drop_photo(request: HttpRequest, where: Where, photo_pk: int) -> HttpResponse:
    """Remove a photograph of a step for good."""
    found = get_object_or_404(SpacePhoto, plan=where.row, space_id=where.space.id, pk=photo_pk)
    photo_actions.remove_photo(found)
    return page(request, where)
