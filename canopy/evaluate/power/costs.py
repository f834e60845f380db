"""What a household costs to run: by device, space, month and run, and for each unit of a harvest."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property

from canopy.evaluate.space import SpaceReport
from canopy.plan.document import Plan
from canopy.plan.plants import Planting
from canopy.power import Load
from canopy.power.cost import cost_on, priced
from canopy.power.load import MONTH_DAYS, other_loads
from canopy.season import Cast, cast_of, harvest, spans

_DAY = dt.timedelta(days=1)


@dataclass(frozen=True, kw_only=True)
class CostLine:
    """What one load, or all of a space, takes: energy a day [kWh], and what a day costs [currency]."""

    name: str
    kwh_d: float
    cost_d: float
    share: float = 0.0

    @property
    def kwh_month(self) -> float:
        """Energy in 30.4 days [kWh]."""
        return MONTH_DAYS * self.kwh_d

    @property
    def cost_month(self) -> float:
        """Cost of 30.4 days [currency]."""
        return MONTH_DAYS * self.cost_d


def by_load(plan: Plan, loads: Iterable[Load]) -> tuple[CostLine, ...]:
    """Give what each load takes, the dearest first.

    Parameters
    ----------
    plan : for its tariff
    loads : of a space as they run, or of the household

    Returns
    -------
    tuple of CostLine : loads of one name as one, with their share of the whole
    """
    found: dict[str, list[float]] = {}
    count: dict[str, int] = {}
    for load in loads:
        line = found.setdefault(load.name, [0.0, 0.0])
        line[0] += load.energy_kwh_d
        line[1] += priced(load, plan.tariff)
        count[load.name] = count.get(load.name, 0) + 1
    whole = sum(cost for _, cost in found.values())
    lines = [
        CostLine(
            name=f"{count[name]} × {name}" if count[name] > 1 else name,
            kwh_d=kwh,
            cost_d=cost,
            share=cost / whole if whole > 0 else 0.0,
        )
        for name, (kwh, cost) in found.items()
    ]
    return tuple(sorted(lines, key=lambda line: -line.cost_d))


def by_space(plan: Plan, reports: Sequence[SpaceReport]) -> tuple[CostLine, ...]:
    """Give what each space and the household's other loads take.

    Parameters
    ----------
    plan : for its tariff
    reports : of its spaces

    Returns
    -------
    tuple of CostLine : in the plan's order, the household's other loads and the standing charge last
    """
    rows = [(report.space.name, report.running.loads) for report in reports]
    rows.append(("Other loads of the household", tuple(x for circuit in plan.circuits for x in other_loads(circuit))))
    lines = [
        (name, sum(x.energy_kwh_d for x in loads), sum(priced(x, plan.tariff) for x in loads)) for name, loads in rows
    ]
    if plan.tariff.standing_per_day:
        lines.append(("Standing charge", 0.0, plan.tariff.standing_per_day))
    whole = sum(cost for _, _, cost in lines)
    return tuple(
        CostLine(name=name, kwh_d=kwh, cost_d=cost, share=cost / whole if whole > 0 else 0.0)
        for name, kwh, cost in lines
        if kwh or cost
    )


@dataclass(frozen=True, kw_only=True)
class MonthCost:
    """A calendar month of days as they are, of 23 and 25 hours too: energy [kWh] and cost [currency]."""

    first: dt.date
    days: int
    kwh: float
    cost: float


def by_month(plan: Plan, loads: Sequence[Load], begins: dt.date, months: int = 12) -> tuple[MonthCost, ...]:
    """Give what loads cost in the months to come, running as they do now.

    Parameters
    ----------
    plan : for its tariff and time zone
    loads : of a space as they run
    begins : a day of the first month
    months : how many

    Returns
    -------
    tuple of MonthCost : whole months; without the standing charge
    """
    found, first = [], begins.replace(day=1)
    zone = plan.site.time_zone
    for _ in range(months):
        following = (first + 32 * _DAY).replace(day=1)
        days = [first + n * _DAY for n in range((following - first).days)]
        sums = [_on(plan, loads, day, zone) for day in days]
        found.append(
            MonthCost(first=first, days=len(days), kwh=sum(kwh for kwh, _ in sums), cost=sum(cost for _, cost in sums))
        )
        first = following
    return tuple(found)


def _on(plan: Plan, loads: Sequence[Load], day: dt.date, zone: str) -> tuple[float, float]:
    pairs = [cost_on(load, plan.tariff, day, zone) for load in loads]
    return sum(kwh for kwh, _ in pairs), sum(cost for _, cost in pairs)


@dataclass(frozen=True, kw_only=True)
class RunCost:
    """What a planting takes from its first day to its last: its share of the space by ground covered, energy [kWh],
    cost [currency], and for a unit of its expected harvest where somebody typed one.
    """

    planting: Planting
    begins: dt.date
    ends: dt.date
    share: float
    kwh: float
    cost: float

    @cached_property
    def per_unit(self) -> float | None:
        """Cost of a unit of the harvest [currency]; None where nobody said what is expected."""
        return self.cost / self.planting.yield_amount if self.planting.yield_amount else None


def by_run(report: SpaceReport) -> tuple[RunCost, ...]:
    """Give what each planting of a space takes.

    Parameters
    ----------
    report : the space's report

    Returns
    -------
    tuple of RunCost : those with a last day: harvested once, picked until, or cleared

    Notes
    -----
    A planting bears its share of the space's cost, by the ground that its crowns cover now among all that stands
    there; a space that stands empty beside it is borne by it alone.
    """
    plan, cast, loads = report.plan, cast_of(report.plan), report.running.loads
    ground = {plant.id: plant.ground_m2 for plant in report.here.plants}
    whole = sum(ground.values())
    found = []
    for planting in plan.plantings:
        mine = [plant for plant in report.space.plants if plant.planting_id == planting.id]
        covered = sum(ground.get(plant.id, 0.0) for plant in mine)
        ends = _last_day(planting, cast) if mine and covered > 0 else None
        if ends is None:
            continue
        days = max(1, (ends - planting.starts_on).days)
        share = covered / whole
        kwh = days * share * sum(load.energy_kwh_d for load in loads)
        cost = days * share * sum(priced(load, plan.tariff) for load in loads)
        found.append(RunCost(planting=planting, begins=planting.starts_on, ends=ends, share=share, kwh=kwh, cost=cost))
    return tuple(found)


def _last_day(planting: Planting, cast: Cast) -> dt.date | None:
    if planting.cleared_on is not None:
        return planting.cleared_on
    crop = cast.crops.get(planting.crop_id)
    if crop is None:
        return None
    laid = spans(planting, crop)
    found = harvest(laid, crop)
    if found is None:
        return None
    return found.until or found.likely
