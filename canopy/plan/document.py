"""The plan document: everything a grower said, typed, in SI, with unit-suffixed keys.

Coordinates of a space: origin in the front left corner of the inner floor;
x to the right along the width, y to the back along the depth, z up [m].
"""

from __future__ import annotations

import datetime as dt
from typing import Annotated, Literal

from pydantic import Field

from canopy.equipment import DeviceSpec, FanSpec, FixtureSpec
from canopy.model import Id, Name, Record, Share

FORMAT = "mild-canopy-plan"
VERSION = 1
FACES = ("left", "right", "front", "back", "floor", "ceiling")
Face = Literal["left", "right", "front", "back", "floor", "ceiling"]
Side = Literal["left", "right", "front", "back"]
SpaceKind = Literal["tent", "closet", "cabinet", "shelf", "glass-case"]
Clock = Annotated[str, Field(pattern=r"^([01]\d|2[0-3]):[0-5]\d$")]
Temperature = Annotated[float, Field(ge=-30, le=60)]
Humidity = Annotated[float, Field(ge=1, le=100)]
Length = Annotated[float, Field(gt=0, le=10)]
Offset = Annotated[float, Field(ge=0, le=10)]
Hours = Annotated[float, Field(ge=0, le=24)]


class Size(Record):
    """Inner size of a space [m]."""

    width_m: Annotated[float, Field(ge=0.1, le=10)]
    depth_m: Annotated[float, Field(ge=0.1, le=10)]
    height_m: Annotated[float, Field(ge=0.1, le=6)]


class Surface(Record):
    """One face: its material, and its reflectance when it differs from the material's."""

    material_id: Id
    reflectance: Annotated[float, Field(ge=0, le=0.98)] | None = None


class Faces(Record):
    """The six inner faces."""

    left: Surface
    right: Surface
    front: Surface
    back: Surface
    floor: Surface
    ceiling: Surface


class Opening(Record):
    """A round hole; u_m and v_m are its centre on the face.

    Side faces: u along the floor (x or y), v up. Floor and ceiling: u = x, v = y.
    """

    id: Id
    face: Face
    u_m: Offset
    v_m: Offset
    diameter_m: Annotated[float, Field(gt=0, le=1)]
    use: Literal["exhaust", "intake", "cable", "closed"] = "intake"


class Room(Record):
    """The room around a space."""

    day_c: Temperature = 21.0
    night_c: Temperature = 18.0
    day_rh_pct: Humidity = 50.0
    night_rh_pct: Humidity = 55.0
    co2_ppm: Annotated[float, Field(ge=300, le=5000)] = 450.0
    altitude_m: Annotated[float, Field(ge=-400, le=5000)] = 0.0


class Plant(Record):
    """A plant (or a tray of shoots) with the place of its stem."""

    id: Id
    crop_id: Id
    stage: str
    x_m: Offset
    y_m: Offset
    base_m: Annotated[float, Field(ge=0, le=6)] = 0.0
    pot_height_m: Annotated[float, Field(ge=0, le=1.5)] = 0.12
    height_m: Annotated[float, Field(gt=0, le=6)]
    spread_m: Annotated[float, Field(gt=0, le=4)]

    @property
    def top_m(self) -> float:
        """Height of the top of the canopy above the floor [m]."""
        return self.base_m + self.pot_height_m + self.height_m


class Fixture(Record):
    """A light in its place; x, y, z is the centre of the emitting face.

    At zero angles it shines straight down with its length along x. ``tilt_deg``
    turns it about its long axis (positive: towards +y), ``pitch_deg`` then
    lifts its +x end, ``yaw_deg`` finally turns it about the vertical.
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


class Air(Record):
    """The air path and what it is asked to do."""

    fan: FanSpec | None = None
    path_id: Id = "duct"
    delivered_share: Annotated[float, Field(gt=0, le=1)] | None = None
    duct_diameter_m: Annotated[float, Field(gt=0, le=0.6)] | None = None
    fan_hours: Hours = 24.0
    fan_speed: Annotated[float, Field(ge=0.1, le=1)] = 1.0
    exchange_minutes: Annotated[float, Field(ge=0.5, le=60)] = 3.0
    filter_allowance: Annotated[float, Field(ge=0, le=1)] = 0.25
    rise_k: Annotated[float, Field(gt=0, le=20)] = 4.0
    max_rh_pct: Annotated[float, Field(ge=20, le=99.5)] = 70.0
    co2_drop_ppm: Annotated[float, Field(gt=0, le=400)] = 60.0
    rule: Literal["largest", "exchange", "heat", "moisture", "co2"] = "largest"


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
    openings: tuple[Opening, ...] = Field(default=(), max_length=40)
    room: Room = Room()
    plants: tuple[Plant, ...] = Field(default=(), max_length=400)
    fixtures: tuple[Fixture, ...] = Field(default=(), max_length=60)
    air: Air = Air()
    devices: tuple[Device, ...] = Field(default=(), max_length=60)
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
    version: Literal[1] = 1
    name: Name
    date: dt.date
    tariff: Tariff = Tariff()
    circuits: tuple[Circuit, ...] = Field(default=(), max_length=40)
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
