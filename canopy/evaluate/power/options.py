"""Two options side by side: what each takes to buy and to run, and when the dearer one is paid back."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass

from canopy.evaluate.space import SpaceReport
from canopy.library import Window, devices, fans, filters, fixtures, stirrers
from canopy.plan.document import Space


@dataclass(frozen=True, kw_only=True)
class Option:
    """One way to do it: what it takes to buy (a span), to run a month, and what comes of it.

    ``buys`` names what the other way has not; ``unpriced`` what of that has no price in the library.
    """

    name: str
    purchase: Window
    cost_month: float
    kwh_month: float
    power_w: float
    ppfd: float
    dli: float
    evenness: float
    noise_dba: float | None
    worst: str
    buys: tuple[tuple[str, int, Window | None], ...] = ()

    @property
    def unpriced(self) -> tuple[str, ...]:
        """What of it has no price in the library."""
        return tuple(name for name, _, price in self.buys if price is None)


@dataclass(frozen=True, kw_only=True)
class SideBySide:
    """Two options and after how many months the one that is dearer to buy has paid for itself; None where never."""

    one: Option
    two: Option

    @property
    def payback_months(self) -> Window | None:
        """From the least to the most, by the span of the purchases; None where what costs more to buy saves nothing."""
        extra_low = self.two.purchase.low - self.one.purchase.high
        extra_high = self.two.purchase.high - self.one.purchase.low
        saves = self.one.cost_month - self.two.cost_month
        if extra_low + extra_high < 0:
            extra_low, extra_high, saves = -extra_high, -extra_low, -saves
        if saves <= 0 or extra_high <= 0:
            return None
        return Window(low=max(0.0, extra_low) / saves, high=extra_high / saves)

    @property
    def dearer(self) -> Option:
        """The one that costs more to buy, by the middle of its span."""
        one, two = (option.purchase.low + option.purchase.high for option in (self.one, self.two))
        return self.one if one > two else self.two


def side_by_side(
    one: SpaceReport,
    two: SpaceReport,
    names: tuple[str, str],
    typed: tuple[float | None, float | None] = (None, None),
) -> SideBySide:
    """Compare two options.

    Parameters
    ----------
    one : report of the first
    two : report of the second
    names : what they are called
    typed : what each costs to buy, where somebody typed it [currency]

    Returns
    -------
    SideBySide : what both have is bought in neither; library prices are spans of 2026 in euro or dollar
    """
    left, right = Counter(_things(one.space)), Counter(_things(two.space))
    prices = {key: price for space in (one.space, two.space) for key, price in _priced(space)}
    return SideBySide(
        one=_option(one, names[0], left - right, prices, typed[0]),
        two=_option(two, names[1], right - left, prices, typed[1]),
    )


def _things(space: Space) -> Iterator[str]:
    return (key for key, _ in _priced(space))


def _priced(space: Space) -> Iterator[tuple[str, Window | None]]:
    """Everything of a space that is bought, by name, with what its class costs."""
    for lamp in space.fixtures:
        yield lamp.spec.name, _price(fixtures(), lamp.spec.class_id)
    for device in space.devices:
        yield device.spec.name, _price(devices(), device.spec.class_id)
    for stirrer in space.stirrers:
        yield stirrer.spec.name, _price(stirrers(), stirrer.spec.class_id)
    for way in space.airways:
        for part in way.parts:
            if part.kind == "fan":
                yield part.spec.name, _price(fans(), part.spec.class_id)
            elif part.kind == "filter":
                yield part.spec.name, _price(filters(), part.spec.class_id)


def _price(shelf: object, class_id: str) -> Window | None:
    row = shelf.get(class_id) if hasattr(shelf, "get") else None
    return getattr(row, "price", None)


def _option(
    report: SpaceReport, name: str, buys: Counter[str], prices: dict[str, Window | None], typed: float | None
) -> Option:
    lines = tuple((key, count, prices.get(key)) for key, count in sorted(buys.items()))
    if typed is not None:
        purchase = Window(low=typed, high=typed)
    else:
        known = [(count, price) for _, count, price in lines if price is not None]
        purchase = Window(low=sum(n * price.low for n, price in known), high=sum(n * price.high for n, price in known))
    run, light = report.running, report.lighting
    return Option(
        name=name,
        purchase=purchase,
        cost_month=run.cost_per_month,
        kwh_month=30.4 * run.energy_kwh_d,
        power_w=run.power_w,
        ppfd=light.mean_ppfd_umol_m2_s,
        dli=light.dli_mol_m2_d,
        evenness=light.evenness,
        noise_dba=next(iter(_noise(report)), None),
        worst=report.verdict,
        buys=lines,
    )


def _noise(report: SpaceReport) -> Iterator[float]:
    from canopy.evaluate.air.noise import noise_of

    level = noise_of(report.space).total_dba
    if level is not None:
        yield level
