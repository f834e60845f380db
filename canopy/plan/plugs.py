"""Outlets, and what stands between an outlet and a device: strips, timers, smart plugs, cords and reels."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Annotated, Literal

from pydantic import Field

from canopy.errors import PlanProblem
from canopy.model import Id, Name, Record

CarrierKind = Literal["strip", "timer", "smart-plug", "cord", "reel", "rcd-adapter"]
CARRIER_NAMES: Mapping[str, str] = {
    "strip": "strip",
    "timer": "timer",
    "smart-plug": "smart plug",
    "cord": "cord",
    "reel": "cord reel",
    "rcd-adapter": "residual-current adapter",
}


class Outlet(Record):
    """A socket on a circuit. ``rcd`` says whether a residual-current device stands before it (RCD or GFCI; None: not
    known), ``height_m`` how high it is above the floor, ``rated_a`` what it is rated for (by its rule set when None),
    ``reach_m`` how far it is from what is plugged in, along the wall, ``drip_loops`` whether cords hang below it first.
    """

    id: Id
    name: Name
    circuit_id: Id
    room_id: Id | None = None
    rcd: bool | None = None
    height_m: Annotated[float, Field(ge=0, le=3)] | None = None
    rated_a: Annotated[float, Field(gt=0, le=63)] | None = None
    reach_m: Annotated[float, Field(ge=0, le=50)] | None = None
    drip_loops: bool | None = None


class Carrier(Record):
    """What stands between an outlet and devices, plugged into an outlet or into another carrier (``into``).

    ``limit_w`` is what it may carry in all, ``motor_w`` what of motors, ballasts and drivers (its inductive rating),
    both None where nobody looked; ``heaters`` says that it is rated for them. A cord or reel has a length and the
    cross-section of a conductor; a ``coiled`` one sheds its heat badly.
    """

    id: Id
    name: Name
    kind: CarrierKind = "strip"
    into: Id
    limit_w: Annotated[float, Field(gt=0, le=20_000)] | None = None
    motor_w: Annotated[float, Field(gt=0, le=20_000)] | None = None
    heaters: bool | None = None
    length_m: Annotated[float, Field(gt=0, le=100)] | None = None
    area_mm2: Annotated[float, Field(ge=0.3, le=10)] | None = None
    coiled: bool = False


def plug_problems(
    outlets: tuple[Outlet, ...], carriers: tuple[Carrier, ...], circuit_ids: set[str], room_ids: set[str]
) -> Iterator[PlanProblem]:
    """Find what cannot be plugged as it is said.

    Parameters
    ----------
    outlets : each one's circuit and room not yet checked
    carriers : nor what they are plugged into
    circuit_ids : those there are
    room_ids : those there are

    Returns
    -------
    iterator of PlanProblem : unknown circuits and plugs, ids that stand twice, loops
    """
    into = {carrier.id: carrier.into for carrier in carriers}
    ids = [outlet.id for outlet in outlets] + [carrier.id for carrier in carriers]
    for key in sorted({key for key in ids if ids.count(key) > 1}):
        yield PlanProblem(
            path="carriers", message=f"“{key}” stands twice: give each outlet, strip and timer an id of its own"
        )
    for number, outlet in enumerate(outlets):
        if outlet.circuit_id not in circuit_ids:
            offer = ", ".join(sorted(circuit_ids)) or "none yet"
            message = f"there is no circuit “{outlet.circuit_id}”: choose one of {offer}"
            yield PlanProblem(path=f"outlets[{number}].circuit_id", message=message)
        if outlet.room_id is not None and outlet.room_id not in room_ids:
            yield PlanProblem(path=f"outlets[{number}].room_id", message=f"there is no room “{outlet.room_id}”")
    for number, carrier in enumerate(carriers):
        path = f"carriers[{number}].into"
        if carrier.into == carrier.id:
            yield PlanProblem(path=path, message=f"{carrier.name} cannot be plugged into itself")
        elif carrier.into not in ids:
            yield PlanProblem(path=path, message=f"there is nothing “{carrier.into}” to plug {carrier.name} into")
        elif _in_a_loop(carrier.id, into):
            yield PlanProblem(path=path, message=f"{carrier.name} would hang on itself: plug it into an outlet")


def _in_a_loop(key: str, into: Mapping[str, str]) -> bool:
    seen, at = {key}, into.get(key)
    while at is not None:
        if at in seen:
            return True
        seen.add(at)
        at = into.get(at)
    return False
