"""A part put into a way of air: with sensible measures, where it usually goes."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from canopy.errors import LibraryError, PlanError, PlanProblem
from canopy.library import adapters, ducts, fans, filters, find, fittings
from canopy.plan.airways import (
    AdapterPart,
    AirPart,
    Airway,
    BendPart,
    DuctPart,
    FanPart,
    FilterPart,
    FittingPart,
    HoodPart,
    PortPart,
)
from canopy.plan.document import Space
from canopy.plan.edit import fresh_id

_USUAL_M = 0.125


def bore_m(airway: Airway) -> float:
    """Give the diameter that a way of air is of.

    Parameters
    ----------
    airway : the way

    Returns
    -------
    float : its first fan's spigot, else its first duct's or bend's; 125 mm where it has none of them [m]
    """
    led = [part.diameter_m for part in airway.parts if part.kind in ("duct", "bend")]
    return airway.fans[0].spec.diameter_m if airway.fans else led[0] if led else _USUAL_M


def fresh_part(space: Space, airway: Airway, kind: str, key: str) -> AirPart:
    """Make a part of the library with sensible measures.

    Parameters
    ----------
    space : the space, for its openings
    airway : the way it is for
    kind : such as "duct"
    key : the library's id; a bend's make; nothing for a port

    Returns
    -------
    AirPart : with an id that is free in the way; ducts a metre long, ducts and bends of the way's diameter

    Raises
    ------
    LibraryError : the library has no such part
    PlanError : a port, and no round opening is free
    """
    new = fresh_id(kind, (part.id for part in airway.parts))
    if kind == "fan":
        return FanPart(id=new, spec=find(fans(), key, kind).spec)
    if kind == "filter":
        return FilterPart(id=new, spec=find(filters(), key, kind).spec)
    if kind == "duct":
        return DuctPart(id=new, spec=find(ducts(), key, kind).spec, diameter_m=bore_m(airway), length_m=1.0)
    if kind == "fitting":
        return FittingPart(id=new, spec=find(fittings(), key, kind).spec)
    if kind == "bend":
        return BendPart.model_validate({"id": new, "diameter_m": bore_m(airway), "make": key})
    if kind == "adapter":
        row = find(adapters(), key, kind)
        return AdapterPart(id=new, from_m=row.wide_m, to_m=row.narrow_m, make=row.make)
    if kind == "hood":
        lamp = next((lamp for lamp in space.fixtures if lamp.id == key and lamp.spec.hood_share > 0), None)
        if lamp is None:
            raise LibraryError("this lamp is not here any more, or has no hood")
        return HoodPart(id=new, fixture_id=lamp.id, diameter_m=lamp.spec.hood_m, loss=lamp.spec.hood_loss)
    if kind == "port":
        return PortPart(id=new, opening_id=_free_opening(space, airway))
    raise LibraryError(f"there is no part of the kind “{kind}”")


def _free_opening(space: Space, airway: Airway) -> str:
    """The round opening that suits a way best: of its use, open, and passed by no other."""
    taken = {way.port.opening_id for way in space.airways if way.port}
    use = "exhaust" if airway.way == "out" else "intake"
    holes = [o for o in space.openings if o.shape == "round" and o.use != "cable" and o.id not in taken]
    if not holes:
        raise PlanError([PlanProblem(path="what", message="every round opening is taken: add another below first")])
    return min(holes, key=lambda hole: (hole.use != use, not hole.open)).id


def place_for(airway: Airway, kind: str) -> int:
    """Give where a part usually goes in a way.

    Parameters
    ----------
    airway : the way
    kind : the part's kind

    Returns
    -------
    int : a filter first on the way out, a fan right behind it, a port last on the way out and first on the way in; all
        else at the end
    """
    parts = airway.parts
    if kind == "hood" and airway.way == "out":
        return next((n for n, part in enumerate(parts) if part.kind == "fan"), 0)
    if kind == "filter" and airway.way == "out":
        return 0
    if kind == "fan":
        return 1 if parts and parts[0].kind == "filter" else 0
    return 0 if kind == "port" and airway.way == "in" else len(parts)


def with_part(airway: Airway, part: AirPart) -> Airway:
    """Put a part into a way where it usually goes.

    Parameters
    ----------
    airway : the way

    Returns
    -------
    Airway : with the part
    """
    place = place_for(airway, part.kind)
    return airway.model_copy(update={"parts": (*airway.parts[:place], part, *airway.parts[place:])})


def with_own(airway: Airway, kind: str, spec: Mapping[str, Any]) -> list[dict[str, Any]]:
    """Put a fan, filter or fitting of a person's own data into a way; not checked yet.

    Parameters
    ----------
    airway : the way
    kind : "fan", "filter" or "fitting"
    spec : its data sheet, as typed

    Returns
    -------
    list of dict : the parts' data; a fan or filter takes the place of the first one there is
    """
    parts: list[dict[str, Any]] = airway.model_dump(mode="json")["parts"]
    old = next((part for part in parts if part["kind"] == kind and kind != "fitting"), None)
    if old is not None:
        old["spec"] = dict(spec)
        return parts
    made = {"kind": kind, "id": fresh_id(kind, (part["id"] for part in parts)), "spec": dict(spec)}
    place = place_for(airway, kind)
    return [*parts[:place], made, *parts[place:]]
