"""What readings taught about a space: factors on what is computed of it, dated, that count until they are set aside."""

from __future__ import annotations

import datetime as dt
from collections.abc import Hashable
from functools import lru_cache
from zlib import crc32

from canopy.model import Record
from canopy.plan.correction import Correction, Subject
from canopy.plan.document import Space


def factor_on(space: Space, subject: Subject, target: str | None = None) -> float:
    """Give the factor in force on something of a space.

    Parameters
    ----------
    space : as it stands on a day
    subject : what is computed
    target : id of the way of air, the device or the planting; None for what concerns the space

    Returns
    -------
    float : 1 without a correction that counts
    """
    for item in space.learnt:
        if item.subject == subject and item.target == target and counts(space, item):
            return item.factor
    return 1.0


def counts(space: Space, item: Correction) -> bool:
    """Say whether a correction is in force: applied, and about what still stands there.

    Parameters
    ----------
    space : as it stands
    item : one of its corrections

    Returns
    -------
    bool : False when it was set aside or what was measured is another thing today
    """
    return item.applied and not lapsed(space, item)


def lapsed(space: Space, item: Correction) -> bool:
    """Say whether what was measured has been changed since.

    Parameters
    ----------
    space : as it stands
    item : one of its corrections

    Returns
    -------
    bool : False without a stamp
    """
    return bool(item.of) and item.of != stamp(space, item.subject, item.target)


def stamp(space: Space, subject: Subject, target: str | None = None) -> str:
    """Give a short mark of what a factor is about; another one as soon as that is another thing.

    Parameters
    ----------
    space : as it stands
    subject : what is computed
    target : id of the way of air or the device

    Returns
    -------
    str : eight hexadecimal digits. Speeds, dirt, hours and dimmers don't count: they are followed anyway
    """
    return _mark(_things(space, subject, target))


@lru_cache(maxsize=2048)
def _mark(things: Hashable) -> str:
    return f"{crc32(repr(things).encode()):08x}"


def _things(space: Space, subject: Subject, target: str | None) -> Hashable:
    shell = (space.kind, space.size, space.faces)
    match subject:
        case "airflow":
            way = next((way for way in space.airways if way.id == target), None)
            return way and (way.ends, way.way, tuple(_part(part) for part in way.parts))
        case "leak":
            return shell, space.air.leak_cm2, tuple(o.id for o in space.openings)
        case "walls":
            return shell, space.ground
        case "leaves":
            return tuple(sorted({plant.crop_id for plant in space.plants}))
        case "leaf-area":
            return tuple(sorted({p.crop_id for p in space.plants if target in (p.planting_id, p.crop_id)}))
        case "lamp-heat" | "lamp-light":
            return tuple((lamp.id, lamp.spec) for lamp in space.fixtures)
        case "device":
            device = next((item for item in space.devices if item.id == target), None)
            return device and device.spec


def _part(part: Record) -> Hashable:
    return tuple((key, value) for key, value in part if key not in ("speed", "other", "loading", "plug", "pinned"))


def on_day(space: Space, day: dt.date) -> Space:
    """Give a space with the corrections that were known on a day.

    Parameters
    ----------
    space : with all of them
    day : which

    Returns
    -------
    Space : itself where all are known by then
    """
    if all(item.found_on <= day for item in space.learnt):
        return space
    return space.model_copy(update={"learnt": tuple(item for item in space.learnt if item.found_on <= day)})
