"""Water over mains: pots that stand or hang above lamps and small fans."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from canopy.light.scene import emitter_of
from canopy.margin import Amount, Margin, Step, Verdict, Working, sentence
from canopy.plan.document import Space
from canopy.plan.plants import standing_room_m
from canopy.season import Growing, Standing

DRIPS = (
    "Water that runs over mains can kill. Move one of them aside, keep a drip loop in every cord, sockets above the "
    "water, and residual-current protection (RCD or GFCI) in the circuit. Local codes and a licensed electrician "
    "decide."
)
# A pot whose foot is this far above a lamp's face stands over it [m].
_ABOVE_M = 0.02
_MOST_NAMED = 6


@dataclass(frozen=True, kw_only=True)
class Drip:
    """A pot above something that is plugged in; ``through`` is what lies between: nothing, or an open shelf."""

    plant: Growing
    part_id: str
    name: str
    through: Literal["air", "open shelf"]
    height_m: float


def drips(here: Standing) -> list[Drip]:
    """Find pots from which water would fall on mains.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    list of Drip : none under solid or glass shelves, nor under what stands on the floor
    """
    found = []
    for plant in here.plants:
        if plant.plant.base_m < _ABOVE_M:
            continue
        for part_id, name, box, top in _plugged_in(here.space):
            height = plant.plant.base_m - top
            if height > _ABOVE_M and _over(plant, box):
                through = _between(here.space, plant, top)
                if through is not None:
                    found.append(Drip(plant=plant, part_id=part_id, name=name, through=through, height_m=height))
    return found


def drip_margins(here: Standing) -> Iterator[Margin]:
    """Judge whether water drips on mains.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    iterator of Margin : one where a pot is above a lamp or small fan; through free air it is a danger, through an open
        shelf it is tight: a saucer or a tray without holes holds the water
    """
    found = drips(here)
    if not found:
        return
    free = [item for item in found if item.through == "air"]
    worst = (free or found)[0]
    verdict: Verdict = "over" if free else "tight"
    pots = len({item.plant.id for item in found})
    pot = f"{worst.plant.crop.name} {worst.plant.number}"
    words = (
        f"{pot} is right above {worst.name}: what runs out of its pot lands there."
        if free
        else f"{pot} stands on an open shelf above {worst.name}: a saucer or a "
        "tray without holes under the pot keeps its water."
    )
    yield Margin(
        id="space.drip",
        station="space",
        title="Water above mains",
        parts=tuple(dict.fromkeys(key for item in found for key in (item.plant.id, item.part_id))),
        verdict=verdict,
        said="drips on mains" if free else "",
        danger=DRIPS if free else "",
        need=sentence("no pot above a lamp or fan"),
        there=sentence("1 pot" if pots == 1 else f"{pots} pots"),
        why=sentence(words),
        working=Working(
            formula="a pot's foot over a lamp or fan, with no solid or glass shelf between them",
            steps=tuple(
                Step(
                    symbol="h",
                    meaning=f"{item.plant.crop.name} {item.plant.number} above {item.name}",
                    amount=Amount(value=item.height_m, unit="length"),
                )
                for item in found[:_MOST_NAMED]
            ),
            source="Geometry",
            certainty="As typed. Whether a lamp is sealed against drips (IPX4 and more) is not known here.",
        ),
    )


Box = tuple[float, float, float, float]


def _plugged_in(space: Space) -> Iterator[tuple[str, str, Box, float]]:
    """What runs on mains inside: id, name, its outline from above, and how high its top is."""
    for number, lamp in enumerate(space.fixtures, 1):
        plate = emitter_of(lamp).plate
        half_along = abs(plate.along) * plate.length_m / 2 + abs(plate.across) * plate.width_m / 2
        x, y = half_along[0], half_along[1]
        box = (lamp.x_m - x, lamp.y_m - y, lamp.x_m + x, lamp.y_m + y)
        yield lamp.id, f"lamp {number}", box, lamp.z_m + half_along[2]
    for number, fan in enumerate(space.stirrers, 1):
        half = fan.spec.diameter_m / 2
        box = (fan.x_m - half, fan.y_m - half, fan.x_m + half, fan.y_m + half)
        yield fan.id, f"circulation fan {number}", box, fan.z_m


def _over(plant: Growing, box: Box) -> bool:
    wide, deep = standing_room_m(plant.plant)
    across = plant.x_m - wide / 2 < box[2] and plant.x_m + wide / 2 > box[0]
    return across and plant.y_m - deep / 2 < box[3] and plant.y_m + deep / 2 > box[1]


def _between(space: Space, plant: Growing, top: float) -> Literal["air", "open shelf"] | None:
    """What lies between a pot and what is below it; None where a closed shelf does."""
    found: Literal["air", "open shelf"] = "air"
    for shelf in space.shelves:
        if not top - 1e-6 <= shelf.z_m <= plant.plant.base_m + 1e-6:
            continue
        x, y = shelf.x_m, shelf.y_m
        if x <= plant.x_m <= x + shelf.width_m and y <= plant.y_m <= y + shelf.depth_m:
            if shelf.kind in ("solid", "glass"):
                return None
            found = "open shelf"
    return found
