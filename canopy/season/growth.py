"""How tall and wide a planting is on a day, what training does to it, and how lack of light slows it."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from math import exp, sqrt

from canopy.library import Crop, Window
from canopy.plan.plants import Plant, Planting, Training
from canopy.season.calendar import StageSpan, span_on

# Growth within a stage follows the middle stretch of a logistic curve.
_STEEP = 6.0
# After a cut the lost height is made up with this time constant: rough, from practice with leaf and fruiting crops.
_REGROWTH_DAYS = 21.0
_WIDEST = 1.6
# Share of the first stage's final size that a plant begins it with.
_BEGINS = {
    "germinate": 0.1,
    "seedling": 0.15,
    "root-cutting": 0.8,
    "flower": 0.7,
    "fruit": 0.8,
    "root": 0.2,
    "tuber": 0.7,
    "rhizome": 0.8,
    "rest": 1.0,
}
# Warmth beyond these bounds of the usual pace says nothing more.
_FASTEST, _SLOWEST = 0.7, 2.5


@dataclass(frozen=True, kw_only=True)
class Form:
    """A plant's height and spread [m] and leaf area index on a day."""

    height_m: float
    spread_m: float
    lai: float

    def scaled(self, height: float, spread: float) -> Form:
        """Give a form of other size and the same density.

        Parameters
        ----------
        height : factor on the height
        spread : factor on the spread

        Returns
        -------
        Form : scaled
        """
        return Form(height_m=self.height_m * height, spread_m=self.spread_m * spread, lai=self.lai)


def logistic_share(share: float) -> float:
    """Give the part of a stage's growth that is done.

    Parameters
    ----------
    share : part of the stage's time that is over, 0..1

    Returns
    -------
    float : 0 at the start, 1 at the end, steepest in the middle
    """
    inside = min(max(share, 0.0), 1.0)
    return (_logistic(inside) - _logistic(0.0)) / (_logistic(1.0) - _logistic(0.0))


def _logistic(x: float) -> float:
    return 1 / (1 + exp(-_STEEP * (x - 0.5)))


def _begin(crop: Crop, first: StageSpan) -> Form:
    kinds = [stage.kind for stage in crop.stages]
    place = kinds.index(first.stage.kind)
    if place > 0:
        before = crop.stages[place - 1]
        return Form(height_m=before.height_m, spread_m=before.spread_m, lai=before.lai)
    kind = first.stage.kind
    share = _BEGINS.get(kind, 0.7 if crop.harvest == "keep" else 0.15)
    if crop.group == "bulb":
        share = 0.1
    tray = crop.group == "microgreen"
    stage = first.stage
    return Form(
        height_m=stage.height_m * share,
        spread_m=stage.spread_m if tray else stage.spread_m * max(share, 0.2),
        lai=stage.lai * share,
    )


def free_form(crop: Crop, found: tuple[StageSpan, ...], day: dt.date) -> Form:
    """Give how a planting would stand on a day if nobody touched it.

    Parameters
    ----------
    found : its stages on dates

    Returns
    -------
    Form : the starting size before the first day, the final size after the last

    Notes
    -----
    Between the sizes at the stages' ends a logistic curve; after physics/crops: height over time.
    """
    before = _begin(crop, found[0])
    now = span_on(found, day) or found[0]
    for span in found:
        after = Form(height_m=span.stage.height_m, spread_m=span.stage.spread_m, lai=span.stage.lai)
        if span is now:
            done = logistic_share((day - span.starts).days / max(1, (span.ends - span.starts).days))
            return Form(
                height_m=before.height_m + done * (after.height_m - before.height_m),
                spread_m=before.spread_m + done * (after.spread_m - before.spread_m),
                lai=before.lai + done * (after.lai - before.lai),
            )
        before = after
    return before


