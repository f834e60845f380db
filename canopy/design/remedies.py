"""Which finder mends which margin."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from canopy.design.air.clear import mend_hood, mend_place, mend_short_circuit, mend_stir_place
from canopy.design.air.mend import (
    mend_filter,
    mend_fit,
    mend_flow,
    mend_intake,
    mend_night,
    mend_noise,
    mend_stir,
)
from canopy.design.air.quiet import mend_quiet
from canopy.design.change import Remedy
from canopy.design.climate.mend import mend_climate, mend_device
from canopy.design.crops.mend import mend_touch
from canopy.design.light.hot import mend_surface, mend_warmth
from canopy.design.light.mend import (
    mend_ageing,
    mend_clearance,
    mend_evenness,
    mend_hours,
    mend_limit,
    mend_window,
)
from canopy.design.light.ways import light_ways, placing_ways
from canopy.design.power.guard import mend_chain, mend_loops, mend_water
from canopy.design.power.mend import circuit_ways, mend_circuit, mend_outlet, mend_plug
from canopy.design.preview import Moved, preview
from canopy.design.shell.mend import mend_clash, mend_holes
from canopy.evaluate.space import SpaceReport
from canopy.light.scene import PREVIEW
from canopy.margin import ORDER, Amount, Margin, first_amount

# A way that only helps must help by so much.
_NEARER = 1.03
Finder = Callable[[SpaceReport, Margin], Remedy | None]


def remedy_for(report: SpaceReport, margin_id: str) -> Remedy | None:
    """Find the smallest change that mends a margin.

    Parameters
    ----------
    report : the space's report as it is at hand; nothing of it is computed again
    margin_id : id of one of its margins

    Returns
    -------
    Remedy : or None when the tool knows none
    """
    margin = report.margin(margin_id)
    if margin is None or margin.verdict in ("good", "unknown"):
        return None
    find = _FINDERS.get(".".join(margin_id.split(".")[:2]))
    return find(report, margin) if find else None


@dataclass(frozen=True, kw_only=True)
class Option:
    """One way out of a margin: what it is, what the margin becomes by it, and which other margins it makes worse."""

    key: str
    remedy: Remedy
    becomes: Margin | None
    worse: tuple[Moved, ...]

    @property
    def mends(self) -> bool:
        """Whether the margin is mended by it, or gone with what it judged."""
        return self.becomes is None or self.becomes.verdict in ("good", "tight")


def options_for(report: SpaceReport, margin_id: str, key: str = "") -> tuple[Option, ...]:
    """Find ways out of a margin: the smallest change first, and where that does not mend it, larger ones.

    Parameters
    ----------
    report : the space's report as it is at hand
    margin_id : id of one of its margins
    key : only the way of this key; all when empty

    Returns
    -------
    tuple of Option : those that mend it before those that only help, those that harm nothing else first, and
        what takes plants out last; each at most once; none where the tool knows none
    """
    margin = report.margin(margin_id)
    if margin is None or margin.verdict in ("good", "unknown"):
        return ()
    found: list[Option] = []
    for name, remedy in _ways(report, margin):
        if key and name != key:
            continue
        option = _option(report, margin, name, remedy)
        helps = option.mends or _nearer(margin, option)
        if helps and all(option.remedy.changes != other.remedy.changes for other in found):
            found.append(option)
        if name == "first" and option.mends and not option.worse:
            break
    return tuple(sorted(found, key=lambda option: (not option.mends, option.key == "out", len(option.worse))))


def _ways(report: SpaceReport, margin: Margin) -> Iterator[tuple[str, Remedy]]:
    first = remedy_for(report, margin.id)
    if first is not None:
        yield "first", first
    kind = ".".join(margin.id.split(".")[:2])
    if kind in ("light.dli", "light.ppfd") and margin.verdict in ("short", "over"):
        yield from light_ways(report, margin)
    if kind == "power.circuit":
        yield from circuit_ways(report)
    if margin.id in ("light.limit", "light.evenness") and margin.verdict in ("short", "over"):
        yield from placing_ways(report)


def _option(report: SpaceReport, margin: Margin, key: str, remedy: Remedy) -> Option:
    moved = preview(report, remedy, PREVIEW, follow=margin.station == "climate")
    mine = next((item for item in moved if item.before is not None and item.before.id == margin.id), None)
    worse = tuple(item for item in moved if item.worse and item is not mine)
    return Option(key=key, remedy=remedy, becomes=mine.after if mine else margin, worse=worse)


def _nearer(margin: Margin, option: Option) -> bool:
    """Whether what a margin judges has moved towards what is needed, though not all the way."""
    after = option.becomes
    if after is None or after.verdict != margin.verdict:
        return after is None or ORDER.index(after.verdict) > ORDER.index(margin.verdict)
    before, later = first_amount(margin.there), first_amount(after.there)
    if before is None or later is None:
        return False
    if margin.verdict == "short":
        return later.value > before.value * _NEARER
    return _most(later) * _NEARER < _most(before)


def _most(amount: Amount) -> float:
    return amount.value if amount.high is None else amount.high


_FINDERS: dict[str, Finder] = {
    "climate.air-day": mend_climate,
    "climate.air-night": mend_climate,
    "climate.rh": mend_climate,
    "climate.vpd": mend_climate,
    "climate.root": mend_climate,
    "climate.co2": mend_climate,
    "climate.condensation": mend_climate,
    "climate.mould": mend_climate,
    "day.quiet": mend_quiet,
    "climate.setting": mend_device,
    "climate.tank": mend_device,
    "crops.touch": mend_touch,
    "space.clash": mend_clash,
    "space.holes": mend_holes,
    "light.dli": mend_window,
    "light.ppfd": mend_window,
    "light.limit": mend_limit,
    "light.evenness": mend_evenness,
    "light.net": mend_evenness,
    "light.clearance": mend_clearance,
    "light.hours": mend_hours,
    "light.ageing": mend_ageing,
    "light.lamp-surface": mend_surface,
    "light.leaf-warmth": mend_warmth,
    "air.flow": mend_flow,
    "air.flow-night": mend_night,
    "air.port": mend_fit,
    "air.intake": mend_intake,
    "air.pressure": mend_intake,
    "air.filter": mend_filter,
    "air.stir": mend_stir,
    "air.place": mend_place,
    "air.place-stir": mend_stir_place,
    "air.hood": mend_hood,
    "air.short-circuit": mend_short_circuit,
    "air.noise": mend_noise,
    "power.plug": mend_plug,
    "power.circuit": mend_circuit,
    "power.water": mend_water,
    "power.loops": mend_loops,
    "power.chain": mend_chain,
    "power.outlet": mend_outlet,
    "power.socket": mend_outlet,
}
