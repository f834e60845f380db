"""How a space stood in the middle of a run: the report of that day, by the plan of then."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping

from canopy.evaluate import SpaceReport
from canopy.evaluate.kept import report_of
from canopy.plan import Plan, Planting, Space
from canopy.review.harvest import middle_day
from canopy_web.planning.store import state_on, state_to_plan
from canopy_web.workspace.where import Where


def look(where: Where, space: Space, planting: Planting, *, follow: bool = False) -> SpaceReport:
    """Give the report of a space on the middle day of a run, by the plan that held then; raises EvaluationError.

    Where that plan does not know the run (what is written down afterwards), today's plan is looked at on that day.
    """
    day = middle_day(planting, where.day)
    plan = _then(where, space, planting, day)
    there = plan.space(space.id)
    assert there is not None
    return report_of(plan, there, day=day, follow=follow)


def _then(where: Where, space: Space, planting: Planting, day: dt.date) -> Plan:
    state = state_on(where.row, day, where.zone)
    if state is None or state.pk == where.row.head_id:
        return where.plan
    plan = state_to_plan(state)
    there = plan.space(space.id)
    stands = there is not None and any(plant.planting_id == planting.id for plant in there.plants)
    return plan if stands and plan.planting(planting.id) is not None else where.plan


def looks(where: Where, space: Space) -> Mapping[str, SpaceReport]:
    """Give the middle look of every run of a space, by planting; raises EvaluationError."""
    used = {plant.planting_id for plant in space.plants}
    return {
        planting.id: look(where, space, planting)
        for planting in where.plan.plantings
        if planting.id in used and planting.starts_on <= where.day
    }
