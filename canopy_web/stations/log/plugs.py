"""Plugs that can be switched from here: asked before it is done, and who switched what."""

from __future__ import annotations

from typing import Any

from django import forms
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_POST

from canopy.errors import QuantityError
from canopy.logs.switching import FEEDS, LONGEST_MIN, caution_of, comes_on_by_itself
from canopy.words import capital
from canopy_web.forms.fields import NumberField
from canopy_web.logbook import switching
from canopy_web.logbook.models import Source, Switching
from canopy_web.workspace.proposals import place
from canopy_web.workspace.reply import page
from canopy_web.workspace.where import Where, at_space

_SHOWN = 10


class BackForm(forms.Form):
    """For how long a plug is off."""

    minutes = NumberField(min_value=1, max_value=LONGEST_MIN, required=False, label="off for, min; then on again")


def plugs_of(where: Where) -> dict[str, Any]:
    """The plugs of a space, and who switched them."""
    rows = []
    for source in Source.objects.filter(plan=where.row, space_id=where.space.id, kind="pull"):
        plug = switching.plug_of(source)
        if plug is not None:
            rows.append({"source": source, "feeds": FEEDS[plug.feeds]})
    told = Switching.objects.filter(plan=where.row, space_id=where.space.id).select_related("by")
    return {"plugs": rows, "switched": told[:_SHOWN] if rows else ()}


def _source(where: Where, pk: int) -> Source:
    found: Source = get_object_or_404(Source, plan=where.row, space_id=where.space.id, pk=pk, kind="pull")
    return found


@require_POST
@at_space
def ask(request: HttpRequest, where: Where, pk: int) -> HttpResponse:
    """Ask how a plug stands, and show what switching it would mean; nothing is switched."""
    return _asked(request, where, _source(where, pk))


def _asked(request: HttpRequest, where: Where, source: Source) -> HttpResponse:
    plug = switching.plug_of(source)
    if plug is None:
        raise Http404
    shown: dict[str, Any] = {"source": source, "feeds": FEEDS[plug.feeds]}
    try:
        on = switching.is_on(source)
    except QuantityError as error:
        return _shown(request, where, {**shown, "wrong": capital(str(error))})
    if on is None:
        return _shown(request, where, {**shown, "wrong": f"It does not say at {plug.state} whether it is on"})
    back = BackForm(prefix=f"plug-{source.pk}") if on and comes_on_by_itself(plug.feeds) else None
    return _shown(request, where, {**shown, "on": on, "caution": caution_of(plug.feeds, on=not on), "back": back})


def _shown(request: HttpRequest, where: Where, shown: dict[str, Any]) -> HttpResponse:
    return render(request, "log/_plug.html", {**place(where, where.reader()), **shown})


@require_POST
@at_space
def switch(request: HttpRequest, where: Where, pk: int) -> HttpResponse:
    """Switch a plug, once a person has said so after they were asked."""
    source, wanted = _source(where, pk), request.POST.get("on", "")
    if wanted not in ("yes", "no") or request.POST.get("sure") != "yes":
        answer = _asked(request, where, source)
        answer["HX-Retarget"] = f"#plug-{pk}"
        return answer
    back = BackForm(request.POST, prefix=f"plug-{pk}")
    if not back.is_valid():
        return page(request, where, words=f"Nothing was switched: for 1 to {LONGEST_MIN} minutes.")
    try:
        made = switching.switch(
            source, request.user, on=wanted == "yes", minutes=back.cleaned_data["minutes"] if wanted == "no" else None
        )
    except QuantityError as error:
        return page(request, where, words=f"{source.name} was not switched: {error}.")
    long = f", on again in {made.for_min:g} min" if made.for_min else ""
    return page(request, where, words=f"{source.name} is {'on' if made.on else 'off'}{long}.")
