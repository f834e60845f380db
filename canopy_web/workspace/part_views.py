"""Acts on a part of a space, the same for every kind: change, move, add, take out."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_POST

from canopy.errors import PlanError
from canopy.light.scene import PREVIEW
from canopy.plan.changes import PREFIXES, Act, Add, Change, Remove
from canopy.plan.edit import apply
from canopy_web.workspace.context import context
from canopy_web.workspace.reply import attempt_row, change, said
from canopy_web.workspace.station import PartKind
from canopy_web.workspace.where import Where, at_space


def _kind(where: Where, name: str) -> PartKind:
    kind = where.house.part_kind(name)
    if kind is None:
        raise Http404
    return kind


def _part(where: Where, kind: PartKind, part_id: str, *, drawn: bool = False) -> Any:
    """A part as it is, or as the page showed it from which a form comes."""
    spaces = (where.drawn_space, where.space) if drawn else (where.space,)
    for space in spaces:
        for part in getattr(space, kind.collection):
            if part.id == part_id:
                return part
    raise Http404


def _title(where: Where, kind: PartKind, part_id: str) -> str:
    for count, part in enumerate(getattr(where.space, kind.collection), 1):
        if part.id == part_id:
            return f"{kind.noun} {count}"
    return kind.noun


@require_POST
@at_space
def edit_part(request: HttpRequest, where: Where, kind: str, part_id: str) -> HttpResponse:
    """Change one part from its row."""
    known = _kind(where, kind)
    if known.form is None:
        raise Http404
    part = _part(where, known, part_id, drawn=True)
    form = known.form(where, part, request.POST)

    def act() -> Where:
        edited = Change(collection=known.collection, part_id=part_id, values=form.changes(), was=form.seen())
        return where.do(f"Changed {_title(where, known, part_id)}", edited)

    return attempt_row(request, where, form, f"{kind}/{part_id}", act)


@require_POST
@at_space
def move(request: HttpRequest, where: Where, kind: str, part_id: str) -> HttpResponse:
    """Move a part to where it was dragged; with ``preview`` only show what would move."""
    known = _kind(where, kind)
    _part(where, known, part_id)
    try:
        values = {axis: round(float(request.POST[axis]), 4) for axis in known.axes if request.POST.get(axis)}
    except ValueError:
        raise Http404 from None
    if "dim" in values:
        values["dim"] = min(1.0, max(0.0, values["dim"]))
    changes: list[Act] = [Change(collection=known.collection, part_id=part_id, values=values)]
    changes += _alike(where, known, part_id, values, request.POST.getlist("with"))
    if request.POST.get("preview"):
        return _preview(request, where, changes)
    count = len(changes)
    label = f"Moved {count} {known.noun}s" if count > 1 else f"Moved {_title(where, known, part_id)}"
    return change(request, where, label, *changes)


def _alike(where: Where, kind: PartKind, part_id: str, values: dict[str, float], others: list[str]) -> list[Act]:
    """What else is picked moves by the same distance."""
    parts = {part.id: part for part in getattr(where.space, kind.collection)}
    shift = {axis: value - getattr(parts[part_id], axis) for axis, value in values.items()}
    return [
        Change(
            collection=kind.collection,
            part_id=key,
            values={axis: round(max(0.0, getattr(parts[key], axis) + by), 4) for axis, by in shift.items()},
        )
        for key in dict.fromkeys(others)
        if key in parts and key != part_id
    ]


def _preview(request: HttpRequest, where: Where, changes: list[Act]) -> HttpResponse:
    """What would move, computed more coarsely and not stored: light, margins and title block only."""
    words, tried = "", where
    try:
        plan = apply(where.plan, where.space.id, changes)
        tried = where.beside(plan, plan.space(where.space.id) or where.space)
    except PlanError as error:
        words = said(error)
    found = context(request, tried, quality=PREVIEW, words=words, schedule=False)
    return render(request, "workspace/_preview.html", found)


@require_POST
@at_space
def remove(request: HttpRequest, where: Where, kind: str, part_id: str) -> HttpResponse:
    """Take a part out."""
    known = _kind(where, kind)
    gone = Remove(collection=known.collection, part_ids=(part_id,))
    return change(request, where, f"Removed {_title(where, known, part_id)}", gone)


@require_POST
@at_space
def add_part(request: HttpRequest, where: Where, kind: str) -> HttpResponse:
    """Add a part with sensible measures, to be changed from there."""
    known = _kind(where, kind)
    if known.fresh is None:
        raise Http404
    fresh = Add(collection=known.collection, parts=(known.fresh(where.space),), prefix=PREFIXES[known.collection])
    return change(request, where, f"Added {known.article}", fresh)
