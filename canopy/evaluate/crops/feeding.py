"""Feed held against the crops of a space: strength, doses, changes and top-ups, or mix and its water."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass, replace

from canopy.errors import QuantityError
from canopy.evaluate.air.breathing import Breathing
from canopy.evaluate.naming import cite, stage_name
from canopy.feed import Dose, FeedEvent, doses, feed_events, soil_water_l
from canopy.library import Mix, Window, find, mixes
from canopy.margin import Amount, Margin, Step, Verdict, Working, judge_most, judge_window, sentence
from canopy.plan.furnishing import Feed
from canopy.season import Growing, Standing

_WEEKS = 4
EC, PH = "mS/cm", ""


@dataclass(frozen=True, kw_only=True)
class Feeding:
    """All that is said of a space's feed; ``trouble`` says why there are no doses or no calendar."""

    ec: Window | None
    ph: Window | None
    target_ec_ms_cm: float | None
    uptake_l_d: float
    doses: tuple[Dose, ...] = ()
    top_up: tuple[Dose, ...] = ()
    events: tuple[FeedEvent, ...] = ()
    mix: Mix | None = None
    mix_l: float = 0.0
    wetting_l: float = 0.0
    trouble: tuple[str, ...] = ()


def _joint(windows: list[Window]) -> Window | None:
    """What all windows share; where they share nothing, the middle ground between the two that part most."""
    if not windows:
        return None
    low, high = max(w.low for w in windows), min(w.high for w in windows)
    return Window(low=min(low, high), high=max(low, high))


# The same nutrients are free in peat, bark and moss at half a unit less than in mineral soil.
_ORGANIC_LESS = 0.5


def ph_window(plant: Growing, feed: Feed) -> Window | None:
    """Give the pH that a plant wants round its roots.

    Parameters
    ----------
    plant : in its stage
    feed : a solution, or the mix it stands in

    Returns
    -------
    Window : of the solution, of mineral soil, or half a unit below that for mixes of peat, coir, bark and moss; None
        where the library has none
    """
    if feed.way == "solution":
        return plant.want.ph
    window = plant.want.ph_soil
    if window is None or not find(mixes(), feed.mix_id, "growing mix").organic:
        return window
    return Window(low=window.low - _ORGANIC_LESS, high=window.high - _ORGANIC_LESS)


def main_kind(here: Standing) -> Growing | None:
    """Give the plant whose stage the feed follows: of the crop and stage there is most of.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    Growing : None where nothing grows
    """
    return max(here.by_kind.values(), key=len)[0] if here.plants else None


def uptake_l_d(here: Standing, air: Breathing) -> float:
    """Give the water that plants draw in a day.

    Parameters
    ----------
    here : the space on a day
    air : its computed air

    Returns
    -------
    float : the person's own figure, or what the leaves give off by the rough climate [L/d], good to about a third
    """
    if here.space.feed.uptake_l_d is not None:
        return here.space.feed.uptake_l_d
    lit = here.space.lit_hours or 12.0
    return (air.day.vapour_kg_s * lit + air.night.vapour_kg_s * (24 - lit)) * 3600


