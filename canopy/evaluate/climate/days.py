"""A space's simulated day: traces, means by day and by night, what devices ran, and what condensed."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from canopy.climate import columns as c
from canopy.climate.engine import run
from canopy.climate.moist import dew_points_c, saturations_pa
from canopy.climate.simulate import Days
from canopy.evaluate.climate.building import HOURS, NOTED_S, system_of
from canopy.evaluate.climate.contents import under_lids
from canopy.evaluate.climate.upsets import Upset
from canopy.evaluate.light.lighting import Lighting
from canopy.plan.document import Plan
from canopy.season import Standing

Array = NDArray[np.float64]
# What counts as wet: water on more than so much of the surface [kg/m²].
_WET_KG_M2 = 0.002


@dataclass(frozen=True, kw_only=True, eq=False)
class Traces:
    """An enclosure through time, each shape (intervals,): hours since the first midnight; air, leaf, sheet, coldest
    surface, root and lamp body [°C]; RH [%]; VPD of the air and at the leaf [kPa]; dew point [°C]; CO2 [ppm]; water
    given off and condensing [g/h], lying on surfaces [g]; air that comes in [m³/h]; share of the time with lamps on.
    """

    hours: Array
    air_c: Array
    leaf_c: Array
    sheet_c: Array
    cold_c: Array
    root_c: Array
    lamp_c: Array
    rh_pct: Array
    vpd_kpa: Array
    leaf_vpd_kpa: Array
    dew_c: Array
    co2_ppm: Array
    given_g_h: Array
    condensed_g_h: Array
    film_g: Array
    flow_m3_h: Array
    lit: Array


def traces_of(days: Days, space_id: str) -> Traces:
    """Read an enclosure's traces out of a run.

    Parameters
    ----------
    days : the run
    space_id : which enclosure

    Returns
    -------
    Traces : with derived quantities from the same state
    """
    at = days.enclosures[:, days.place(space_id)].astype(np.float64)
    pressure, leaves = days.system.pressure_pa, days.system.enclosures[days.place(space_id)].leaves
    full = saturations_pa(at[:, c.OUT_AIR])
    leaf_full = saturations_pa(np.minimum(at[:, c.OUT_LEAF], 95.0)) if leaves else full
    ratio = at[:, c.OUT_RATIO]
    vapour = pressure * ratio / (0.621945 + ratio)
    return Traces(
        hours=days.hours,
        air_c=at[:, c.OUT_AIR],
        leaf_c=at[:, c.OUT_LEAF if leaves else c.OUT_AIR],
        sheet_c=at[:, c.OUT_SHEET],
        cold_c=at[:, c.OUT_COLD],
        root_c=at[:, c.OUT_POT],
        lamp_c=at[:, c.OUT_LAMP],
        rh_pct=np.minimum(100 * vapour / full, 100.0),
        vpd_kpa=np.maximum(full - vapour, 0) / 1000,
        leaf_vpd_kpa=np.maximum(leaf_full - vapour, 0) / 1000,
        dew_c=dew_points_c(ratio, pressure),
        co2_ppm=at[:, c.OUT_CO2],
        given_g_h=at[:, c.OUT_GIVEN] * 3.6e6,
        condensed_g_h=np.maximum(at[:, c.OUT_CONDENSED], 0) * 3.6e6,
        film_g=at[:, c.OUT_FILM] * 1000,
        flow_m3_h=at[:, c.OUT_FLOW] * 3600,
        lit=at[:, c.OUT_LIT],
    )


@dataclass(frozen=True, kw_only=True, eq=False)
class Simulated:
    """A space's simulated days; what is judged is the last of them, when warmth and water have settled. ``under`` names
    the enclosure of each plant that stands in another air than the space's: under a lid.
    """

    days: Days
    space_id: str
    assumed: tuple[str, ...]
    under: Mapping[str, str] = field(default_factory=dict)

    @property
    def nbytes(self) -> int:
        """What it takes up, traces included [bytes]."""
        return 3 * self.days.nbytes + 20_000

    @cached_property
    def traces(self) -> Traces:
        """All that was followed, from the first midnight on."""
        return traces_of(self.days, self.space_id)

    @cached_property
    def lids(self) -> dict[str, Simulated]:
        """The airs under lids, by their enclosures."""
        return {key: replace(self, space_id=key, under={}) for key in set(self.under.values())}

    def around_plant(self, plant_id: str) -> Simulated:
        """Give the air that a plant stands in.

        Parameters
        ----------
        plant_id : which

        Returns
        -------
        Simulated : the space's own, or that under its lid
        """
        key = self.under.get(plant_id)
        return self if key is None else self.lids[key]

    def mean_c(self, plant_id: str) -> float:
        """Give the mean of the air round a plant over the last day.

        Parameters
        ----------
        plant_id : which

        Returns
        -------
        float : under its lid where it has one [°C]
        """
        return float(self.around_plant(plant_id).traces.air_c[self.last].mean())

    @cached_property
    def last(self) -> NDArray[np.bool_]:
        """Which intervals belong to the last day."""
        hours = self.traces.hours
        return np.asarray(hours > hours[-1] - 24)

    @property
    def overheats_s(self) -> float | None:
        """When an air passed 60 °C, where the run ends; None when none did [s]."""
        return self.days.overheats_s

    @cached_property
    def lit(self) -> NDArray[np.bool_]:
        """Which intervals of the last day have lamps on; by clock from 8 to 22 h in a space without lamps."""
        traces = self.traces
        if traces.lit[self.last].max(initial=0.0) > 0:
            return np.asarray(self.last & (traces.lit > 0.5))
        clock = traces.hours % 24
        return np.asarray(self.last & (clock >= 8) & (clock < 22))

    @cached_property
    def dark(self) -> NDArray[np.bool_]:
        """Which intervals of the last day have lamps off."""
        return np.asarray(self.last & ~self.lit)

    def half(self, *, day: bool) -> NDArray[np.bool_]:
        """Which intervals of the last day are day, or night; all of it where there is no such half.

        Parameters
        ----------
        day : lamps on

        Returns
        -------
        ndarray of bool : shape (intervals,)
        """
        found = self.lit if day else self.dark
        return found if found.any() else self.last

    def mean(self, name: str, *, day: bool) -> float:
        """Give a quantity's mean by day or by night.

        Parameters
        ----------
        name : such as "air_c"
        day : lamps on

        Returns
        -------
        float : in the trace's unit
        """
        return float(getattr(self.traces, name)[self.half(day=day)].mean())

    @cached_property
    def condensed_g_d(self) -> float:
        """Water that condenses on the last day [g]."""
        every_h = self.days.every_s / 3600
        return float(self.traces.condensed_g_h[self.last].sum() * every_h)

    @cached_property
    def wet_hours(self) -> float:
        """For how long of the last day water lies on surfaces [h]."""
        area = sum(f.area_m2 for f in self.days.system.enclosures[self.days.place(self.space_id)].faces)
        wet = self.traces.film_g[self.last] > _WET_KG_M2 * 1000 * area
        return float(wet.sum() * self.days.every_s / 3600)

    def share_of(self, device_id: str) -> float | None:
        """Give the share of the last day for which a device runs.

        Parameters
        ----------
        device_id : which

        Returns
        -------
        float : 0..1; None for one that does nothing to the air
        """
        ran = self.ran(device_id)
        return None if ran is None else float(ran[self.last].mean())

    def shares(self, device_ids: Iterable[str]) -> dict[str, float]:
        """Give the shares of the last day for which devices run.

        Parameters
        ----------
        device_ids : which

        Returns
        -------
        dict of str to float : of those that do something to the air, 0..1
        """
        found = {key: self.share_of(key) for key in device_ids}
        return {key: share for key, share in found.items() if share is not None}

    def ran(self, device_id: str) -> Array | None:
        """Give how far a device runs through time.

        Parameters
        ----------
        device_id : which

        Returns
        -------
        ndarray : shape (intervals,), 0..1; None for one that does nothing to the air
        """
        ids = [group.id for group in self.days.system.groups]
        key = f"{self.space_id}/{device_id}"
        return np.asarray(self.days.groups[:, ids.index(key)], dtype=np.float64) if key in ids else None


def simulated(
    plan: Plan,
    here: Standing,
    lighting: Lighting,
    *,
    upset: Upset | None = None,
    hours: int = HOURS,
    every_s: float = NOTED_S,
) -> Simulated:
    """Follow a space through days alike.

    Parameters
    ----------
    plan : the plan, for joined spaces and those in the same room
    here : the space on a day
    lighting : its computed light
    upset : what goes wrong meanwhile
    hours : how long [h]
    every_s : means are over so long [s]

    Returns
    -------
    Simulated : from midnight on
    """
    built = system_of(plan, here, lighting, hours=hours, upset=upset, every_s=every_s)
    days = run(built.system)
    # Kept as long as its space's report: without what drove it, and no finer than it is known.
    slim = replace(
        days,
        system=replace(days.system, drives={}, states={}, links=(), weathers=()),
        enclosures=days.enclosures.astype(np.float32),
        rooms=days.rooms.astype(np.float32),
        groups=days.groups.astype(np.float32),
        levels=days.levels.astype(np.float32),
    )
    under = {plant.id: f"{here.space.id}/{lid.id}" for lid, plants in under_lids(here) for plant in plants}
    return Simulated(days=slim, space_id=here.space.id, assumed=built.assumed, under=under)
