"""Scenarios as data: a small world, the knobs a person turns in it, what goes wrong, and what is to be held."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib.resources import files
from typing import Annotated, Literal

from pydantic import Field, ValidationError, model_validator

from canopy.equipment import DeviceSpec
from canopy.errors import LibraryError
from canopy.model import Id, Name, Record

Figure = Literal["air_c", "rh_pct", "vpd_kpa", "leaf_vpd_kpa", "root_c", "co2_ppm", "film_g", "light_pct"]
UNITS: dict[Figure, str] = {
    "air_c": "temperature",
    "rh_pct": "%",
    "vpd_kpa": "kPa",
    "leaf_vpd_kpa": "kPa",
    "root_c": "temperature",
    "co2_ppm": "ppm",
    "film_g": "g",
    "light_pct": "%",
}
Positive = Annotated[float, Field(gt=0)]
Share = Annotated[float, Field(ge=0, le=1)]
Hour = Annotated[float, Field(ge=0, le=96)]


class RoomHour(Record):
    """The room at an hour after the beginning: temperature [°C], humidity [%]; straight in between."""

    at_h: Hour
    c: Annotated[float, Field(ge=-20, le=50)]
    rh: Annotated[float, Field(ge=5, le=100)]


class Box(Record):
    """An enclosure: its size [m], wall material, leaks [m³/h], ground under leaves [m²] and their leaf area index, pots
    [m², J/K], what passes to the floor [W/K], lamps [W] and their light on the leaves [µmol/m²/s], and the air it
    begins with.
    """

    id: Id
    name: Name
    width_m: Positive
    depth_m: Positive
    height_m: Positive
    wall: Id
    leak_m3_h: Annotated[float, Field(ge=0)] = 0.5
    ground_m2: Annotated[float, Field(ge=0)] = 0.0
    lai: Annotated[float, Field(ge=0, le=8)] = 0.0
    pots_m2: Positive = 0.2
    pots_j_k: Positive = 20_000.0
    floor_w_k: Annotated[float, Field(ge=0)] = 1.0
    wet: Share = 0.1
    lamp_w: Annotated[float, Field(ge=0)] = 0.0
    ppfd: Annotated[float, Field(ge=0)] = 0.0
    start_c: float | None = None
    start_rh: Annotated[float, Field(ge=5, le=100)] | None = None


class Machine(Record):
    """A device in a box."""

    id: Id
    box: Id
    spec: DeviceSpec


class Mover(Record):
    """What moves air: a fan that draws it out of a box into the room, a loop between two boxes, or a lid or vent that
    lets it change places with the room; so much at full or wide open [m³/h].
    """

    id: Id
    box: Id
    kind: Literal["exhaust", "loop", "vent"]
    into: Id | None = None
    m3_h: Positive


class Knob(Record):
    """What a person turns: a lamp's dimmer, a mover or machine by its level (0..1), or a machine by the setting of its
    thermostat, hygrostat or CO2 regulator; ``off`` is the value at which it does nothing.
    """

    id: Id
    name: Name
    acts: Id
    way: Literal["level", "air", "root", "rh", "co2"] = "level"
    band: Positive = 1.0
    values: tuple[float, ...] = Field(min_length=2, max_length=12)
    start: float
    off: float | None = None

    @model_validator(mode="after")
    def _begins_among_them(self) -> Knob:
        if self.start not in self.values:
            raise ValueError(f"it begins at {self.start:g}, which is none of its values")
        return self


class Event(Record):
    """What happens at an hour: a machine or mover ``fails`` or ``sticks`` (on) until another hour."""

    at_h: Hour
    until_h: Hour
    what: Literal["fails", "sticks"]
    target: Id
    said: Name


class Goal(Record):
    """What is to be held: a figure of a box between two values, from one hour to another; a value so far outside as
    ``scale`` earns nothing, nearer ones in step.
    """

    box: Id
    figure: Figure
    name: Name
    low: float
    high: float
    scale: Positive
    lit_only: bool = False
    from_h: Hour = 0.0
    to_h: Hour = 96.0


class ParMove(Record):
    """A move of an even hand."""

    at_h: Hour
    knob: Id
    value: float


class Scenario(Record):
    """A small world to be held in hand for some hours."""

    id: Id
    name: Name
    level: Annotated[int, Field(ge=1, le=4)]
    story: str
    hint: str
    lesson: str
    hours: Annotated[float, Field(ge=2, le=72)]
    starts_h: Annotated[float, Field(ge=0, lt=24)] = 8.0
    minutes: Annotated[float, Field(ge=1, le=10)] = 3.0
    lit: tuple[tuple[float, float], ...] = ()
    floor_c: float | None = None
    co2_ppm: float = 450.0
    room: tuple[RoomHour, ...] = Field(min_length=1)
    boxes: tuple[Box, ...] = Field(min_length=1, max_length=2)
    machines: tuple[Machine, ...] = ()
    movers: tuple[Mover, ...] = ()
    knobs: tuple[Knob, ...] = Field(min_length=1, max_length=6)
    events: tuple[Event, ...] = ()
    goals: tuple[Goal, ...] = Field(min_length=1, max_length=6)
    par: tuple[ParMove, ...] = ()

    @model_validator(mode="after")
    def _hangs_together(self) -> Scenario:
        boxes = {box.id for box in self.boxes}
        known = {item.id for item in self.machines} | {item.id for item in self.movers}
        known |= {f"lamps-{box}" for box in boxes}
        places = [item.box for item in self.machines] + [item.box for item in self.movers]
        for place in (*places, *(goal.box for goal in self.goals)):
            if place not in boxes:
                raise ValueError(f"there is no box “{place}”")
        for target in (*(knob.acts for knob in self.knobs), *(event.target for event in self.events)):
            if target not in known:
                raise ValueError(f"there is nothing called “{target}”")
        for move in self.par:
            knob = self.knob(move.knob)
            if knob is None or move.value not in knob.values:
                raise ValueError(f"the even hand cannot turn “{move.knob}” to {move.value:g}")
        return self

    def knob(self, knob_id: str) -> Knob | None:
        """Find a knob.

        Parameters
        ----------
        knob_id : which

        Returns
        -------
        Knob : None where there is no such one
        """
        return next((knob for knob in self.knobs if knob.id == knob_id), None)


@cache
def scenarios() -> dict[str, Scenario]:
    """Load all scenarios.

    Returns
    -------
    dict of str to Scenario : by id, simple ones first

    Raises
    ------
    LibraryError : a file that does not hang together, with its name
    """
    found = []
    folder = files("canopy.trainer").joinpath("scenarios")
    for path in sorted(folder.iterdir(), key=lambda item: item.name):
        if path.name.endswith(".toml"):
            try:
                found.append(Scenario.model_validate(tomllib.loads(path.read_text(encoding="utf-8"))))
            except (ValidationError, tomllib.TOMLDecodeError) as error:
                raise LibraryError(f"{path.name}: {error}") from error
    return {item.id: item for item in sorted(found, key=lambda item: item.level)}
