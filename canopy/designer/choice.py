"""What is chosen for a space: each part one of a few, so that a choice can be tried, told and enumerated."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from itertools import product
from math import prod
from typing import Literal

from canopy.designer.lamps import LampSet
from canopy.equipment import FanSpec
from canopy.plan.care import WateringWay

# What devices for the climate are sized for: the day looked at, the year's coldest and hottest too, or a size more.
Equip = Literal["today", "year", "larger"]


@dataclass(frozen=True, kw_only=True)
class Vent:
    """How a space is aired: by a fan, with or without a carbon filter; by two gaps left open, low and high, so many
    times as large as the usual exchange asks for (a share of its height and depth in a case of glass, whose lid and
    front are pushed back); by its door left open; or not at all.
    """

    fan: FanSpec | None = None
    filtered: bool = False
    gaps: float = 0.0
    door: bool = False

    @property
    def key(self) -> str:
        """Its name among the vents."""
        if self.fan is not None:
            return f"{self.fan.class_id}{'+filter' if self.filtered else ''}"
        if self.door:
            return "door"
        return f"gaps {self.gaps:g}" if self.gaps else "closed"


@dataclass(frozen=True, kw_only=True, eq=False)
class Choices:
    """What each part can be. ``flows`` are how many times the usual exchange a fan moves; ``controls`` whether it is
    turned by the air; ``equips`` what devices for the climate are sized for.
    """

    lamps: tuple[LampSet, ...]
    vents: tuple[Vent, ...]
    flows: tuple[float, ...] = (1.0, 1.3, 1.7)
    controls: tuple[bool, ...] = (False, True)
    equips: tuple[Equip, ...] = ("today", "year", "larger")
    waters: tuple[WateringWay, ...] = ("hand", "drip")

    @property
    def rows(self) -> Mapping[str, int]:
        """How many there are of each part, by its name."""
        return {
            "lamps": len(self.lamps),
            "vent": len(self.vents),
            "flow": len(self.flows),
            "control": len(self.controls),
            "equip": len(self.equips),
            "water": len(self.waters),
        }

    def __len__(self) -> int:
        return prod(self.rows.values())

    def all(self) -> Iterator[dict[str, int]]:
        """Give every choice there is.

        Returns
        -------
        iterator of dict : number of each part, by its name
        """
        for picked in product(*(range(count) for count in self.rows.values())):
            yield dict(zip(self.rows, picked, strict=True))

    def around(self, picked: Mapping[str, int]) -> Iterator[dict[str, int]]:
        """Give the choices that differ in one part.

        Parameters
        ----------
        picked : number of each part, by its name

        Returns
        -------
        iterator of dict : each part's others, the nearest first
        """
        for name, count in self.rows.items():
            for number in sorted(range(count), key=lambda k, at=picked[name]: (abs(k - at), k)):  # type: ignore[misc]
                if number != picked[name]:
                    yield {**picked, name: number}

    def at(self, picked: Mapping[str, int]) -> Choice:
        """Give a choice by the number of each part.

        Parameters
        ----------
        picked : number of each part, by its name

        Returns
        -------
        Choice : what does not matter to it (the flow of a space without a fan) is set to the first
        """
        vent = self.vents[picked["vent"]]
        flow = self.flows[picked["flow"] if vent.fan else 0]
        return Choice(
            lamps=self.lamps[picked["lamps"]],
            vent=vent,
            flow=flow,
            control=self.controls[picked["control"] if vent.fan else 0],
            equip=self.equips[picked["equip"]],
            water=self.waters[picked["water"]],
        )


@dataclass(frozen=True, kw_only=True, eq=False)
class Choice:
    """One of each part."""

    lamps: LampSet
    vent: Vent
    flow: float
    control: bool
    equip: Equip
    water: WateringWay

    @property
    def key(self) -> str:
        """What tells it from others."""
        return f"{self.lamps.key}|{self.vent.key}|{self.flow:g}|{'turned' if self.control else 'steady'}|{self.rest}"

    @property
    def rest(self) -> str:
        """What tells its devices and its water from others."""
        return f"{self.equip}|{self.water}"
