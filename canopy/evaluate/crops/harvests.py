"""When there is something to harvest, as warmth moves it and light thins it."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from canopy.library import Crop, StageTargets, Window
from canopy.margin import Amount, Margin, Step, Working, sentence
from canopy.season import Growing, Harvest, Standing, harvest, mass_left, pace, spans

# A fruiting crop with less of its daily light than this hardly sets (extension guides: half).
HARDLY_CROPS = 0.5
# Warmth that changes the time by less says nothing; a mass that is less by less either.
_SAME_PACE, _SAME_MASS = 0.08, 0.95
_VERBS = {"once": "Harvest", "cut-again": "First cut", "picking": "Picking from", "transplant": "Ready to move on"}


@dataclass(frozen=True, kw_only=True)
class Expected:
    """A harvest as its calendar has it, and what warmth and light do to it: factor on what is left of the time, the
    range of days that comes to, and what is left of the mass; ``hardly`` where next to nothing will set.
    """

    usual: Harvest
    pace: float
    earliest: dt.date
    latest: dt.date
    mass: Window
    hardly: bool

    @property
    def moved(self) -> bool:
        """Whether warmth moves it by more than a hair."""
        return abs(self.pace - 1) > _SAME_PACE

    @property
    def thinned(self) -> bool:
        """Whether it will be lighter by more than a hair."""
        return self.mass.low < _SAME_MASS


def verb_of(found: Harvest) -> str:
    """Say what is done at a harvest.

    Returns
    -------
    str : such as "Picking from"
    """
    return _VERBS[found.kind]


def usual_c(want: StageTargets) -> float:
    """Give the warmth that a stage's days are given for.

    Returns
    -------
    float : middle of its windows, by its middle hours of light [°C]
    """
    return _mean_c(want, 0.5)


def _mean_c(want: StageTargets, share: float) -> float:
    """Mean over the day from the lower (0) to the upper end (1) of the windows, by the middle hours of light [°C]."""
    lit = (want.photoperiod_h.low + want.photoperiod_h.high) / 48
    day, night = (w.low + share * (w.high - w.low) for w in (want.air_day_c, want.air_night_c))
    return lit * day + (1 - lit) * night


def sets_fruit(crop: Crop) -> bool:
    """Say whether it is grown for its fruit.

    Returns
    -------
    bool : True where it has a stage of fruit
    """
    return any(stage.kind == "fruit" for stage in crop.stages)


def expected(plant: Growing, dli_mol_m2_d: float, mean_c: float | None, day: dt.date) -> Expected | None:
    """Give when and how much there is to harvest.

    Parameters
    ----------
    plant : one of a planting, on the day
    dli_mol_m2_d : the light it gets [mol/m²/d]
    mean_c : mean of its air over the day [°C]; as usual when None
    day : today

    Returns
    -------
    Expected : None for plants that are kept, or that have no date
    """
    if plant.planting is None:
        return None
    found = harvest(spans(plant.planting, plant.crop), plant.crop)
    if found is None:
        return None
    slower = 1.0
    if mean_c is not None and plant.want.kind != "rest":
        # Above its windows nothing is gained.
        slower = pace(plant.crop, min(mean_c, _mean_c(plant.want, 1.0)), usual_c(plant.want))
        # What is not worth a word moves no date.
        slower = slower if abs(slower - 1) > _SAME_PACE else 1.0

    def then(usual: dt.date) -> dt.date:
        return day + dt.timedelta(days=round((usual - day).days * slower)) if usual > day else usual

    least = plant.want.dli_mol_m2_d.low
    return Expected(
        usual=found,
        pace=slower,
        earliest=max(then(found.earliest), min(day, found.likely)),
        latest=then(found.latest),
        mass=mass_left(dli_mol_m2_d, least),
        hardly=sets_fruit(plant.crop) and dli_mol_m2_d < HARDLY_CROPS * least,
    )


def say_date(day: dt.date) -> str:
    """Write a day.

    Returns
    -------
    str : such as "4 Mar 2026"
    """
    return f"{day.day} {day:%b %Y}"


def harvest_margin(here: Standing, plant: Growing, dli_mol_m2_d: float, mean_c: float | None) -> Margin | None:
    """Tell a planting's harvest.

    Parameters
    ----------
    here : where it stands, on a day
    plant : one of the planting
    dli_mol_m2_d : the light of its dimmest plant [mol/m²/d]
    mean_c : mean of its air over the day [°C]; as usual when None

    Returns
    -------
    Margin : for information; None for plants that are kept
    """
    awaited = expected(plant, dli_mol_m2_d, mean_c, here.day)
    if awaited is None or plant.planting is None:
        return None
    verb = verb_of(awaited.usual)
    days = sorted({awaited.earliest, awaited.latest})
    amounts = {
        "c": Amount(value=mean_c or 0.0, unit="temperature"),
        "pace": Amount(value=awaited.pace, unit="", decimals=1),
        "less": Amount(value=100 * (1 - awaited.mass.high), high=100 * (1 - awaited.mass.low), unit="%", decimals=0),
        "share": Amount(value=100 * awaited.mass.low, unit="%", decimals=0),
    }
    laid = spans(plant.planting, plant.crop)
    return Margin(
        id=f"crops.harvest.{plant.planting.id}",
        station="crops",
        title=f"{plant.planting.name}: {verb.lower()}",
        verdict="good",
        information=True,
        need=sentence("for information"),
        there=sentence(" to ".join(say_date(item) for item in days)),
        why=sentence(_words(awaited, here.day), **amounts),
        working=Working(
            formula=(
                "first day + days to first harvest, what is left of them × (usual − base) / (mean − base); mass ~ DLI "
                "to its square root"
            ),
            steps=(
                *(
                    Step(
                        symbol="",
                        meaning=f"{span.stage.kind.replace('-', ' ')} from {say_date(span.starts)}",
                        amount=Amount(value=(span.ends - span.starts).days, unit="d"),
                    )
                    for span in laid[:6]
                ),
                Step(symbol="base", meaning="it hardly develops below", amount=_degrees(plant.crop.base_c)),
                Step(symbol="usual", meaning="middle of its windows", amount=_degrees(usual_c(plant.want))),
                *(() if mean_c is None else (Step(symbol="mean", meaning="of its air here", amount=amounts["c"]),)),
            ),
            source="Days to first harvest and stage lengths from the crop library, or as typed",
            certainty="Rough: two weeks either way with variety; of light's effect on mass only the range is known.",
        ),
    )


def _degrees(value: float) -> Amount:
    return Amount(value=value, unit="temperature")


def _words(awaited: Expected, day: dt.date) -> str:
    found, verb = awaited.usual, verb_of(awaited.usual)
    if found.latest < day and found.kind in ("once", "transplant"):
        return f"It has been ready since about {say_date(found.likely)}."
    words = f"{verb} about {say_date(found.likely)}"
    words += f" ({found.what})" if found.what and found.riper else ""
    words += f", {found.riper[1]} from {say_date(found.riper[0])}." if found.riper else "."
    if found.latest <= day:
        return words
    if awaited.moved:
        words += (
            f" At {{c}} on average what is left takes {{pace}} times as long: rather {say_date(awaited.earliest)} to "
            f"{say_date(awaited.latest)} (rough)."
        )
    if awaited.hardly:
        words += " With {share} of the daily light it wants it will hardly crop."
    elif awaited.thinned:
        words += " Under its present light it will be {less} lighter then (rough)."
    return words
