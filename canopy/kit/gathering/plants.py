"""Pots, mix, young plants, and the water and feed of the first month."""

from __future__ import annotations

from collections.abc import Iterator
from math import ceil

from canopy.care.thirst import thirst_of
from canopy.kit.gathering.base import Lines
from canopy.kit.line import KitLine
from canopy.margin import Amount, sentence
from canopy.plan.care import TIMED
from canopy.season import Growing, cast_of
from canopy.words import capital, counted

# Mix is bought with a little more than the pots hold.
_MIX_SPARE, _MONTH_D = 1.1, 30


class Plants(Lines):
    """Lines of what stands and grows in a space."""

    def all(self) -> Iterator[KitLine]:
        """Give pots, mix, plants and what holds them; nothing where nothing grows on the day."""
        here = self.report.here
        if not here.plants:
            return
        yield from self._pots()
        if self.report.feeding.mix is not None and self.report.feeding.mix_l > 0:
            mix = self.report.feeding.mix
            yield self.little(
                "plants",
                "medium",
                ceil(_MIX_SPARE * self.report.feeding.mix_l),
                f"fills the pots; {self.report.feeding.wetting_l:.1f} L of water wet it first",
                name=mix.name,
                key=f"medium.{mix.id}",
            )
        cast, crops = cast_of(self.plan), dict[str, int]()
        for each in self.space.plants:
            crops[each.crop_id] = crops.get(each.crop_id, 0) + (each.cells or 1)
        for crop_id, count in crops.items():
            crop = cast.crops.get(crop_id)
            if crop is not None:
                yield self.little(
                    "plants", "start", count, f"places for {crop.name}", name=crop.name, key=f"start.{crop_id}"
                )
        if self.space.net is not None:
            floor = self.space.size.width_m * self.space.size.depth_m
            yield self.little("plants", "net", round(floor, 2), "holds the canopy level")
        if any(plant.habit == "pole" for plant in self.space.plants):
            yield self.little("plants", "ties", 1, "ties climbers to their poles")

    def _pots(self) -> Iterator[KitLine]:
        pots: dict[tuple[str, float], list[Growing]] = {}
        for plant in self.report.here.plants:
            litres = plant.plant.pot_volume_l or plant.crop.container_l.low
            pots.setdefault((plant.plant.pot_kind, round(litres, 2)), []).append(plant)
        for (kind, litres), plants in pots.items():
            yield self.little(
                "plants",
                "pot",
                len(plants),
                ", ".join(dict.fromkeys(plant.crop.name for plant in plants)),
                name=capital(kind),
                key=f"pot.{kind}.{litres:g}",
                size=sentence("{v}", v=Amount(value=litres, unit="volume")),
                parts=tuple(plant.id for plant in plants),
                by=litres,
            )
        stood = [plant for plant in self.report.here.plants if plant.plant.pot_kind == "pot"]
        if stood and self.space.feed.way == "soil":
            litres = max(plant.plant.pot_volume_l or plant.crop.container_l.low for plant in stood)
            yield self.little(
                "plants", "saucer", len(stood), "under the pots", optional=self.space.ground.lip_m > 0, by=litres
            )


class Water(Lines):
    """Lines of what waters a space, and of a first month's water and feed."""

    def all(self) -> Iterator[KitLine]:
        """Give stores and lines, water and feed; nothing where nothing grows on the day."""
        if not self.report.here.plants:
            return
        thirst = thirst_of(self.report).litres_d
        yield from self._stores()
        yield self.little("water", "water", ceil(_MONTH_D * thirst), f"{thirst:.2f} L a day")
        feed, changes = self.space.feed, _MONTH_D / max(1, self.space.feed.change_days)
        for dose in self.report.feeding.doses:
            top_up = max(0.0, _MONTH_D * thirst - changes * (feed.reservoir_l or 0.0)) * feed.top_up_share
            whole = changes * dose.ml + dose.ml_per_l * top_up
            yield self.little(
                "water",
                "feed",
                ceil(whole),
                "the first month's changes and top-ups",
                name=dose.part.name,
                key=f"feed.{dose.part.id}",
                unit="g" if dose.part.powder else "mL",
            )

    def _stores(self) -> Iterator[KitLine]:
        given, feed = self.space.watering, self.space.feed
        if feed.way == "solution" and feed.reservoir_l:
            yield self.little("water", "reservoir", feed.reservoir_l, "holds the solution")
        elif given.way != "hand" and given.tank_l:
            yield self.little("water", "reservoir", given.tank_l, "waters it", name="Tank", key="tank")
        pots = len(self.report.here.plants)
        if given.way in TIMED:
            yield self.little("water", "dripper", pots, f"one in each of {counted(pots, 'pot')}, with its line")
        elif given.way == "wick":
            yield self.little("water", "wick", pots, f"one in each of {counted(pots, 'pot')}")
        pumped = given.way in ("drip", "spray", "circulating")
        if pumped and not any(device.spec.kind == "pump" for device in self.space.devices):
            yield self.little("water", "pump", 1, "moves the water; no pump is in the plan yet")
