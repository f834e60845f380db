"""The plan document: everything a grower said, typed, in SI, with unit-suffixed keys.

Coordinates of a space: origin in the front left corner of the inner floor;
x to the right along the width, y to the back along the depth, z up [m].
"""

from __future__ import annotations

import datetime as dt
from math import sqrt
from typing import Annotated, Literal

from pydantic import Field, model_validator

from canopy.equipment import DeviceSpec, FixtureSpec
from canopy.library.models import Crop
from canopy.model import Id, Name, Record, Share
from canopy.plan.airways import Airway, Stirrer
from canopy.plan.care import CareRule, Course, Watering
from canopy.plan.controls import FITS, Alert, DeviceControl
from canopy.plan.correction import Correction
from canopy.plan.furnishing import (
    Column,
    Daylight,
    Feed,
    Ground,
    HungItem,
    Lid,
    LightGoal,
    Net,
    Shelf,
    Survey,
    Trellis,
    WetSurface,
)
from canopy.plan.plants import Plant, Planting
from canopy.plan.plugs import Carrier, Outlet
from canopy.plan.rooms import USUAL_ROOM, Around, Room, around_on
from canopy.plan.shell import Faces, Offset, Opening, Side, Size, SpaceKind
from canopy.plan.site import Site
from canopy.plan.stock import StockItem, StockSizes
from canopy.plan.tariff import Tariff
from canopy.schedule import Always, ByHand, Clock, Daily, Never, Schedule, Span, day_hours, while_any

LampSchedule = Annotated[Always | Never | Daily, Field(discriminator="kind")]
DoorSchedule = Annotated[Never | ByHand, Field(discriminator="kind")]

FORMAT = "mild-canopy-plan"
VERSION = 3


class Cover(Record):
    """What hides part of a lamp's face from the plants: opaque tape over its ``start`` (the end at -x while it is not
    turned) or its ``end``, as a share of its length; or film and netting ``evenly`` over all of it, which hold that
    share of its light.
    """

    share: Annotated[float, Field(gt=0, le=0.95)]
    where: Literal["start", "end", "evenly"] = "evenly"


# However far it is dimmed: a leaf that sways touches what is nearer [m].
_TOUCH_M = 0.04


class Fixture(Record):
    """A light in its place; x, y, z is the centre of the emitting face.

    At zero angles it shines straight down with its length along x. ``tilt_deg``
    turns it about its long axis (positive: towards +y), ``pitch_deg`` then
    lifts its +x end, ``yaw_deg`` finally turns it about the vertical. Lamps of one ``chain`` are plugged into each
    other. ``plug`` names the outlet, strip or timer it is plugged into (the space's circuit when None); one that is
    ``pinned`` stays there when devices are spread over circuits.
    """

    id: Id
    spec: FixtureSpec
    x_m: Offset
    y_m: Offset
    z_m: Annotated[float, Field(ge=0, le=6)]
    yaw_deg: Annotated[float, Field(ge=-360, le=360)] = 0.0
    tilt_deg: Annotated[float, Field(ge=-180, le=180)] = 0.0
    pitch_deg: Annotated[float, Field(ge=-90, le=90)] = 0.0
    dim: Share = 1.0
    ageing: Annotated[float, Field(ge=0.3, le=1)] = 1.0
    in_use_since: dt.date | None = None
    schedule: LampSchedule = Daily(start="06:00", hours=14.0)
    enabled: bool = True
    chain: Annotated[str, Field(max_length=40)] = ""
    cover: Cover | None = None
    plug: Id | None = None
    pinned: bool = False

    @model_validator(mode="after")
    def _ends(self) -> Fixture:
        if self.cover and self.cover.where != "evenly" and self.spec.shape == "disc":
            raise ValueError("a round lamp has no ends: cover it evenly")
        return self

    @property
    def can_dim(self) -> bool:
        """Whether proposals may set its dimmer: as it is sold, or because somebody has dimmed it already."""
        return self.spec.dimmable or self.dim < 1

    @property
    def least_distance_m(self) -> float:
        """How near leaves may come [m]: its class's distance at full output; of lamps that scorch by their light alone
        (LED, tubes) less when dimmed, by the root of the dimmer, as light falls off with about the square.
        """
        if self.spec.technology not in ("led", "fluorescent"):
            return self.spec.min_distance_m
        return max(min(_TOUCH_M, self.spec.min_distance_m), self.spec.min_distance_m * sqrt(self.dim))

    @property
    def open_share(self) -> float:
        """What share of its light is not covered, 0.05..1."""
        return 1 - self.cover.share if self.cover else 1.0

    @property
    def hours(self) -> float:
        """How long it is on in a day, ramps included [h]."""
        if isinstance(self.schedule, Daily):
            return self.schedule.hours
        return 24.0 if isinstance(self.schedule, Always) else 0.0

    @property
    def full_hours(self) -> float:
        """How long it would be on at its setting for the same light: its hours less half of each ramp [h]."""
        return day_hours(self.schedule)


