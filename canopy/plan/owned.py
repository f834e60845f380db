"""What of the household's stock stands in its spaces by the plan, and what is free."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator

from canopy.plan.document import Plan, Space
from canopy.plan.stock import alike


def planned(space: Space) -> Iterator[str]:
    """Name what stands in a space and can be counted from the plan alone.

    Parameters
    ----------
    space : of the plan

    Returns
    -------
    iterator of str : what each lamp, fan, filter, circulation fan and device is like
    """
    for lamp in space.fixtures:
        if lamp.enabled:
            yield alike("lamp", lamp.spec.name)
    for item in space.stirrers:
        if item.enabled:
            yield alike("stirrer", item.spec.name)
    for device in space.devices:
        yield alike("device", device.spec.name)
    for part in (part for way in space.airways for part in way.parts):
        if part.kind == "fan":
            yield from [alike("case-fan" if part.spec.kind == "case" else "fan", part.spec.name)] * part.count
        elif part.kind == "filter":
            yield alike("filter", part.spec.name)


def owned_of(plan: Plan) -> Counter[str]:
    """Count what a household owns.

    Parameters
    ----------
    plan : the household

    Returns
    -------
    Counter : by what things are like
    """
    found = Counter[str]()
    for item in plan.stock:
        found[item.like] += item.number  # type: ignore[assignment]
    return found


def free_of(plan: Plan) -> dict[str, int]:
    """Count what is owned and stands in no space of the plan.

    Parameters
    ----------
    plan : the household

    Returns
    -------
    dict of int : by what it is like, over 0; of what the plan counts
    """
    left = owned_of(plan)
    left.subtract(Counter(like for space in plan.spaces for like in planned(space)))
    return {like: int(count) for like, count in left.items() if count >= 1}
