"""A whole plan's report."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from canopy.evaluate.power.loads import CircuitLoad, circuit_load
from canopy.evaluate.space import SpaceReport, evaluate_space
from canopy.light.scene import DEFAULT, Quality
from canopy.plan.document import Plan


@dataclass(frozen=True, kw_only=True)
class Report:
    """Everything said of a plan."""

    plan: Plan
    day: dt.date
    spaces: tuple[SpaceReport, ...]
    circuits: tuple[CircuitLoad, ...]

    @property
    def cost_per_month(self) -> float:
        """What all spaces cost in a month [currency]."""
        return sum(report.running.cost_per_month for report in self.spaces)


def evaluate(plan: Plan, *, day: dt.date | None = None, quality: Quality = DEFAULT, with_map: bool = True) -> Report:
    """Evaluate every space of a plan.

    Parameters
    ----------
    day : the day it is looked at; the plan's own date when None
    quality : how finely to cut the walls for light
    with_map : draw up each space's PPFD map too

    Returns
    -------
    Report : one report a space, in plan order, and the circuits
    """
    return Report(
        plan=plan,
        day=day or plan.date,
        spaces=tuple(
            evaluate_space(plan, space, day=day, quality=quality, with_map=with_map, follow=True)
            for space in plan.spaces
        ),
        circuits=tuple(circuit_load(plan, circuit) for circuit in plan.circuits),
    )