def feeding(here: Standing, air: Breathing) -> Feeding:
    """Work a space's feed out.

    Parameters
    ----------
    here : the space on a day
    air : its computed air

    Returns
    -------
    Feeding : for a solution doses and a calendar of four weeks; for soil the mix and the water to wet it
    """
    feed, main = here.space.feed, main_kind(here)
    ec = _joint([plant.want.ec_ms_cm for plant in here.plants if plant.want.ec_ms_cm])
    ph = _joint([window for plant in here.plants if (window := ph_window(plant, feed))])
    target = feed.target_ec_ms_cm or ((ec.low + ec.high) / 2 if ec else None)
    uptake = uptake_l_d(here, air)
    if feed.way == "soil":
        mix = find(mixes(), feed.mix_id, "growing mix")
        litres = sum(plant.plant.pot_volume_l or 0.0 for plant in here.plants)
        return Feeding(
            ec=ec,
            ph=ph,
            target_ec_ms_cm=target,
            uptake_l_d=uptake,
            mix=mix,
            mix_l=litres,
            wetting_l=soil_water_l(mix, litres),
        )
    trouble: list[str] = []
    full: tuple[Dose, ...] = ()
    weak: tuple[Dose, ...] = ()
    events: tuple[FeedEvent, ...] = ()
    volume, stage = feed.reservoir_l or 0.0, main.stage if main else ""
    if not feed.parts:
        trouble.append("name the parts of your feed to get doses")
    elif target is None:
        trouble.append("type a target EC: the crops here have none in the library")
    else:
        try:
            full = doses(feed.parts, target, feed.water_ec_ms_cm, volume, stage, above_water=feed.above_water)
            weak = tuple(
                replace(item, ml_per_l=item.ml_per_l * feed.top_up_share, ml=item.ml_per_l * feed.top_up_share)
                for item in full
                if feed.top_up_share > 0
            )
        except QuantityError as error:
            trouble.append(str(error))
    if not volume:
        trouble.append("type the reservoir's volume to get a calendar")
    else:
        try:
            events = feed_events(
                here.day,
                here.day + dt.timedelta(weeks=_WEEKS),
                reservoir_l=volume,
                change_days=feed.change_days,
                top_up_share=feed.top_up_share,
                uptake_l_d=uptake,
            )
        except QuantityError as error:
            trouble.append(str(error))
    return Feeding(
        ec=ec,
        ph=ph,
        target_ec_ms_cm=target,
        uptake_l_d=uptake,
        doses=full,
        top_up=weak,
        events=events,
        trouble=tuple(trouble),
    )


def feed_margins(here: Standing, found: Feeding) -> list[Margin]:
    """Judge a solution against the crops.

    Parameters
    ----------
    here : the space on a day
    found : its feed

    Returns
    -------
    list of Margin : its strength, and whether the reservoir lasts; empty for soil
    """
    feed = here.space.feed
    if feed.way != "solution" or not here.plants or found.target_ec_ms_cm is None or found.ec is None:
        return []
    fed = [plant for plant in here.plants if plant.want.ec_ms_cm]
    strengths = [ec for plant in fed if (ec := plant.want.ec_ms_cm) is not None]
    low, high = max(ec.low for ec in strengths), min(ec.high for ec in strengths)
    target, water = found.target_ec_ms_cm, 0.0 if feed.above_water else feed.water_ec_ms_cm
    verdict: Verdict = judge_window(target, target, low, high) if low <= high else "tight"
    amounts = {
        "target": Amount(value=target, unit=EC),
        "water": Amount(value=feed.water_ec_ms_cm, unit=EC),
        "window": Amount(value=min(low, high), high=max(low, high), unit=EC),
    }
    words = {
        "short": "Weaker than the crops here want: {window}.",
        "over": "Stronger than the crops here want: {window}.",
        "tight": "Close to the edge of what the crops here want, {window}.",
        "good": "Inside what the crops here want.",
    }
    why = words[verdict]
    if low > high:
        why = "The crops here share no strength; the target lies between them."
    if water >= target:
        verdict, why = (
            "over",
            "The water alone is as strong as the feed should be: thin it with rain or filtered water.",
        )
    names = {stage_name(plant): plant for plant in fed}
    margins = [
        Margin(
            id="crops.feed",
            station="crops",
            title="Feed strength",
            verdict=verdict,
            need=sentence("{window}", **amounts),
            there=sentence(
                "{target} above the water's {water}" if feed.above_water else "{target}, water {water}", **amounts
            ),
            why=sentence(why, **amounts),
            working=Working(
                formula="EC = EC of the water + Σ dose × EC per mL/L",
                steps=tuple(
                    Step(
                        symbol="",
                        meaning=name,
                        amount=Amount(value=ec.low, high=ec.high, unit=EC),
                    )
                    for name, plant in names.items()
                    if (ec := plant.want.ec_ms_cm) is not None
                )
                + tuple(
                    Step(
                        symbol="x",
                        meaning=f"{dose.part.name}, adds {dose.adds_ms_cm:.2f} {EC}",
                        amount=Amount(value=dose.ml_per_l, unit="g/L" if dose.part.powder else "mL/L"),
                    )
                    for dose in found.doses
                ),
                source="; ".join(dict.fromkeys(cite(plant.want.source_of("ec_ms_cm")) for plant in fed)),
                certainty="Doses ±10 %: check with the meter, pH last.",
            ),
        )
    ]
    if feed.reservoir_l:
        margins.append(_lasting(found, feed.reservoir_l))
    if feed.alkalinity_mg_l is not None:
        margins.append(_alkaline(feed.alkalinity_mg_l))
    return margins


