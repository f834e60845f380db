"""The plan document: everything a grower said, typed, in SI, with unit-suffixed keys.

Coordinates of a space: origin in the front left corner of the inner floor;
x to the right along the width, y to the back along the depth, z up [m].
"""

from __future__ import annotations

import datetime as dt
from typing import Annotated, Literal

from pydantic import Field

from canopy.equipment import DeviceSpec, FixtureSpec
from canopy.library.models import Crop
from canopy.model import Id, Name, Record, Share
from canopy.plan.airways import Airway, Stirrer
from canopy.plan.furnishing import Column, Daylight, Feed, Ground, HungItem, Net, Shelf, Survey
from canopy.plan.plants import Plant, Planting
from canopy.plan.shell import Clock, Faces, Hours, Offset, Opening, Room, Side, Size, SpaceKind

FORMAT = "mild-canopy-plan"
VERSION = 2


class Fixture(Record):
    """A light in its place; x, y, z is the centre of the emitting face.

    At zero angles it shines straight down with its length along x. ``tilt_deg``
    turns it about its long axis (positive: towards +y), ``pitch_deg`` then
    lifts its +x end, ``yaw_deg`` finally turns it about the vertical. Lamps of one ``chain`` are plugged into each
    other.
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
    on_at: Clock = "06:00"
    hours: Hours = 14.0
    enabled: bool = True
    chain: Annotated[str, Field(max_length=40)] = ""


class Air(Record):
    """What the air is asked to do, and how it is judged.

    ``count_allowance`` puts the flat filter allowance into the exchange rule (for who does not compute the filter);
    ``leak_cm2`` is the area of seams and slack ports, the kind's usual one when None; ``door_times`` a day somebody
    opens the door for ``door_minutes``. ``hung`` says that fans and filters inside hang from the frame.
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
    door_times: Annotated[int, Field(ge=0, le=48)] = 0
    door_minutes: Annotated[float, Field(gt=0, le=600)] = 10.0
    hung: bool = True


class Device(Record):
    """Any other device of a space."""

    id: Id
    spec: DeviceSpec


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
    room: Room = Room()
    plants: tuple[Plant, ...] = Field(default=(), max_length=400)
    fixtures: tuple[Fixture, ...] = Field(default=(), max_length=60)
    air: Air = Air()
    airways: tuple[Airway, ...] = Field(default=(), max_length=8)
    stirrers: tuple[Stirrer, ...] = Field(default=(), max_length=20)
    devices: tuple[Device, ...] = Field(default=(), max_length=60)
    shelves: tuple[Shelf, ...] = Field(default=(), max_length=20)
    columns: tuple[Column, ...] = Field(default=(), max_length=20)
    net: Net | None = None
    ground: Ground = Ground()
    load_limit_kg: Annotated[float, Field(gt=0, le=1000)] | None = None
    hung: tuple[HungItem, ...] = Field(default=(), max_length=40)
    daylight: tuple[Daylight, ...] = Field(default=(), max_length=6)
    feed: Feed = Feed()
    survey: Survey | None = None
    circuit_id: Id | None = None
    assumed: tuple[str, ...] = ()


class HouseholdLoad(Record):
    """Something else on the same circuit."""

    id: Id
    name: Name
    power_w: Annotated[float, Field(ge=0, le=20_000)]
    hours_per_day: Hours = 24.0


class Circuit(Record):
    """One circuit behind one breaker."""

    id: Id
    name: Name
    rule_set_id: Id
    mains_v: Annotated[float, Field(ge=90, le=260)]
    breaker_a: Annotated[float, Field(ge=1, le=125)]
    other_loads: tuple[HouseholdLoad, ...] = Field(default=(), max_length=60)


class Tariff(Record):
    """What electricity costs."""

    currency: Annotated[str, Field(min_length=1, max_length=8)] = "EUR"
    price_per_kwh: Annotated[float, Field(ge=0, le=100)] = 0.30


class Plan(Record):
    """A household with its spaces: the whole content of a plan file."""

    format: Literal["mild-canopy-plan"] = "mild-canopy-plan"
    version: Literal[2] = 2
    name: Name
    date: dt.date
    tariff: Tariff = Tariff()
    circuits: tuple[Circuit, ...] = Field(default=(), max_length=40)
    plantings: tuple[Planting, ...] = Field(default=(), max_length=400)
    crops: tuple[Crop, ...] = Field(default=(), max_length=200)
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
