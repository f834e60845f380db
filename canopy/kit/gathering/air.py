"""What moves, leads and cleans the air, and what holds it."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

from canopy.kit.gathering.base import TIMES, Lines, across, by_name
from canopy.kit.line import KitLine, small
from canopy.margin import Amount, sentence
from canopy.plan.airways import AirPart, Airway


class Air(Lines):
    """Lines of the ways of air and of circulation."""

    def all(self) -> Iterator[KitLine]:
        """Give each way part by part, then what is bought once for all, then circulation fans."""
        for way in self.space.airways:
            yield from self._way(way)
        parts = [part for way in self.space.airways for part in way.parts]
        if any(part.kind == "duct" for part in parts):
            yield self.little("air", "tape", 1, "over the clamps of all ducts")
        cases = [part for part in parts if part.kind == "fan" and part.spec.kind == "case"]
        if cases:
            watts = sum(part.count * part.spec.power_w for part in cases)
            yield self.little(
                "air", "supply-12", 1, f"feeds the case fans: {watts:.1f} W or more", parts=tuple(p.id for p in cases)
            )
        for name, items in by_name(self.space.stirrers).items():
            yield self.little(
                "air",
                "stirrer",
                len(items),
                "air at the leaves",
                name=name,
                key=f"stirrer.{name}",
                power_w=items[0].spec.power_w,
                weight_kg=items[0].spec.weight_kg,
                parts=tuple(i.id for i in items),
            )

    def _way(self, way: Airway) -> Iterator[KitLine]:
        straps, heaviest = 0, 0.0
        for part in way.parts:
            found = self._part(way, part)
            if found is not None:
                yield found
            slung = part.kind == "filter" or (part.kind == "fan" and part.spec.kind != "case")
            if slung and self.space.air.hung and way.is_inside(part.id):
                weight = part.spec.weight_kg or 0.0  # type: ignore[union-attr]
                straps, heaviest = straps + 2, max(heaviest, weight)
        # A filter right on a fan is clamped to it.
        flanges = sum(1 for one, two in pairwise(way.parts) if {one.kind, two.kind} == {"filter", "fan"})
        joints = 2 * sum(1 for part in way.parts if part.kind == "duct") + flanges
        if joints:
            yield self.little(
                "air",
                "clamp",
                joints,
                f"{way.name}: one at each end of every duct{', one between filter and fan' if flanges else ''}",
                key=f"{way.id}.clamp",
            )
        if straps:
            yield self.little(
                "air",
                "strap",
                straps,
                f"{way.name}: two round each fan and filter",
                key=f"{way.id}.strap",
                bears_kg=max(small("strap").bears_kg or 0.0, TIMES * heaviest),
            )
        if way.control is not None:
            yield self.little(
                "air", "fan-controller", 1, f"{way.name}: as its fan is switched", key=f"{way.id}.controller"
            )

    def _part(self, way: Airway, part: AirPart) -> KitLine | None:
        key, parts = f"{way.id}.{part.id}", (part.id,)
        if part.kind == "fan":
            spec = part.spec
            return self.little(
                "air",
                "case-fan" if spec.kind == "case" else "fan",
                part.count,
                way.name,
                name=spec.name,
                key=key,
                weight_kg=spec.weight_kg,
                power_w=spec.power_w,
                parts=parts,
                by=spec.diameter_m,
            )
        if part.kind == "filter":
            spec_ = part.spec
            return self.little(
                "air",
                "filter",
                1,
                way.name,
                name=spec_.name,
                key=key,
                weight_kg=spec_.weight_kg,
                parts=parts,
                by=spec_.diameter_m,
            )
        if part.kind == "duct":
            return self.little(
                "air",
                "duct",
                round(part.length_m / (1 - part.slack), 2),
                f"{way.name}: {part.length_m:.2f} m along the way, {100 * part.slack:.0f} % slack in it",
                name=part.spec.name,
                key=key,
                size=across(part.diameter_m),
                weight_kg=part.spec.weight_kg_m,
                parts=parts,
                by=part.diameter_m,
            )
        if part.kind == "bend" and part.make != "flex":
            name = f"Bend, {part.angle_deg:.0f}°, {part.make}"
            return self.little(
                "air", "bend", 1, way.name, name=name, key=key, size=across(part.diameter_m), parts=parts
            )
        if part.kind == "adapter":
            size = sentence(
                "{a} to {b}",
                a=Amount(value=part.from_m, unit="diameter"),
                b=Amount(value=part.to_m, unit="diameter"),
            )
            return self.little(
                "air", "adapter", 1, way.name, name=f"Reducer, {part.make}", key=key, size=size, parts=parts
            )
        if part.kind == "fitting":
            return self.little("air", "fitting", 1, way.name, name=part.spec.name, key=key, parts=parts)
        return None