# Bicarbonate left in the water holds pH steady (as calcium carbonate) [mg/L]; what is more drives it up.
_BUFFER_MG_L, _HARD_MG_L, _VERY_HARD_MG_L = 50.0, 120.0, 250.0
# Calcium carbonate of one milliequivalent [mg].
_MG_MEQ = 50.04


def _alkaline(alkalinity_mg_l: float) -> Margin:
    """Judge the water's alkalinity: what drives a solution's pH up."""
    acid = max(0.0, alkalinity_mg_l - _BUFFER_MG_L) / _MG_MEQ
    verdict: Verdict = judge_most(alkalinity_mg_l, _VERY_HARD_MG_L, tight=_HARD_MG_L / _VERY_HARD_MG_L)
    amounts = {
        "there": Amount(value=alkalinity_mg_l, unit="mg/L", decimals=0),
        "most": Amount(value=_VERY_HARD_MG_L, unit="mg/L", decimals=0),
        "acid": Amount(value=acid, unit="mmol/L", decimals=1),
    }
    words = {
        "over": "So much bicarbonate takes {acid} of acid and still drives pH up: thin it with rain or filtered water.",
        "tight": "It takes about {acid} of acid, found by titrating one litre; pH climbs again: look every second day.",
        "good": "It takes {acid} of acid at most; pH stays where it is put for days.",
    }
    return Margin(
        id="crops.alkalinity",
        station="crops",
        title="Alkalinity of the water",
        verdict=verdict,
        need=sentence("at most {most}", **amounts),
        there=sentence("{there}", **amounts),
        why=sentence(words[verdict], **amounts),
        working=Working(
            formula="acid = (alkalinity − 50) / 50.04, as milliequivalents of calcium carbonate",
            steps=(
                Step(
                    symbol="alk",
                    meaning="as calcium carbonate, by the water works or a drop test",
                    amount=amounts["there"],
                ),
                Step(symbol="acid", meaning="to leave a buffer of 50 mg/L", amount=amounts["acid"]),
            ),
            source="Conservation of charge; limits of practice in growing media guides, nobody's measurement",
            certainty="±20 %; a titration of one litre decides.",
        ),
    )


def _lasting(found: Feeding, reservoir_l: float) -> Margin:
    days = reservoir_l / found.uptake_l_d if found.uptake_l_d > 0 else 99.0
    verdict: Verdict = "short" if days < 2 else "tight" if days < 4 else "good"
    amounts = {
        "days": Amount(value=min(days, 99.0), unit="d", decimals=1),
        "use": Amount(value=found.uptake_l_d, unit="L/d"),
        "tank": Amount(value=reservoir_l, unit="volume"),
    }
    words = {
        "short": "At {use} it is empty in {days}: a weekend is too long.",
        "tight": "At {use} it is empty in {days}: look at it every second day.",
        "good": "At {use} it lasts {days} without a top-up.",
    }
    return Margin(
        id="crops.reservoir",
        station="crops",
        title="Reservoir",
        verdict=verdict,
        need=sentence("4 d or more"),
        there=sentence("{days}", **amounts),
        why=sentence(words[verdict], **amounts),
        working=Working(
            formula="days = volume / water used a day",
            steps=(
                Step(symbol="V", meaning="reservoir", amount=amounts["tank"]),
                Step(symbol="E", meaning="water used a day", amount=amounts["use"]),
            ),
            source="Transpiration after Stanghellini (1987), or as typed",
            certainty="Rough, ±35 %, unless typed.",
        ),
    )
