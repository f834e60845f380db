"""How a space stands on a day: which plants are there, in which stage, how tall and wide."""

from __future__ import annotations

import datetime as dt
from collections import ChainMap
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property
from math import cos, pi, radians, sin, sqrt

from canopy.errors import LibraryError
from canopy.library import Cited, Crop, StageTargets, Window, crops, find
from canopy.plan.document import Plan, Space
from canopy.plan.learnt import factor_on, on_day
from canopy.plan.plants import Plant, Planting, cell_pitch_m
from canopy.plan.rooms import USUAL_ROOM, Around, Room, around_on
from canopy.plan.site import Site
from canopy.season.calendar import StageSpan, reach, span_on, spans
from canopy.season.growth import Form, form_on

# What grows under a net or along a pole keeps this share of its free spread.
_POLE_SHARE = 0.6
_NET_WIDEST = 1.6
# No plant lives on less than a third of its height in leaves.
_MOST_STRIPPED = 0.67


@dataclass(frozen=True, kw_only=True)
class Cast:
    """All that a space's day draws on: the library's crops with the person's own, the plantings, rooms and site."""

    crops: Mapping[str, Crop] = field(default_factory=crops)
    plantings: Mapping[str, Planting] = field(default_factory=dict)
    rooms: Mapping[str, Room] = field(default_factory=dict)
    site: Site = field(default_factory=Site)

    def crop(self, plant: Plant) -> Crop:
        """Give a plant's crop.

        Parameters
        ----------
        plant : the plant, of a sound plan

        Returns
        -------
        Crop : from the library or the person's own

        Raises
        ------
        LibraryError : there is no such crop
        """
        return find(self.crops, plant.crop_id, "crop")


def cast_of(plan: Plan) -> Cast:
    """Gather what can grow in a plan.

    Returns
    -------
    Cast : crops and plantings by id
    """
    known = ChainMap({crop.id: crop for crop in plan.crops}, dict(crops())) if plan.crops else crops()
    return Cast(
        crops=known,
        plantings={planting.id: planting for planting in plan.plantings},
        rooms={room.id: room for room in plan.rooms},
        site=plan.site,
    )


# A crop and a stage of its life.
CropStage = tuple[str, str]


