"""The margin of circulation: how fast the air moves at each plant, and which plants it does not reach."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from canopy.air import volume_m3
from canopy.air.stirring import (
    BURN_M_S,
    MIXED_PER_MIN,
    STAGNANT_M_S,
    air_speed_m_s,
    mixing_per_min,
    surface_m2,
    whole_air_m_s,
)
from canopy.margin import Amount, Margin, Sentence, Step, Verdict, Working, sentence
from canopy.plan.airways import Stirrer
from canopy.season import Growing, Standing

_NAMED = 4
# More than so many times what a crop likes is the edge of the jet.
_EDGE = 1.5


@dataclass(frozen=True, kw_only=True)
class PlantAir:
    """The air at one plant: its speed at the middle of the crown [m/s]."""

    plant: Growing
    speed_m_s: float


@dataclass(frozen=True, kw_only=True)
class Stirred:
    """What a space's circulation fans bring about: mean speed [m/s], mixing [1/min], air at each plant, share of the
    time.
    """

    mean_m_s: float
    mixing_per_min: float
    plants: tuple[PlantAir, ...]
    duty: float
    fans: tuple[Stirrer, ...]


def stirred(here: Standing) -> Stirred:
    """Find what circulation fans do for the plants.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    Stirred : with the longest share of the time any fan runs
    """
    space = here.space
    fans = tuple(fan for fan in space.stirrers if fan.enabled)
    leaves = sum(plant.ground_m2 * plant.lai for plant in here.plants)
    mean = whole_air_m_s(space, leaves)
    plants = tuple(
        PlantAir(
            plant=plant,
            speed_m_s=air_speed_m_s(
                fans, (plant.x_m, plant.y_m, plant.top_m - plant.height_m / 3), mean, swinging=True
            ),
        )
        for plant in here.plants
    )
    return Stirred(
        mean_m_s=mean,
        mixing_per_min=mixing_per_min(fans, volume_m3(space)),
        plants=plants,
        duty=max((fan.duty(space.lit) for fan in fans), default=0.0),
        fans=fans,
    )


def stir_margins(here: Standing) -> list[Margin]:
    """Judge how a space's air is stirred.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    list of Margin : one; none without plants, or where the plants want still air and have it
    """
    if not here.plants:
        return []
    found = stirred(here)
    calm = [item for item in found.plants if item.speed_m_s < least_m_s(item)]
    wild = [item for item in found.plants if item.speed_m_s > most_m_s(item)]
    if not found.fans and not calm:
        return []
    verdict = _verdict(found, calm, wild)
    low = min(item.speed_m_s for item in found.plants)
    high = max(item.speed_m_s for item in found.plants)
    amounts = {
        "low": Amount(value=low, unit="air speed"),
        "high": Amount(value=high, unit="air speed"),
        "want": Amount(value=max(item.plant.want.air_speed_m_s.low for item in found.plants), unit="air speed"),
        "most": Amount(value=min(item.plant.want.air_speed_m_s.high for item in found.plants), unit="air speed"),
        "n": Amount(value=found.mixing_per_min, unit="a minute", decimals=1),
        "utmost": Amount(value=min(most_m_s(item) for item in found.plants), unit="air speed"),
        "least": Amount(value=max(least_m_s(item) for item in found.plants), unit="air speed"),
    }
    parts = tuple(item.plant.id for item in (wild if verdict == "over" else calm))
    return [
        Margin(
            id="air.stir",
            station="air",
            title="Air at the plants",
            verdict=verdict,
            mendable=verdict == "short",
            parts=parts,
            need=sentence(_needed(amounts, low, high), **amounts),
            there=sentence("{low} to {high}" if high > low * 1.05 else "{low}", **amounts),
            why=_why(found, verdict, calm, wild, amounts),
            working=_working(here, found, amounts),
        )
    ]


def _needed(amounts: dict[str, Amount], low: float, high: float) -> str:
    """What plants like, and what they bear where that is what decides."""
    like = "{want} to {most}" if amounts["want"].value < amounts["most"].value else "{want}"
    if high > amounts["most"].value:
        like += ", {utmost} at the utmost"
    return f"{like}, {{least}} at least" if low < amounts["want"].value else like


def least_m_s(item: PlantAir) -> float:
    """Give the speed below which a plant is out of reach: a draught is known to a factor of two.

    Parameters
    ----------
    item : the air at a plant

    Returns
    -------
    float : the lesser of stagnant and three quarters of the crop's least [m/s]
    """
    return min(STAGNANT_M_S, item.plant.want.air_speed_m_s.low * 0.75)


def most_m_s(item: PlantAir) -> float:
    """Give the speed above which a plant stands in the jet.

    Parameters
    ----------
    item : the air at a plant

    Returns
    -------
    float : the greater of wind burn and twice the crop's most [m/s]
    """
    return max(BURN_M_S, item.plant.want.air_speed_m_s.high * 2)


def reach_of(item: PlantAir) -> str:
    """Say how the moving air reaches a plant.

    Parameters
    ----------
    item : the air at a plant

    Returns
    -------
    str : "out of reach", "a little still", "reached", "at the edge of the jet" or "in the jet"
    """
    want = item.plant.want.air_speed_m_s
    if item.speed_m_s < least_m_s(item):
        return "out of reach"
    if item.speed_m_s > most_m_s(item):
        return "in the jet"
    if item.speed_m_s < want.low:
        return "a little still"
    return "at the edge of the jet" if item.speed_m_s > _EDGE * want.high else "reached"


def _verdict(found: Stirred, calm: Sequence[PlantAir], wild: Sequence[PlantAir]) -> Verdict:
    if calm:
        return "short"
    if wild:
        return "over"
    edges = any(reach_of(item) != "reached" for item in found.plants)
    return "tight" if edges or found.mixing_per_min < MIXED_PER_MIN else "good"


def _named(items: Sequence[PlantAir]) -> str:
    names = [f"{item.plant.crop.name} {item.plant.number}" for item in items[:_NAMED]]
    more = len(items) - len(names)
    return ", ".join(names) + (f" and {more} more" if more > 0 else "")


def _why(
    found: Stirred, verdict: Verdict, calm: Sequence[PlantAir], wild: Sequence[PlantAir], amounts: dict[str, Amount]
) -> Sentence:
    if not found.fans:
        return sentence(
            "Nothing stirs the air: leaves sit in their own damp. Hang a small fan that blows over the tops."
        )
    when = "" if found.duty >= 1 else f" They run {100 * found.duty:.0f} % of the time."
    if verdict == "short":
        return sentence(
            f"The air hardly moves at {_named(calm)}: turn a fan towards them or hang another.{when}", **amounts
        )
    if verdict == "over":
        return sentence(
            f"{_named(wild)} stand in the jet, up to {{high}}: turn the fan away or slow it.{when}", **amounts
        )
    if verdict == "tight" and found.mixing_per_min < MIXED_PER_MIN:
        return sentence(f"Every plant is reached, but the whole air is mixed only {{n}}.{when}", **amounts)
    if verdict == "tight":
        return sentence(f"Every plant is reached, some at the edge of what they like.{when}", **amounts)
    return sentence(f"The air moves at every plant, and is mixed {{n}}.{when}", **amounts)


def _working(here: Standing, found: Stirred, amounts: dict[str, Amount]) -> Working:
    steps = [
        Step(symbol="A", meaning="walls, floor and top", amount=Amount(value=surface_m2(here.space), unit="area")),
        Step(
            symbol="u",
            meaning="mean of the air that is mixed",
            amount=Amount(value=found.mean_m_s, unit="air speed"),
        ),
        Step(symbol="n", meaning="whole volume moved", amount=amounts["n"]),
    ]
    for item in sorted(found.plants, key=lambda plant: plant.speed_m_s)[:6]:
        steps.append(
            Step(
                symbol="v",
                meaning=f"at {item.plant.crop.name} {item.plant.number}",
                amount=Amount(value=item.speed_m_s, unit="air speed"),
            )
        )
    return Working(
        formula="jet: v = the lesser of v0 and 5 v0 √A0/x, less to the side; mean: u = √(2 η Q v0/(Cf A + Cd A leaf))",
        steps=tuple(steps),
        source="ASHRAE, room air diffusion (free jets); momentum balance with η 0.7, Cf 0.02, Cd 0.2",
        certainty="A factor of two: leaves that just tremble tell more.",
    )
