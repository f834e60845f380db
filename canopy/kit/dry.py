"""The space as it runs before anything grows in it, for its dry run."""

from __future__ import annotations

import datetime as dt

from canopy.errors import EvaluationError
from canopy.evaluate import SpaceReport
from canopy.evaluate.kept import report_of
from canopy.plan.document import Plan, Space


def emptied(plan: Plan, space: Space, day: dt.date | None = None) -> SpaceReport | None:
    """Follow a space without its plants.

    Parameters
    ----------
    plan : the household
    space : one of its spaces
    day : the day of the dry run; the plan's own when None

    Returns
    -------
    SpaceReport : with its climate; None where it could not be computed
    """
    bare = space.model_copy(update={"plants": (), "lids": ()})
    spaces = tuple(bare if each.id == space.id else each for each in plan.spaces)
    try:
        return report_of(plan.model_copy(update={"spaces": spaces}), bare, day=day, follow=True)
    except EvaluationError:
        return None
