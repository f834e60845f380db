"""Acts of the frame: show a station, take an assumption as settled, follow a remedy, undo and redo."""

from __future__ import annotations

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from canopy.design.grouped import best_for
from canopy.design.remedies import options_for
from canopy.errors import EvaluationError
from canopy.evaluate.grouping import grouped
from canopy.evaluate.unjudged import unjudged_margin
from canopy.words import is_number
from canopy_web.planning import actions
from canopy_web.workspace.context import context
from canopy_web.workspace.proposals import place, show_or_do
from canopy_web.workspace.reply import answer, page
from canopy_web.workspace.where import Where, at_space


@require_GET
@at_space
def show(request: HttpRequest, where: Where) -> HttpResponse:
    """Show a station; the address follows what one looks at, so that it can be kept and sent."""
    answer = page(request, where)
    htmx = request.htmx  # type: ignore[attr-defined]
    if htmx and not htmx.boosted:
        answer["HX-Push-Url"] = where.url("show") + where.look.query()
    return answer


@require_GET
@at_space
def follow(request: HttpRequest, where: Where) -> HttpResponse:
    """Follow the climate of what is shown, and hand in what it comes to: margins, figures, and its own station; nothing
    where the plan has gone on since, as its own page asks for itself.
    """
    shown = request.GET.get("state", "")
    if is_number(shown) and int(shown) != where.row.head_id:
        return HttpResponse(status=204)
    try:
        _ = where.followed
    except EvaluationError:
        return HttpResponse(status=204)
    return render(request, "workspace/_followed.html", context(request, where))


@require_POST
@at_space
def confirm(request: HttpRequest, where: Where, what: str) -> HttpResponse:
    """Take an assumption as settled."""
    return answer(request, where, lambda: where.again(actions.confirm_assumption(where.row, where.space.id, what)))


@require_GET
@at_space
def margin(request: HttpRequest, where: Where, margin_id: str) -> HttpResponse:
    """Show a margin's reason and working, as it is opened; those that cannot be computed have none."""
    reader = None
    try:
        found = where.followed.margin(margin_id)
    except EvaluationError as error:
        found, reader = unjudged_margin(error), where.reader()
    if found is None:
        raise Http404
    return render(request, "workspace/_margin_body.html", {**place(where, reader), "margin": found})


@at_space
def remedy(request: HttpRequest, where: Where, margin_id: str) -> HttpResponse:
    """Show ways out of a margin and what else each would move; on POST, go the chosen one."""
    chosen = request.POST.get("way", "") if request.method == "POST" else ""
    try:
        found = options_for(where.followed, margin_id, chosen)
    except EvaluationError:
        found = ()
    nothing = "This has changed meanwhile; there is nothing to mend here now."
    first = found[0] if found else None
    shown = first.remedy if first else None
    more = {"margin_id": margin_id, "option": first, "others": found[1:]}
    return show_or_do(request, where, shown, "workspace/_remedy.html", nothing=nothing, **more)


@at_space
def mend_group(request: HttpRequest, where: Where, group_key: str) -> HttpResponse:
    """Show the change that mends most of a group of margins, small changes first; on POST, make the chosen one."""
    group = next((item for item in grouped(where.followed.margins) if item.key == group_key), None)
    chosen = request.POST.get("way", "") if request.method == "POST" else ""
    deep = bool(chosen) or "deep" in request.GET
    try:
        found = best_for(where.followed, group, chosen, deep=deep) if group else ()
    except EvaluationError:
        found = ()
    first = found[0] if found else None
    further = not deep and group is not None and (first is None or first.mended < first.of)
    return show_or_do(
        request,
        where,
        first.remedy if first else None,
        "workspace/_mend_group.html",
        nothing="This has changed meanwhile; there is nothing to mend here now.",
        group=group,
        option=first,
        others=found[1:4],
        further=further,
    )


@require_POST
@at_space
def undo(request: HttpRequest, where: Where) -> HttpResponse:
    """Take the last change back."""
    return _travel(request, where, back=True)


@require_POST
@at_space
def redo(request: HttpRequest, where: Where) -> HttpResponse:
    """Take a change up again."""
    return _travel(request, where, back=False)


def _travel(request: HttpRequest, where: Where, *, back: bool) -> HttpResponse:
    label = actions.undo(where.row) if back else actions.redo(where.row)
    where.row.refresh_from_db()
    words = f"{'Undone' if back else 'Done again'}: {label}."
    if label is None:
        words = f"There is nothing more to {'undo' if back else 'redo'}."
    try:
        return page(request, where.again(where.row), words=words)
    except Http404:
        # The space itself is what was undone: back to the household.
        return leave(request)


def leave(request: HttpRequest) -> HttpResponse:
    """Go back to the household, from a page or from a fragment of one."""
    response: HttpResponse = redirect("household:home")
    if request.htmx:  # type: ignore[attr-defined]
        response = HttpResponse()
        response["HX-Redirect"] = "/"
    return response


@require_POST
@at_space
def delete(request: HttpRequest, where: Where) -> HttpResponse:
    """Take the space out of the plan; undo on the household page brings it back."""
    actions.delete_space(where.row, where.space.id, where.space.name)
    return leave(request)
