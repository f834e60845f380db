"""Which space for which crop: a list of crops laid over the spaces of a household, so that most of them do well."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from canopy.designer.crops_for import CropFinder, Together, floor_m2
from canopy.designer.sharing import parted_by
from canopy.evaluate.space import SpaceReport
from canopy.library import Crop

Array = NDArray[np.float64]
# Up to here a crop is put into a space at all; how much of a floor plants at their spacing take up.
_NEAR, _FILLED = 1.0, 0.7
# That a crop has a place counts so much more than how well it lies in its windows there.
_PLACED = 10.0


@dataclass(frozen=True, kw_only=True)
class Placed:
    """A crop with the space that serves it best beside the others, None where none does; ``miss`` is how far it lies
    outside its windows there at a glance, ``share`` what part of the floor it takes.
    """

    crop: Crop
    count: int
    space_id: str | None
    miss: float = 0.0
    share: float = 0.0
    why: str = ""


def best_spaces(reports: Sequence[SpaceReport], wanted: Sequence[tuple[Crop, int]]) -> tuple[Placed, ...]:
    """Lay crops over spaces as they stand, empty of what grows there now.

    Parameters
    ----------
    reports : of the spaces, each followed through its day
    wanted : crops with how many plants of each, each crop once

    Returns
    -------
    tuple of Placed : in the order of the crops

    Notes
    -----
    An integer programme (HiGHS): as many crops as possible get a space, then those are chosen in whose windows they lie
    best; crops of one space share every window two by two, and have room beside each other at their spacing.
    """
    from scipy.optimize import Bounds, LinearConstraint, milp

    crops = [crop for crop, _ in wanted]
    finders = [CropFinder(report) for report in reports]
    misses = np.array([[_miss(finder, crop) for finder in finders] for crop in crops])
    misses = misses.reshape(len(crops), len(reports))
    shares = np.array(
        [
            [max(1, count) * crop.spacing_m**2 / (_FILLED * floor_m2(item.space)) for item in reports]
            for crop, count in wanted
        ]
    ).reshape(misses.shape)
    able = (misses <= _NEAR) & (shares <= 1.0)
    rows, most = [], []
    for number in range(len(crops)):
        row = np.zeros(misses.shape)
        row[number] = 1
        rows.append(row)
        most.append(1.0)
    for place in range(len(reports)):
        row = np.zeros(misses.shape)
        row[:, place] = shares[:, place]
        rows.append(row)
        most.append(1.0)
        for one, two in combinations(range(len(crops)), 2):
            if parted_by(crops[one], crops[two]):
                row = np.zeros(misses.shape)
                row[[one, two], place] = 1
                rows.append(row)
                most.append(1.0)
    chosen = np.zeros(misses.shape)
    if misses.size and able.any():
        gain = np.where(able, _PLACED - np.minimum(misses, _NEAR), 0.0)
        found = milp(
            -gain.ravel(),
            constraints=LinearConstraint(np.array([row.ravel() for row in rows]), -np.inf, np.array(most)),
            integrality=np.ones(gain.size),
            bounds=Bounds(0, able.astype(float).ravel()),
        )
        chosen = np.round(found.x).reshape(misses.shape) if found.x is not None else chosen
    return tuple(
        _placed(crop, count, number, chosen, misses, shares, reports) for number, (crop, count) in enumerate(wanted)
    )


def beside_each_other(reports: Sequence[SpaceReport], placed: Sequence[Placed]) -> tuple[Together, ...]:
    """Judge each space with the crops that were laid into it, all of them at once, as a plan is judged.

    Parameters
    ----------
    reports : of the spaces, each followed through its day
    placed : crops with their spaces

    Returns
    -------
    tuple of Together : in the order of the spaces, those alone that get a crop
    """
    found = []
    for report in reports:
        wanted = [(item.crop, max(1, item.count)) for item in placed if item.space_id == report.space.id]
        fit = CropFinder(report).together(wanted)
        if fit is not None:
            found.append(fit)
    return tuple(found)


def _miss(finder: CropFinder, crop: Crop) -> float:
    fit = finder.glance(crop)
    return 99.0 if fit is None else fit.miss


def _placed(
    crop: Crop,
    count: int,
    number: int,
    chosen: Array,
    misses: Array,
    shares: Array,
    reports: Sequence[SpaceReport],
) -> Placed:
    places = np.flatnonzero(chosen[number] > 0.5)
    if len(places):
        place = int(places[0])
        return Placed(
            crop=crop,
            count=count,
            space_id=reports[place].space.id,
            miss=float(misses[number, place]),
            share=float(shares[number, place]),
        )
    if not len(reports) or misses[number].min() > _NEAR:
        why = "no space has the air and the light for it as it stands"
    elif (shares[number][misses[number] <= _NEAR] > 1).all():
        near = [report for report, miss in zip(reports, misses[number], strict=True) if miss <= _NEAR]
        room = max(int(_FILLED * floor_m2(report.space) / crop.spacing_m**2) for report in near)
        why = f"where it would do well there is no room for so many, but for {room}"
    else:
        why = "where it would do well others stand that it does not share with, or fill the floor"
    return Placed(crop=crop, count=count, space_id=None, why=why)
