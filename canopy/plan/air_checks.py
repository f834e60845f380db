"""The rules of ways of air and of circulation fans: openings and spaces they name are there, and everything fits
inside.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator

from canopy.errors import PlanProblem
from canopy.plan.airways import Airway
from canopy.plan.document import Plan, Space

TOLERANCE_M = 1e-6


def airway_problems(plan: Plan) -> list[PlanProblem]:
    """Find what is wrong with a plan's ways of air and circulation fans.

    Parameters
    ----------
    plan : a plan whose fields are well formed

    Returns
    -------
    list of PlanProblem : each with its place and what would be accepted
    """
    return list(_all(plan))


def _all(plan: Plan) -> Iterator[PlanProblem]:
    for number, space in enumerate(plan.spaces):
        path = f"spaces[{number}]"
        used: Counter[str] = Counter()
        for count, airway in enumerate(space.airways):
            here = f"{path}.airways[{count}]"
            yield from _parts(here, airway)
            yield from _hoods(here, space, airway)
            yield from _port(here, space, airway, used)
            yield from _far_end(here, plan, space, airway)
        yield from _stirrers(path, space)


def _parts(here: str, airway: Airway) -> Iterator[PlanProblem]:
    for key, count in Counter(part.id for part in airway.parts).items():
        if count > 1:
            yield PlanProblem(
                path=f"{here}.parts", message=f"the id “{key}” stands {count} times; each must be its own"
            )


def _hoods(here: str, space: Space, airway: Airway) -> Iterator[PlanProblem]:
    lamps = {lamp.id for lamp in space.fixtures}
    for part in airway.hoods:
        if part.fixture_id not in lamps:
            yield PlanProblem(
                path=f"{here}.parts", message=f"there is no lamp “{part.fixture_id}” whose hood it could lead through"
            )
    for key, count in Counter(part.fixture_id for way in space.airways for part in way.hoods).items():
        if count > 1 and any(part.fixture_id == key for part in airway.hoods):
            yield PlanProblem(path=f"{here}.parts", message=f"the hood of the lamp “{key}” is in two ways of air")


def _port(here: str, space: Space, airway: Airway, used: Counter[str]) -> Iterator[PlanProblem]:
    if airway.port is None:
        return
    key = airway.port.opening_id
    hole = next((opening for opening in space.openings if opening.id == key), None)
    if hole is None:
        yield PlanProblem(path=f"{here}.parts", message=f"there is no opening “{key}” for this way of air to pass")
        return
    if hole.shape != "round":
        yield PlanProblem(path=f"{here}.parts", message="a duct passes through a round opening; this one is not round")
    if hole.use == "cable":
        yield PlanProblem(path=f"{here}.parts", message="this opening is a cable's: a way of air needs one of its own")
    used[key] += 1
    if used[key] == 2:
        yield PlanProblem(path=f"{here}.parts", message="another way of air already passes this opening")


def _far_end(here: str, plan: Plan, space: Space, airway: Airway) -> Iterator[PlanProblem]:
    if airway.ends != "space":
        return
    far = plan.space(airway.space_id or "")
    if far is None:
        yield PlanProblem(
            path=f"{here}.space_id", message="the space it leads to is not in this plan: choose another, or the room"
        )
    elif far.id == space.id:
        yield PlanProblem(
            path=f"{here}.space_id", message="it leads back into its own space: choose another, or the room"
        )
    elif airway.far_opening_id and all(opening.id != airway.far_opening_id for opening in far.openings):
        yield PlanProblem(
            path=f"{here}.far_opening_id",
            message=f"{far.name} has no such opening for this way of air: choose one of its openings",
        )


def _stirrers(path: str, space: Space) -> Iterator[PlanProblem]:
    size = space.size
    limits = (("x_m", size.width_m), ("y_m", size.depth_m), ("z_m", size.height_m))
    for number, stirrer in enumerate(space.stirrers):
        for key, most in limits:
            if getattr(stirrer, key) > most + TOLERANCE_M:
                yield PlanProblem(
                    path=f"{path}.stirrers[{number}].{key}",
                    message=f"this circulation fan is outside the space: {key[0]} goes up to {most * 100:.0f} cm",
                )
