"""What one may have already: the library's lamps, fans, filters and devices, named as lines of a kit name them."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

from canopy.equipment import FixtureSpec
from canopy.library import devices, fans, filters, fixtures, stirrers
from canopy.plan.stock import StockItem


@dataclass(frozen=True, kw_only=True)
class Ownable:
    """A thing of the library that a household may own; ``key`` tells it from all others and is an id, ``kind`` and
    ``name`` are those of the line of the kit that it stands for.
    """

    key: str
    kind: str
    group: str
    name: str
    lamp: FixtureSpec | None = None

    def item(self, number: float) -> StockItem:
        """Write it down as owned.

        Parameters
        ----------
        number : how many, over 0

        Returns
        -------
        StockItem : with the thing's key for its id
        """
        return StockItem(id=self.key, kind=self.kind, name=self.name, number=number, lamp=self.lamp)


@cache
def ownable() -> dict[str, Ownable]:
    """List all that a household may own.

    Returns
    -------
    dict of Ownable : by key, those of a group together
    """
    found = [
        *(
            Ownable(key=f"lamp-{row.id}", kind="lamp", group="Lamps", name=row.spec.name, lamp=row.spec)
            for row in fixtures().values()
        ),
        *(
            Ownable(
                key=f"fan-{row.id}",
                kind="case-fan" if row.spec.kind == "case" else "fan",
                group="Fans that draw or push",
                name=row.spec.name,
            )
            for row in fans().values()
        ),
        *(
            Ownable(key=f"filter-{row.id}", kind="filter", group="Carbon filters", name=row.spec.name)
            for row in filters().values()
        ),
        *(
            Ownable(key=f"stirrer-{row.id}", kind="stirrer", group="Circulation fans", name=row.spec.name)
            for row in stirrers().values()
        ),
        *(
            Ownable(key=f"device-{row.id}", kind="device", group="Climate devices", name=row.spec.name)
            for row in devices().values()
        ),
    ]
    return {item.key: item for item in found}
