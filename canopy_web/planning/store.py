"""The one place where the database meets the plan document."""

from __future__ import annotations

import json
import zlib

from canopy.plan import Plan, from_data
from canopy_web.planning.models import GrowPlan, PlanState


def to_plan(row: GrowPlan) -> Plan:
    """Read the plan document of a plan's present state."""
    assert row.head is not None
    return state_to_plan(row.head)


def state_to_plan(state: PlanState) -> Plan:
    """Read the plan document of one state."""
    return document_to_plan(state.document)


def document_to_plan(document: bytes | memoryview) -> Plan:
    """Read a plan document as it is kept."""
    return from_data(json.loads(zlib.decompress(bytes(document))))


def from_plan(plan: Plan) -> bytes:
    """Write a plan document as a state keeps it."""
    return zlib.compress(json.dumps(plan.model_dump(mode="json"), separators=(",", ":")).encode(), 6)
