"""What stands, hangs and shines in a space besides plants and lamps: shelves, columns, net, floor, daylight, feed."""

from __future__ import annotations

import datetime as dt
from typing import Annotated, Literal

from pydantic import Field, model_validator

from canopy.model import Id, Name, Record
from canopy.plan.shell import Face, Length, Offset, Surface, Temperature


class Shelf(Record):
    """A level to stand plants on: its low left front corner, its upper face at ``z_m``.

    Wire lets light and air by; a perforated one lets light through its holes, ``open_share`` of it; glass by its angle.
    """

    id: Id
    name: Name
    x_m: Offset = 0.0
    y_m: Offset = 0.0
    z_m: Annotated[float, Field(gt=0, le=6)]
    width_m: Length
    depth_m: Length
    thickness_m: Annotated[float, Field(ge=0, le=0.3)] = 0.02
    kind: Literal["solid", "wire", "perforated", "glass"] = "solid"
    open_share: Annotated[float, Field(gt=0, le=0.95)] = 0.5
    top: Surface = Surface(material_id="white-board")
    under: Surface = Surface(material_id="white-board")
    load_limit_kg: Annotated[float, Field(gt=0, le=1000)] | None = None


class Lid(Record):
    """A propagator lid, cloche or jar over plants, with an air of its own: its low left front corner, its size, what it
    is made of, and how much of its top stands open to the space, 0..1. Plants whose stem stands under it are in it.
    """

    id: Id
    name: Name
    x_m: Offset = 0.0
    y_m: Offset = 0.0
    z_m: Annotated[float, Field(ge=0, le=6)] = 0.0
    width_m: Length
    depth_m: Length
    height_m: Annotated[float, Field(gt=0, le=3)]
    material_id: Literal["white-plastic", "glass"] = "white-plastic"
    open_share: Annotated[float, Field(ge=0, le=1)] = 0.02

    def covers(self, x_m: float, y_m: float, z_m: float) -> bool:
        """Say whether a place is under it.

        Parameters
        ----------
        x_m, y_m, z_m : the place [m]

        Returns
        -------
        bool : its edge counts
        """
        inside = self.x_m <= x_m <= self.x_m + self.width_m and self.y_m <= y_m <= self.y_m + self.depth_m
        return inside and self.z_m - 0.02 <= z_m <= self.z_m + self.height_m


class WetSurface(Record):
    """Open water, or a wall of wet moss: its area to the air."""

    id: Id
    name: Name
    kind: Literal["water", "moss"] = "water"
    area_m2: Annotated[float, Field(gt=0, le=40)]


class Column(Record):
    """An upright column that plants grow outward from."""

    id: Id
    name: Name
    x_m: Offset
    y_m: Offset
    z_m: Annotated[float, Field(ge=0, le=6)] = 0.0
    height_m: Annotated[float, Field(gt=0, le=6)]
    diameter_m: Annotated[float, Field(gt=0, le=1)]
    reflectance: Annotated[float, Field(ge=0, le=0.98)] = 0.6


class Trellis(Record):
    """An upright trellis or net of strings that plants climb: the middle of its foot, and whether it runs along the
    space's width or depth. It lets light and air by.
    """

    id: Id
    name: Name
    x_m: Offset
    y_m: Offset
    z_m: Annotated[float, Field(ge=0, le=6)] = 0.0
    width_m: Length
    height_m: Annotated[float, Field(gt=0, le=6)]
    along: Literal["width", "depth"] = "width"


class LightGoal(Record):
    """A PPFD that a person wants for a crop here, in one stage or (empty) in all; it goes before the library's."""

    id: Id
    crop_id: Id
    stage: str = ""
    low_umol_m2_s: Annotated[float, Field(gt=0, le=2500)]
    high_umol_m2_s: Annotated[float, Field(gt=0, le=2500)]

    @model_validator(mode="after")
    def _upward(self) -> LightGoal:
        if self.low_umol_m2_s > self.high_umol_m2_s:
            raise ValueError("turned round: the first figure is the lower one")
        return self


class Net(Record):
    """A net that holds the canopy at one level."""

    z_m: Annotated[float, Field(gt=0, le=6)]
    weight_kg: Annotated[float, Field(ge=0, le=50)] = 0.4


class Ground(Record):
    """What lies under the plants: the room's floor or a shelf, insulation, and a lined floor or tray that holds a
    spill.
    """

    stands_on: Literal["floor", "shelf"] = "floor"
    below_c: Temperature | None = None
    insulation_m: Annotated[float, Field(ge=0, le=0.5)] = 0.0
    stand_off_m: Annotated[float, Field(ge=0, le=1)] = 0.0
    lip_m: Annotated[float, Field(ge=0, le=0.5)] = 0.0


