"""The one place where the database meets the plan document."""

from __future__ import annotations

import datetime as dt
import json
import zlib
from functools import lru_cache

from canopy.plan import Plan, from_data
from canopy_web.planning.models import GrowPlan, PlanState

# So many plans stay read: an edit and the page after it look at the same states. They are never changed.
_READ = 16


def to_plan(row: GrowPlan) -> Plan:
    """Read the plan document of a plan's present state."""
    assert row.head is not None
    return state_to_plan(row.head)


def state_to_plan(state: PlanState) -> Plan:
    """Read the plan document of one state."""
    return document_to_plan(state.document)


def state_on(row: GrowPlan, day: dt.date, zone: dt.tzinfo) -> PlanState | None:
    """Find the state of a plan that held at the end of a day; None before all.

    It is one on the way to the present state; where that way begins later, the newest beginning of another before it.
    """
    rows = PlanState.objects.filter(plan=row).values_list("pk", "parent_id", "created")
    came = {pk: (parent, created) for pk, parent, created in rows}
    pk = row.head_id
    while pk is not None and came[pk][1].astimezone(zone).date() > day:
        pk = came[pk][0]
    if pk is None:
        begun = [
            (at, key) for key, (parent, at) in came.items() if parent is None and at.astimezone(zone).date() <= day
        ]
        pk = max(begun)[1] if begun else None
    return PlanState.objects.get(pk=pk) if pk is not None else None


def document_to_plan(document: bytes | memoryview) -> Plan:
    """Read a plan document as it is kept."""
    return _read(bytes(document))


@lru_cache(maxsize=_READ)
def _read(document: bytes) -> Plan:
    return from_data(json.loads(zlib.decompress(document)))


def from_plan(plan: Plan) -> bytes:
    """Write a plan document as a state keeps it."""
    return zlib.compress(json.dumps(plan.model_dump(mode="json"), separators=(",", ":")).encode(), 6)
