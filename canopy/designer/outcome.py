"""What a plan of a space comes to, in the few figures that plans are told apart by."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cached_property

from canopy.care import care_of
from canopy.design.climate.sizing import seasons_of
from canopy.evaluate.air.noise import noise_of
from canopy.evaluate.climate.days import Simulated, simulated
from canopy.evaluate.climate.margins import climate_margins
from canopy.evaluate.climate.rehearsal.rehearsed import in_season
from canopy.evaluate.light.margins import least_even
from canopy.evaluate.space import SpaceReport, evaluate_space
from canopy.kit.gather import kit_of
from canopy.kit.line import Kit
from canopy.library import Window
from canopy.light.scene import PREVIEW, Quality
from canopy.margin import Margin, gap
from canopy.plan.document import Plan
from canopy.plan.rooms import Season
from canopy.season import Standing

# Over how long work is laid out to say what it takes a month [d].
_MONTH_D = 30
# How much of being far outside counts beside being outside at all.
_FAR = 1.0


@dataclass(frozen=True, kw_only=True, eq=False)
class Outcome:
    """A space's report, followed through its day, with what it takes to buy, to run and to tend.

    With ``extremes`` its climate is followed through the coldest and hottest day of its room, too, where those are
    known: once somebody asks.
    """

    report: SpaceReport
    extremes: bool = False

    @cached_property
    def extreme_days(self) -> Mapping[Season, tuple[Standing, Simulated]]:
        """The coldest and hottest day followed, both at once: the simulation leaves the interpreter free."""
        report = self.report
        named = seasons_of(report) if self.extremes and report.here.plants else ()
        days = {season: in_season(report.plan, report.here, season) for season in named if season != "day"}
        with ThreadPoolExecutor(max_workers=2) as pool:
            found = pool.map(lambda here: simulated(report.plan, here, report.lighting), days.values())
            return {season: (here, day) for (season, here), day in zip(days.items(), found, strict=True)}

    @cached_property
    def seasons(self) -> Mapping[Season, tuple[Margin, ...]]:
        """Margins of the climate on these days."""
        return {season: tuple(climate_margins(here, day)) for season, (here, day) in self.extreme_days.items()}

    @property
    def bad(self) -> tuple[Margin, ...]:
        """What is short or over on the day looked at, what could do harm first."""
        return tuple(margin for margin in self.report.margins if _is_bad(margin))

    @property
    def bad_seasons(self) -> tuple[tuple[Season, Margin], ...]:
        """What is short or over on the coldest and hottest day, and not so already on the day looked at."""
        known = {margin.id for margin in self.bad}
        return tuple(
            (season, margin)
            for season, margins in self.seasons.items()
            for margin in margins
            if _is_bad(margin) and margin.id not in known
        )

    @property
    def tight(self) -> tuple[Margin, ...]:
        """What is tight on the day looked at."""
        return tuple(item for item in self.report.margins if item.verdict == "tight" and not item.information)

    @property
    def unknown(self) -> tuple[Margin, ...]:
        """What nobody has said, and therefore nobody judged."""
        return tuple(item for item in self.report.margins if item.verdict == "unknown" and not item.information)

    @property
    def weight(self) -> float:
        """How bad it is on the day looked at: 0 where nothing is short or over; each that is counts 1 to 2 by how far
        it is off, twice where it could do harm.
        """
        return sum((2.0 if margin.danger else 1.0) * (1 + _off(margin)) for margin in self.bad)

    @property
    def extreme_weight(self) -> float:
        """The same of the coldest and hottest day alone."""
        return sum(1 + _off(margin) for _, margin in self.bad_seasons)

    @cached_property
    def kit(self) -> Kit:
        """Everything that it implies."""
        return kit_of([self.report])

    @property
    def purchase(self) -> Window:
        """What of it is not owned costs, from the cheapest to the dearest [currency]."""
        return self.kit.cost()

    @property
    def price(self) -> float:
        """The middle of that [currency]."""
        return (self.purchase.low + self.purchase.high) / 2

    @property
    def cost_month(self) -> float:
        """What it draws in a month, by the tariff [currency]."""
        return self.report.running.cost_per_month

    @property
    def kwh_month(self) -> float:
        """What it draws in a month [kWh]."""
        return 30.4 * self.report.running.energy_kwh_d

    @cached_property
    def noise_dba(self) -> float | None:
        """What is heard of it where people are; None where nothing of it is known to be heard [dB(A)]."""
        return noise_of(self.report.space).total_dba

    @property
    def evenness(self) -> float:
        """The least even crop's dimmest place over its mean; 1 without plants."""
        return least_even(self.report.lighting) if self.report.here.plants else 1.0

    @cached_property
    def tending_h_month(self) -> float:
        """What recurring work it asks for in a month [h]."""
        day = self.report.here.day
        to = day + dt.timedelta(days=_MONTH_D - 1)
        return sum(job.minutes * len(job.on(day, to)) for job in care_of([self.report], day, _MONTH_D)) / 60


@dataclass(frozen=True, kw_only=True)
class Figures:
    """What an outcome comes to, without the report it was taken from; ``flow_over`` where more air is moved than does
    it good.
    """

    weight: float
    extreme_weight: float
    price: float
    cost_month: float
    noise_dba: float | None
    evenness: float
    tending_h_month: float
    cooled: bool
    flow_over: bool


def figures_of(found: Outcome) -> Figures:
    """Take down what an outcome comes to, so that its report need not be kept.

    Parameters
    ----------
    found : worked out

    Returns
    -------
    Figures : the same figures
    """
    return Figures(
        weight=found.weight,
        extreme_weight=found.extreme_weight,
        price=found.price,
        cost_month=found.cost_month,
        noise_dba=found.noise_dba,
        evenness=found.evenness,
        tending_h_month=found.tending_h_month,
        cooled=any(device.spec.kind == "cooler" for device in found.report.space.devices),
        flow_over=any(margin.id == "air.flow" and margin.verdict == "over" for margin in found.bad),
    )


def _is_bad(margin: Margin) -> bool:
    return margin.verdict in ("short", "over") and not margin.information


def _off(margin: Margin) -> float:
    return _FAR * min(1.0, max(0.0, gap(margin) - 1))


def outcome_of(
    plan: Plan, space_id: str, day: dt.date | None = None, *, quality: Quality = PREVIEW, seasons: bool = False
) -> Outcome:
    """Work out what a plan of a space comes to.

    Parameters
    ----------
    plan : with all its spaces
    space_id : one of them
    day : the day it is looked at; the plan's own when None
    quality : how finely to cut the walls for light
    seasons : look at the coldest and hottest day of its room, too, where they are known

    Returns
    -------
    Outcome : its report followed through the day

    Raises
    ------
    KeyError : the plan has no such space
    """
    space = plan.space(space_id)
    if space is None:
        raise KeyError(space_id)
    report = evaluate_space(plan, space, day=day or plan.date, quality=quality, with_map=False, follow=True)
    return of_report(report, seasons=seasons)


def of_report(report: SpaceReport, *, seasons: bool = False) -> Outcome:
    """Take a report as an outcome.

    Parameters
    ----------
    report : followed through its day
    seasons : look at the coldest and hottest day of its room, too, where they are known

    Returns
    -------
    Outcome : the same report, with its extremes
    """
    return Outcome(report=report, extremes=seasons)
