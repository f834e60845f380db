"""Where lamps' power goes: light on leaves, radiation to walls and pots, warmth of their bodies."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from canopy.climate.canopy_gas import Stand, absorbed_share
from canopy.climate.system import Gives
from canopy.evaluate.light.lighting import Lighting, PlantLight
from canopy.light.photometry import fixture_load, given_ppf
from canopy.plan.document import Fixture, Space
from canopy.schedule import Daily, Schedule

# Photons 400-700 nm for each joule of their energy, of lamps (McCree 1972: 4.6 to 5.0).
_UMOL_PER_J = 4.8
# Infrared that goes the way of the light, for each watt of it (as for leaves near lamps: IES Lighting Handbook).
_INFRARED = {"hps": 0.67, "metal-halide": 0.67, "incandescent": 5.5, "fluorescent": 0.3, "led": 0.0}
# What leaves do not take of radiation: to walls; of the rest pots get what they cover of the floor.
_TO_SHEET = 0.4
# A lamp's body: what passes to the air and what it takes up, for each watt of the lamp (finned LED bars).
BODY_W_K_W, BODY_J_K_W = 0.03, 15.0


def on_leaves(plants: Sequence[PlantLight], source: int) -> float:
    """Give a source's light on a space's leaves, as a mean over the ground they cover.

    Parameters
    ----------
    plants : with their light
    source : which lamp, or which window after the lamps

    Returns
    -------
    float : PPFD [µmol/m²/s]
    """
    ground = np.array([light.plant.ground_m2 for light in plants])
    light = np.array([light.by_source_umol_m2_s[source] for light in plants])
    return float(ground @ light / ground.sum()) if len(plants) and ground.sum() > 0 else 0.0


def lamp_gives(lamp: Fixture, ppfd: float, stand: Stand, hood_w: float, pot_share: float) -> Gives:
    """Give what a lamp that is on does to its space.

    Parameters
    ----------
    lamp : as it is set
    ppfd : its light on the leaves [µmol/m²/s]
    stand : the plants as one leaf
    hood_w : heat that leaves through its hood [W]
    pot_share : of the floor, what pots stand on

    Returns
    -------
    Gives : all of its power but what leaves through the hood
    """
    power = fixture_load(lamp)
    light_w = min(given_ppf(lamp) / _UMOL_PER_J, 0.9 * power)
    radiant = min(light_w * (1 + _INFRARED[lamp.spec.technology]), 0.95 * power)
    taken = min(ppfd * stand.area_m2 / _UMOL_PER_J * absorbed_share(stand.lai), 0.95 * light_w)
    # Of infrared leaves absorb about half as much as of light.
    taken *= 1 + 0.5 * _INFRARED[lamp.spec.technology]
    rest = max(0.0, radiant - taken)
    return Gives(
        ppfd=ppfd,
        leaf_w=taken,
        sheet_w=rest * (1 - (1 - _TO_SHEET) * pot_share),
        pot_w=rest * (1 - _TO_SHEET) * pot_share,
        lamp_w=max(0.0, power - radiant - hood_w),
    )


def window_gives(ppfd: float, stand: Stand, floor_m2: float, pot_share: float) -> Gives:
    """Give what daylight does: as much again comes as near infrared.

    Parameters
    ----------
    ppfd : its light on the leaves, or inside the window without plants [µmol/m²/s]
    stand : the plants as one leaf
    floor_m2 : the space's floor [m²]
    pot_share : of the floor, what pots stand on

    Returns
    -------
    Gives : light, and heat to leaves, walls and pots
    """
    taken = 1.2 * ppfd * stand.area_m2 / _UMOL_PER_J * absorbed_share(stand.lai)
    rest = max(0.0, 2 * ppfd * floor_m2 / _UMOL_PER_J - taken)
    pots = rest * (1 - _TO_SHEET) * pot_share
    return Gives(ppfd=ppfd, leaf_w=taken, sheet_w=rest - pots, pot_w=pots)


def added(some: Sequence[Gives]) -> Gives:
    """Put together what several give at once.

    Parameters
    ----------
    some : at least one

    Returns
    -------
    Gives : their sum
    """
    names = ("ppfd", "leaf_w", "sheet_w", "pot_w", "lamp_w", "air_w")
    return Gives(**{name: sum(getattr(item, name) for item in some) for name in names})


def sources(
    space: Space, lighting: Lighting, stand: Stand, hood_w: float, pot_share: float
) -> Iterator[tuple[Schedule, Gives]]:
    """List what shines in a space, by when it is on.

    Parameters
    ----------
    lighting : its computed light
    stand : its plants as one leaf, all lamps on
    hood_w : heat that leaves through hoods of all lamps together [W]
    pot_share : of the floor, what pots stand on

    Returns
    -------
    iterator of (Schedule, Gives) : lamps that share their hours together; windows around noon
    """
    on = [(n, lamp) for n, lamp in enumerate(space.fixtures) if lamp.enabled and lamp.dim > 0]
    hooded = sum(fixture_load(lamp) * lamp.spec.hood_share for _, lamp in on)
    together: dict[Schedule, list[Gives]] = {}
    for number, lamp in on:
        part = hood_w * fixture_load(lamp) * lamp.spec.hood_share / hooded if hooded > 0 else 0.0
        found = lamp_gives(lamp, on_leaves(lighting.plants, number), stand, part, pot_share)
        together.setdefault(lamp.schedule, []).append(found)
    for schedule, some in together.items():
        yield schedule, added(some)
    floor = space.size.width_m * space.size.depth_m
    for number, window in enumerate(space.daylight):
        ppfd = on_leaves(lighting.plants, len(space.fixtures) + number)
        start = 12 - window.hours / 2
        clock = f"{int(start):02d}:{round(start % 1 * 60) % 60:02d}"
        yield Daily(start=clock, hours=window.hours), window_gives(ppfd, stand, floor, pot_share)
