"""One run against another: settings that differed, what came of it, and what so few plants can prove."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

import numpy as np

from canopy.errors import QuantityError
from canopy.evaluate.space import SpaceReport
from canopy.margin import Amount
from canopy.quantities.reader import PPFD
from canopy.review.harvest import Run
from canopy.season import Growing

# How much single plants of one kind differ in a household, as a share of their mean, where nobody knows better (rough).
USUAL_SCATTER = 0.25
# A difference counts when chance would make one so large in no more than one of twenty; a plan is to see one that is
# there in four of five.
ALPHA, POWER = 0.05, 0.8
_MOST_PLANTS = 2000


@dataclass(frozen=True, kw_only=True)
class Tested:
    """Two groups of plants: their means, how much more the first has (share of the second), how often chance alone
    makes a difference so large (None where it cannot be told), and what that proves in words.
    """

    one: float
    two: float
    more: float | None
    chance: float | None
    words: str


def compare_plants(one: Sequence[float], two: Sequence[float]) -> Tested:
    """Hold what single plants gave against each other.

    Parameters
    ----------
    one : of each plant of the first group, such as its harvest [kg]
    two : of the second

    Returns
    -------
    Tested : by Welch's test (1947), which does not ask that both scatter alike; fewer than three prove nothing

    Raises
    ------
    QuantityError : a group without a plant
    """
    if not len(one) or not len(two):
        raise QuantityError("each group needs at least one plant")
    a, b = np.asarray(one, dtype=float), np.asarray(two, dtype=float)
    more = float(a.mean() / b.mean() - 1) if b.mean() > 0 else None
    few = min(len(a), len(b))
    if few < 3:
        words = f"{few} plant{'s' if few > 1 else ''} on a side prove nothing: any two differ about so much by chance"
        return Tested(one=float(a.mean()), two=float(b.mean()), more=more, chance=None, words=words)
    from scipy.stats import ttest_ind

    if float(a.std() + b.std()) == 0:
        chance = 1.0 if float(a.mean()) == float(b.mean()) else 0.0
    else:
        chance = float(ttest_ind(a, b, equal_var=False).pvalue)
    if chance <= ALPHA:
        words = f"chance makes so large a difference in {_of(chance)}: likely real, for these plants in this place"
    else:
        seen = detectable(few, max(_scatter(a, b), 0.01))
        words = (
            f"chance makes so large a difference in {_of(chance)}: nothing is proven. With {few} on a side one sees "
            f"differences from about {100 * seen:.0f} % on"
        )
    return Tested(one=float(a.mean()), two=float(b.mean()), more=more, chance=chance, words=words)


def _of(chance: float) -> str:
    return "fewer than one of a hundred cases" if chance < 0.01 else f"{100 * chance:.0f} of a hundred cases"


def _scatter(a: np.ndarray, b: np.ndarray) -> float:
    middle = float(np.mean([a.mean(), b.mean()]))
    return float(sqrt((a.var(ddof=1) + b.var(ddof=1)) / 2) / middle) if middle > 0 else USUAL_SCATTER


def power_of(count: int, difference: float, scatter: float) -> float:
    """Say how likely a difference is seen that is there.

    Parameters
    ----------
    count : plants on each side, 2 or more
    difference : as a share of the mean
    scatter : of single plants, as a share of the mean

    Returns
    -------
    float : 0..1, of a two-sided test at one in twenty (noncentral t; Cohen 1988)
    """
    from scipy.stats import nct, t

    free = 2 * count - 2
    shift = difference / scatter * sqrt(count / 2)
    edge = float(t.ppf(1 - ALPHA / 2, free))
    if shift > edge + 8:
        # So far out the distribution's series give nothing any more: it is seen for sure.
        return 1.0
    # The other tail is next to nothing, and its series fails far out.
    return float(nct.sf(edge, free, shift) + np.nan_to_num(nct.cdf(-edge, free, shift)))


def plants_needed(difference: float, scatter: float = USUAL_SCATTER) -> int | None:
    """Say how many plants on each side it takes to see a difference.

    Parameters
    ----------
    difference : as a share of the mean, over 0
    scatter : of single plants, as a share of the mean, over 0

    Returns
    -------
    int : to see it in four of five trials; None where it takes more than two thousand

    Raises
    ------
    QuantityError : no difference, or no scatter
    """
    if difference <= 0 or scatter <= 0:
        raise QuantityError("say how large a difference you want to see, and how much plants differ: both over 0 %")
    low, high = 2, _MOST_PLANTS
    if power_of(high, difference, scatter) < POWER:
        return None
    while low < high:
        middle = (low + high) // 2
        low, high = (low, middle) if power_of(middle, difference, scatter) >= POWER else (middle + 1, high)
    return low


def detectable(count: int, scatter: float) -> float:
    """Say from which difference on so many plants show it.

    Parameters
    ----------
    count : plants on each side, 2 or more
    scatter : of single plants, as a share of the mean

    Returns
    -------
    float : as a share of the mean
    """
    low, high = 0.0, 20.0
    for _ in range(40):
        middle = (low + high) / 2
        low, high = (low, middle) if power_of(count, middle, scatter) >= POWER else (middle, high)
    return high


def shuffled(places: Sequence[tuple[float, float]], groups: Sequence[str], seed: int) -> tuple[str, ...]:
    """Deal plants of several groups out over places, so that neither has the better ones.

    Parameters
    ----------
    places : x, y of each [m]
    groups : names, two or more
    seed : the same for the same deal

    Returns
    -------
    tuple of str : the group at each place; places that lie near each other are dealt out among the groups in turn, in
        an order by lot (randomised blocks; Fisher 1935)

    Raises
    ------
    QuantityError : fewer than two groups, or fewer places than groups
    """
    if len(set(groups)) < 2 or len(places) < len(groups):
        raise QuantityError("a comparison needs two groups or more, and a place for a plant of each")
    chance = np.random.default_rng(seed)
    order = sorted(range(len(places)), key=lambda k: (round(places[k][1], 1), places[k][0]))
    found = [""] * len(places)
    for begin in range(0, len(order), len(groups)):
        block = order[begin : begin + len(groups)]
        for place, number in zip(block, chance.permutation(len(groups)), strict=False):
            found[place] = groups[int(number)]
    return tuple(found)


@dataclass(frozen=True, kw_only=True)
class Setting:
    """Something that was otherwise: what, in one run and in the other."""

    name: str
    one: Amount
    two: Amount


def settings_that_differ(one: tuple[SpaceReport, Run], two: tuple[SpaceReport, Run]) -> tuple[Setting, ...]:
    """List what was otherwise in two runs as they stand in their plans.

    Parameters
    ----------
    one : the space of a run, and the run
    two : of the other

    Returns
    -------
    tuple of Setting : what differs by more than a twentieth, the largest difference first
    """
    found = []
    others = {item.name: item.one for item in figures(*two)}
    for item in figures(*one):
        a, other = item.one, others.get(item.name)
        if other is None:
            continue
        size = abs(a.value - other.value) / max(abs(a.value), abs(other.value), 1e-9)
        if size > (0.02 if a.unit == "temperature" else 0.05):
            found.append((size, Setting(name=item.name, one=a, two=other)))
    return tuple(item for _, item in sorted(found, key=lambda pair: -pair[0]))


# Figures that one thing makes: who changes the lamps changes all of them.
_ONE_CAUSE = (("light on it", "daily light, mol/m²", "hours of light"), ("humidity by day", "VPD by day"))
_OUTCOMES = ("days", "ground for each")


def causes(settings: Sequence[Setting]) -> int:
    """Count how many things were otherwise, for as many figures as show it.

    Parameters
    ----------
    settings : that differ

    Returns
    -------
    int : light counts once, the air's moisture once; what a run took and how large its plants were are no settings
    """
    names = {item.name for item in settings} - set(_OUTCOMES)
    for group in _ONE_CAUSE:
        if names & set(group):
            names = (names - set(group)) | {group[0]}
    return len(names)


def figures(report: SpaceReport, run: Run) -> tuple[Setting, ...]:
    """List what a run grew in, as its plan stands.

    Parameters
    ----------
    report : of its space
    run : the planting

    Returns
    -------
    tuple of Setting : each figure as ``one``, and again as ``two``; those that are not known are not among them
    """
    mine = [light for light in report.lighting.plants if light.plant.plant.planting_id == run.planting.id]
    plants: list[Growing] = [light.plant for light in mine]

    def mean(values: list[float]) -> float | None:
        return float(np.mean(values)) if values else None

    climate = report.climate if report.climate is not None and report.climate.overheats_s is None else None
    litres = [plant.plant.pot_volume_l for plant in plants if plant.plant.pot_volume_l is not None]
    rows: list[tuple[str, str, float | None]] = [
        ("light on it", PPFD, mean([light.ppfd_umol_m2_s for light in mine])),
        ("daily light, mol/m²", "", mean([light.dli_mol_m2_d for light in mine])),
        ("hours of light", "time", report.space.lit_hours or None),
        ("air by day", "temperature", climate.mean("air_c", day=True) if climate else None),
        ("air by night", "temperature", climate.mean("air_c", day=False) if climate else None),
        ("humidity by day", "%", climate.mean("rh_pct", day=True) if climate else None),
        ("VPD by day", "kPa", climate.mean("vpd_kpa", day=True) if climate else None),
        ("room for roots", "volume", mean([float(value) for value in litres])),
        ("ground for each", "area", run.ground_m2 / len(plants) if plants else None),
        ("days", "", float(run.days)),
    ]
    told = [
        (name, Amount(value=value, unit=unit, decimals=2 if unit == "kPa" else None))
        for name, unit, value in rows
        if value is not None
    ]
    return tuple(Setting(name=name, one=amount, two=amount) for name, amount in told)
