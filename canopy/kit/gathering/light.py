"""Lamps and what bears them."""

from __future__ import annotations

from collections.abc import Iterator

from canopy.kit.gathering.base import TIMES, Lines, by_name, class_price
from canopy.kit.line import KitLine, small
from canopy.kit.mounts import mount_of
from canopy.library import fixtures
from canopy.plan.document import Fixture, Space
from canopy.words import counted

# What each way of bearing a lamp asks for, how many to a lamp, and what for.
_BORNE = {
    "ropes": ("rope-hanger", 2, "two for each of {lamps}, on parts of the frame of their own"),
    "bars": ("rope-hanger", 2, "two for each of {lamps}, on bars of their own"),
    "shelf": ("lamp-clip", 2, "{lamps} under shelves, one at each end"),
    "ceiling": ("lamp-clip", 2, "{lamps} under the ceiling, one at each end"),
    "wall": ("lamp-bracket", 2, "{lamps} at walls or poles, one at each end"),
    "rim": ("rim-bar", 2, "{lamps} across the rim of the case, not on its glass"),
    "holder": ("lamp-holder", 1, "{lamps}, each with a cord of its own"),
}


class Light(Lines):
    """Lines of the lamps."""

    def all(self) -> Iterator[KitLine]:
        """Give the lamps of each name, then what bears them."""
        for name, lamps in by_name(self.space.fixtures).items():
            spec = lamps[0].spec
            yield self.line(
                "light",
                name,
                name,
                len(lamps),
                f"{counted(len(lamps), 'lamp')}, {lamps[0].hours:g} h a day",
                kind="lamp",
                weight_kg=spec.weight_kg,
                power_w=spec.power_w,
                price=class_price(fixtures(), spec.class_id),
                text=_numbered(self.space, lamps),
                parts=tuple(lamp.id for lamp in lamps),
            )
        borne: dict[str, list[Fixture]] = {}
        for lamp in self.space.fixtures:
            if lamp.enabled:
                borne.setdefault(mount_of(self.space, lamp), []).append(lamp)
        for mount, lamps in borne.items():
            if mount in _BORNE:
                yield self._bearing(mount, lamps)

    def _bearing(self, mount: str, lamps: list[Fixture]) -> KitLine:
        kind, each, words = _BORNE[mount]
        item, heaviest = small(kind), max(lamp.spec.weight_kg or 0.0 for lamp in lamps)
        return self.little(
            "light",
            kind,
            each * len(lamps),
            words.format(lamps=counted(len(lamps), "lamp")),
            key=kind if mount in ("ropes", "bars") else f"{kind}.{mount}",
            bears_kg=max(item.bears_kg, TIMES * heaviest) if item.bears_kg else None,
            parts=tuple(lamp.id for lamp in lamps),
        )


def _numbered(space: Space, lamps: list[Fixture]) -> str:
    numbers = ", ".join(str(1 + space.fixtures.index(lamp)) for lamp in lamps)
    return f"{'Number' if len(lamps) == 1 else 'Numbers'} {numbers} in the drawing."
