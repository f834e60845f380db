"""Requests that are being answered: kept while somebody looks on, gone on with a slice at a time."""

from __future__ import annotations

from typing import Any
from urllib.parse import urlencode

from canopy.designer.design import Designer
from canopy.designer.request import Request
from canopy.plan.document import Plan
from canopy.quantities import LENGTH, TEMPERATURE, show
from canopy_web.household.whole.forms import CROPS, HAS
from canopy_web.planning.models import GrowPlan
from canopy_web.workspace.slices import Slice, Slices

Asked = Slice[Designer]
_asked: Slices[Designer] = Slices()


def asked(user_id: int, row: GrowPlan | None, household: Plan, request: Request) -> Asked:
    """Find how far a request has come, or begin it; PlanError where no plan could answer it."""
    key = (user_id, row.pk if row else 0, household.model_dump_json(), request.model_dump_json())
    return _asked.get(key, lambda: Designer(request, household))


def query_of(request: Request, system: str) -> str:
    """Write a request as the form's own address, so that it can be asked anew with a change."""
    space = request.spaces[0]
    values: list[tuple[str, Any]] = [("kind", space.kind), ("levels", space.levels), ("likes", request.likes)]
    for name in ("width_m", "depth_m", "height_m"):
        value = getattr(space, name)
        values += [(name, show(value, LENGTH, system))] if value is not None else []
    values += CROPS.write([(wish.crop_id, wish.count) for wish in space.crops])
    values += HAS.write([(item.id, round(item.number)) for item in request.stock])
    for name in ("begins", "budget", "budget_month"):
        value = getattr(request, name)
        values += [(name, f"{value:g}" if isinstance(value, float) else value)] if value is not None else []
    values += [("refuses", item) for item in request.refuses]
    if request.room is not None:
        room = request.room
        said = {"day_c": room.day_c, "night_c": room.night_c}
        said |= {"coldest_c": room.coldest.night_c} if room.coldest else {}
        said |= {"hottest_c": room.hottest.day_c} if room.hottest else {}
        values += [(name, show(value, TEMPERATURE, system)) for name, value in said.items()]
    values.append(("rule_set_id", request.rule_set_id))
    return urlencode([(f"ask-{name}", value) for name, value in values])