@dataclass(frozen=True, kw_only=True)
class Growing:
    """A plant as it stands on a day; ``number`` is its place in the space's list, from 1. ``leafier`` is a factor on
    its leaf area, as pictures of the space showed it.
    """

    plant: Plant
    number: int
    crop: Crop
    want: StageTargets
    form: Form
    planting: Planting | None = None
    span: StageSpan | None = None
    netted: bool = False
    leafier: float = 1.0

    @property
    def id(self) -> str:
        """The plant's id."""
        return self.plant.id

    @property
    def crop_id(self) -> str:
        """The crop's id."""
        return self.crop.id

    @property
    def stage(self) -> str:
        """The stage it is in."""
        return self.want.kind

    @property
    def kind(self) -> CropStage:
        """Its crop and stage: plants of a kind want the same."""
        return self.crop.id, self.want.kind

    @cached_property
    def x_m(self) -> float:
        """Middle of the crown, from the left [m]."""
        return self.plant.x_m + self._reach * cos(radians(self.plant.facing_deg))

    @cached_property
    def y_m(self) -> float:
        """Middle of the crown, from the front [m]."""
        return self.plant.y_m + self._reach * sin(radians(self.plant.facing_deg))

    @property
    def _reach(self) -> float:
        if self.plant.habit == "wall":
            return self.spread_m / 2
        return self.form.height_m / 2 if self.plant.habit == "outward" else 0.0

    @property
    def height_m(self) -> float:
        """How tall the plant is, without its pot [m]; outward plants: how far they reach out."""
        return self.form.height_m

    @cached_property
    def spread_m(self) -> float:
        """How wide the crown is [m]."""
        return self.form.spread_m * (_POLE_SHARE if self.plant.habit in ("pole", "wall") else 1.0)

    @cached_property
    def tray_m(self) -> tuple[float, float] | None:
        """Width and depth of the tray it is; None for a single plant [m]."""
        plant = self.plant
        if plant.pot_kind != "tray" or plant.pot_width_m is None or plant.pot_depth_m is None:
            return None
        return plant.pot_width_m, plant.pot_depth_m

    @property
    def count(self) -> int:
        """How many plants it stands for: the cells of a tray, else one."""
        return self.plant.cells or 1

    @cached_property
    def half_m(self) -> tuple[float, float]:
        """Half of how far its leaves reach to the right and to the back [m]: a tray's, with what hangs over its rim."""
        tray = self.tray_m
        if tray is None:
            return self.spread_m / 2, self.spread_m / 2
        if self.plant.cells is None:
            return tray[0] / 2, tray[1] / 2
        pitch = cell_pitch_m(*tray, self.plant.cells)
        over = [max(0.0, (self.form.spread_m - step) / 2) for step in pitch]
        return tray[0] / 2 + over[0], tray[1] / 2 + over[1]

    @cached_property
    def ground_m2(self) -> float:
        """Ground that its leaves cover, as seen from above [m²]."""
        if self.tray_m is None:
            return pi * self.spread_m**2 / 4
        whole = 4 * self.half_m[0] * self.half_m[1]
        return min(whole, self.plant.cells * pi * self.form.spread_m**2 / 4) if self.plant.cells else whole

    @cached_property
    def lai(self) -> float:
        """Leaf area index over the ground it covers; without the leaves that were taken off."""
        lai = self.leafier * self.form.lai * (1 - self._stripped_m / self.form.height_m)
        if self.plant.cells is None or self.tray_m is None:
            return lai
        # Young plants whose leaves overlap stand deeper on the same ground.
        return lai * self.plant.cells * pi * self.form.spread_m**2 / 4 / self.ground_m2

    @property
    def rim_m(self) -> float:
        """Height of the pot's rim above the floor [m]."""
        return self.plant.base_m + self.plant.pot_height_m

    @property
    def top_m(self) -> float:
        """Height of the top of the canopy above the floor [m]."""
        if self.plant.habit == "hang":
            return self.rim_m + 0.15 * self.form.spread_m
        if self.plant.habit == "outward":
            return self.rim_m + self.form.spread_m / 2
        return self.rim_m + self.form.height_m

    @property
    def bottom_m(self) -> float:
        """Height of the lowest leaves above the floor [m]."""
        if self.plant.habit == "hang":
            return max(0.0, self.rim_m - self.form.height_m)
        if self.plant.habit == "outward":
            return max(0.0, self.rim_m - self.form.spread_m / 2)
        return self.rim_m + self._stripped_m

    @property
    def _stripped_m(self) -> float:
        """Up to where its stem is bare, above the rim: at most to a third below its top [m]."""
        return min(self.plant.stripped_m, _MOST_STRIPPED * self.form.height_m)

    @property
    def climbs(self) -> bool:
        """Whether its leaves hang one over another along a pole, a string or a wall, so that its height is lit."""
        return self.plant.habit in ("pole", "wall")

    @property
    def away(self) -> tuple[float, float]:
        """The way a climber grows from its wall or trellis, level unit vector; (0, 0) for all others."""
        turn = radians(self.plant.facing_deg)
        return (cos(turn), sin(turn)) if self.plant.habit == "wall" else (0.0, 0.0)

    @property
    def facing(self) -> tuple[float, float, float]:
        """Unit vector the canopy faces: up, or the way an outward plant grows."""
        if self.plant.habit != "outward":
            return (0.0, 0.0, 1.0)
        turn = radians(self.plant.facing_deg)
        return (cos(turn), sin(turn), 0.0)


@dataclass(frozen=True, kw_only=True)
class Standing:
    """A space on a day: the plants that stand there then, those of its list that do not, and what is around it."""

    space: Space
    day: dt.date
    plants: tuple[Growing, ...]
    absent: tuple[Plant, ...] = ()
    around: Around = field(default_factory=Around)

    @cached_property
    def by_id(self) -> Mapping[str, Growing]:
        """The plants by id."""
        return {plant.id: plant for plant in self.plants}

    @cached_property
    def by_kind(self) -> Mapping[CropStage, tuple[Growing, ...]]:
        """The plants by crop and stage, in their own order."""
        found: dict[CropStage, list[Growing]] = {}
        for plant in self.plants:
            found.setdefault(plant.kind, []).append(plant)
        return {kind: tuple(group) for kind, group in found.items()}

    def moved(self, space: Space) -> Standing:
        """Give the same plants in a changed space, for what-ifs that leave the plants alone.

        Parameters
        ----------
        space : the changed space

        Returns
        -------
        Standing : the same plants on the same day
        """
        return Standing(space=space, day=self.day, plants=self.plants, absent=self.absent, around=self.around)


def is_here(plant: Plant, planting: Planting | None, day: dt.date) -> bool:
    """Say whether a plant stands in its place on a day.

    Parameters
    ----------
    plant : the plant, with the days it stands here
    planting : its planting, if it has one

    Returns
    -------
    bool : False before it is begun, after it is cleared, and outside its own days here
    """
    if (plant.from_day and day < plant.from_day) or (plant.until_day and day >= plant.until_day):
        return False
    if planting is None:
        return True
    return planting.starts_on <= day and (planting.cleared_on is None or day < planting.cleared_on)


