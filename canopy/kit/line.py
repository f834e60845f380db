"""A line of the kit: one kind of thing, how many, how large, what for."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

from canopy.library import KitClass, Window, find, kit_classes
from canopy.margin import Sentence

Group = Literal["light", "air", "climate", "shell", "plants", "water", "power", "watching"]
GROUPS: dict[Group, str] = {
    "shell": "The space itself",
    "light": "Light",
    "air": "Air",
    "climate": "Warmth and damp",
    "plants": "Plants",
    "water": "Water and feed",
    "power": "Electricity",
    "watching": "To watch it by",
}


@dataclass(frozen=True, kw_only=True)
class KitLine:
    """So many of one thing for one space.

    ``key`` names it in the household and stays the same for the same thing; ``number`` counts pieces, or metres, square
    metres or litres where ``unit`` says so; ``price`` is the span of one of them. ``bears_kg`` is what one must bear
    by its own rating, ``parts`` are its places in the drawing. ``like`` is the same for things that can stand for each
    other in whatever space; so many of them are ``owned`` and not needed before.
    """

    key: str
    space_id: str
    where: str
    group: Group
    name: str
    number: float
    what_for: str
    unit: str = ""
    size: Sentence | None = None
    weight_kg: float | None = None
    power_w: float = 0.0
    price: Window | None = None
    bears_kg: float | None = None
    text: str = ""
    optional: bool = False
    parts: tuple[str, ...] = ()
    like: str = ""
    owned: float = 0.0

    @property
    def to_get(self) -> float:
        """How many are not owned."""
        return max(0.0, self.number - self.owned)

    @property
    def cost(self) -> Window | None:
        """What is not owned of it costs, from the cheapest to the dearest; None where nobody knows a price."""
        if self.price is None:
            return None
        return Window(low=self.to_get * self.price.low, high=self.to_get * self.price.high)

    @property
    def weight_all_kg(self) -> float:
        """What all of it weighs, as far as that is known [kg]."""
        return self.number * (self.weight_kg or 0.0)


@dataclass(frozen=True, kw_only=True)
class Kit:
    """All lines of some spaces, and what is not needed, with why."""

    lines: tuple[KitLine, ...]
    not_needed: tuple[tuple[str, str, Sentence], ...] = ()

    def cost(self, have: Iterable[str] = (), *, optional: bool = False) -> Window:
        """Give what is still to be bought.

        Parameters
        ----------
        have : keys of lines of which one has all
        optional : count what may be left out, too

        Returns
        -------
        Window : from the cheapest to the dearest, of lines with a price [currency]
        """
        there = set(have)
        spans = [
            line.cost
            for line in self.lines
            if line.key not in there and line.cost is not None and (optional or not line.optional)
        ]
        return Window(low=sum(span.low for span in spans), high=sum(span.high for span in spans))

    @cached_property
    def unpriced(self) -> tuple[KitLine, ...]:
        """Lines without a price, of things that are not owned."""
        return tuple(line for line in self.lines if line.price is None and line.to_get > 0)

    @property
    def power_w(self) -> float:
        """All that draws, together [W]."""
        return sum(line.number * line.power_w for line in self.lines)


def small(key: str) -> KitClass:
    """Find a small thing of the library.

    Parameters
    ----------
    key : such as "clamp"

    Returns
    -------
    KitClass : with its price and what to look for
    """
    return find(kit_classes(), key, "kit")