class Air(Record):
    """What the air is asked to do, and how it is judged.

    ``count_allowance`` puts the flat filter allowance into the exchange rule (for who does not compute the filter);
    ``leak_cm2`` is the area of seams and slack ports, the kind's usual one when None; ``door`` says when somebody
    opens the door. ``hung`` says that fans and filters inside hang from the frame. Above ``cut_off_c`` a safety cut-off
    puts out lamps and heaters until it is 3 K cooler.
    """

    exchange_minutes: Annotated[float, Field(ge=0.5, le=60)] = 3.0
    filter_allowance: Annotated[float, Field(ge=0, le=1)] = 0.25
    count_allowance: bool = False
    rise_k: Annotated[float, Field(gt=0, le=20)] = 4.0
    max_rh_pct: Annotated[float, Field(ge=20, le=99.5)] = 70.0
    co2_drop_ppm: Annotated[float, Field(gt=0, le=400)] = 60.0
    rule: Literal["largest", "exchange", "heat", "moisture", "co2"] = "largest"
    leak_cm2: Annotated[float, Field(ge=0, le=2000)] | None = None
    noise_wish_dba: Annotated[float, Field(ge=15, le=90)] | None = None
    listen_m: Annotated[float, Field(ge=0.3, le=20)] = 2.0
    door: DoorSchedule = Never()
    hung: bool = True
    cut_off_c: Annotated[float, Field(ge=20, le=60)] | None = None


class Device(Record):
    """Any other device of a space. ``schedule`` says when it may run; what ``control`` switches runs then as far as
    that asks for it. What heats, cools, wets or dries without one is taken to be switched by what the crops want,
    unless it runs ``by_clock`` alone: then for all of that time. x, y, z is where its foot stands, where that is said.
    """

    id: Id
    spec: DeviceSpec
    schedule: Schedule = Always()
    control: DeviceControl | None = None
    by_clock: bool = False
    x_m: Offset | None = None
    y_m: Offset | None = None
    z_m: Annotated[float, Field(ge=0, le=6)] | None = None
    plug: Id | None = None
    pinned: bool = False

    @model_validator(mode="after")
    def _fits(self) -> Device:
        if self.control is not None and self.control.kind not in FITS.get(self.spec.kind, ()):
            raise ValueError(f"a {self.control.kind} does not switch a {self.spec.kind}")
        if self.control is not None and self.by_clock:
            raise ValueError("it is switched by the clock alone or by a control: not both")
        return self


class Space(Record):
    """One tent, closet, cabinet, shelf or glass case."""

    id: Id
    name: Name
    kind: SpaceKind
    size: Size
    faces: Faces
    door_side: Side | None = "front"
    door_open: bool = False
    openings: tuple[Opening, ...] = Field(default=(), max_length=40)
    room_id: Id = USUAL_ROOM.id
    plants: tuple[Plant, ...] = Field(default=(), max_length=400)
    fixtures: tuple[Fixture, ...] = Field(default=(), max_length=60)
    air: Air = Air()
    airways: tuple[Airway, ...] = Field(default=(), max_length=8)
    stirrers: tuple[Stirrer, ...] = Field(default=(), max_length=20)
    devices: tuple[Device, ...] = Field(default=(), max_length=60)
    shelves: tuple[Shelf, ...] = Field(default=(), max_length=20)
    columns: tuple[Column, ...] = Field(default=(), max_length=20)
    trellises: tuple[Trellis, ...] = Field(default=(), max_length=20)
    net: Net | None = None
    ground: Ground = Ground()
    load_limit_kg: Annotated[float, Field(gt=0, le=1000)] | None = None
    hung: tuple[HungItem, ...] = Field(default=(), max_length=40)
    daylight: tuple[Daylight, ...] = Field(default=(), max_length=6)
    light_goals: tuple[LightGoal, ...] = Field(default=(), max_length=40)
    feed: Feed = Feed()
    survey: Survey | None = None
    lids: tuple[Lid, ...] = Field(default=(), max_length=12)
    wet: tuple[WetSurface, ...] = Field(default=(), max_length=12)
    alerts: tuple[Alert, ...] = Field(default=(), max_length=40)
    watering: Watering = Watering()
    care: tuple[CareRule, ...] = Field(default=(), max_length=60)
    courses: tuple[Course, ...] = Field(default=(), max_length=20)
    learnt: tuple[Correction, ...] = Field(default=(), max_length=40)
    circuit_id: Id | None = None
    assumed: tuple[str, ...] = ()

    @property
    def lit(self) -> tuple[Span, ...]:
        """When at least one of its lamps is on."""
        return while_any(lamp.schedule for lamp in self.fixtures if lamp.enabled and lamp.dim > 0)

    @property
    def lit_hours(self) -> float:
        """For how long at least one of its lamps is on [h]."""
        return sum(span.end_min - span.start_min for span in self.lit) / 60


