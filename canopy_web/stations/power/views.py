"""Acts of the Power station."""

from __future__ import annotations

from django.http import Http404, HttpRequest, HttpResponse
from django.views.decorators.http import require_POST

from canopy.plan.changes import Change
from canopy_web.workspace.reply import change
from canopy_web.workspace.where import Where, at_space


@require_POST
@at_space
def choose_circuit(request: HttpRequest, where: Where) -> HttpResponse:
    """Plug the space into another circuit."""
    chosen = request.POST.get("circuit_id") or None
    if chosen and where.plan.circuit(chosen) is None:
        raise Http404
    return change(request, where, "Chose a circuit", Change(values={"circuit_id": chosen}))
