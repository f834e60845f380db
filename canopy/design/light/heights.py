"""Find the height and the spacing of the lamps, with the dimmers set anew for each that is tried."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from canopy.design.light.dimmers import best_dimmers
from canopy.design.light.proposal import Proposal, Tried, basis_of, judged, unmet
from canopy.evaluate.light.headroom import over
from canopy.evaluate.light.lighting import lighting
from canopy.light.scene import DEFAULT, PREVIEW, Quality
from canopy.margin import Amount, Sentence, sentence
from canopy.plan.changes import Change
from canopy.plan.document import Fixture, Space
from canopy.plan.levels import roof_m
from canopy.plan.pose import corners
from canopy.season import Standing

_STEPS = 13
_SPREADS = 9


def _dimmed(here: Standing, quality: Quality) -> Standing:
    dims = best_dimmers(here, basis_of(here, quality))
    lamps = tuple(
        lamp.model_copy(update={"dim": round(float(np.clip(dim, 0, 1)), 2)}) if lamp.enabled else lamp
        for lamp, dim in zip(here.space.fixtures, dims, strict=True)
    )
    return here.moved(here.space.model_copy(update={"fixtures": lamps}))


def _best(tried: list[tuple[Standing, Tried]]) -> tuple[Standing, Tried]:
    """The least miss; among those about as good the most even, then the least power."""
    least = min(item.miss for _, item in tried)
    able = [pair for pair in tried if pair[1].miss <= least + 0.02]
    even = max(item.evenness for _, item in able)
    return min((pair for pair in able if pair[1].evenness >= min(even, 0.7) - 0.03), key=lambda pair: pair[1].power_w)


def _search(
    here: Standing, values: list[float], setting: Callable[[float], Space], quality: Quality = PREVIEW
) -> list[tuple[Standing, Tried]]:
    found = []
    for value in values:
        moved = _dimmed(here.moved(setting(value)), quality)
        found.append((moved, judged(moved, lighting(moved, quality, with_map=False), value)))
    return found


def _changes(old: tuple[Fixture, ...], new: tuple[Fixture, ...], keys: tuple[str, ...]) -> tuple[Change, ...]:
    out = []
    for before, after in zip(old, new, strict=True):
        values = {key: getattr(after, key) for key in keys if getattr(after, key) != getattr(before, key)}
        if values:
            out.append(Change(collection="fixtures", part_id=before.id, values=values))
    return tuple(out)


def _proposal(
    here: Standing,
    found: list[tuple[Standing, Tried]],
    key: str,
    label: Sentence,
    keys: tuple[str, ...],
    best: Standing,
) -> Proposal | None:
    changes = _changes(here.space.fixtures, best.space.fixtures, keys)
    if not changes:
        return None
    left = unmet(best, lighting(best, DEFAULT, with_map=False))
    return Proposal(key=key, label=label, changes=changes, unmet=left, tried=tuple(item for _, item in found))


def _shifts(here: Standing) -> tuple[float, float]:
    """How far all lamps may move down and up together [m]."""
    lowering, raising = [-10.0], [10.0]
    for lamp in (lamp for lamp in here.space.fixtures if lamp.enabled):
        tops = [plant.top_m for plant in here.plants if over(here.space, lamp, plant)]
        lowering.append(max(tops, default=0.0) + lamp.least_distance_m - lamp.z_m)
        roof = roof_m(here.space, lamp.x_m, lamp.y_m, lamp.z_m)
        raising.append(roof - lamp.spec.thickness_m - min(lamp.spec.hanger_m, 0.05) - lamp.z_m)
    return max(lowering), min(raising)


def find_height(here: Standing) -> Proposal | None:
    """Propose a height for the lamps, all moved alike, and dimmers to go with it.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    Proposal : with coverage, evenness and power of every height that was tried; None where there is nothing to move
    """
    found = _at_heights(here, _STEPS, PREVIEW)
    if not found:
        return None
    best, tried = _best(found)
    label = sentence("Hang the lamps at {z} and set their dimmers", z=Amount(value=tried.value, unit="length"))
    return _proposal(here, found, "height", label, ("z_m", "dim"), best)


def hung_best(here: Standing, steps: int, quality: Quality) -> tuple[Change, ...]:
    """Say how the lamps would be moved and dimmed to hang at the best of a few heights.

    Parameters
    ----------
    here : the space on a day
    steps : how many heights are looked at from the lowest to the highest, 2 or more
    quality : how finely to cut the walls

    Returns
    -------
    tuple of Change : of the lamps; empty where there is nothing to move, or where they hang best as they are
    """
    found = _at_heights(here, steps, quality)
    return _changes(here.space.fixtures, _best(found)[0].space.fixtures, ("z_m", "dim")) if found else ()


def _at_heights(here: Standing, steps: int, quality: Quality) -> list[tuple[Standing, Tried]]:
    """The lamps at each of so many heights, all moved alike, their dimmers set anew."""
    lamps = [lamp for lamp in here.space.fixtures if lamp.enabled]
    low, high = _shifts(here)
    if not lamps or not here.plants or high <= low:
        return []
    now = min(lamp.z_m for lamp in lamps)

    def at(value: float) -> Space:
        shift = value - now
        moved = tuple(
            lamp.model_copy(update={"z_m": round(lamp.z_m + shift, 3)}) if lamp.enabled else lamp
            for lamp in here.space.fixtures
        )
        return here.space.model_copy(update={"fixtures": moved})

    return _search(here, [round(now + float(s), 3) for s in np.linspace(low, high, steps)], at, quality)


def space_lamps(here: Standing) -> Proposal | None:
    """Propose how far apart lamps hang, drawn together or apart about their middle, and dimmers to go with it.

    Parameters
    ----------
    here : the space on a day, with two lamps or more

    Returns
    -------
    Proposal : with every spread that was tried; None where there is one lamp or no room to move
    """
    lamps = [lamp for lamp in here.space.fixtures if lamp.enabled]
    if len(lamps) < 2 or not here.plants:
        return None
    size = here.space.size
    x0, y0 = size.width_m / 2, size.depth_m / 2
    boxes = {lamp.id: corners(lamp) for lamp in lamps}
    least, most = _spread_limits(lamps, boxes, (x0, y0), (size.width_m, size.depth_m))
    if most - least < 0.02:
        return None

    def at(value: float) -> Space:
        moved = tuple(
            lamp.model_copy(
                update={"x_m": round(x0 + (lamp.x_m - x0) * value, 4), "y_m": round(y0 + (lamp.y_m - y0) * value, 4)}
            )
            if lamp.enabled
            else lamp
            for lamp in here.space.fixtures
        )
        return here.space.model_copy(update={"fixtures": moved})

    found = _search(here, [float(value) for value in np.linspace(least, most, _SPREADS)], at)
    best, _ = _best(found)
    label = _spread_label(best.space)
    return _proposal(here, found, "spacing", label, ("x_m", "y_m", "dim"), best)


def _spread_label(space: Space) -> Sentence:
    """Say where lamps hang, in lengths from the left and from the front, as far as they differ."""
    lamps = [lamp for lamp in space.fixtures if lamp.enabled]
    words, amounts = [], dict[str, Amount]()
    for key, where in (("x_m", "from the left"), ("y_m", "from the front")):
        places = sorted({round(getattr(lamp, key), 2) for lamp in lamps})
        if len(places) > 1:
            names = [f"{key[0]}{k}" for k in range(len(places))]
            amounts |= {name: Amount(value=at, unit="length") for name, at in zip(names, places, strict=True)}
            told = ", ".join(f"{{{name}}}" for name in names[:-1]) + f" and {{{names[-1]}}}"
            words.append(f"{told} {where}")
    return sentence(f"Hang the lamps at {'; '.join(words)} and set their dimmers", **amounts)


def _spread_limits(
    lamps: list[Fixture],
    boxes: dict[str, np.ndarray[tuple[int, ...], np.dtype[np.float64]]],
    middle: tuple[float, float],
    size: tuple[float, float],
) -> tuple[float, float]:
    """Least and greatest factor on lamps' distances from the middle: no two overlap, none leaves the space."""
    most, least = 3.0, 0.05
    for lamp in lamps:
        box = boxes[lamp.id]
        for axis, here in enumerate((lamp.x_m, lamp.y_m)):
            half = float(np.ptp(box[:, axis])) / 2
            away = abs(here - middle[axis])
            if away > 1e-6:
                most = min(most, (size[axis] / 2 - half - 0.005) / away)
    for number, one in enumerate(lamps):
        for two in lamps[number + 1 :]:
            if abs(one.z_m - two.z_m) > 0.1:
                continue
            needed = []
            for axis, gap in enumerate((abs(one.x_m - two.x_m), abs(one.y_m - two.y_m))):
                both = float(np.ptp(boxes[one.id][:, axis]) + np.ptp(boxes[two.id][:, axis])) / 2 + 0.005
                needed.append(both / gap if gap > 1e-6 else np.inf)
            least = max(least, min(needed))
    return least, most
