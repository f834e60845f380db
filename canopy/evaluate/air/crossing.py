"""Air that takes a short cut: from where it comes in to where it leaves, past the plants instead of through them."""

from __future__ import annotations

from dataclasses import dataclass
from math import dist

from canopy.air.shell import opening_place_m
from canopy.air.ventilation import Ventilation
from canopy.season import Standing

# Where the straight way is half the way through the plants or less, air is lost to the short cut; all of it at none.
_DETOUR = 0.5
_LEAST_M3_H = 0.5


@dataclass(frozen=True, kw_only=True)
class ShortCut:
    """Air that goes straight from one opening to another: their ids, and how much [m³/h]."""

    in_id: str
    out_id: str
    flow_m3_h: float


@dataclass(frozen=True, kw_only=True)
class _End:
    opening_id: str
    place: tuple[float, float, float]
    flow_m3_h: float
    driven: bool


def short_cuts(here: Standing, air: Ventilation) -> tuple[ShortCut, ...]:
    """Find what a fan blows in straight to an outlet beside it.

    Parameters
    ----------
    here : the space on a day, with its plants and openings
    air : what moves at one moment

    Returns
    -------
    tuple of ShortCut : most first; none without plants or without a fan that blows in. Seams lie everywhere and are no
        short cut

    Notes
    -----
    Air from inlet i reaches outlet o in the measure of both flows, Q i Q o / Q. Of it 1 − 2 d/D is lost, with d the
    straight way and D the way by the plants' middle: nothing where the straight way is more than half as long. Rough
    (assumed, not measured): it names openings that stand side by side, not a ventilation effectiveness.
    """
    if not here.plants:
        return ()
    count = len(here.plants)
    middle = (
        sum(plant.x_m for plant in here.plants) / count,
        sum(plant.y_m for plant in here.plants) / count,
        sum((plant.rim_m + plant.top_m) / 2 for plant in here.plants) / count,
    )
    ends = _ends(here, air)
    total = air.total_m3_h
    found = []
    for one in (end for end in ends if end.flow_m3_h > 0 and end.driven):
        for two in (end for end in ends if end.flow_m3_h < 0 and end.opening_id != one.opening_id):
            around = dist(one.place, middle) + dist(middle, two.place)
            lost = max(0.0, 1 - dist(one.place, two.place) / (_DETOUR * around)) if around > 0 else 0.0
            flow = lost * one.flow_m3_h * -two.flow_m3_h / max(total, 1e-9)
            if flow > _LEAST_M3_H:
                found.append(ShortCut(in_id=one.opening_id, out_id=two.opening_id, flow_m3_h=flow))
    return tuple(sorted(found, key=lambda item: -item.flow_m3_h))


def _ends(here: Standing, air: Ventilation) -> list[_End]:
    space = here.space
    known = {hole.id: hole for hole in space.openings}
    own = {way.id for way in space.airways}
    found = []
    for flow in air.ways:
        airway = flow.airway
        key = airway.port.opening_id if airway.id in own and airway.port else airway.far_opening_id
        hole = known.get(key or "")
        if hole is None:
            continue
        inwards = flow.flow_m3_h if flow.way.to_id == space.id else -flow.flow_m3_h
        driven = any(speed > 0 for speed in flow.way.speeds)
        found.append(_End(opening_id=hole.id, place=opening_place_m(space, hole), flow_m3_h=inwards, driven=driven))
    for seen in air.holes:
        hole = known.get(seen.opening_id)
        if hole is not None:
            place = opening_place_m(space, hole)
            found.append(_End(opening_id=hole.id, place=place, flow_m3_h=3600 * seen.flow_m3_s, driven=False))
    return found
