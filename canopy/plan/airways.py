"""How air gets in and out: chains of filter, fan, duct and fittings from one end to the other, and what stirs it
inside.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated, Literal

from pydantic import Field, model_validator

from canopy.equipment import HOOD_LOSS, Diameter, DuctSpec, FanSpec, FilterSpec, FittingSpec, Speed, StirSpec
from canopy.model import Id, Name, Record
from canopy.plan.controls import FanControl
from canopy.plan.shell import Humidity, Offset, Temperature
from canopy.schedule import Always, Schedule, Span, WithLamps, dark, day_share, share_while

LONGEST_DUCT_M = 30.0


class OtherSpeed(Record):
    """Another speed at some times (0: off), such as while the lamps are off."""

    speed: Annotated[float, Field(ge=0, le=1)]
    schedule: WithLamps = WithLamps(when="dark")


class FanPart(Record):
    """Fans side by side at one place of a chain; ``other`` is another speed with the lamps off, or on."""

    kind: Literal["fan"] = "fan"
    id: Id
    spec: FanSpec
    count: Annotated[int, Field(ge=1, le=4)] = 1
    speed: Annotated[float, Field(ge=0, le=1)] = 1.0
    other: OtherSpeed | None = None
    plug: Id | None = None
    pinned: bool = False

    def speed_at(self, *, lit: bool) -> float:
        """Give its speed with lamps on or off.

        Parameters
        ----------
        lit : lamps on

        Returns
        -------
        float : share of full speed, 0 when it is off
        """
        if self.other is not None and (self.other.schedule.when == "lit") == lit:
            return self.other.speed
        return self.speed


class FilterPart(Record):
    """A carbon filter; ``loading`` is its resistance against when it was new (1.5 aged, 2.5 clogged)."""

    kind: Literal["filter"] = "filter"
    id: Id
    spec: FilterSpec
    loading: Annotated[float, Field(ge=1, le=4)] = 1.0


class DuctPart(Record):
    """A length of duct; ``slack`` is by how much a flexible one falls short of its stretched length (0.04 pulled
    tight).
    """

    kind: Literal["duct"] = "duct"
    id: Id
    spec: DuctSpec
    diameter_m: Diameter
    length_m: Annotated[float, Field(gt=0, le=LONGEST_DUCT_M)]
    slack: Annotated[float, Field(ge=0, le=0.45)] = 0.12


class BendPart(Record):
    """A bend."""

    kind: Literal["bend"] = "bend"
    id: Id
    diameter_m: Diameter
    angle_deg: Annotated[float, Field(ge=5, le=180)] = 90.0
    make: Literal["flex", "smooth", "mitre"] = "flex"


class AdapterPart(Record):
    """A cone or a step from one diameter to another, in the direction of the flow."""

    kind: Literal["adapter"] = "adapter"
    id: Id
    from_m: Diameter
    to_m: Diameter
    make: Literal["cone", "step"] = "cone"


class FittingPart(Record):
    """A damper, muffler, grille, screen or light trap."""

    kind: Literal["fitting"] = "fitting"
    id: Id
    spec: FittingSpec


class HoodPart(Record):
    """A lamp's air-cooled hood that the air is led through; ``loss`` counts on the velocity in its spigots."""

    kind: Literal["hood"] = "hood"
    id: Id
    fixture_id: Id
    diameter_m: Diameter
    loss: Annotated[float, Field(ge=0, le=50)] = HOOD_LOSS


class PortPart(Record):
    """Where the chain passes the shell: one of the space's round openings."""

    kind: Literal["port"] = "port"
    id: Id
    opening_id: Id


AirPart = Annotated[
    FanPart | FilterPart | DuctPart | BendPart | AdapterPart | FittingPart | HoodPart | PortPart,
    Field(discriminator="kind"),
]


class Ambient(Record):
    """Air somewhere else than in the room: outdoors, or in another space, as it is kept there."""

    day_c: Temperature = 12.0
    day_rh_pct: Humidity = 60.0
    night_c: Temperature = 8.0
    night_rh_pct: Humidity = 75.0


# Another room of the home, where nothing is typed of its air.
OTHER_ROOM = Ambient(day_c=20.0, day_rh_pct=50.0, night_c=17.0, night_rh_pct=55.0)


class Measured(Record):
    """A flow that was measured in a chain, and its fan's speed then; it goes before what is computed."""

    flow_m3_h: Annotated[float, Field(ge=0, le=5000)]
    speed: Speed = 1.0


