"""Hours of light: judged where flowering, bolting or tubers hang on them; else they count by the daily light alone."""

from __future__ import annotations

from dataclasses import dataclass

from canopy.evaluate.naming import cite, stage_name
from canopy.library import BEARING
from canopy.margin import Amount, Margin, Step, Verdict, Working, sentence
from canopy.season import Growing

# With less dark than this leaves of many crops yellow, tomato's and aubergine's first (reviews of continuous light).
_MOST_LIT_H = 20.0
_FLOWERS = ("flower", *BEARING)
_FOR_LEAF = ("leaf", "herb", "root", "seedling")


@dataclass(frozen=True, kw_only=True)
class Hangs:
    """What hangs on the hours of light: why fewer than its window would be wrong, and why more; "" where nothing is."""

    fewer: str = ""
    more: str = ""


def hangs_on_hours(plant: Growing) -> Hangs:
    """Say what hangs on a stage's hours of light.

    Parameters
    ----------
    plant : in its stage

    Returns
    -------
    Hangs : by the crop's response to day length, its stage and what it is grown for
    """
    crop, stage = plant.crop, plant.stage
    if crop.day_length == "short":
        if stage in _FLOWERS:
            return Hangs(more="days so long keep it from flowering or setting")
        return Hangs(fewer="days so short make it flower before it has grown")
    if crop.day_length == "long":
        if stage in ("flower", "fruit"):
            return Hangs(fewer="days so short keep it from flowering")
        if crop.group in _FOR_LEAF and stage not in ("rest", "root-cutting", "germinate"):
            return Hangs(more="days so long make it flower, bolt or bulb")
    return Hangs()


def hours_margin(plant: Growing, parts: tuple[str, ...], hours: float) -> Margin:
    """Judge the hours of light of a crop and stage.

    Parameters
    ----------
    plant : one of them
    parts : ids of all of them
    hours : longest time any lamp or window lights them in a day [h]

    Returns
    -------
    Margin : for information where nothing hangs on the hours themselves
    """
    want, name, hangs = plant.want, stage_name(plant), hangs_on_hours(plant)
    low, high = want.photoperiod_h.low, want.photoperiod_h.high
    amounts = {
        "hours": Amount(value=hours, unit="h"),
        "low": Amount(value=low, unit="h"),
        "high": Amount(value=high, unit="h"),
        "most": Amount(value=_MOST_LIT_H, unit="h"),
    }
    verdict: Verdict = "good"
    words, information = "The day of {hours} suits this stage.", False
    if hours < low and hangs.fewer:
        verdict, words = "short", f"Lamps run {{hours}} of {{low}} to {{high}}: {hangs.fewer}."
    elif hours > high and hangs.more:
        verdict, words = "over", f"Lamps run {{hours}} of {{low}} to {{high}}: {hangs.more}."
    elif hours > max(high, _MOST_LIT_H):
        verdict, words = "tight", "Lamps run {hours}: with less than four hours of dark leaves of many crops yellow."
    elif not low <= hours <= high:
        information = True
        words = (
            "Lamps run {hours}, {low} to {high} is usual. Nothing hangs on the hours themselves here: what counts is "
            "the daily light."
        )
    return Margin(
        id=f"light.hours.{plant.crop_id}.{plant.stage}",
        station="light",
        title=f"{name}: hours of light",
        parts=parts,
        verdict=verdict,
        mendable=verdict in ("short", "over"),
        information=information,
        need=sentence("{w} is usual" if information else "{w}", w=Amount(value=low, high=high, unit="h")),
        there=sentence("{hours}", **amounts),
        why=sentence(words, **amounts),
        working=Working(
            formula="longest time any lamp is on in a day",
            steps=(Step(symbol="h", meaning="hours of light", amount=amounts["hours"]),),
            source=cite(want.light),
            certainty=f"As typed; day length: {plant.crop.day_length}.",
        ),
    )
