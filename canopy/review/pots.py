"""Pots weighed twice: what leaves and medium gave off in between."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from canopy.evaluate.climate.days import simulated
from canopy.evaluate.space import SpaceReport
from canopy.logs.entries import Entry, Water, Weighed
from canopy.plan import Plan
from canopy.review.finding import Finding, unknown
from canopy.review.playback import believed

# Weighings closer together say nothing over a scale's error [h]; further apart somebody has forgotten water [h].
_LEAST_H, _MOST_H = 5.0, 96.0
# A household's scale may be off by so much each time [kg].
SCALE_KG = 0.02
# How many pots of how many there are, days of another sky: what a few pots say of all.
_OTHERS = 0.15


@dataclass(frozen=True, kw_only=True)
class Loss:
    """What some plants' pots lost: kg in so many hours, water given meanwhile included, and by how much it may be off.

    ``plants`` are those that were weighed together; none for all.
    """

    plants: tuple[str, ...]
    begins: dt.datetime
    hours: float
    kg: float
    off_kg: float

    @property
    def kg_d(self) -> float:
        """In a day [kg]."""
        return self.kg / self.hours * 24


def losses(entries: Iterable[Entry]) -> tuple[Loss, ...]:
    """Pair weighings of the same plants.

    Parameters
    ----------
    entries : of one space; those that were struck do not count

    Returns
    -------
    tuple of Loss : each from one weighing to the next, the oldest first; not where water was given of which nobody said
        how much of it ran out, nor where the pots grew heavier
    """
    known = sorted((item for item in entries if not item.struck), key=lambda item: item.at)
    found: list[Loss] = []
    last: dict[tuple[str, ...], Entry] = {}
    for item in known:
        if item.kind != "weigh":
            continue
        key = tuple(sorted(item.plants))
        before, last[key] = last.get(key), item
        if before is None:
            continue
        hours = (item.at - before.at).total_seconds() / 3600
        if not _LEAST_H <= hours <= _MOST_H:
            continue
        water = _given(known, before, item, key)
        if water is None:
            continue
        kg = Weighed.model_validate(before.data).weight_kg + water - Weighed.model_validate(item.data).weight_kg
        off = SCALE_KG * float(np.sqrt(2 * max(1, len(key))))
        if kg > 2 * off:
            found.append(Loss(plants=key, begins=before.at, hours=hours, kg=kg, off_kg=off))
    return tuple(found)


def _given(known: Sequence[Entry], before: Entry, after: Entry, key: tuple[str, ...]) -> float | None:
    """Water that came to the weighed pots in between [kg]; None where nobody can say."""
    total = 0.0
    for item in known:
        if item.kind != "water" or not before.at < item.at < after.at:
            continue
        water, own = Water.model_validate(item.data), set(item.plants) & set(key)
        if item.plants and key and not own:
            continue
        if bool(item.plants) != bool(key):
            return None
        if water.drained_l is None and not item.plants:
            # What ran out of trays is not known: it counts as none only where somebody says so.
            return None
        total += water.litres * max(1, len(own)) - (water.drained_l or 0.0)
    return total


def weighed(found: Sequence[Loss], planned_kg_d: float, share: dict[str, float]) -> Finding:
    """Find how far leaves open their stomata from what pots lost.

    Parameters
    ----------
    found : what pots lost
    planned_kg_d : what all plants are computed to give off in a day, without corrections [kg]
    share : of it, each plant's, by its id

    Returns
    -------
    Finding : a factor on what is given off; as a factor on stomata it is somewhat more, since leaves that give off more
        grow cooler: rough in so far
    """
    if not found:
        return unknown("leaves", "no pots were weighed twice within four days", basis="pots")
    factors, weights = [], []
    for item in found:
        planned = planned_kg_d * (sum(share.get(key, 0.0) for key in item.plants) if item.plants else 1.0)
        if planned <= 0:
            continue
        factors.append(item.kg_d / planned)
        weights.append((item.kg / max(item.off_kg, 1e-6)) ** 2)
    if not factors:
        return unknown("leaves", "those that were weighed are not computed to give anything off", basis="pots")
    weight = np.array(weights)
    mean = float(np.average(factors, weights=weight))
    scale = float(np.sqrt(1 / weight.sum()))
    several = float(np.std(factors, ddof=1) / mean / np.sqrt(len(factors))) if len(factors) > 1 else _OTHERS
    days = sorted(item.begins.date() for item in found)
    return Finding(
        subject="leaves",
        factor=mean,
        standard_error=mean * float(np.sqrt(scale**2 + several**2 + 0.06**2)),
        basis="pots",
        limits=f"{len(factors)} pairs of weighings; hours of day and night must be in them as they are in a day",
        begins=days[0],
        ends=days[-1],
    )


def as_stomata(finding: Finding, plan: Plan, report: SpaceReport) -> Finding:
    """Turn a factor on what leaves give off into one on how far they open: what the simulation needs for it.

    Parameters
    ----------
    finding : as `weighed` gives it
    plan : the household
    report : of the space as it stands

    Returns
    -------
    Finding : the same in other words; unknown where no opening of leaves gives so much
    """
    if finding.factor is None or finding.standard_error is None:
        return finding
    given: dict[float, float] = {}

    def of(opens: float) -> float:
        if opens not in given:
            here = report.here.moved(believed(report.space, {("leaves", None): opens}, report.here.day))
            found = simulated(plan, here, report.lighting, hours=48)
            given[opens] = float(found.traces.given_g_h[found.last].sum())
        return given[opens]

    wanted = finding.factor * of(1.0)
    low, high = 0.15, 6.0
    if not of(low) < wanted < of(high):
        way = "less" if wanted <= of(low) else "more"
        return unknown("leaves", f"pots lost {way} than any leaves would: was something else weighed?", basis="pots")
    for _ in range(7):
        middle = float(np.sqrt(low * high))
        low, high = (middle, high) if of(middle) < wanted else (low, middle)
    opens = float(np.sqrt(low * high))
    # Leaves that open twice as far give off less than twice as much.
    steep = np.log(of(opens * 1.2) / of(opens / 1.2)) / np.log(1.44)
    share = finding.standard_error / finding.factor / max(float(steep), 0.1)
    return replace(finding, factor=opens, standard_error=opens * share)
