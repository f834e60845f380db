"""Place the plants: who stands on which of the spots there are (assignment by the Hungarian method)."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from canopy.design.light.proposal import Proposal, judged, unmet
from canopy.evaluate.light.lighting import crown_of, lighting
from canopy.light.crowns import Crown
from canopy.light.emitters import Emitter
from canopy.light.passing import passing_share
from canopy.light.scene import DEFAULT, PREVIEW, emitter_of, field_of, hours, inside, weights
from canopy.margin import Amount, sentence
from canopy.plan.changes import Change
from canopy.season import Growing, Standing

Array = NDArray[np.float64]
# A miss of the whole window weighs as much as taking this share of all others' light.
_SHADE = 4.0
_STAY = 1e-3


def place_plants(here: Standing) -> Proposal | None:
    """Propose places for a space's plants.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    Proposal : plants of one level change places among themselves; None where all stand well

    Notes
    -----
    Cost of a plant on a spot: how far its daily light there lies outside (or from the middle of) its window, plus what
    its crown would take from the light of all other spots. Light on a spot is computed at the plant's own height,
    with nobody else in the way. Solved exactly by the Hungarian method (scipy.optimize.linear_sum_assignment).
    """
    from scipy.optimize import linear_sum_assignment

    movable = [plant for plant in here.plants if plant.plant.habit in ("stand", "pole", "hang")]
    changes: list[Change] = []
    for base in sorted({round(plant.plant.base_m, 3) for plant in movable}):
        level = [plant for plant in movable if round(plant.plant.base_m, 3) == base]
        if len(level) < 2 or len({(plant.crop_id, plant.stage, round(plant.height_m, 3)) for plant in level}) < 2:
            continue
        cost = _costs(here, level)
        rows, spots = linear_sum_assignment(cost)
        for row, spot in zip(rows, spots, strict=True):
            if row != spot:
                at = level[spot].plant
                changes.append(
                    Change(collection="plants", part_id=level[row].id, values={"x_m": at.x_m, "y_m": at.y_m})
                )
    if not changes:
        return None
    after = _moved(here, changes)
    before_miss, after_miss = (_miss(item) for item in (here, after))
    if after_miss > before_miss - 1e-6:
        return None
    count = Amount(value=len(changes), unit="", decimals=0)
    left = unmet(after, lighting(after, DEFAULT, with_map=False))
    return Proposal(
        key="places", label=sentence("Let {n} plants change places", n=count), changes=tuple(changes), unmet=left
    )


def _kind(plant: Growing) -> tuple[str, str, float, float]:
    return plant.crop_id, plant.stage, round(plant.height_m, 3), round(plant.spread_m, 3)


def _costs(here: Standing, level: list[Growing]) -> Array:
    """Cost of each plant on each spot, shape (plants, spots)."""
    space = here.space
    spots = np.array([(plant.plant.x_m, plant.plant.y_m) for plant in level])
    field = field_of(space, PREVIEW, tuple(crown_of(plant) for plant in here.plants))
    share, lit = weights(space, here.day), hours(space)
    emitters = [emitter_of(lamp) for lamp, w in zip(space.fixtures, share, strict=False) if w > 0]
    heights = {kind: next(p for p in level if _kind(p) == kind) for kind in {_kind(p) for p in level}}
    middle = float(np.median([plant.top_m for plant in level]))
    cost = np.zeros((len(level), len(level)))
    by_kind: dict[tuple[str, str, float, float], Array] = {}
    for kind, plant in heights.items():
        top = min(plant.top_m, space.size.height_m - 0.01)
        points = inside(space, np.column_stack([spots, np.full(len(spots), top)]))
        dli = (field.at(points, shaded=False).total * share * lit).sum(axis=1) * 0.0036
        want = plant.want.dli_mol_m2_d
        outside = np.maximum(0, want.low / np.maximum(dli, 1e-6) - 1) + np.maximum(0, dli / want.high - 1)
        off = np.abs(dli - (want.low + want.high) / 2) / (want.high - want.low + 1e-6)
        by_kind[kind] = np.minimum(outside, 20) + 0.02 * off + _SHADE * _shadow(plant, spots, middle, emitters)
    for row, plant in enumerate(level):
        cost[row] = by_kind[_kind(plant)]
        cost[row, row] -= _STAY
    return cost


def _shadow(plant: Growing, spots: Array, level_m: float, emitters: list[Emitter]) -> Array:
    """Share of all other spots' direct light that a plant's crown would take from each spot, shape (spots,)."""
    if plant.top_m <= level_m + 0.01 or not emitters:
        return np.zeros(len(spots))
    points = np.column_stack([spots, np.full(len(spots), level_m)])
    up = np.tile([0.0, 0.0, 1.0], (len(points), 1))
    crown, out = crown_of(plant), np.zeros(len(spots))
    for number, (x, y) in enumerate(spots):
        moved = Crown(
            x_m=float(x),
            y_m=float(y),
            bottom_m=crown.bottom_m,
            top_m=crown.top_m,
            radius_m=crown.radius_m,
            half_m=crown.half_m,
            lai=crown.lai,
            extinction=crown.extinction,
        )
        others = np.arange(len(spots)) != number
        passed = [passing_share(emitter, (moved,), points[others], up[others]) for emitter in emitters]
        out[number] = 1 - float(np.mean(passed)) if others.any() else 0.0
    return out


def _moved(here: Standing, changes: list[Change]) -> Standing:
    to = {change.part_id: change.values for change in changes}
    plants = tuple(
        replace(plant, plant=plant.plant.model_copy(update=dict(to[plant.id]))) if plant.id in to else plant
        for plant in here.plants
    )
    return Standing(space=here.space, day=here.day, plants=plants, absent=here.absent)


def _miss(here: Standing) -> float:
    tried = judged(here, lighting(here, PREVIEW, with_map=False), 0.0)
    return tried.miss - 1e-4 * tried.evenness
