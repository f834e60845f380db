"""Crops for a space: which, and how many, would do well in what stands there now, through the year."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import TypeVar

import numpy as np

from canopy.design.crops.arranging import main_stage
from canopy.design.crops.placing import spread_out
from canopy.design.light.dimmers import best_dimmers
from canopy.design.light.heights import hung_best
from canopy.design.light.proposal import basis_of, lacking
from canopy.designer.lamps import COARSE
from canopy.designer.outcome import Outcome, outcome_of
from canopy.designer.stepwise import Stepwise
from canopy.errors import CanopyError
from canopy.evaluate.climate.days import Simulated, simulated
from canopy.evaluate.space import SpaceReport
from canopy.library import Crop, StageTargets, Window
from canopy.margin import Margin
from canopy.plan.changes import Act, Add, Change, Remove
from canopy.plan.document import Space
from canopy.plan.edit import apply, lamp_hours
from canopy.plan.plants import Plant
from canopy.plan.rooms import Season
from canopy.season import cast_of, standing_of

# So many of those that look best are judged by the true models.
MOST = 8
# A window may be missed by so much at a glance: plants change their air [K, %].
_NEAR_K, _NEAR_PCT = 2.5, 15.0
# Stations whose margins are a crop's own; those of air, power and the day are the space's, whatever grows.
_ITS_OWN = ("crops", "light", "climate")
# So many crops are looked at at a glance, those first whose air it is; and so many plants stand for a floor of them.
_GLANCED, _PLANTS = 44, 40
# So many heights of the lamps are tried for one that is outside.
_HEIGHTS = 5
# What part of a floor is taken up at a crop's spacing.
_FILLED = 0.7


@dataclass(frozen=True, kw_only=True, eq=False)
class Fit:
    """What would have to be changed for other plants to stand in a space, and what comes of it; ``outcome`` is there
    once it was judged by the true models.
    """

    changes: tuple[Act, ...]
    outcome: Outcome | None = None

    @property
    def works(self) -> bool:
        """Whether it lies inside all its windows on the day looked at."""
        return self.outcome is not None and not self.outside

    @property
    def outside(self) -> tuple[Margin, ...]:
        """What of it is outside then."""
        return tuple(margin for margin in self.outcome.bad if margin.station in _ITS_OWN) if self.outcome else ()

    @property
    def besides(self) -> tuple[Margin, ...]:
        """What else is outside in the space, as it would be with other crops, too."""
        return tuple(margin for margin in self.outcome.bad if margin.station not in _ITS_OWN) if self.outcome else ()

    @property
    def seasons(self) -> tuple[tuple[Season, Margin], ...]:
        """What is outside on the coldest or hottest day alone."""
        return self.outcome.bad_seasons if self.outcome else ()


@dataclass(frozen=True, kw_only=True, eq=False)
class CropFit(Fit):
    """A crop with as many plants as have room; ``miss`` is how far it lies outside at a glance, 0 inside."""

    crop: Crop
    count: int
    miss: float


@dataclass(frozen=True, kw_only=True, eq=False)
class Together(Fit):
    """Several crops beside each other in one space, each with how many of it."""

    space_id: str
    crops: tuple[tuple[Crop, int], ...]


AnyFit = TypeVar("AnyFit", bound=Fit)


@dataclass(eq=False)
class CropFinder(Stepwise):
    """Looks through the crops, one try at a time: all of them at a glance, then those that look best by the true
    models. Only those of some ``groups`` where these are named.
    """

    report: SpaceReport
    wanted: tuple[Crop, ...] = ()
    groups: tuple[str, ...] = ()
    most: int = MOST
    glanced: list[CropFit] = field(default_factory=list)
    judged: list[CropFit] = field(default_factory=list)
    looked: int = 0

    def __post_init__(self) -> None:
        known = self.wanted or tuple(cast_of(self.report.plan).crops.values())
        self.crops = tuple(crop for crop in known if not self.groups or crop.group in self.groups)

    def run(self) -> tuple[CropFit, ...]:
        """Try everything.

        Returns
        -------
        tuple of CropFit : as ``found``
        """
        self.to_the_end()
        return self.found

    @property
    def found(self) -> tuple[CropFit, ...]:
        """Those that were judged, those that work first, then by how little is outside."""
        return tuple(
            sorted(
                self.judged,
                key=lambda item: (
                    not item.works,
                    len(item.outside),
                    item.outcome.weight if item.outcome else 0.0,
                    item.outcome.extreme_weight if item.outcome else 0.0,
                    len(item.outcome.tight) if item.outcome else 0,
                ),
            )
        )

    def _tries(self) -> Iterator[bool]:
        misses = {crop.id: _air_miss(main_stage(crop), self.air) for crop in self.crops}
        # In what the air is like, the best first; those that it never suits are not looked at.
        able = [crop for crop in self.crops if misses[crop.id] <= 1.0 or self.wanted]
        able.sort(key=lambda crop: round(misses[crop.id], 2))
        for crop in able[:_GLANCED]:
            self.looked += 1
            fit = self.glance(crop, misses[crop.id])
            if fit is not None:
                self.glanced.append(fit)
            yield True
        best = sorted(self.glanced, key=lambda item: (round(item.miss, 2), -item.crop.spacing_m))
        for fit in best[: self.most]:
            done = self._judged(fit)
            if done is not None:
                self.judged.append(done)
            yield True

    @cached_property
    def air(self) -> Simulated:
        """The air as the space keeps it without its plants."""
        report = self.report
        bare = report.here.moved(report.space.model_copy(update={"plants": ()}))
        return simulated(report.plan, replace(bare, plants=()), report.lighting)

    def glance(self, crop: Crop, air: float | None = None) -> CropFit | None:
        """Set the lamps for as many plants of a crop as have room, and see how far they would lie outside.

        Parameters
        ----------
        crop : any crop
        air : how far the air misses its windows, where that is known already

        Returns
        -------
        CropFit : not judged yet; None where it finds no room
        """
        space, stage = self.report.space, main_stage(crop)
        air = _air_miss(stage, self.air) if air is None else air
        count = max(1, int(floor_m2(space) / crop.spacing_m**2 * _FILLED))
        if crop.pot_height_m + 0.5 * stage.height_m > _clear_m(space):
            return None
        made = self._planted([(crop, min(count, _PLANTS))])
        if made is None:
            return None
        changes, planted = made
        lit, miss = self._lit(planted, stage.photoperiod_h)
        return CropFit(crop=crop, count=len(planted.plants), miss=miss + air, changes=(*changes, *lit))

    def together(self, wanted: Sequence[tuple[Crop, int]]) -> Together | None:
        """Let several crops stand there beside each other, the lamps set for all of them, and judge that as a plan.

        Parameters
        ----------
        wanted : crops that share their windows, each with how many plants

        Returns
        -------
        Together : in place of what stands there; None where they find no room
        """
        made = self._planted(wanted) if wanted else None
        if made is None:
            return None
        changes, planted = made
        days = [main_stage(crop).photoperiod_h for crop, _ in wanted]
        low, high = max(day.low for day in days), min(day.high for day in days)
        lit, _ = self._lit(planted, Window(low=min(low, high), high=high))
        fit = Together(space_id=planted.id, crops=tuple(wanted), changes=(*changes, *lit))
        return self._judged(fit)

    def _planted(self, wanted: Sequence[tuple[Crop, int]]) -> tuple[list[Act], Space] | None:
        """Plants in place of those that stand there, not checked against the plan; None where there is no room."""
        space = self.report.space
        gone, ground = tuple(plant.id for plant in space.plants), _ground(space)
        changes: list[Act] = [Remove(collection="plants", part_ids=gone)] if gone else []
        stands = space.model_copy(update={"plants": ()})
        try:
            for crop, count in wanted:
                parts = spread_out(stands, crop, "", count, ground)
                changes.append(Add(collection="plants", parts=tuple(parts), prefix="plant"))
                taken = len(stands.plants)
                more = [Plant.model_validate({**part, "id": f"plant-{taken + n}"}) for n, part in enumerate(parts, 1)]
                stands = stands.model_copy(update={"plants": (*stands.plants, *more)})
        except CanopyError:
            return None
        return changes, stands

    def _lit(self, space: Space, day: Window) -> tuple[list[Act], float]:
        """Set hours and dimmers for what stands there; gives the changes and how far plants still miss."""
        lamps = [lamp for lamp in space.fixtures if lamp.enabled and lamp.spec.purpose == "grow"]
        here = standing_of(space, self.report.here.day, cast_of(self.report.plan))
        if not here.plants:
            return [], 20.0
        if not lamps:
            return [], 5.0
        acts: list[Act] = []
        hours = {lamp.id: min(max(lamp.hours, day.low), day.high) for lamp in lamps}
        for lamp in lamps:
            if abs(hours[lamp.id] - lamp.hours) > 1e-6:
                acts.append(
                    Change(collection="fixtures", part_id=lamp.id, values=lamp_hours(lamp, round(hours[lamp.id], 1)))
                )
        if acts:
            moved = tuple(
                lamp.model_copy(update={"schedule": lamp.schedule.model_copy(update={"hours": hours[lamp.id]})})
                if lamp.id in hours and hasattr(lamp.schedule, "hours")
                else lamp
                for lamp in space.fixtures
            )
            here = here.moved(space.model_copy(update={"fixtures": moved}))
        basis = basis_of(here, COARSE)
        dims = np.clip(best_dimmers(here, basis), 0.0, 1.0)
        for lamp, dim in zip(space.fixtures, dims, strict=True):
            if lamp.can_dim and abs(dim - lamp.dim) > 0.005:
                value = max(0.0, float(np.ceil(dim * 100 - 1e-6) / 100))
                acts.append(Change(collection="fixtures", part_id=lamp.id, values={"dim": value}))
        dli = basis.dli @ dims + basis.daylight_dli
        return acts, float(lacking(here, dli, basis.mean @ dims + basis.daylight_ppfd).mean())

    def _judged(self, fit: AnyFit) -> AnyFit | None:
        """By the true models; where it is outside, with the lamps hung anew too, if that is better."""
        found = self._with_outcome(fit)
        if found is None or found.works:
            return found
        assert found.outcome is not None
        acts = hung_best(found.outcome.report.here, _HEIGHTS, COARSE)
        hung = self._with_outcome(replace(fit, changes=(*fit.changes, *acts))) if acts else None
        return found if hung is None or _outside_of(hung) >= _outside_of(found) else hung

    def _with_outcome(self, fit: AnyFit) -> AnyFit | None:
        try:
            plan = apply(self.report.plan, self.report.space.id, fit.changes)
            outcome = outcome_of(plan, self.report.space.id, self.report.here.day, seasons=True)
        except CanopyError:
            return None
        return replace(fit, outcome=outcome)


def _outside_of(fit: Fit) -> tuple[float, int]:
    """How much of it is outside, then how much tight."""
    assert fit.outcome is not None
    return fit.outcome.weight, len(fit.outcome.tight)


def _air_miss(stage: StageTargets, found: Simulated) -> float:
    """How far the mean air lies outside a crop's windows: 1 where it is off by as much as plants could change."""
    day, night = found.half(day=True), found.half(day=False)
    traces = found.traces
    rows = [
        (traces.air_c[day], stage.air_day_c, _NEAR_K),
        (traces.air_c[night], stage.air_night_c, _NEAR_K),
        (traces.rh_pct, stage.rh_pct, _NEAR_PCT),
    ]
    return sum(_outside(float(values.mean()), window) / near for values, window, near in rows if len(values))


def _outside(value: float, window: Window) -> float:
    return max(0.0, window.low - value, value - window.high)


def floor_m2(space: Space) -> float:
    """Give the ground that one level of a space offers to plants.

    Returns
    -------
    float : of the lowest shelf where there are shelves, else of the floor [m²]
    """
    if space.shelves:
        lowest = min(space.shelves, key=lambda item: item.z_m)
        return lowest.width_m * lowest.depth_m
    return space.size.width_m * space.size.depth_m


def _ground(space: Space) -> str:
    """Where plants stand now: the shelf that carries most of them, else the floor."""
    levels = {shelf.id: shelf.z_m for shelf in space.shelves}
    counts = {
        key: sum(abs(plant.base_m - z) < 0.05 for plant in space.plants) for key, z in {"": 0.0, **levels}.items()
    }
    return max(counts, key=lambda key: counts[key])


def _clear_m(space: Space) -> float:
    """Height between the ground that plants stand on and the lowest lamp over it."""
    key = _ground(space)
    base = next((shelf.z_m for shelf in space.shelves if shelf.id == key), 0.0)
    lamps = [lamp.z_m for lamp in space.fixtures if lamp.enabled and lamp.z_m > base + 0.02]
    return min(lamps, default=space.size.height_m) - base
