"""What crops would feel on the simulated day: warmth, humidity and VPD, roots, CO2, and water on cold walls."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from canopy.evaluate.climate.days import Simulated
from canopy.evaluate.climate.losses import passes_w_k
from canopy.evaluate.climate.tanks import tank_margins
from canopy.evaluate.climate.water import water_margins
from canopy.evaluate.climate.workings import CERTAINTY, SOURCE, plain_working
from canopy.evaluate.naming import cite, stage_name
from canopy.library import Cited, Window
from canopy.margin import Amount, Margin, Sentence, Step, Verdict, Working, sentence
from canopy.season import Growing, Standing

Array = NDArray[np.float64]
# So much of the hours that count may lie a little outside a window, and so much further out.
_LITTLE_SHARE, _FAR_SHARE = 0.1, 0.25
_OVERHEATS = (
    "A closed space this hot harms who reaches in, melts fans and cords, and can start a fire. Leave its lamps off "
    "until the air carries their heat away, and give heat a cut-out that needs no program."
)
# Below this leaves stop gaining: at 250 ppm they take up about a third less than at 450.
_STARVED_PPM, _POOR_PPM = 250.0, 350.0
# Crops that want at least this live with damp walls.
_DAMP_RH = 75.0


@dataclass(frozen=True, kw_only=True)
class _Kind:
    """A quantity that crops have a window for: its margin, its trace, its window, when it counts, its unit, and how far
    outside it is still ``near``: no further than the simulation may be off.
    """

    id: str
    title: str
    trace: str
    figure: str
    day: bool | None
    unit: str
    decimals: int | None
    near: float
    low_words: str
    high_words: str


_KINDS = (
    _Kind(
        id="climate.air-day",
        title="Air by day",
        trace="air_c",
        figure="air_day_c",
        day=True,
        unit="temperature",
        decimals=None,
        near=1.5,
        low_words="colder than it wants: growth slows",
        high_words="warmer than it wants: heat strains it",
    ),
    _Kind(
        id="climate.air-night",
        title="Air by night",
        trace="air_c",
        figure="air_night_c",
        day=False,
        unit="temperature",
        decimals=None,
        near=1.5,
        low_words="colder than it wants: growth slows, and frost-tender leaves suffer",
        high_words="warmer than it wants: it burns by night what it made by day",
    ),
    _Kind(
        id="climate.rh",
        title="Humidity",
        trace="rh_pct",
        figure="rh_pct",
        day=None,
        unit="%",
        decimals=0,
        near=6.0,
        low_words="drier than it wants: leaves lose water faster than roots bring it",
        high_words="damper than it wants: mildew and grey mould get their chance",
    ),
    _Kind(
        id="climate.vpd",
        title="VPD by day",
        trace="vpd_kpa",
        figure="vpd_kpa",
        day=True,
        unit="kPa",
        decimals=1,
        near=0.2,
        low_words="the air takes up too little: leaves hardly transpire, and calcium stays behind",
        high_words="the air pulls too hard: leaves shut their stomata",
    ),
    _Kind(
        id="climate.root",
        title="Roots",
        trace="root_c",
        figure="root_c",
        day=None,
        unit="temperature",
        decimals=None,
        near=1.5,
        low_words="colder than roots want: they take up little",
        high_words="warmer than roots want: they rot and starve for oxygen",
    ),
)


@dataclass(frozen=True, kw_only=True)
class _Held:
    """A quantity held against one crop's window over the hours that count."""

    plants: tuple[Growing, ...]
    window: Window
    below_h: float
    above_h: float
    hours: float
    mean: float
    least: float
    most: float
    verdict: Verdict

    @property
    def off(self) -> float:
        """Hours outside, for finding the worst."""
        order = {"short": 2, "over": 2, "tight": 1}.get(self.verdict, 0)
        return order * 100 + max(self.below_h, self.above_h)


