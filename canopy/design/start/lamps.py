"""First lamps for a space: the fewest, cheapest to run, that bring its plants into their windows."""

from __future__ import annotations

import numpy as np

from canopy.design.light.hanging import hang
from canopy.design.light.poses import posed_all
from canopy.design.start.answers import _ANY_DAY, Answers
from canopy.equipment import FixtureSpec
from canopy.errors import PlanError, PlanProblem
from canopy.evaluate.light.lighting import lighting
from canopy.library import StageTargets, find, fixtures
from canopy.light.photometry import ppf
from canopy.light.scene import PREVIEW
from canopy.plan.document import Fixture, Space
from canopy.schedule import Daily
from canopy.season import Cast, Standing, standing_of

# How far inside a window a suggestion must lie: more than the preview's own error.
_INSIDE = 1.04


def _with_lamps(here: Standing, spec: FixtureSpec, count: int, want: StageTargets) -> tuple[Space, float] | None:
    """Hang lamps, low or high, and dim them to the middle of the window.

    Gives the lit space and how far it misses: 0 when every plant lies inside the window.
    """
    space = here.space
    hours, top = _hours(want), max((p.top_m for p in here.plants), default=0.2)
    best: tuple[Space, float] | None = None
    for lift in (0.32, 0.5, 0.7):
        lamps = hang(space.size, spec, count, top, hours, lift=lift)
        if not lamps or (best and lamps[0].z_m == best[0].fixtures[0].z_m):
            continue
        lit = space.model_copy(update={"fixtures": tuple(lamps)})
        dli = np.array([plant.dli_mol_m2_d for plant in lighting(here.moved(lit), PREVIEW, with_map=False).plants])
        if dli.min() <= 0:
            continue
        aim = (want.dli_mol_m2_d.low + want.dli_mol_m2_d.high) / 2
        dim = min(1.0, max(0.05, round(float(aim / dli.mean()), 2))) if spec.dimmable else 1.0
        if not spec.dimmable:
            # What has no dimmer is brought closer to the window by its hours, as far as the stage's day allows.
            day = want.photoperiod_h
            lasts = round(2 * float(np.clip(hours * aim / dli.mean(), max(day.low, 1), day.high))) / 2
            dli = dli * lasts / hours
            clock = Daily(start="06:00", hours=lasts)
            lit = lit.model_copy(
                update={"fixtures": tuple(lamp.model_copy(update={"schedule": clock}) for lamp in lit.fixtures)}
            )
        miss = max(0.0, _INSIDE * want.dli_mol_m2_d.low / max(dli.min() * dim, 1e-9) - 1)
        miss += max(0.0, _INSIDE * dli.max() * dim / want.dli_mol_m2_d.high - 1)
        if best is None or miss < best[1]:
            best = (
                lit.model_copy(update={"fixtures": tuple(lamp.model_copy(update={"dim": dim}) for lamp in lamps)}),
                miss,
            )
        if miss == 0:
            break
    return best


def _hours(want: StageTargets) -> float:
    window = want.photoperiod_h
    return round((max(window.low, 1) + window.high) / 2 * 2) / 2


def suggest_lamps(here: Standing) -> Space:
    """Hang the least lamps of the library that bring a space's plants to the middle of their window.

    Parameters
    ----------
    here : the space with its plants

    Returns
    -------
    Space : lit, dimmed to fit; with the strongest that fits when none is strong enough; unchanged when none fits
    """
    space = here.space
    if not here.plants:
        return space
    want = max((plant.want for plant in here.plants), key=lambda t: t.dli_mol_m2_d.high)
    floor = space.size.width_m * space.size.depth_m
    aim = (want.dli_mol_m2_d.low + want.dli_mol_m2_d.high) / 2 / (_hours(want) * 0.0036)
    rough = aim * floor / 0.55
    choices = sorted(
        (
            (count * row.spec.power_w, count, row.spec)
            for row in fixtures().values()
            if row.spec.technology == "led" and row.spec.shape == "rectangle" and row.spec.dimmable
            for count in (1, 2, 3, 4)
            if 0.6 * rough <= count * ppf(row.spec) <= 4 * rough
        ),
        key=lambda choice: (choice[0], choice[1]),
    )
    best: tuple[Space, float] | None = None
    for tried, (_, count, spec) in enumerate(choices):
        made = _with_lamps(here, spec, count, want)
        if made and (best is None or made[1] < 0.8 * best[1]):
            best = made
        if best and (best[1] == 0 or tried > 12):
            break
    return best[0] if best else space


def first_lamps(space: Space, answers: Answers, known: Cast) -> Space:
    """Hang the lamps that were asked for, or the fewest that serve.

    Parameters
    ----------
    space : the space, planted
    answers : what the grower said; an empty lamp class asks for a suggestion, "none" for no lamp
    known : crops to choose from

    Returns
    -------
    Space : lit, with the lamp marked as assumed where it was suggested; lamps too long to hang level stand upright in
        the corners

    Raises
    ------
    PlanError : the lamps that were asked for find no room either way
    """
    if answers.lamp_class_id == "none":
        return space
    here = standing_of(space, _ANY_DAY, known)
    if not answers.lamp_class_id:
        return suggest_lamps(here).model_copy(update={"assumed": (*space.assumed, "lamp")})
    spec = find(fixtures(), answers.lamp_class_id, "lamp").spec
    count = max(1, answers.lamp_count)
    if not hang(space.size, spec, count, 0.2, 14.0):
        return _upright(here, spec, count)
    if here.plants:
        made = _with_lamps(here, spec, count, here.plants[0].want)
        return made[0] if made else space
    return space.model_copy(update={"fixtures": tuple(hang(space.size, spec, count, 0.2, 14.0))})


def _upright(here: Standing, spec: FixtureSpec, count: int) -> Space:
    """Stand lamps that are too long to hang level in the corners; PlanError where they do not fit that way either."""
    space = here.space
    hours = _hours(here.plants[0].want) if here.plants else 14.0
    middle = {"x_m": space.size.width_m / 2, "y_m": space.size.depth_m / 2, "z_m": space.size.height_m / 2}
    bare = [
        Fixture(id=f"lamp-{number}", spec=spec, schedule=Daily(start="06:00", hours=hours), **middle)
        for number in range(1, count + 1)
    ]
    try:
        places = posed_all(space, bare, "corners")
    except PlanError as error:
        size = f"{spec.length_m * 100:.0f} × {spec.overall_width_m * 100:.0f} cm"
        words = f"{count} × {spec.name}, {size} each, find no room here: take fewer or smaller ones"
        raise PlanError([PlanProblem(path="lamp_class_id", message=words)]) from error
    lamps = tuple(lamp.model_copy(update=values) for lamp, values in zip(bare, places, strict=True))
    return space.model_copy(update={"fixtures": lamps})
