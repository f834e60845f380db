"""Openings cut for ways of air: a port that is wide enough, an intake that lets air in calmly."""

from __future__ import annotations

from math import ceil, sqrt

from canopy.air.chain import same_size
from canopy.evaluate.air.places import stuck
from canopy.plan.airways import Airway, PortPart
from canopy.plan.document import Space
from canopy.plan.edit import fresh_id
from canopy.plan.runs import inside_run, mouth
from canopy.plan.shell import Opening
from canopy.plan.solids import free_place
from canopy.season import Standing

INTAKE_M_S = 1.2


def with_port(space: Space, airway: Airway, diameter_m: float, here: Standing | None = None) -> Space:
    """Give a way of air a port that is wide enough.

    Parameters
    ----------
    space : the space, the way among its own or not yet
    airway : the way
    diameter_m : diameter that must pass [m]
    here : the space on a day, so that a port that is cut lies clear of crowns, and what hangs behind it of lamps

    Returns
    -------
    Space : with the way and its port; a narrower port is widened, a free one is taken, else one is cut
    """
    taken = {way.port.opening_id for way in space.airways if way.port and way.id != airway.id}
    use = "exhaust" if airway.way == "out" else "intake"
    hole = next((o for o in space.openings if airway.port and o.id == airway.port.opening_id), None)
    if hole is None:
        free = [o for o in space.openings if o.use == use and o.shape == "round" and o.open and o.id not in taken]
        hole = max(free, key=lambda o: o.across_m, default=None)
    openings = list(space.openings)
    if hole is None:
        hole = new_port(space, diameter_m, use, airway, here)
        if hole is None:
            return with_way(space, airway)
        openings.append(hole)
    elif (hole.across_m < diameter_m and not same_size(hole.across_m, diameter_m)) or not hole.open:
        wide = max(diameter_m, hole.across_m)
        moved = hole.model_copy(update={"diameter_m": wide, "open": True, "use": use, **_inside(space, hole, wide / 2)})
        openings[openings.index(hole)] = moved
    if airway.port is None:
        airway = with_hole(airway, hole)
    return with_way(space.model_copy(update={"openings": tuple(openings)}), airway)


def with_way(space: Space, airway: Airway) -> Space:
    """Put a way of air into a space, in place of the one with its id.

    Parameters
    ----------
    airway : the way

    Returns
    -------
    Space : with the way
    """
    ways = [airway if way.id == airway.id else way for way in space.airways]
    if airway not in ways:
        ways.append(airway)
    return space.model_copy(update={"airways": tuple(ways)})


def _inside(space: Space, hole: Opening, radius: float) -> dict[str, float]:
    across = space.size.depth_m if hole.face in ("left", "right") else space.size.width_m
    up = space.size.depth_m if hole.face in ("floor", "ceiling") else space.size.height_m
    return {
        "u_m": round(min(max(hole.u_m, radius), across - radius), 4),
        "v_m": round(min(max(hole.v_m, radius), up - radius), 4),
    }


def new_port(
    space: Space, diameter_m: float, use: str, airway: Airway | None = None, here: Standing | None = None
) -> Opening | None:
    """Cut a round port: high on the left for an exhaust, low on the right for an intake, into no other opening.

    Parameters
    ----------
    diameter_m : its diameter [m]
    use : "exhaust" or "intake"
    airway : the way that will pass it, for what hangs inside behind it
    here : the space on a day, for crowns that reach the wall

    Returns
    -------
    Opening : clear of crowns, and with room behind it, where there is such a place on this wall or the one across; the
        nearest that cuts nothing where there is not; None where no wall is large enough
    """
    size, radius = space.size, diameter_m / 2
    if size.depth_m <= diameter_m or size.height_m <= 1.5 * diameter_m:
        return None
    high = use == "exhaust"
    v = size.height_m - radius - 0.04 if high else radius + 0.06
    faces = ("left", "right", "back") if high else ("right", "left", "back")
    first: Opening | None = None
    for face in faces:
        across = size.width_m if face == "back" else size.depth_m
        made = Opening(
            id=fresh_id("port", (o.id for o in space.openings)),
            face=face,
            u_m=round(across / 2, 3),
            v_m=round(min(max(v, radius), size.height_m - radius), 3),
            diameter_m=diameter_m,
            use=use,
        )
        first = first or free_place(space, made) or made
        if across <= diameter_m:
            continue
        found = free_place(space, made, lambda hole: in_the_way(space, hole, airway, here))
        # An exhaust belongs in the upper half, an intake in the lower one.
        if found is not None and (found.v_m > size.height_m / 2) == high:
            return found
    return first