def climate_margins(here: Standing, found: Simulated) -> list[Margin]:
    """Judge a space's simulated day.

    Parameters
    ----------
    here : the space on a day
    found : its simulated days

    Returns
    -------
    list of Margin : one for each quantity that crops have a window for, the worst-off crop speaking; CO2 by day; water
        on walls and mould, with or without crops. Of air that gets too hot to follow, that alone
    """
    if found.overheats_s is not None:
        return [_too_hot(found)]
    margins = [_judged(kind, here, found) for kind in _KINDS if here.plants]
    if here.plants:
        margins.append(_co2(found))
    else:
        margins += [_told(found, day=True), _told(found, day=False)]
    wants_damp = any(plant.want.rh_pct.low >= _DAMP_RH for plant in here.plants)
    return [*margins, *water_margins(found, wants_damp=wants_damp), *tank_margins(here, found)]


def _rows(kind: _Kind, found: Simulated) -> NDArray[np.bool_]:
    return found.last if kind.day is None else found.half(day=kind.day)


def _held(kind: _Kind, plants: tuple[Growing, ...], values: Array, every_h: float) -> _Held:
    window: Window = getattr(plants[0].want, kind.figure)
    hours = len(values) * every_h
    below, above = float((values < window.low).sum() * every_h), float((values > window.high).sum() * every_h)
    far_below = float((values < window.low - kind.near).sum() * every_h)
    far_above = float((values > window.high + kind.near).sum() * every_h)
    mean, long = float(values.mean()), _FAR_SHARE * hours
    verdict: Verdict = "good"
    if far_below > long and far_below >= far_above:
        verdict = "short"
    elif far_above > long:
        verdict = "over"
    elif max(below, above) > _LITTLE_SHARE * hours:
        verdict = "tight"
    return _Held(
        plants=plants,
        window=window,
        below_h=below,
        above_h=above,
        hours=hours,
        mean=mean,
        least=float(values.min()),
        most=float(values.max()),
        verdict=verdict,
    )


def _by_kind(plants: Sequence[Growing], found: Simulated) -> list[tuple[Growing, ...]]:
    """Plants that want the same and stand in the same air."""
    kinds: dict[object, list[Growing]] = {}
    for plant in plants:
        kinds.setdefault((plant.kind, found.under.get(plant.id)), []).append(plant)
    return [tuple(some) for some in kinds.values()]


def _judged(kind: _Kind, here: Standing, found: Simulated) -> Margin:
    every_h = found.days.every_s / 3600
    held = []
    for plants in _by_kind(here.plants, found):
        air = found.around_plant(plants[0].id)
        held.append(_held(kind, plants, getattr(air.traces, kind.trace)[_rows(kind, air)], every_h))
    worst = max(held, key=lambda item: item.off)
    plant = worst.plants[0]
    found = found.around_plant(plant.id)

    def amount(value: float, high: float | None = None) -> Amount:
        return Amount(value=value, unit=kind.unit, high=high, decimals=kind.decimals)

    off_h = worst.below_h if worst.verdict == "short" or worst.below_h >= worst.above_h else worst.above_h
    shown = {"short": worst.least, "over": worst.most}.get(worst.verdict, worst.mean)
    amounts = {
        "low": amount(worst.window.low),
        "want": amount(worst.window.low, worst.window.high),
        "mean": amount(worst.mean),
        "there": amount(shown),
        "span": amount(worst.least, worst.most),
        "off": Amount(value=off_h, unit="h", decimals=1),
        "hours": Amount(value=worst.hours, unit="h", decimals=1),
        **_lacks(kind, found, worst),
    }
    return Margin(
        id=kind.id,
        station="climate",
        title=kind.title,
        verdict=worst.verdict,
        need=sentence("{want}", **amounts),
        there=sentence(_there(worst), **amounts),
        why=_why(kind, worst, _named(here, found, plant), len(held), amounts),
        parts=tuple(item.id for item in worst.plants),
        mendable=worst.verdict in ("short", "over") and (kind.id, worst.verdict) != ("climate.root", "over"),
        working=_working(kind, found, worst, plant),
    )


