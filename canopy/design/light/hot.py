"""Ways out of a lamp that is too hot for what is near it: off the lining, and off the leaves."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from canopy.design.change import Remedy
from canopy.design.light.mend import dimmed, heights, hung_at, lit_lamps, moved_to
from canopy.evaluate.light.headroom import over
from canopy.evaluate.light.lamp_care import clear_m, free_m, kind_of
from canopy.evaluate.light.lighting import lighting
from canopy.evaluate.space import SpaceReport, leaf_warmth
from canopy.light.scene import PREVIEW
from canopy.margin import Amount, Margin, first_amount, sentence
from canopy.plan.changes import Change
from canopy.plan.document import Fixture, Space
from canopy.plan.levels import roof_m
from canopy.plan.pose import corners
from canopy.season import Standing

# Lamps are turned down by so much at a time.
_DIMMER = (0.9, 0.8, 0.7, 0.6, 0.5, 0.4, 0.3)
# Heights are tried two by two.
_EVERY = 2
# A lamp that is moved gets so much more than it needs; so little is no lack [m].
_SPARE_M, _NOTHING_M = 1e-3, 1e-6


def mend_surface(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Mend a hot lamp too near to lining, shelf or ceiling: move it off, with room to spare where there is any.

    Parameters
    ----------
    report : the space's report
    margin : one of its margins, of this kind

    Returns
    -------
    Remedy : None where the lamp cannot keep its least gap without coming too near to the plants below it
    """
    space = report.space
    lamp = next(item for item in space.fixtures if item.id == margin.parts[0])
    least = kind_of(lamp).clear_m
    for gap in (free_m(lamp.spec.technology), least):
        values = _off(report.here, lamp, gap)
        moved = lamp.model_copy(update=values)
        others = tuple(moved if item.id == lamp.id else item for item in space.fixtures)
        if values and clear_m(space.model_copy(update={"fixtures": others}), moved)[0] >= least:
            return _remedy(space, lamp, values)
    return None


def _off(here: Standing, lamp: Fixture, gap_m: float) -> dict[str, float]:
    """Where a lamp has so much room on all sides that count; only what changes. It stays off the plants below."""
    space, box = here.space, corners(lamp)
    low, high = box.min(axis=0), box.max(axis=0)
    found = {}
    for axis, (name, size) in enumerate((("x_m", space.size.width_m), ("y_m", space.size.depth_m))):
        into, out = gap_m - float(low[axis]), size - gap_m - float(high[axis])
        if into > out:
            return {}
        shift = float(np.clip(0.0, into, out))
        if abs(shift) > _NOTHING_M:
            spare = min(_SPARE_M, (out - into) / 2)
            found[name] = round(getattr(lamp, name) + shift + float(np.copysign(spare, shift)), 4)
    sink = float(high[2]) + gap_m - roof_m(space, lamp.x_m, lamp.y_m, float(low[2]))
    if sink > _NOTHING_M:
        tops = [plant.top_m for plant in here.plants if over(space, lamp, plant)]
        lowest = max(tops, default=0.0) + lamp.least_distance_m
        z = max(lamp.z_m - sink - _SPARE_M, lowest)
        if z > lamp.z_m - sink:
            return {}
        found["z_m"] = round(z, 4)
    return found


def _remedy(space: Space, lamp: Fixture, values: dict[str, float]) -> Remedy:
    number = space.fixtures.index(lamp) + 1
    amounts = {name[0]: Amount(value=value, unit="length") for name, value in values.items()}
    places = {"x": "{x} from the left", "y": "{y} from the front", "z": "a height of {z}"}
    words = " and ".join(text for name, text in places.items() if name in amounts)
    alone = list(amounts) == ["z"]
    return Remedy(
        label=sentence(f"Hang lamp {number} at {{z}}" if alone else f"Move lamp {number} to {words}", **amounts),
        changes=(Change(collection="fixtures", part_id=lamp.id, values=dict(values)),),
    )


def mend_warmth(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Mend leaves that a lamp makes too warm: hang the lamps higher, or where that does not do, dim them.

    Parameters
    ----------
    report : the space's report, with its light and air
    margin : one of its margins, of this kind

    Returns
    -------
    Remedy : the first that keeps leaves under their limit in the air as it is; where none does, the one that leaves
        them coolest; None where there is none
    """
    if margin.verdict != "over" or not lit_lamps(report.space):
        return None
    coolest: tuple[float, Remedy] | None = None
    for there, remedy in _cooler(report):
        light = lighting(there, PREVIEW, with_map=False)
        found = leaf_warmth(there, light, report.breathing)
        if all(item.verdict != "over" for item in found):
            return remedy
        warmest = max(amount.value for item in found if (amount := first_amount(item.there)))
        if coolest is None or warmest < coolest[0]:
            coolest = warmest, remedy
    return coolest[1] if coolest else None


def _cooler(report: SpaceReport) -> Iterator[tuple[Standing, Remedy]]:
    here, space = report.here, report.space
    for z in heights(here, down=False)[::_EVERY]:
        yield moved_to(here, z), hung_at(space, z)
    for factor in _DIMMER:
        remedy = dimmed(space, factor)
        if remedy is not None:
            dims = {change.part_id: change.values for change in remedy.changes if isinstance(change, Change)}
            lamps = tuple(lamp.model_copy(update=dims.get(lamp.id, {})) for lamp in space.fixtures)
            yield here.moved(space.model_copy(update={"fixtures": lamps})), remedy