class HouseholdLoad(Record):
    """Something else on the same circuit; one that may run at ``any_time`` counts in every peak, whatever its hours."""

    id: Id
    name: Name
    power_w: Annotated[float, Field(ge=0, le=20_000)]
    schedule: Schedule = Always()
    any_time: bool = False
    plug: Id | None = None


class Circuit(Record):
    """One circuit behind one breaker."""

    id: Id
    name: Name
    rule_set_id: Id
    mains_v: Annotated[float, Field(ge=90, le=260)]
    breaker_a: Annotated[float, Field(ge=1, le=125)]
    other_loads: tuple[HouseholdLoad, ...] = Field(default=(), max_length=60)


class Quiet(Record):
    """Hours in which people want quiet, over midnight too."""

    start: Clock
    hours: Annotated[float, Field(gt=0, le=24)]

    def holds(self, minute: float) -> bool:
        """Say whether a minute of the day lies in them.

        Parameters
        ----------
        minute : since midnight on the household's clock, 0 to 1440

        Returns
        -------
        bool : over midnight too
        """
        hour, begun = (int(part) for part in self.start.split(":"))
        return (minute - 60 * hour - begun) % 1440 < 60 * self.hours


class Plan(Record):
    """A household with its spaces: the whole content of a plan file.

    ``serial`` is the number that the next new part takes into its id; it never goes back, so that no id is used again.
    ``key`` names the plan to calendars, whatever it is called; empty until it is kept somewhere.
    """

    format: Literal["mild-canopy-plan"] = "mild-canopy-plan"
    version: Literal[3] = 3
    name: Name
    key: Annotated[str, Field(pattern=r"^[a-z0-9-]{0,40}$")] = ""
    date: dt.date
    serial: Annotated[int, Field(ge=1, le=10**9)] = 1
    site: Site = Site()
    rooms: tuple[Room, ...] = Field(default=(USUAL_ROOM,), min_length=1, max_length=40)
    tariff: Tariff = Tariff()
    quiet: Quiet | None = None
    circuits: tuple[Circuit, ...] = Field(default=(), max_length=40)
    outlets: tuple[Outlet, ...] = Field(default=(), max_length=80)
    carriers: tuple[Carrier, ...] = Field(default=(), max_length=120)
    plantings: tuple[Planting, ...] = Field(default=(), max_length=400)
    crops: tuple[Crop, ...] = Field(default=(), max_length=200)
    stock: tuple[StockItem, ...] = Field(default=(), max_length=300)
    bought_in: StockSizes = StockSizes()
    spaces: tuple[Space, ...] = Field(default=(), max_length=60)

    def space(self, space_id: str) -> Space | None:
        """Find a space by its id.

        Parameters
        ----------
        space_id : the id

        Returns
        -------
        Space : the space, or None
        """
        return next((space for space in self.spaces if space.id == space_id), None)

    def room(self, room_id: str) -> Room | None:
        """Find a room by its id.

        Parameters
        ----------
        room_id : the id

        Returns
        -------
        Room : the room, or None
        """
        return next((room for room in self.rooms if room.id == room_id), None)

    def around(self, space: Space, day: dt.date) -> Around:
        """Give what stands around a space on a day.

        Parameters
        ----------
        space : one of its spaces

        Returns
        -------
        Around : its room's air then, and the height above sea level; the usual room where it names none of the plan
        """
        return around_on(self.room(space.room_id) or USUAL_ROOM, self.site, day)

    def planting(self, planting_id: str | None) -> Planting | None:
        """Find a planting by its id.

        Parameters
        ----------
        planting_id : the id, or None

        Returns
        -------
        Planting : the planting, or None
        """
        return next((planting for planting in self.plantings if planting.id == planting_id), None)

    def circuit(self, circuit_id: str | None) -> Circuit | None:
        """Find a circuit by its id.

        Parameters
        ----------
        circuit_id : the id, or None

        Returns
        -------
        Circuit : the circuit, or None
        """
        return next((circuit for circuit in self.circuits if circuit.id == circuit_id), None)
