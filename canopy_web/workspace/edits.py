"""The usual edit: a form over a record of the space or the household, of which only what was changed is written."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse

from canopy.plan import Plan, Space
from canopy.plan.changes import HOUSEHOLD, Act, Change, Collection
from canopy_web.forms.part import PartForm
from canopy_web.workspace.reply import attempt_row
from canopy_web.workspace.where import Where


def edit_record(
    request: HttpRequest, where: Where, form_class: type[PartForm], *, under: str, key: str, label: str, **more: Any
) -> HttpResponse:
    """Change a record that lies under a dotted path of the space, such as "air" or "faces.left"."""
    form = form_class(
        _under(where.drawn_space.model_dump(mode="json"), under),
        request.POST,
        system=where.system,
        prefix=key.replace("/", "-"),
        **more,
    )

    def act() -> Where:
        begin = f"{under}." if under else ""
        values = {f"{begin}{name}": value for name, value in form.changes().items()}
        was = {f"{begin}{name}": value for name, value in form.seen().items()}
        return where.do(label, Change(values=values, was=was))

    return attempt_row(request, where, form, key, act)


def _under(data: Mapping[str, Any], path: str) -> Mapping[str, Any]:
    for step in path.split(".") if path else ():
        data = data.get(step) or {}
    return data


def edit_listed(
    request: HttpRequest,
    where: Where,
    make: Callable[[dict[str, Any]], PartForm],
    *,
    collection: Collection,
    part_id: str,
    key: str,
    label: Callable[[dict[str, Any]], str],
    at: tuple[str, ...] = (),
    values: Callable[[dict[str, Any]], dict[str, Any]] = lambda changes: changes,
) -> HttpResponse:
    """Change one part of a list, wherever the list lies; ``make`` makes its form over its record."""
    record = find_part(where.drawn, where.drawn_space, collection, part_id, at)
    if record is None:
        record = find_part(where.plan, where.space, collection, part_id, at)
    if record is None:
        raise Http404
    form, shown = make(record), record

    def act() -> Where:
        change: Act = Change(
            collection=collection, part_id=part_id, at=at, values=values(form.changes()), was=form.seen()
        )
        return where.do(label(shown), change)

    return attempt_row(request, where, form, key, act)


def find_part(
    plan: Plan, space: Space, collection: str, part_id: str, at: tuple[str, ...] = ()
) -> dict[str, Any] | None:
    """Find a part's record by the steps to its list, as changes name them; None where it is not there."""
    first = at[0] if at else collection
    found: Any = plan if first in HOUSEHOLD else space
    steps = [*at, collection, part_id]
    while steps and found is not None:
        found = getattr(found, steps.pop(0), None)
        if isinstance(found, tuple) and steps:
            wanted = steps.pop(0)
            found = next((part for part in found if part.id == wanted), None)
    data: dict[str, Any] | None = None if found is None else found.model_dump(mode="json")
    return data