def _lacks(kind: _Kind, found: Simulated, worst: _Held) -> dict[str, Amount]:
    """The heat that air which is too cold lacks: as much air as moves, and half of it."""
    if kind.trace != "air_c" or worst.verdict != "short":
        return {}
    rows = _rows(kind, found)
    walls, moved = passes_w_k(found, rows)
    off = worst.window.low - worst.mean
    flow = float(found.traces.flow_m3_h[rows].mean())
    return {
        "lacks": Amount(value=max(0.0, off * (walls + moved)), unit="power", decimals=0),
        "half": Amount(value=max(0.0, off * (walls + moved / 2)), unit="power", decimals=0),
        "flow": Amount(value=flow, unit="airflow"),
    }


def _there(worst: _Held) -> str:
    if worst.verdict == "short":
        return "{there} at the lowest, {off} of {hours} below"
    if worst.verdict == "over":
        return "{there} at the highest, {off} of {hours} above"
    return "{mean}, {span} over {hours}"


def _named(here: Standing, found: Simulated, plant: Growing) -> str:
    """Who is spoken of, with the lid it stands under."""
    name = next((lid.name for lid in here.space.lids if found.space_id.endswith(f"/{lid.id}")), "")
    return f"{stage_name(plant)}, under {name}" if name else stage_name(plant)


def _why(kind: _Kind, worst: _Held, who: str, kinds: int, amounts: dict[str, Amount]) -> Sentence:
    if worst.verdict == "short":
        more = ""
        if "lacks" in amounts and amounts["lacks"].value >= 1:
            more = " About {lacks} are lacking on average at {flow} of air"
            saves = amounts["lacks"].value - amounts["half"].value
            more += ", {half} at half of it: slow the fan as far as damp allows." if saves >= 3 else "."
        return sentence(f"{who}: {kind.low_words}. {{mean}} on average.{more}", **amounts)
    if worst.verdict == "over":
        return sentence(f"{who}: {kind.high_words}. {{mean}} on average.", **amounts)
    among = "" if kinds == 1 else ", the nearest to an edge of all crops here"
    if worst.below_h or worst.above_h:
        side = "below" if worst.below_h >= worst.above_h else "above"
        little = " by little" if worst.verdict == "tight" else ""
        return sentence(f"{who}{among}: {{off}} of {{hours}} {side} what it wants{little}.", **amounts)
    return sentence(f"{who}{among}: inside all the time.", **amounts)


def _working(kind: _Kind, found: Simulated, worst: _Held, plant: Growing) -> Working:
    cited: Cited = plant.want.source_of(kind.figure)

    def amount(value: float, high: float | None = None) -> Amount:
        return Amount(value=value, unit=kind.unit, high=high, decimals=kind.decimals)

    closed = max(found.days.closure.heat, found.days.closure.water)
    return Working(
        formula="hours outside the window, and by more than d, on the third of three days alike",
        steps=(
            Step(symbol="", meaning=f"{plant.crop.name} wants", amount=amount(worst.window.low, worst.window.high)),
            Step(symbol="", meaning="on average", amount=amount(worst.mean)),
            Step(symbol="", meaning="lowest and highest two minutes", amount=amount(worst.least, worst.most)),
            Step(symbol="", meaning="hours below", amount=Amount(value=worst.below_h, unit="h", decimals=1)),
            Step(symbol="", meaning="hours above", amount=Amount(value=worst.above_h, unit="h", decimals=1)),
            Step(symbol="", meaning="of hours that count", amount=Amount(value=worst.hours, unit="h", decimals=1)),
            Step(
                symbol="d",
                meaning="what the simulation may be off; a quarter of the hours further out is too many",
                amount=_span(kind),
            ),
            Step(
                symbol="",
                meaning="heat and water that do not close, of what passed",
                amount=Amount(value=100 * closed, unit="%", decimals=4),
            ),
        ),
        source=f"{SOURCE}; window: {cite(cited)}",
        certainty=CERTAINTY,
    )


def _span(kind: _Kind) -> Amount:
    unit = "temperature rise" if kind.unit == "temperature" else kind.unit
    return Amount(value=kind.near, unit=unit, decimals=None if kind.unit == "temperature" else 2)