def _trained(form: Form, day: dt.date, trainings: tuple[Training, ...], free_on: list[float]) -> Form:
    height, held = form.height_m, False
    for training, was in zip(trainings, free_on, strict=True):
        if day < training.on:
            continue
        if training.how == "hold":
            held, height = held or height > training.height_m, min(height, training.height_m)
        else:
            lost = max(0.0, was - training.height_m)
            height = max(0.02, height - lost * exp(-(day - training.on).days / _REGROWTH_DAYS))
    wider = min(_WIDEST, sqrt(form.height_m / height)) if held else 1.0
    return Form(height_m=height, spread_m=form.spread_m * wider, lai=form.lai)


def form_on(plant: Plant, planting: Planting, crop: Crop, found: tuple[StageSpan, ...], day: dt.date) -> Form:
    """Give a plant's height, spread and leaf area index on a day.

    Parameters
    ----------
    plant : the plant; a size seen on a day draws the curve through it
    planting : its planting, with trainings
    found : the planting's stages on dates

    Returns
    -------
    Form : after training

    Notes
    -----
    A seen size scales the whole curve. A cut is grown over again with a time constant of three weeks; what is held low
    grows wider instead, by the root of what it is held back by and at most 1.6 times. Both rough, from practice.
    """
    trainings = tuple(sorted(planting.trainings, key=lambda item: item.on))
    tall = wide = 1.0
    if plant.seen_on is not None and plant.height_m is not None and plant.spread_m is not None:
        then = free_form(crop, found, plant.seen_on)
        before = tuple(item for item in trainings if item.on <= plant.seen_on)
        was = _trained(then, plant.seen_on, before, [free_form(crop, found, item.on).height_m for item in before])
        tall, wide = plant.height_m / was.height_m, plant.spread_m / was.spread_m
        trainings = tuple(item for item in trainings if item.on > plant.seen_on or item.how == "hold")
    free = [free_form(crop, found, item.on).height_m * tall for item in trainings]
    return _trained(free_form(crop, found, day).scaled(tall, wide), day, trainings, free)


def slowdown(dli_mol_m2_d: float, least_mol_m2_d: float) -> Window:
    """Give by how much the way to the usual mass is drawn out under too little light.

    Parameters
    ----------
    dli_mol_m2_d : the light it gets [mol/m²/d]
    least_mol_m2_d : lower end of the stage's window [mol/m²/d]

    Returns
    -------
    Window : factor on the time; 1 to 1 with enough light, at most 4

    Notes
    -----
    Between growth in proportion to light and growth with its square root, the range of trials in which light limits:
    rough. Stages come by age and warmth all the same: at the usual date a crop is so much lighter (`mass_left`).
    """
    left = mass_left(dli_mol_m2_d, least_mol_m2_d)
    return Window(low=min(4.0, 1 / left.high), high=min(4.0, 1 / left.low))


def mass_left(dli_mol_m2_d: float, least_mol_m2_d: float) -> Window:
    """Give what is left of a crop's mass at its usual date under too little light.

    Parameters
    ----------
    dli_mol_m2_d : the light it gets [mol/m²/d]
    least_mol_m2_d : lower end of the stage's window [mol/m²/d]

    Returns
    -------
    Window : share of the usual mass; 1 to 1 with enough light, at least a sixteenth
    """
    if dli_mol_m2_d >= least_mol_m2_d or least_mol_m2_d <= 0:
        return Window(low=1.0, high=1.0)
    share = max(dli_mol_m2_d / least_mol_m2_d, 1 / 16)
    return Window(low=share, high=sqrt(share))


def pace(crop: Crop, mean_c: float, usual_c: float) -> float:
    """Give by how much warmth draws out a crop's time, or shortens it.

    Parameters
    ----------
    crop : with the zero of its temperature sum
    mean_c : mean of its air over the day [°C]
    usual_c : what its days are given for: the middle of its windows [°C]

    Returns
    -------
    float : factor on the time, 1 at ``usual_c``, within 0.7 and 2.5

    Notes
    -----
    A temperature sum: a stage takes so many kelvin-days above ``crop.base_c``. Above its windows nothing is gained.
    """
    return min(_SLOWEST, max(_FASTEST, (usual_c - crop.base_c) / max(mean_c - crop.base_c, 0.1)))
