"""How an act of the workspace is answered."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from canopy.errors import EvaluationError, PlanConflictError, PlanError
from canopy.plan.changes import Act
from canopy.words import capital
from canopy_web.forms.part import PartForm
from canopy_web.forms.rows import take_row
from canopy_web.workspace.context import context
from canopy_web.workspace.where import Where


def page(request: HttpRequest, where: Where, **more: Any) -> HttpResponse:
    """Answer with the workspace: the whole page, or only its inside when htmx asks."""
    htmx = request.htmx  # type: ignore[attr-defined]
    inside = bool(htmx) and not htmx.boosted and not htmx.history_restore_request
    template = "workspace/_workspace.html" if inside else "workspace/workspace.html"
    return render(request, template, context(request, where, **more))


def said(error: PlanError | EvaluationError) -> str:
    """Say an error as a sentence."""
    message = error.problems[0].message if isinstance(error, PlanError) else str(error)
    return f"{capital(message)}."


def attempt(
    request: HttpRequest, where: Where, form: PartForm, key: str, act: Callable[[], Where], **more: Any
) -> HttpResponse:
    """Do an act with a form; when it is refused show the page with what was typed and why."""
    if form.is_valid():
        try:
            with transaction.atomic():
                return page(request, act(), **more)
        except (PlanError, EvaluationError) as error:
            where = _refused(where, form, error)
    return page(request, where, bad={key: form})


def attempt_row(
    request: HttpRequest, where: Where, form: PartForm, key: str, act: Callable[[], Where], **more: Any
) -> HttpResponse:
    """Do an act with the form of a row: a field that is refused keeps its text, and the others are taken."""

    def shown() -> HttpResponse:
        done = act()
        if not form.errors:
            return page(request, done, **more)
        form.settle()
        return page(request, done, bad={key: form}, words="The rest of the row is kept; what is marked red is not.")

    taken = take_row(form, shown)
    return page(request, where.again(_newest(where)), bad={key: form}) if taken is None else taken


def _refused(where: Where, form: PartForm, error: PlanError | EvaluationError) -> Where:
    """Mark at the form what is refused; after a clash one stands in the newest state."""
    if isinstance(error, PlanConflictError):
        where = where.again(_newest(where))
        form.clash(error)
    elif isinstance(error, PlanError):
        form.take(error)
    else:
        form.add_error(None, said(error))
    return where


def _newest(where: Where) -> Any:
    where.row.refresh_from_db()
    return where.row


def change(request: HttpRequest, where: Where, label: str, *changes: Act, **more: Any) -> HttpResponse:
    """Do changes that come from no form; when they are refused say why on the page as it is."""
    return answer(request, where, lambda: where.do(label, *changes), **more)


def answer(request: HttpRequest, where: Where, act: Callable[[], Where], **more: Any) -> HttpResponse:
    """Do an act that comes from no form; when it is refused say why on the page as it is."""
    try:
        with transaction.atomic():
            return page(request, act(), **more)
    except (PlanError, EvaluationError) as error:
        where.row.refresh_from_db()
        return page(request, where.again(where.row), words=said(error))