def _too_hot(found: Simulated | None) -> Margin:
    seconds = found.overheats_s if found is not None and found.overheats_s is not None else None
    after = Amount(value=(seconds or 0.0) / 3600, unit="h", decimals=1)
    when = "it passes {t} {after} after midnight of the first day" if seconds is not None else "it passes {t}"
    limit = Amount(value=60.0, unit="temperature")
    return Margin(
        id="climate.air-day",
        station="climate",
        title="Air by day",
        verdict="over",
        said="overheats",
        danger=_OVERHEATS,
        need=sentence("less than {t}", t=limit),
        there=sentence("{t} or more", t=limit),
        why=sentence(
            f"Far too hot: {when} and is not followed further. Nothing grows there, and it can set fire: fewer or "
            "smaller lamps, or much more air, before anything is switched on.",
            t=limit,
            after=after,
        ),
        working=plain_working("followed until an air passes 60 °C", Step(symbol="", meaning="limit", amount=limit)),
    )


def following(bounded: bool) -> Margin:
    """Say that the climate is still being followed: nothing of it has been judged yet.

    Parameters
    ----------
    bounded : a steady balance ends beyond 60 °C; that is said at once

    Returns
    -------
    Margin : unknown, or what overheats
    """
    if bounded:
        return _too_hot(None)
    return Margin(
        id="climate.following",
        station="climate",
        title="Climate",
        verdict="unknown",
        need=sentence("three days followed"),
        there=sentence("being followed"),
        why=sentence(
            "Warmth, humidity, roots and CO2 are followed through three days; what they come to is said then."
        ),
        working=plain_working("three days alike, minute by minute"),
    )


def _told(found: Simulated, *, day: bool) -> Margin:
    """An empty space's air, for information: nothing there wants anything."""
    when = "day" if day else "night"
    amounts = {
        "t": Amount(value=found.mean("air_c", day=day), unit="temperature"),
        "rh": Amount(value=found.mean("rh_pct", day=day), unit="%", decimals=0),
        "vpd": Amount(value=found.mean("vpd_kpa", day=day), unit="kPa", decimals=1),
    }
    return Margin(
        id=f"climate.air-{when}",
        station="climate",
        title=f"Air by {when}",
        verdict="good",
        information=True,
        need=sentence("for information"),
        there=sentence("{t}, {rh}, {vpd}", **amounts),
        why=sentence("Nothing grows here yet to hold it against."),
        working=plain_working(
            "means over the third of three days alike",
            Step(symbol="T", meaning="air", amount=amounts["t"]),
            Step(symbol="RH", meaning="humidity", amount=amounts["rh"]),
        ),
    )


def _co2(found: Simulated) -> Margin:
    lit = found.traces.co2_ppm[found.half(day=True)]
    mean, least = float(lit.mean()), float(lit.min())
    verdict: Verdict = "short" if mean < _STARVED_PPM else "tight" if mean < _POOR_PPM else "good"
    amounts = {
        "mean": Amount(value=mean, unit="ppm", decimals=0),
        "least": Amount(value=least, unit="ppm", decimals=0),
        "need": Amount(value=_POOR_PPM, unit="ppm", decimals=0),
        "starved": Amount(value=_STARVED_PPM, unit="ppm", decimals=0),
    }
    words = {
        "short": "The leaves use it up faster than air brings it: growth stalls however bright it is.",
        "tight": "Leaves run it down: more air from the room would bring more.",
        "good": "The air brings what the leaves take up.",
    }
    return Margin(
        id="climate.co2",
        station="climate",
        title="CO2 by day",
        verdict=verdict,
        mendable=verdict == "short",
        need=sentence("{need}, at least {starved}", **amounts),
        there=sentence("{mean} on average, {least} at the lowest", **amounts),
        why=sentence(words[verdict]),
        working=plain_working(
            "N dC/dt = air in − uptake + breath of roots and medium; uptake by light and CO2",
            Step(symbol="C", meaning="mean with lamps on", amount=amounts["mean"]),
            Step(symbol="", meaning="lowest two minutes", amount=amounts["least"]),
        ),
    )
