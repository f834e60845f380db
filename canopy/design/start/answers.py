"""The few answers that a first space is made of."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from canopy.plan.rooms import USUAL_ROOM
from canopy.plan.shell import SpaceKind

# What a few answers make has no days yet: any day will do.
_ANY_DAY = dt.date(2026, 1, 1)


@dataclass(frozen=True, kw_only=True)
class Answers:
    """What a new grower says; ``more`` are further crops with their counts (0: as many as fit beside the others).

    Lamp and fan are chosen when left open (""), or left out ("none"). Of a rack ``levels`` are how many boards carry
    plants, the lowest among them; plants are shared out, and each level has its own lamps, ``lamp_count`` of them. The
    first crop stands in ``container_id`` (what it is usually grown in when ""), all on a platform of ``raised_m``.
    """

    space_id: str
    name: str
    kind: SpaceKind
    width_m: float
    depth_m: float
    height_m: float
    crop_id: str = ""
    stage: str = ""
    count: int = 0
    more: tuple[tuple[str, int], ...] = ()
    lamp_class_id: str = ""
    lamp_count: int = 0
    levels: int = 1
    container_id: str = ""
    raised_m: float = 0.0
    circuit_id: str | None = None
    room_id: str = USUAL_ROOM.id
