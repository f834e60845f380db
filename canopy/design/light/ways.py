"""Larger ways out of too little or too much light: move the lamps, hang one more, change places, take plants out."""

from __future__ import annotations

from collections.abc import Iterator

from canopy.design.change import Remedy
from canopy.design.light.moving import add_lamp, move_lamps
from canopy.design.light.places import place_plants
from canopy.evaluate.space import SpaceReport
from canopy.margin import Amount, Margin, sentence
from canopy.plan.changes import Remove


def light_ways(report: SpaceReport, margin: Margin) -> Iterator[tuple[str, Remedy]]:
    """Give ways that change more than one figure, each only when the one before was not enough.

    Parameters
    ----------
    report : the space's report, with its light
    margin : daily light or PPFD outside its window

    Returns
    -------
    iterator of (str, Remedy) : a name for the way, and what it changes
    """
    tools = (("move", move_lamps), ("places", place_plants), ("add", add_lamp))
    for key, tool in tools:
        if margin.verdict == "over" and key == "add":
            continue
        found = tool(report.here)
        if found is not None:
            yield key, Remedy(label=found.label, changes=found.changes)
    out = _taken_out(report, margin)
    if out is not None:
        yield "out", out


def _taken_out(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Take out those plants of the margin that lie outside, where others of it stay."""
    by_day = margin.id.startswith("light.dli")
    members = [light for light in report.lighting.plants if light.plant.id in margin.parts]
    outside = []
    for light in members:
        want = light.plant.want.dli_mol_m2_d if by_day else light.plant.want.ppfd_umol_m2_s
        value = light.dli_mol_m2_d if by_day else light.ppfd_umol_m2_s
        if value < want.low or value > want.high:
            outside.append(light.plant)
    if not outside or len(outside) > max(1, len(members) // 2):
        return None
    numbers = ", ".join(str(plant.number) for plant in outside)
    words = f"Take plant {numbers} out" if len(outside) == 1 else f"Take plants {numbers} out"
    return Remedy(
        label=sentence(f"{words} ({{n}} of {{all}})", n=_count(len(outside)), all=_count(len(members))),
        changes=(Remove(collection="plants", part_ids=tuple(plant.id for plant in outside)),),
    )


def _count(number: int) -> Amount:
    return Amount(value=number, unit="", decimals=0)
