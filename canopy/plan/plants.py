"""Plants in their places, and the plantings whose days they follow."""

from __future__ import annotations

import datetime as dt
from math import log
from typing import Annotated, Literal

from pydantic import Field, model_validator

from canopy.library.models import ContainerKind, Habit
from canopy.model import Id, Name, Record
from canopy.plan.shell import Offset


class Training(Record):
    """What is done to keep plants low: cut back to a height on a day, or held at it from then on (tied, under a
    net).
    """

    id: Id
    on: dt.date
    height_m: Annotated[float, Field(gt=0, le=6)]
    how: Literal["cut", "hold"] = "hold"


class Planting(Record):
    """Plants begun together: on their first day they enter ``first_stage``; ``stage_days`` are lengths of the person's
    own for some stages; on ``cleared_on`` they are gone. ``yield_amount`` is what a person expects of them in all;
    ``sown`` how many seeds or cuttings it began with, ``spent`` what these and their mix cost, ``shop_price`` what a
    kilogram costs in a shop [currency].
    """

    id: Id
    name: Name
    crop_id: Id
    starts_on: dt.date
    first_stage: str = ""
    stage_days: dict[str, Annotated[int, Field(ge=1, le=2000)]] = Field(default_factory=dict)
    trainings: tuple[Training, ...] = Field(default=(), max_length=20)
    cleared_on: dt.date | None = None
    yield_amount: Annotated[float, Field(gt=0, le=100_000)] | None = None
    yield_unit: Annotated[str, Field(max_length=20)] = "kg"
    sown: Annotated[int, Field(ge=1, le=100_000)] | None = None
    spent: Annotated[float, Field(ge=0, le=1_000_000)] | None = None
    shop_price: Annotated[float, Field(ge=0, le=100_000)] | None = None


def cell_pitch_m(width_m: float, depth_m: float, cells: int) -> tuple[float, float]:
    """Give how far apart the cells of a tray lie.

    Parameters
    ----------
    width_m : its footprint [m]
    depth_m : its footprint [m]
    cells : how many cells, 1 or more

    Returns
    -------
    tuple of float : along the width, along the depth [m]; the raster whose cells are nearest to squares
    """
    rows = min(range(1, cells + 1), key=lambda n: abs(log(width_m / -(-cells // n) * n / depth_m)))
    return width_m / -(-cells // rows), depth_m / rows


def standing_room_m(plant: Plant) -> tuple[float, float]:
    """Give the ground that a plant's pot or tray takes.

    Returns
    -------
    tuple of float : width and depth [m]; of a pot without a width that of its usual shape, a tenth wider than high
    """
    width = plant.pot_width_m or max(0.06, 1.1 * plant.pot_height_m)
    return width, plant.pot_depth_m or width


class Plant(Record):
    """A plant (or a tray of shoots, or a pot of bulbs) and the place of its stem.

    Without a planting it stands as it is described: stage, height and spread. With a planting its days decide; a
    height and spread typed on a day (``seen_on``) then draw the growth curve through what was seen. ``from_day`` and
    ``until_day`` say when it stands here, for what is moved from one space to another. An ``outward`` plant grows from
    a wall or column the way of ``facing_deg`` (0 = +x, 90 = +y); one that climbs a ``wall``, trellis or column stands
    at the nearest of them and grows up and that way. Its leaves are taken off up to ``stripped_m`` above the pot's rim.
    A tray of known width and depth is one plant of that footprint: a mat of shoots, or ``cells`` young plants of the
    given height and spread, one in each of its cells.
    """

    id: Id
    crop_id: Id
    stage: str | None = None
    planting_id: Id | None = None
    x_m: Offset
    y_m: Offset
    base_m: Annotated[float, Field(ge=0, le=6)] = 0.0
    pot_kind: ContainerKind = "pot"
    pot_height_m: Annotated[float, Field(ge=0, le=1.5)] = 0.12
    pot_volume_l: Annotated[float, Field(gt=0, le=500)] | None = None
    pot_width_m: Annotated[float, Field(gt=0, le=3)] | None = None
    pot_depth_m: Annotated[float, Field(gt=0, le=3)] | None = None
    cells: Annotated[int, Field(ge=1, le=400)] | None = None
    height_m: Annotated[float, Field(gt=0, le=6)] | None = None
    spread_m: Annotated[float, Field(gt=0, le=4)] | None = None
    seen_on: dt.date | None = None
    stripped_m: Annotated[float, Field(ge=0, le=4)] = 0.0
    habit: Habit = "stand"
    facing_deg: Annotated[float, Field(ge=-360, le=360)] = 270.0
    from_day: dt.date | None = None
    until_day: dt.date | None = None

    @model_validator(mode="after")
    def _settled(self) -> Plant:
        size = (self.height_m, self.spread_m)
        if self.planting_id is None and (self.stage is None or None in size):
            raise ValueError("a plant without a planting needs its stage, height_m and spread_m")
        if self.planting_id is not None and self.stage is not None:
            raise ValueError("the days of its planting decide the stage: leave stage out, or leave out planting_id")
        if self.planting_id is not None and len({value is None for value in (*size, self.seen_on)}) > 1:
            raise ValueError("give height_m, spread_m and the day they were seen_on together, or none of them")
        if self.cells is not None and (self.pot_kind != "tray" or None in (self.pot_width_m, self.pot_depth_m)):
            raise ValueError("cells are a tray's: give its kind, pot_width_m and pot_depth_m too, or leave cells out")
        if self.from_day and self.until_day and self.from_day > self.until_day:
            raise ValueError("it would leave before it comes: from_day lies after until_day")
        return self
