"""Where fans and filters hang inside: in plants, lamps or boards, or with a blade through the wall."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from canopy.margin import Amount, Margin, Step, Working, sentence
from canopy.plan.runs import Body, beyond_walls_m, inside_run, stirrer_body
from canopy.plan.solids import TOUCH_M, column_solid, lamp_solid, overlap_m, shelf_solid
from canopy.season import Growing, Standing

# Leaves give way: so deep in a crown nothing is said [m].
_LEAVES_M = 0.03
# Cages flex, and a wall is cut as straight as it is: so far through one nothing is said [m].
_WALL_M = 0.01
_MOST_NAMED = 6


@dataclass(frozen=True, kw_only=True)
class Stuck:
    """A body that hangs in something: in what (its id, "" for a wall, and name), and how deep [m]."""

    body: Body
    other_id: str
    other: str
    depth_m: float


def in_crown_m(body: Body, plant: Growing) -> float:
    """Say how deep a body hangs in a crown.

    Parameters
    ----------
    plant : as it stands on its day

    Returns
    -------
    float : into the spheroid of its crown, from its surface; 0 where it is outside [m]
    """
    radii = np.array([*plant.half_m, max((plant.top_m - plant.bottom_m) / 2, 0.01)])
    middle = np.array([plant.x_m, plant.y_m, (plant.top_m + plant.bottom_m) / 2])
    nearest = np.clip(middle, body.low, body.high)
    inside = 1 - float(np.linalg.norm((nearest - middle) / radii))
    return max(0.0, inside * float(radii.min()))


def stuck(here: Standing, bodies: tuple[Body, ...]) -> list[Stuck]:
    """Find in what some bodies hang.

    Parameters
    ----------
    here : the space on a day
    bodies : fans and filters inside

    Returns
    -------
    list of Stuck : deepest first
    """
    space = here.space
    solids = [lamp_solid(number, lamp) for number, lamp in enumerate(space.fixtures, 1)]
    solids += [*map(shelf_solid, space.shelves), *map(column_solid, space.columns)]
    found = []
    for body in bodies:
        own = body.solid
        for other in solids:
            depth = overlap_m(own, other)
            if depth > TOUCH_M:
                found.append(Stuck(body=body, other_id=other.part_id, other=other.name, depth_m=depth))
        for plant in here.plants:
            depth = in_crown_m(body, plant)
            if depth > _LEAVES_M:
                words = f"plant {plant.number}, {plant.crop.name}"
                found.append(Stuck(body=body, other_id=plant.id, other=words, depth_m=depth))
        through = beyond_walls_m(space, body)
        if through > _WALL_M:
            found.append(Stuck(body=body, other_id="", other="the wall", depth_m=through))
    return sorted(found, key=lambda item: -item.depth_m)


def place_margins(here: Standing) -> Iterator[Margin]:
    """Judge where fans and filters hang inside.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    iterator of Margin : one for each way of air that hangs in something, one for circulation fans; none where all is
        free
    """
    for airway in here.space.airways:
        found = stuck(here, inside_run(here.space, airway))
        if found:
            certainty = "In line from the port, as drawn; hung elsewhere by a bend it may stand free."
            key = (airway.id, *(item.body.part_id for item in found))
            yield _margin(f"air.place.{airway.id}", f"Room inside for {airway.name}", key, found, certainty)
    fans = tuple(stirrer_body(number, fan) for number, fan in enumerate(here.space.stirrers, 1))
    # A circulation fan is aimed into the leaves, and may stand among them: its cage keeps them off the blades.
    crowns = {plant.id for plant in here.plants}
    found = [item for item in stuck(here, fans) if item.other_id not in crowns]
    if found:
        parts = tuple(dict.fromkeys(item.body.part_id for item in found))
        yield _margin("air.place-stir", "Room for circulation fans", parts, found, "As typed, ±2 cm: cages differ.")


def _margin(key: str, title: str, parts: tuple[str, ...], found: list[Stuck], certainty: str) -> Margin:
    worst = found[0]
    amounts = {"deep": Amount(value=worst.depth_m, unit="length")}
    name = worst.body.name[0].upper() + worst.body.name[1:]
    words = f"{name} reaches {{deep}} through the wall." if not worst.other_id else ""
    return Margin(
        id=key,
        station="air",
        title=title,
        verdict="over",
        mendable=True,
        need=sentence("nothing in its way"),
        there=sentence("{deep} deep in something", **amounts) if worst.other_id else sentence("{deep} out", **amounts),
        why=sentence(words or f"{name} hangs {{deep}} deep in {worst.other}.", **amounts),
        parts=tuple(dict.fromkeys((*parts, *(item.other_id for item in found if item.other_id)))),
        working=Working(
            formula="depth = the shortest way by which it could be moved out",
            steps=tuple(
                Step(
                    symbol="",
                    meaning=f"{item.body.name} in {item.other}",
                    amount=Amount(value=item.depth_m, unit="length"),
                )
                for item in found[:_MOST_NAMED]
            ),
            source="Geometry",
            certainty=certainty,
        ),
    )
