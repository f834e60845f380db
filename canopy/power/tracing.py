"""Building the tree by breakers: what went dark when one was switched off."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from canopy.errors import PlanError, PlanProblem
from canopy.plan.changes import Act, Add, Change
from canopy.plan.document import Plan, Space
from canopy.plan.edit import apply


def plug_act(space: Space, part_id: str, values: Mapping[str, Any]) -> Act:
    """Write a change of what a part is plugged into.

    Parameters
    ----------
    part_id : a lamp, device, circulation fan or fan of a way of air
    values : new values, such as ``plug`` and ``pinned``

    Returns
    -------
    Act : to be applied to the space

    Raises
    ------
    PlanError : no such part
    """
    for name in ("fixtures", "devices", "stirrers"):
        if any(part.id == part_id for part in getattr(space, name)):
            return Change(collection=name, part_id=part_id, values=dict(values))
    for way in space.airways:
        if any(part.id == part_id and part.kind == "fan" for part in way.parts):
            return Change(collection="parts", part_id=part_id, at=("airways", way.id), values=dict(values))
    raise PlanError([PlanProblem(path="plug", message=f"nothing “{part_id}” is plugged in at {space.name} any more")])


def traced(plan: Plan, circuit_id: str, dark: Iterable[tuple[str, str]]) -> Plan:
    """Hang what went dark on the circuit whose breaker was off.

    Parameters
    ----------
    circuit_id : the circuit
    dark : ids of spaces, and of what in them went dark

    Returns
    -------
    Plan : each on its space's circuit where that is the one, else in an outlet of the circuit: its first, or a new one
        that stands for it until somebody looks where it is

    Raises
    ------
    PlanError : no such circuit, space or part
    """
    circuit = plan.circuit(circuit_id)
    if circuit is None:
        raise PlanError([PlanProblem(path="circuits", message="this circuit is no longer in the plan")])
    for space_id, part_id in dark:
        space = plan.space(space_id)
        if space is None:
            raise PlanError([PlanProblem(path="spaces", message="this space is no longer in the plan")])
        plug = None
        if space.circuit_id != circuit_id:
            outlet = next((item for item in plan.outlets if item.circuit_id == circuit_id), None)
            if outlet is None:
                fresh = {"name": f"Outlet on {circuit.name}"[:120], "circuit_id": circuit_id}
                plan = apply(plan, None, [Add(collection="outlets", parts=(fresh,), prefix="outlet")])
                outlet = plan.outlets[-1]
            plug = outlet.id
        plan = apply(plan, space_id, [plug_act(space, part_id, {"plug": plug})])
    return plan
