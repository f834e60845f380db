"""The questions that a grower asks first of what stands in a space, answered crop by crop from one report."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from dataclasses import dataclass

from canopy.errors import QuantityError
from canopy.evaluate.crops.harvests import Expected, expected, sets_fruit
from canopy.evaluate.light.lighting import PlantLight
from canopy.evaluate.space import SpaceReport
from canopy.feed import USUAL_STRENGTH_MS_CM, Dose, doses
from canopy.library import Window
from canopy.light.outdoors import Likeness, like_outdoors, outdoor_dli_mol_m2_d
from canopy.margin import Verdict, judge_window
from canopy.plan.furnishing import FeedPart
from canopy.season import Growing, mass_left, slowdown


@dataclass(frozen=True, kw_only=True)
class InShort:
    """One crop and stage: is its light enough, how much later does it bear, how many go into a pot, which month
    outdoors is like it, which dose of feed.

    ``dli`` and ``ppfd`` span the plants, dimmest to brightest [mol/m²/d, µmol/m²/s]; ``verdict`` judges the daily
    light; ``share`` is the dimmest plant's part of the least it wants. ``slower`` is how many times as long it
    takes to the usual mass, ``mass`` what is left of that at the usual date; ``fruiting`` whether it is grown for
    fruit; ``awaited`` when it bears, for dated plants only. ``per_pot`` is how many plants its smallest pot
    carries, fewest to most by the crop's range, None without a pot; ``pot_l`` and ``wants_l`` its litres.
    ``dim_outdoors``: even an overcast day of the darkest month is brighter. ``doses`` go into a litre of water for
    ``target_ec_ms_cm``; ``usual_feed`` says that no part of the feed is named and a usual bottle was taken;
    ``trouble`` why there is no dose.
    """

    plant: Growing
    count: int
    dli: Window
    ppfd: Window
    verdict: Verdict
    share: float
    slower: Window
    mass: Window
    fruiting: bool
    awaited: Expected | None
    pot_l: float | None
    wants_l: Window
    per_pot: tuple[int, int] | None
    likes: tuple[Likeness, ...]
    dim_outdoors: bool
    target_ec_ms_cm: float | None
    doses: tuple[Dose, ...]
    usual_feed: bool
    trouble: str = ""


def in_short(report: SpaceReport, latitude_deg: float) -> Iterator[InShort]:
    """Answer the first questions for all that grows in a space.

    Parameters
    ----------
    report : the space's report
    latitude_deg : where the comparison outdoors is made, north positive [°]

    Returns
    -------
    iterator of InShort : by crop and stage, in the order of the plants
    """
    for group in report.lighting.by_kind.values():
        yield _short(report, list(group), latitude_deg)


def _short(report: SpaceReport, group: list[PlantLight], latitude_deg: float) -> InShort:
    plant = min(group, key=lambda light: light.plant.plant.pot_volume_l or 1e9).plant
    want = plant.want
    values = [light.dli_mol_m2_d for light in group]
    ppfd = [light.ppfd_umol_m2_s for light in group]
    dimmest = min(values)
    slower = slowdown(dimmest, want.dli_mol_m2_d.low)
    dated = next((light.plant for light in group if light.plant.planting), None)
    awaited = expected(dated, dimmest, report.mean_c(dated.id), report.here.day) if dated else None
    pot = plant.plant.pot_volume_l if plant.plant.pot_kind not in ("tray", "mount") else None
    litres = plant.crop.container_l
    target, found, usual, trouble = _dose(report, plant)
    return InShort(
        plant=plant,
        count=len(group),
        dli=Window(low=dimmest, high=max(values)),
        ppfd=Window(low=min(ppfd), high=max(ppfd)),
        verdict=judge_window(dimmest, max(values), want.dli_mol_m2_d.low, want.dli_mol_m2_d.high),
        share=dimmest / want.dli_mol_m2_d.low if want.dli_mol_m2_d.low > 0 else 1.0,
        slower=slower,
        mass=mass_left(dimmest, want.dli_mol_m2_d.low),
        fruiting=sets_fruit(plant.crop),
        awaited=awaited,
        pot_l=pot,
        wants_l=litres,
        per_pot=None if pot is None else (int(pot // litres.high), int(pot // litres.low)),
        likes=like_outdoors(sum(values) / len(values), latitude_deg) if max(values) > 0 else (),
        dim_outdoors=max(values) < _darkest(latitude_deg),
        target_ec_ms_cm=target,
        doses=found,
        usual_feed=usual,
        trouble=trouble,
    )


def _darkest(latitude_deg: float) -> float:
    """DLI of an overcast day in the darkest month [mol/m²/d]."""
    return min(outdoor_dli_mol_m2_d(latitude_deg, dt.date(2026, month, 15), "overcast") for month in range(1, 13))


def _dose(report: SpaceReport, plant: Growing) -> tuple[float | None, tuple[Dose, ...], bool, str]:
    """The strength this kind is fed at, what goes into a litre, whether of a usual bottle, and what stands against."""
    feed, wanted = report.space.feed, plant.want.ec_ms_cm
    target = feed.target_ec_ms_cm or ((wanted.low + wanted.high) / 2 if wanted else None)
    if target is None:
        return None, (), False, "the library names no strength for it"
    parts = feed.parts or (FeedPart(id="usual", name="a usual bottle", ec_ms_cm_per_ml_l=USUAL_STRENGTH_MS_CM),)
    try:
        given = doses(parts, target, feed.water_ec_ms_cm, 1.0, plant.stage, above_water=feed.above_water)
        return target, given, not feed.parts, ""
    except QuantityError as error:
        return target, (), not feed.parts, str(error)