class HungItem(Record):
    """Something else that hangs from the frame or ceiling."""

    id: Id
    name: Name
    weight_kg: Annotated[float, Field(ge=0, le=200)]


class Daylight(Record):
    """Light that a window adds: a bright rectangle on a face, with the DLI just inside it, for the year or by month."""

    id: Id
    face: Face = "front"
    u_m: Offset
    v_m: Offset
    width_m: Length
    height_m: Length
    hours: Annotated[float, Field(gt=0, le=24)] = 9.0
    dli_mol_m2_d: Annotated[float, Field(ge=0, le=70)] = 3.0
    by_month: tuple[Annotated[float, Field(ge=0, le=70)], ...] = Field(default=(), max_length=12)

    @model_validator(mode="after")
    def _whole_year(self) -> Daylight:
        if len(self.by_month) not in (0, 12):
            raise ValueError("by_month needs twelve figures, January first")
        return self

    def dli_on(self, day: dt.date) -> float:
        """Give the daylight just inside the window.

        Returns
        -------
        float : DLI [mol/m²/d]
        """
        return self.by_month[day.month - 1] if self.by_month else self.dli_mol_m2_d


class FeedPart(Record):
    """One bottle or bag of feed: what each mL (a ``powder``: gram) per litre adds to the solution's EC. One with a
    ``dose_ml_l`` always goes in at that; the others share the rest of the strength. ``kind`` says when it goes in:
    silicate first, calcium before what holds phosphate and sulphate, the rest after.
    """

    id: Id
    name: Name
    ec_ms_cm_per_ml_l: Annotated[float, Field(gt=0, le=5)]
    share: Annotated[float, Field(gt=0, le=100)] = 1.0
    stages: tuple[str, ...] = ()
    powder: bool = False
    dose_ml_l: Annotated[float, Field(gt=0, le=20)] | None = None
    kind: Literal["silicate", "calcium", "base", "other"] = "base"


class Feed(Record):
    """How plants of a space are fed: a solution with its water and parts, or soil with its mix.

    ``above_water`` says that the target counts above the water's own EC. ``alkalinity_mg_l`` is the water's, as calcium
    carbonate; ``ph_dose_ml_l`` what brought one litre of the mixed feed to its pH, of acid or base.
    """

    way: Literal["soil", "solution"] = "soil"
    mix_id: Id = "peat-mix"
    water_ec_ms_cm: Annotated[float, Field(ge=0, le=5)] = 0.4
    reservoir_l: Annotated[float, Field(gt=0, le=2000)] | None = None
    target_ec_ms_cm: Annotated[float, Field(gt=0, le=6)] | None = None
    above_water: bool = False
    alkalinity_mg_l: Annotated[float, Field(ge=0, le=1000)] | None = None
    ph_dose_ml_l: Annotated[float, Field(gt=0, le=20)] | None = None
    change_days: Annotated[int, Field(ge=1, le=90)] = 10
    top_up_share: Annotated[float, Field(ge=0, le=1)] = 0.5
    uptake_l_d: Annotated[float, Field(gt=0, le=200)] | None = None
    parts: tuple[FeedPart, ...] = Field(default=(), max_length=8)


class FixtureFactor(Record):
    """What a survey says a lamp gives against what it is stated to give, with its standard error."""

    fixture_id: Id
    factor: Annotated[float, Field(gt=0, le=5)]
    standard_error: Annotated[float, Field(ge=0, le=5)]


class Survey(Record):
    """The lamps' factors that were fitted to a light survey, and the days; they count while ``applied``.

    What the meter read stands beside the plan (`canopy.logs.facts`).
    """

    taken_on: dt.date
    fitted_on: dt.date
    factors: tuple[FixtureFactor, ...] = Field(default=(), max_length=60)
    applied: bool = True

    def factor_of(self, fixture_id: str) -> float:
        """Give the factor in force on a lamp.

        Parameters
        ----------
        fixture_id : the lamp's id

        Returns
        -------
        float : 1 while the survey is not applied, or for a lamp it does not know
        """
        return self.stated(fixture_id) if self.applied else 1.0

    def stated(self, fixture_id: str) -> float:
        """Give the factor that was fitted to a lamp, in force or not.

        Parameters
        ----------
        fixture_id : the lamp's id

        Returns
        -------
        float : 1 for a lamp it does not know
        """
        return next((item.factor for item in self.factors if item.fixture_id == fixture_id), 1.0)
