"""Harvest and money of each planting: what came of it, for its ground, light, power and cost."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from canopy.evaluate.space import SpaceReport
from canopy.library.yields import YieldClass, yields
from canopy.logs.entries import Entry, Harvest
from canopy.plan.plants import Planting
from canopy.power.cost import priced
from canopy.season import Cast, cast_of, harvest, spans, standing_of

# Light and power are taken as they were in the middle of a run; days differ as plants grow and lamps move: rough by so
# much.
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
    """A planting up to a day: what was reaped, how many plants live of how many that were sown, ground on its last day
    [m²], light on it [mol], power [kWh] and money [currency] up to now, and what light of that amount makes of its kind
    [kg]. ``lit`` is False where its plants do not stand in the plan of its middle day: then light and power are not
    known, and are 0.
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
    lit: bool = True

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
        """Power for a kilogram [kWh]; None where it is not known."""
        return self.kwh / self.reaped.kg if self.reaped.kg and self.lit else None

    @property
    def cost_kg(self) -> float | None:
        """Cost of a kilogram [currency]; None where its power is not known."""
        return self.cost / self.reaped.kg if self.reaped.kg and self.lit else None

    @property
    def saved(self) -> float | None:
        """What the harvest would have cost in a shop less what it cost here [currency]; None without a price."""
        if self.planting.shop_price is None or not self.reaped.kg or not self.lit:
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


def last_day(planting: Planting, today: dt.date) -> dt.date:
    """Give the last day on which a planting stands, up to a day.

    Parameters
    ----------
    planting : cleared or not
    today : the day

    Returns
    -------
    date : the day before it was cleared, at the latest today; not before it began
    """
    cleared = planting.cleared_on - dt.timedelta(days=1) if planting.cleared_on else today
    return max(planting.starts_on, min(today, cleared))


def middle_day(planting: Planting, today: dt.date) -> dt.date:
    """Give the middle of a planting's days so far, whose light and power stand for them all.

    Parameters
    ----------
    planting : cleared or not
    today : the day

    Returns
    -------
    date : half way from its first day to its last
    """
    return planting.starts_on + (last_day(planting, today) - planting.starts_on) / 2


def runs_of(
    report: SpaceReport, entries: Sequence[Entry], today: dt.date, looks: Mapping[str, SpaceReport] | None = None
) -> tuple[Run, ...]:
    """Give what came of each planting of a space.

    Parameters
    ----------
    report : the space's report
    entries : of its log; a harvest that names no plants is one of all that could be harvested then
    today : up to which day
    looks : by planting, the space's report on the middle day of its run, by the plan of then; the report itself stands
        for those that are not among them

    Returns
    -------
    tuple of Run : the newest first

    Notes
    -----
    A planting bears its share of the space's power and its own light by the ground that it covers on its middle day,
    for each day since it was begun: rough, as plants were smaller before and lamps may have moved.
    """
    plan, cast = report.plan, cast_of(report.plan)
    told = [
        entry if entry.plants else entry.model_copy(update={"plants": _ripe_on(report, cast, entry.at.date())})
        for entry in entries
        if entry.kind == "harvest"
    ]
    found = []
    for planting in plan.plantings:
        mine = [plant for plant in report.space.plants if plant.planting_id == planting.id]
        if not mine or planting.starts_on > today:
            continue
        ends = min(today, planting.cleared_on or today)
        days = max(1, (ends - planting.starts_on).days)
        day = _a_day(planting, (looks or {}).get(planting.id, report))
        at_last = [
            plant
            for plant in standing_of(report.space, last_day(planting, today), cast).plants
            if plant.plant.planting_id == planting.id
        ]
        light_mol = days * day.light_mol
        crop = cast.crops.get(planting.crop_id)
        group = crop.group if crop else ""
        kind = yields().get(group)
        found.append(
            Run(
                planting=planting,
                group=group,
                days=days,
                reaped=reaped(told, [plant.id for plant in mine]),
                living=sum(plant.count for plant in at_last),
                ground_m2=sum(plant.ground_m2 for plant in at_last),
                light_mol=light_mol,
                kwh=days * day.kwh,
                power_cost=days * day.cost,
                expected_kg=_expected(planting, kind, light_mol),
                over=planting.cleared_on is not None and planting.cleared_on <= today,
                lit=day.lit,
            )
        )
    return tuple(sorted(found, key=lambda run: run.planting.starts_on, reverse=True))


@dataclass(frozen=True, kw_only=True)
class _ADay:
    """What a planting takes in a day: light [mol], power [kWh] and its cost [currency]; whether it stood there."""

    light_mol: float
    kwh: float
    cost: float
    lit: bool


def _a_day(planting: Planting, look: SpaceReport) -> _ADay:
    lights = look.lighting.plants
    mine = [light for light in lights if light.plant.plant.planting_id == planting.id]
    whole, ground = (sum(light.plant.ground_m2 for light in some) for some in (lights, mine))
    share, loads = (ground / whole if whole > 0 else 0.0), look.running.loads
    return _ADay(
        light_mol=sum(light.plant.ground_m2 * light.dli_mol_m2_d for light in mine),
        kwh=share * sum(load.energy_kwh_d for load in loads),
        cost=share * sum(priced(load, look.plan.tariff) for load in loads),
        lit=bool(mine),
    )


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
