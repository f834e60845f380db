"""Larger ways out of too little or too much light: move lamps, hang one more, place or train plants, take some out."""

from __future__ import annotations

from collections.abc import Iterator
from math import sqrt

from canopy.design.change import Remedy
from canopy.design.light.adding import add_lamp
from canopy.design.light.moving import move_lamps
from canopy.design.light.places import place_plants
from canopy.evaluate.space import SpaceReport
from canopy.margin import Amount, Margin, sentence
from canopy.plan.changes import Add, Change, Remove


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
    low = _trained_down(report, margin) if margin.verdict == "short" else None
    if low is not None:
        yield "train", low
    out = _taken_out(report, margin)
    if out is not None:
        yield "out", out


def placing_ways(report: SpaceReport) -> Iterator[tuple[str, Remedy]]:
    """Give the ways that only move lamps or plants, for light that is too strong or uneven in places.

    Parameters
    ----------
    report : the space's report, with its light

    Returns
    -------
    iterator of (str, Remedy) : lamps moved, and plants placed where the light suits them
    """
    for key, tool in (("move", move_lamps), ("places", place_plants)):
        found = tool(report.here)
        if found is not None:
            yield key, Remedy(label=found.label, changes=found.changes)


# A plant is bent down to no less than this share of its height, and only where it stands so much above others [m].
_LEAST_BENT, _ABOVE_M = 0.6, 0.05


def _trained_down(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Hold the tall plants that stand before the starved ones down to their height; or those whose tips have grown past
    the lamp themselves.
    """
    starved = [plant for plant in report.here.plants if plant.id in margin.parts]
    level = max(plant.top_m for plant in starved)
    tall = [plant for plant in report.here.plants if plant.id not in margin.parts and plant.top_m > level + _ABOVE_M]
    if not tall:
        face = min((lamp.z_m for lamp in report.space.fixtures if lamp.enabled), default=0.0)
        tall = [plant for plant in starved if plant.top_m > face - _ABOVE_M]
        level = face - 4 * _ABOVE_M
    tall = [plant for plant in tall if plant.plant.habit in ("stand", "pole", "wall")]
    if not tall:
        return None
    held: dict[str, float] = {}
    changes: list[Change | Add] = []
    for plant in tall:
        to = round(max(level - plant.rim_m, _LEAST_BENT * plant.height_m), 2)
        if plant.planting is None:
            wider = min(1.6, sqrt(plant.height_m / to)) * plant.form.spread_m
            values = {"height_m": to, "spread_m": round(wider, 3)}
            changes.append(Change(collection="plants", part_id=plant.id, values=values))
        elif plant.planting.id not in held or to < held[plant.planting.id]:
            held[plant.planting.id] = to
    for key, to in held.items():
        part = {"on": report.here.day.isoformat(), "height_m": to, "how": "hold"}
        changes.append(Add(collection="trainings", parts=(part,), prefix="training", at=("plantings", key)))
    names = ", ".join(dict.fromkeys(plant.crop.name for plant in tall))
    lowest = Amount(value=min(max(level - p.rim_m, _LEAST_BENT * p.height_m) for p in tall), unit="length")
    return Remedy(label=sentence(f"Train {names} down to {{low}}", low=lowest), changes=tuple(changes))


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
