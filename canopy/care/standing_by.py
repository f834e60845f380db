"""Tanks, pots and buckets: on which day each runs dry or is full, and what a week away needs."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from dataclasses import dataclass

from canopy.care.job import NOTHING
from canopy.care.thirst import leaf_m2, pots_of, thirst_of
from canopy.evaluate import SpaceReport
from canopy.evaluate.climate.tanks import water_l_d
from canopy.margin import Amount, Sentence, sentence
from canopy.plan.care import WATERING
from canopy.season import Growing
from canopy.words import capital

AWAY_D = 7
_LEAST_L_D = 0.005


@dataclass(frozen=True, kw_only=True)
class Store:
    """A store of water, or a bucket that fills: what it holds, what goes in a day, and what a time away needs.

    ``ends`` is the day on which it is dry, or full, counted from full (or empty) today; ``dries`` False for a bucket.
    """

    name: str
    holds_l: float
    goes_l_d: float
    today: dt.date
    dries: bool = True
    away: Sentence = NOTHING

    @property
    def days(self) -> float:
        """How long it lasts [d]."""
        return self.holds_l / self.goes_l_d

    @property
    def ends(self) -> dt.date:
        """The day on which it is dry, or full."""
        return self.today + dt.timedelta(days=int(min(self.days, 3650)))

    @property
    def lasts(self) -> bool:
        """Whether it lasts a week without anybody."""
        return self.days >= AWAY_D


def stores(report: SpaceReport, days: int = AWAY_D) -> tuple[Store, ...]:
    """Say how long each of a space's stores lasts.

    Parameters
    ----------
    report : of the space today
    days : how long nobody comes, 1 or more [d]

    Returns
    -------
    tuple of Store : the reservoir or the tank that waters it, the pots by crop, humidifiers and buckets
    """
    return (*_water(report, days), *_devices(report, days))


def _amount(litres: float) -> Amount:
    return Amount(value=max(0.0, litres), unit="volume")


def _water(report: SpaceReport, days: int) -> Iterator[Store]:
    space, thirst, today = report.space, thirst_of(report), report.here.day
    if not report.here.plants or thirst.litres_d < _LEAST_L_D:
        return
    tank = space.watering.tank_l if space.watering.way != "hand" else None
    name = capital(WATERING[space.watering.way]) if tank else "Reservoir"
    if space.feed.way == "solution" and space.feed.reservoir_l:
        tank, name = space.feed.reservoir_l, "Reservoir"
    if tank:
        lacks = days * thirst.litres_d - tank
        words = f"{{lacks}} more than it holds in {days} days: a larger tank, or somebody who fills it."
        yield Store(
            name=name,
            holds_l=tank,
            goes_l_d=thirst.litres_d,
            today=today,
            away=sentence(words if lacks > 0 else "It lasts.", lacks=_amount(lacks)),
        )
    if space.feed.way == "solution" or thirst.leaf_m2 <= 0:
        return
    pots = pots_of(report.here)
    by_crop: dict[str, tuple[float, float]] = {}
    for plant in pots.plants:
        # Between watered and wilting.
        litres = (plant.plant.pot_volume_l or plant.crop.container_l.low) * pots.held_l / _volume(pots.plants)
        drawn = thirst.litres_d * leaf_m2(plant) / thirst.leaf_m2
        before = by_crop.get(plant.crop.name)
        if drawn > 0 and (before is None or litres / drawn < before[0] / before[1]):
            by_crop[plant.crop.name] = (litres, drawn)
    for crop, (litres, drawn) in by_crop.items():
        lacks = days * drawn - litres
        words = "It lasts." if lacks <= 0 else f"{{lacks}} more a pot in {days} days: wicks from a tank, or somebody."
        if tank:
            words = "The tank keeps it moist as long as it lasts."
        yield Store(
            name=f"{crop}, the pot that dries first",
            holds_l=litres,
            goes_l_d=drawn,
            today=today,
            away=sentence(words, lacks=_amount(lacks)),
        )


def _volume(plants: tuple[Growing, ...]) -> float:
    return float(sum(plant.plant.pot_volume_l or plant.crop.container_l.low for plant in plants))


def _devices(report: SpaceReport, days: int) -> Iterator[Store]:
    found = report.climate
    if found is None or found.overheats_s is not None:
        return
    for device in report.space.devices:
        litres = water_l_d(device, found)
        if device.spec.tank_l is None or litres is None or litres < _LEAST_L_D:
            continue
        fills = device.spec.kind == "humidifier"
        lacks = days * litres - device.spec.tank_l
        short = (
            f"{{lacks}} more than it holds in {days} days: a canister beside it, or less damp asked for."
            if fills
            else f"{{lacks}} more than its bucket in {days} days: a hose to a drain."
        )
        yield Store(
            name=device.spec.name,
            holds_l=device.spec.tank_l,
            goes_l_d=litres,
            today=report.here.day,
            dries=fills,
            away=sentence(short if lacks > 0 else "It lasts.", lacks=_amount(lacks)),
        )
