"""What all share that gather lines of a space's kit."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from canopy.evaluate import SpaceReport
from canopy.kit.line import Group, KitLine, small
from canopy.library import Window
from canopy.margin import Amount, Sentence, sentence
from canopy.plan.stock import alike

# Metres and square metres are bought with so much to spare.
SPARE = 1.1
# What hangs is held by ropes that each bear so many times its weight.
TIMES = 2.0


class Lines:
    """Makes lines for one space, priced in its household's money."""

    def __init__(self, report: SpaceReport) -> None:
        self.report, self.space, self.plan = report, report.space, report.plan
        self._rate = report.plan.site.price_rate

    def line(
        self, group: Group, key: str, name: str, number: float, what_for: str, *, kind: str, **more: Any
    ) -> KitLine:
        """A line of a kind of thing."""
        size, price = more.get("size"), more.pop("price", None)
        return KitLine(
            key=f"{self.space.id}.{group}.{key}",
            space_id=self.space.id,
            where=self.space.name,
            group=group,
            name=name,
            number=number,
            what_for=what_for,
            like=alike(kind, name, size.say() if size else ""),
            price=self._in_money(price),
            **more,
        )

    def little(self, group: Group, kind: str, number: float, what_for: str, **more: Any) -> KitLine:
        """A line of a small thing of the library, priced ``by`` its size where its class goes by size."""
        item, by = small(kind), more.pop("by", None)
        price = item.price if by is None else item.price_at(by)
        values = {"unit": item.unit, "price": price, "text": item.text, **more}
        name, key = str(values.pop("name", item.name)), str(values.pop("key", kind))
        return self.line(group, key, name, number, what_for, kind=kind, **values)

    def _in_money(self, price: Window | None) -> Window | None:
        if price is None or self._rate is None:
            return None
        return Window(low=price.low * self._rate, high=price.high * self._rate)


def by_name(items: Iterable[Any]) -> dict[str, list[Any]]:
    """Put things that are on together by the names of their specs.

    Parameters
    ----------
    items : lamps, devices or circulation fans

    Returns
    -------
    dict : those of each name, in order
    """
    found: dict[str, list[Any]] = {}
    for item in items:
        if getattr(item, "enabled", True):
            found.setdefault(item.spec.name, []).append(item)
    return found


def class_price(shelf: Mapping[str, Any], class_id: str, kind: str = "") -> Window | None:
    """Find what a class of the library costs.

    Parameters
    ----------
    shelf : classes by id, with a price
    class_id : of a thing; "" where it is somebody's own
    kind : of the thing, for the span of all classes of that kind where it has no class

    Returns
    -------
    Window : in euro or dollar; None where nothing like it has a price
    """
    row = shelf.get(class_id)
    if row is not None:
        found: Window = row.price
        return found
    spans = [item.price for item in shelf.values() if kind and item.spec.kind == kind]
    return Window(low=min(span.low for span in spans), high=max(span.high for span in spans)) if spans else None


def across(diameter_m: float) -> Sentence:
    """Say a diameter.

    Parameters
    ----------
    diameter_m : over 0 [m]

    Returns
    -------
    Sentence : in the reader's unit
    """
    return sentence("{d}", d=Amount(value=diameter_m, unit="diameter"))


def long(length_m: float) -> Sentence:
    """Say a length.

    Parameters
    ----------
    length_m : over 0 [m]

    Returns
    -------
    Sentence : in the reader's unit
    """
    return sentence("{l} long", l=Amount(value=length_m, unit="length"))