def standing_of(space: Space, day: dt.date, cast: Cast | None = None) -> Standing:
    """Give how a space stands on a day.

    Parameters
    ----------
    cast : crops, plantings, rooms and site; the library and the usual room alone when None

    Returns
    -------
    Standing : its plants as they are then

    Raises
    ------
    LibraryError : a plant's crop, stage or planting is not known
    """
    known, space = cast or Cast(), on_day(space, day)
    here, absent = [], []
    for number, plant in enumerate(space.plants, 1):
        planting = _planting(plant, known)
        if not is_here(plant, planting, day):
            absent.append(plant)
            continue
        here.append(_growing(space, plant, number, known.crop(plant), planting, day))
    around = around_on(known.rooms.get(space.room_id, USUAL_ROOM), known.site, day)
    return Standing(space=space, day=day, plants=tuple(here), absent=tuple(absent), around=around)


def wanted_light(space: Space, crop: Crop, stage: StageTargets) -> StageTargets:
    """Lay a person's own light target over a stage's.

    Parameters
    ----------
    space : with its own targets of light
    crop : what grows there, by whose id targets are kept
    stage : one of its stages

    Returns
    -------
    StageTargets : with the PPFD that is wanted here, and the daily light that it makes over the stage's day length;
        the stage itself where no target was set for it
    """
    goals = [goal for goal in space.light_goals if goal.crop_id == crop.id and goal.stage in ("", stage.kind)]
    if not goals:
        return stage
    goal = max(goals, key=lambda item: bool(item.stage))
    low, high = goal.low_umol_m2_s, goal.high_umol_m2_s
    day = stage.photoperiod_h
    return stage.model_copy(
        update={
            "ppfd_umol_m2_s": Window(low=low, high=high),
            "dli_mol_m2_d": Window(low=0.0036 * low * day.low, high=0.0036 * high * day.high),
            "light": OWN_FIGURE,
        }
    )


# What a person typed themselves.
OWN_FIGURE = Cited(source="own-figure", grade="practice")


def _planting(plant: Plant, cast: Cast) -> Planting | None:
    if plant.planting_id is None:
        return None
    return find(cast.plantings, plant.planting_id, "planting")


def _growing(space: Space, plant: Plant, number: int, crop: Crop, planting: Planting | None, day: dt.date) -> Growing:
    span: StageSpan | None = None
    if planting is None:
        want = crop.stage(plant.stage or "")
        if want is None:
            raise LibraryError(f"the library holds no stage “{plant.stage}” of {plant.crop_id}")
        want = wanted_light(space, crop, want)
        form = Form(height_m=plant.height_m or want.height_m, spread_m=plant.spread_m or want.spread_m, lai=want.lai)
    else:
        found = spans(planting, crop)
        span = span_on(found, day) or found[0]
        want, form = wanted_light(space, crop, span.stage), form_on(plant, planting, crop, found, day)
    rim = plant.base_m + plant.pot_height_m
    netted = bool(
        space.net and plant.habit == "stand" and plant.pot_kind != "tray" and rim < space.net.z_m < rim + form.height_m
    )
    if space.net and netted:
        held = space.net.z_m - rim
        form = form.scaled(held / form.height_m, min(_NET_WIDEST, sqrt(form.height_m / held)))
    return Growing(
        plant=plant,
        number=number,
        crop=crop,
        want=want,
        form=form,
        planting=planting,
        span=span,
        netted=netted,
        leafier=factor_on(space, "leaf-area", leaf_group(plant)) if space.learnt else 1.0,
    )


def leaf_group(plant: Plant) -> str:
    """Say with which plants a plant's leaf area is learnt.

    Parameters
    ----------
    plant : any

    Returns
    -------
    str : its planting's id, else its crop's
    """
    return plant.planting_id or plant.crop_id


def day_to_show(plan: Plan, today: dt.date) -> dt.date:
    """Choose the day a plan is looked at unless another is asked for.

    Returns
    -------
    date : today while something dated grows, or light or a room depends on the season; the plan's own date otherwise
    """
    cast = cast_of(plan)
    known = [spans(item, cast.crops[item.crop_id]) for item in plan.plantings]
    found = reach(known)
    if found:
        return today if found[0] <= today <= found[1] else plan.date
    seasonal = any(space.daylight for space in plan.spaces) or any(room.follows_season for room in plan.rooms)
    return today if seasonal else plan.date