class Airway(Record):
    """One way for air out of a space or into it: parts in the order of the flow, ending in the room,
    in another one, outdoors or in another space.

    ``schedule`` says when its fans run. ``away`` is the air at the other end where that is not the room;
    ``far_opening_id`` the opening of the other space that it joins. ``control`` turns its lead fan by the air.
    """

    id: Id
    name: Name
    way: Literal["out", "in"] = "out"
    ends: Literal["room", "other-room", "outdoors", "space"] = "room"
    space_id: Id | None = None
    far_opening_id: Id | None = None
    parts: tuple[AirPart, ...] = Field(default=(), max_length=24)
    schedule: Schedule = Always()
    away: Ambient | None = None
    measured: Measured | None = None
    control: FanControl | None = None

    @model_validator(mode="after")
    def _whole(self) -> Airway:
        if self.ends == "space" and self.space_id is None:
            raise ValueError("say which space it leads to")
        if sum(1 for part in self.parts if part.kind == "port") > 1:
            raise ValueError("a chain passes the shell once: it has one port")
        return self

    @property
    def fans(self) -> tuple[FanPart, ...]:
        """Its fans, in the order of the flow."""
        return tuple(part for part in self.parts if part.kind == "fan")

    @property
    def filters(self) -> tuple[FilterPart, ...]:
        """Its carbon filters."""
        return tuple(part for part in self.parts if part.kind == "filter")

    @property
    def hoods(self) -> tuple[HoodPart, ...]:
        """The hoods of lamps that it leads through."""
        return tuple(part for part in self.parts if part.kind == "hood")

    @property
    def port(self) -> PortPart | None:
        """Where it passes the shell, if that is said."""
        return next((part for part in self.parts if part.kind == "port"), None)

    @property
    def lead(self) -> FanPart | None:
        """The fan that is turned up or down first: the first that runs, else the first; None without a fan."""
        return next((fan for fan in self.fans if fan.speed > 0), self.fans[0] if self.fans else None)

    def follows(self, fan: FanPart) -> bool:
        """Say whether a fan goes along when the lead fan is turned up or down.

        Parameters
        ----------
        fan : one of its fans

        Returns
        -------
        bool : True for the lead fan and for those set just as it is, as on one control; others keep their own speed
        """
        lead = self.lead
        return lead is not None and (fan.speed, fan.other) == (lead.speed, lead.other)

    def speeds(self, *, lit: bool, lead: float | None = None) -> tuple[float, ...]:
        """Give the speed of each of its fans.

        Parameters
        ----------
        lit : lamps on
        lead : another speed for the lead fan and those that follow it; as set when None

        Returns
        -------
        tuple of float : shares of full speed, 0 for one that stands
        """
        return tuple(fan.speed_at(lit=lit) if lead is None or not self.follows(fan) else lead for fan in self.fans)

    def duty(self, lit: Iterable[Span], *, while_lit: bool | None = None) -> float:
        """Give the share of the time that its fans run.

        Parameters
        ----------
        lit : when the space's lamps are on
        while_lit : only while they are on (True) or off (False); over the whole day when None

        Returns
        -------
        float : share, 0..1
        """
        return _duty(self.schedule, lit, while_lit)

    def is_inside(self, part_id: str) -> bool:
        """Say whether a part lies inside the space.

        Parameters
        ----------
        part_id : one of its parts

        Returns
        -------
        bool : before the port on the way out, after it on the way in; without a port all lies inside
        """
        past = False
        for part in self.parts:
            if part.id == part_id:
                return past == (self.way == "in") or self.port is None
            past = past or part.kind == "port"
        return False


class Stirrer(Record):
    """A fan that stirs the air, in its place; ``yaw_deg`` turns its aim from +x towards +y, ``pitch_deg`` lifts it."""

    id: Id
    spec: StirSpec
    x_m: Offset
    y_m: Offset
    z_m: Annotated[float, Field(ge=0, le=6)]
    yaw_deg: Annotated[float, Field(ge=-360, le=360)] = 0.0
    pitch_deg: Annotated[float, Field(ge=-90, le=90)] = 0.0
    speed: Speed = 1.0
    swings: bool = False
    schedule: Schedule = Always()
    enabled: bool = True
    plug: Id | None = None
    pinned: bool = False

    def duty(self, lit: Iterable[Span], *, while_lit: bool | None = None) -> float:
        """Give the share of the time that it runs.

        Parameters
        ----------
        lit : when the space's lamps are on
        while_lit : only while they are on (True) or off (False); over the whole day when None

        Returns
        -------
        float : share, 0..1
        """
        return _duty(self.schedule, lit, while_lit)


def _duty(schedule: Schedule, lit: Iterable[Span], while_lit: bool | None) -> float:
    lit = tuple(lit)
    if while_lit is None:
        return min(1.0, day_share(schedule, lit))
    return min(1.0, share_while(schedule, lit if while_lit else dark(lit), lit))


def usual_away(airway: Airway) -> Ambient:
    """Give the air at a way's other end where nothing was typed.

    Parameters
    ----------
    airway : the way

    Returns
    -------
    Ambient : a cool day outdoors, or a lived-in room
    """
    return OTHER_ROOM if airway.ends == "other-room" else Ambient()


# What has no length of its own takes about so much [m].
_SHORT_M = {"bend": 0.12, "adapter": 0.07, "hood": 0.35, "port": 0.0}


def part_width_m(part: AirPart) -> float:
    """Give how wide a part of a way of air is over all.

    Returns
    -------
    float : outer diameter [m]; housings wider than their spigots by their kind, filters by their bed
    """
    if isinstance(part, FanPart):
        return part.spec.diameter_m * (1.55 if part.spec.kind == "inline" else 1.1)
    if isinstance(part, FilterPart):
        spec = part.spec
        return (spec.bed_inner_m or spec.diameter_m) + 2 * (spec.bed_thickness_m or 0.25 * spec.diameter_m)
    if isinstance(part, FittingPart):
        return part.spec.diameter_m * (1.5 if part.spec.sort == "muffler" else 1.0)
    if isinstance(part, AdapterPart):
        return max(part.from_m, part.to_m)
    if isinstance(part, HoodPart):
        return 2 * part.diameter_m
    return part.diameter_m if isinstance(part, DuctPart | BendPart) else 0.0


def part_length_m(part: AirPart) -> float:
    """Give how long a part of a way of air is.

    Returns
    -------
    float : length along the way [m]; fans and filters that state none go by their diameter
    """
    if isinstance(part, FanPart):
        return part.spec.length_m or max(0.05, 1.6 * part.spec.diameter_m)
    if isinstance(part, FilterPart):
        return part.spec.bed_length_m or 2.5 * part.spec.diameter_m
    if isinstance(part, DuctPart):
        return part.length_m
    if isinstance(part, FittingPart):
        return max(part.spec.length_m, 0.04)
    return _SHORT_M[part.kind]
