"""How a space is watered, and what a person has settled about its recurring work."""

from __future__ import annotations

import datetime as dt
from typing import Annotated, Literal

from pydantic import Field

from canopy.model import Id, Record
from canopy.schedule import Clock

WateringWay = Literal["hand", "wick", "self-watering", "tray", "drip", "spray", "gravity", "circulating"]
WATERING: dict[WateringWay, str] = {
    "hand": "by hand",
    "wick": "by wicks from a tank",
    "self-watering": "self-watering pots",
    "tray": "from a tray below",
    "drip": "drippers on a timer",
    "spray": "sprayers on a timer",
    "gravity": "drippers from a tank above",
    "circulating": "a reservoir that circulates",
}
# Ways in which water runs for set minutes, and ways in which plants draw as they need.
TIMED: tuple[WateringWay, ...] = ("drip", "spray", "gravity")
STANDING: tuple[WateringWay, ...] = ("wick", "self-watering", "tray")


class Watering(Record):
    """How water comes to the pots: from a ``tank_l`` (of all wells together for self-watering pots and trays), through
    emitters that give ``flow_l_h`` in all, ``runs`` times a day, the first at ``first_at``.
    """

    way: WateringWay = "hand"
    tank_l: Annotated[float, Field(gt=0, le=2000)] | None = None
    flow_l_h: Annotated[float, Field(gt=0, le=2000)] | None = None
    runs: Annotated[int, Field(ge=1, le=24)] = 2
    first_at: Clock = "08:00"


class CareRule(Record):
    """What a person settled about one kind of recurring work, or work of their own (``job`` empty, with a name).

    ``job`` names the work, such as "scout" or "humidifier.device-3"; ``every_days``, ``at`` and ``starts_on`` take the
    place of what the plan derives, and ``off`` leaves it out.
    """

    id: Id
    job: Annotated[str, Field(max_length=80)] = ""
    name: Annotated[str, Field(max_length=120)] = ""
    every_days: Annotated[int, Field(ge=1, le=730)] | None = None
    at: Clock | None = None
    starts_on: dt.date | None = None
    off: bool = False
    note: Annotated[str, Field(max_length=300)] = ""


class Course(Record):
    """An outbreak of a pest that is followed until it is over: which, since when, with which helper (by its name, ""
    for none), and when it ended.
    """

    id: Id
    pest: Id
    begun_on: dt.date
    helper: Annotated[str, Field(max_length=80)] = ""
    ended_on: dt.date | None = None
