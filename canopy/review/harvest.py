"""Harvest and money of each planting: what came of it, for its ground, light, power and cost."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from canopy.evaluate.space import SpaceReport
from canopy.library.yields import YieldClass, yields
from canopy.logs.entries import Entry, Harvest
from canopy.plan.plants import Planting
from canopy.power.cost import priced
from canopy.season import Cast, cast_of, harvest, spans

# Light and power are taken as they are on the day shown; days differ as plants grow and lamps move: rough by so much.
ROUGH = 0.2


@dataclass(frozen=True, kw_only=True)
class Reaped:
    """What came of a planting so far: weight [kg], pieces, on how many occasions, the first and the last day, and how
    good it was on the mean, 1 to 5.
    """

    kg: float = 0.0
    pieces: int = 0
    times: int = 0
    first: dt.date | None = None
    last: dt.date | None = None
    quality: float | None = None


@dataclass(frozen=True, kw_only=True)
class Run:
    """A planting up to a day: what was reaped, how many plants live of how many that were sown, ground [m²], light on
    it [mol], power [kWh] and money [currency] up to now, and what light of that amount makes of its kind [kg].
    """

    planting: Planting
    group: str
    days: int
    reaped: Reaped
    living: int
    ground_m2: float
    light_mol: float
    kwh: float
    power_cost: float
    expected_kg: tuple[float, float] | None
    over: bool

    @property
    def cost(self) -> float:
        """Power, and what was spent on seeds, plants and mix [currency]."""
        return self.power_cost + (self.planting.spent or 0.0)

    @property
    def per_m2(self) -> float | None:
        """Harvest of a square metre [kg]."""
        return self.reaped.kg / self.ground_m2 if self.reaped.kg and self.ground_m2 > 0 else None

    @property
    def g_mol(self) -> float | None:
        """Harvest for a mol of light [g]."""
        return 1000 * self.reaped.kg / self.light_mol if self.reaped.kg and self.light_mol > 0 else None

    @property
    def kwh_kg(self) -> float | None:
        """Power for a kilogram [kWh]."""
        return self.kwh / self.reaped.kg if self.reaped.kg else None

    @property
    def cost_kg(self) -> float | None:
        """Cost of a kilogram [currency]."""
        return self.cost / self.reaped.kg if self.reaped.kg else None

    @property
    def saved(self) -> float | None:
        """What the harvest would have cost in a shop less what it cost here [currency]; None without a price."""
        if self.planting.shop_price is None or not self.reaped.kg:
            return None
        return self.planting.shop_price * self.reaped.kg - self.cost

    @property
    def lost(self) -> int | None:
        """How many of those sown do not stand there any more; None where nobody said how many were sown."""
        return None if self.planting.sown is None else max(0, self.planting.sown - self.living)


def reaped(entries: Iterable[Entry], plants: Sequence[str]) -> Reaped:
    """Sum up what was taken from some plants.

    Parameters
    ----------
    entries : of the log; those that were struck do not count, nor those that name none of these plants
    plants : ids

    Returns
    -------
    Reaped : a harvest of several plantings at once counts by how many of its plants are among these
    """
    kg, pieces, marks, days = 0.0, 0.0, [], []
    mine = set(plants)
    for entry in entries:
        if entry.kind != "harvest" or entry.struck or not mine & set(entry.plants):
            continue
        share = len(mine & set(entry.plants)) / len(entry.plants)
        taken = Harvest.model_validate(entry.data)
        kg += share * (taken.weight_kg or 0.0)
        pieces += share * (taken.count or 0)
        days.append(entry.at.date())
        if taken.quality is not None:
            marks.append(taken.quality)
    return Reaped(
        kg=kg,
        pieces=round(pieces),
        times=len(days),
        first=min(days, default=None),
        last=max(days, default=None),
        quality=sum(marks) / len(marks) if marks else None,
    )


def runs_of(report: SpaceReport, entries: Sequence[Entry], today: dt.date) -> tuple[Run, ...]:
    """Give what came of each planting of a space.

    Parameters
    ----------
    report : the space's report
    entries : of its log; a harvest that names no plants is one of all that could be harvested then
    today : up to which day

    Returns
    -------
    tuple of Run : the newest first

    Notes
    -----
    A planting bears its share of the space's power and its own light by the ground that it covers on the day shown,
    for each day since it was begun: rough, as plants were smaller and lamps otherwise before.
    """
    plan, cast, loads = report.plan, cast_of(report.plan), report.running.loads
    lights = {light.plant.id: light for light in report.lighting.plants}
    whole = sum(light.plant.ground_m2 for light in lights.values())
    told = [
        entry if entry.plants else entry.model_copy(update={"plants": _ripe_on(report, cast, entry.at.date())})
        for entry in entries
        if entry.kind == "harvest"
    ]
    kwh_d, cost_d = sum(load.energy_kwh_d for load in loads), sum(priced(load, plan.tariff) for load in loads)
    found = []
    for planting in plan.plantings:
        mine = [plant for plant in report.space.plants if plant.planting_id == planting.id]
        if not mine or planting.starts_on > today:
            continue
        ends = min(today, planting.cleared_on or today)
        days = max(1, (ends - planting.starts_on).days)
        here = [lights[plant.id] for plant in mine if plant.id in lights]
        ground = sum(light.plant.ground_m2 for light in here)
        light_mol = days * sum(light.plant.ground_m2 * light.dli_mol_m2_d for light in here)
        share = ground / whole if whole > 0 else 0.0
        crop = cast.crops.get(planting.crop_id)
        group = crop.group if crop else ""
        kind = yields().get(group)
        found.append(
            Run(
                planting=planting,
                group=group,
                days=days,
                reaped=reaped(told, [plant.id for plant in mine]),
                living=sum(light.plant.count for light in here),
                ground_m2=ground,
                light_mol=light_mol,
                kwh=days * share * kwh_d,
                power_cost=days * share * cost_d,
                expected_kg=_expected(planting, kind, light_mol),
                over=planting.cleared_on is not None and planting.cleared_on <= today,
            )
        )
    return tuple(sorted(found, key=lambda run: run.planting.starts_on, reverse=True))


def _ripe_on(report: SpaceReport, cast: Cast, day: dt.date) -> tuple[str, ...]:
    """The plants that could have been harvested on a day; all where none is told to have been ready."""
    ripe = []
    for plant in report.space.plants:
        planting = report.plan.planting(plant.planting_id)
        crop = cast.crops.get(plant.crop_id)
        if planting is None or crop is None:
            continue
        found = harvest(spans(planting, crop), crop)
        if found is not None and found.earliest <= day and (planting.cleared_on is None or day <= planting.cleared_on):
            ripe.append(plant.id)
    return tuple(ripe) or tuple(plant.id for plant in report.space.plants)


def _expected(planting: Planting, kind: YieldClass | None, light_mol: float) -> tuple[float, float] | None:
    """What a person expects where it is a weight, else what light of that amount makes of its kind [kg]."""
    if planting.yield_amount is not None and planting.yield_unit.strip().casefold() == "kg":
        return planting.yield_amount, planting.yield_amount
    if kind is None or light_mol <= 0:
        return None
    return kind.g_mol.low * light_mol / 1000, kind.g_mol.high * light_mol / 1000
