"""The shell of a space: its size, faces and openings; the measures all parts share."""

from __future__ import annotations

from math import pi
from typing import Annotated, Literal

from pydantic import Field, model_validator

from canopy.model import Id, Record

FACES = ("left", "right", "front", "back", "floor", "ceiling")
Face = Literal["left", "right", "front", "back", "floor", "ceiling"]
Side = Literal["left", "right", "front", "back"]
SpaceKind = Literal["tent", "closet", "cabinet", "shelf", "glass-case"]
Temperature = Annotated[float, Field(ge=-30, le=60)]
Humidity = Annotated[float, Field(ge=1, le=100)]
Length = Annotated[float, Field(gt=0, le=10)]
Offset = Annotated[float, Field(ge=0, le=10)]


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
    """A hole in a face; u_m and v_m are its centre on the face.

    Side faces: u along the floor (x or y), v up. Floor and ceiling: u = x, v = y. A round one has a diameter, a slit,
    a mesh window or a door's seam a width and a height; ``clear_share`` is what a mesh or a shutter leaves free.
    """

    id: Id
    face: Face
    u_m: Offset
    v_m: Offset
    shape: Literal["round", "slit", "mesh", "seam"] = "round"
    diameter_m: Annotated[float, Field(gt=0, le=1)] | None = None
    width_m: Annotated[float, Field(gt=0, le=10)] | None = None
    height_m: Annotated[float, Field(gt=0, le=6)] | None = None
    use: Literal["exhaust", "intake", "cable", "closed"] = "intake"
    open: bool = True
    clear_share: Annotated[float, Field(gt=0, le=1)] = 1.0

    @model_validator(mode="after")
    def _measured(self) -> Opening:
        if self.shape == "round" and self.diameter_m is None:
            raise ValueError("a round opening needs its diameter")
        if self.shape != "round" and (self.width_m is None or self.height_m is None):
            raise ValueError("a slit, mesh or seam needs its width and height")
        return self

    @property
    def across_m(self) -> float:
        """Its extent along u [m]."""
        return (self.diameter_m if self.shape == "round" else self.width_m) or 0.0

    @property
    def up_m(self) -> float:
        """Its extent along v [m]."""
        return (self.diameter_m if self.shape == "round" else self.height_m) or 0.0

    @property
    def passes_air(self) -> bool:
        """Whether air goes through it as it stands."""
        return self.open and self.use in ("intake", "exhaust")

    @property
    def free_area_m2(self) -> float:
        """Area that is free to the air when it is open [m²]."""
        gross = pi * self.across_m**2 / 4 if self.shape == "round" else self.across_m * self.up_m
        return gross * self.clear_share