def in_the_way(space: Space, hole: Opening, airway: Airway | None, here: Standing | None) -> bool:
    """Say whether something stands in a port's way: a crown before it, or what would hang in something behind it.

    Parameters
    ----------
    hole : the port, where it is looked at
    airway : the way that passes it; None for none yet
    here : the space on a day; nothing is in the way when None

    Returns
    -------
    bool : by a short stub of duct through the wall, and by the straight run inside
    """
    if here is None:
        return False
    stub = mouth(space, hole)
    bodies = (stub,) if airway is None else (stub, *inside_run(space, with_hole(airway, hole), hole))
    return bool(stuck(here.moved(space), bodies))


def with_hole(airway: Airway, hole: Opening) -> Airway:
    """Lead a way of air through an opening.

    Parameters
    ----------
    airway : the way, with or without a port

    Returns
    -------
    Airway : with its port there; one that had none has it last on the way out, first on the way in
    """
    if airway.port is not None:
        moved = airway.port.model_copy(update={"opening_id": hole.id})
        parts = tuple(moved if part.kind == "port" else part for part in airway.parts)
    else:
        port = PortPart(id=fresh_id("port", (part.id for part in airway.parts)), opening_id=hole.id)
        parts = (*airway.parts, port) if airway.way == "out" else (port, *airway.parts)
    return airway.model_copy(update={"parts": parts})


def open_area_m2(space: Space) -> float:
    """Give the area through which air comes in by itself.

    Returns
    -------
    float : gross area of open openings that no way of air passes [m²]
    """
    taken = {way.port.opening_id for way in space.airways if way.port}
    return sum(o.free_area_m2 / o.clear_share for o in space.openings if o.passes_air and o.id not in taken)


def intake_opening(space: Space, flow_m3_h: float, *, taken_m2: float = 0.0, outlet: bool = False) -> Opening | None:
    """Cut an intake that lets a flow in calmly: a mesh window in a tent, a slit elsewhere.

    Parameters
    ----------
    flow_m3_h : flow that comes in [m³/h]
    taken_m2 : area that is open already [m²]
    outlet : for air that is blown in, to leave by: high up, on the left first

    Returns
    -------
    Opening : low on the right or the back; None where nothing more is needed, or no wall has room
    """
    area = flow_m3_h / 3600 / INTAKE_M_S - taken_m2
    size = space.size
    if area <= 1e-4:
        return None
    used = {o.face for o in space.openings if (o.v_m < 0.5 * size.height_m) is not outlet}
    sides = [
        ("right", size.depth_m),
        ("back", size.width_m),
        ("left", size.depth_m),
        ("front", size.width_m),
    ]
    for face, across in (sides[2], sides[1], sides[0], sides[3]) if outlet else sides:
        if face in used or face == space.door_side:
            continue
        wide = 0.7 * across
        high = ceil(area / wide * 200) / 200
        if high > 0.35 * size.height_m:
            continue
        if wide > 4 * high:
            wide = ceil(max(sqrt(area * 4), 0.04) * 200) / 200
            high = ceil(area / wide * 200) / 200
        tent = space.kind == "tent"
        up = high / 2 + 0.06 * size.height_m
        return Opening(
            id=fresh_id("outlet" if outlet else "intake", (o.id for o in space.openings)),
            face=face,
            u_m=round(across / 2, 3),
            v_m=round(size.height_m - up if outlet else up, 3),
            shape="mesh" if tent else "slit",
            width_m=round(wide, 3),
            height_m=high,
            clear_share=0.58 if tent else 1.0,
            use="exhaust" if outlet else "intake",
        )
    return None
