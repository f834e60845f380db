"""What the next weeks bring: when a plant reaches its lamp, and when there is something to harvest."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial
from math import hypot

import numpy as np
from numpy.typing import NDArray

from canopy.cache import ContentCache
from canopy.evaluate.crops.harvests import harvest_margin, say_date
from canopy.evaluate.light.headroom import reach_m
from canopy.evaluate.light.lighting import Lighting, PlantLight
from canopy.margin import Amount, Margin, Step, Verdict, Working, sentence
from canopy.plan.document import Fixture, Plan, Space
from canopy.plan.levels import roof_m, shines_down
from canopy.plan.plants import Plant
from canopy.season import Cast, Growing, Standing, cast_of, standing_of

Array = NDArray[np.float64]
Warmth = Callable[[Growing], float]
HORIZON_DAYS = 400
_STEP = 4
_CEILING_M, _HAIR_M = 0.02, 1e-6
_SOON, _NEAR = 7, 28
_FORM_SOURCE = "Heights at stages' ends from the crop library; logistic growth between them"


@dataclass(frozen=True, kw_only=True)
class Touch:
    """The day a plant's tip comes within a lamp's least distance (or to the ceiling, where no lamp hangs over it).

    ``limit_m`` is the height it may reach; ``highest_m`` the height it would reach within the horizon.
    """

    plant: Growing
    lamp: Fixture | None
    day: dt.date
    limit_m: float
    highest_m: float


def first_touch(here: Standing, cast: Cast, horizon_days: int = HORIZON_DAYS) -> Touch | None:
    """Find the first dated plant to reach its lamp.

    Parameters
    ----------
    here : the space on a day
    cast : crops and plantings
    horizon_days : how far to look [d]

    Returns
    -------
    Touch : None when nothing dated grows there or none reaches its lamp
    """
    numbered = enumerate(here.space.plants, 1)
    dated = [(n, p) for n, p in numbered if p.planting_id and p.habit in ("stand", "pole", "wall")]
    days = [here.day + dt.timedelta(days=ahead) for ahead in range(0, horizon_days + 1, _STEP)]
    courses: dict[Plant, _Course] = {}
    paths: list[_Path] = []
    for number, plant in dated:
        anywhere = plant.model_copy(update={"id": "", "x_m": 0.0, "y_m": 0.0})
        if anywhere not in courses:
            key = (
                anywhere,
                here.space.net,
                cast.plantings[plant.planting_id or ""].model_dump_json(),
                cast.crop(plant),
                here.day,
            )
            courses[anywhere] = _COURSES.get((*key, horizon_days), partial(_course, here.space, plant, days, cast))
        paths.append(_path(here.space, number, plant, courses[anywhere]))
    soonest = min((path.reaches for path in paths if path.reaches is not None), default=None)
    if soonest is None:
        return None
    # Looked at in steps: of those that reach it within the same step, the days between decide.
    before = days[max(0, soonest - 1)]
    found = [
        (_refine(here.space, path, before, days[soonest], soonest, cast), path.number, path)
        for path in paths
        if path.reaches == soonest
    ]
    day, _, path = min(found, key=lambda item: item[:2])
    alone = here.space.model_copy(update={"plants": (path.plant,)})
    plant_then = replace(standing_of(alone, days[soonest], cast).plants[0], number=path.number)
    return Touch(
        plant=plant_then,
        lamp=path.lamps[soonest],
        day=day,
        limit_m=float(path.limits_m[soonest]),
        highest_m=float(np.nanmax(path.course.tops_m)),
    )


@dataclass(frozen=True, kw_only=True)
class _Course:
    """How high and how far out a plant stands on each of some days [m]; not a number where it is not there."""

    tops_m: Array
    halves_m: Array


_COURSES: ContentCache[_Course] = ContentCache(lambda item: 2 * item.tops_m.nbytes)


@dataclass(frozen=True, kw_only=True)
class _Path:
    """A plant's course against what it may reach on each day; ``reaches`` is the first day on which it does."""

    number: int
    plant: Plant
    course: _Course
    limits_m: Array
    lamps: tuple[Fixture | None, ...]

    @property
    def reaches(self) -> int | None:
        over = np.flatnonzero(self.course.tops_m > self.limits_m + _HAIR_M)
        return int(over[0]) if len(over) else None


def _course(space: Space, plant: Plant, days: Sequence[dt.date], cast: Cast) -> _Course:
    """Plants of one planting in like pots grow alike, wherever they stand."""
    alone = space.model_copy(update={"plants": (plant,)})
    then = [standing_of(alone, day, cast).plants for day in days]
    return _Course(
        tops_m=np.array([plants[0].top_m if plants else np.nan for plants in then]),
        halves_m=np.array([max(plants[0].half_m) if plants else np.nan for plants in then]),
    )


def _path(space: Space, number: int, plant: Plant, course: _Course) -> _Path:
    """Lay a course against the lowest lamp over it, and the roof where none hangs there."""
    roof = roof_m(space, plant.x_m, plant.y_m, plant.base_m)
    limits = np.full(len(course.tops_m), roof - _CEILING_M)
    lamps: list[Fixture | None] = [None] * len(limits)
    rim = plant.base_m + plant.pot_height_m
    over = [lamp for lamp in space.fixtures if rim < lamp.z_m <= roof and shines_down(lamp)]
    # The lowest goes last, over the others.
    for lamp in sorted(over, key=lambda item: item.least_distance_m - item.z_m):
        there = course.halves_m >= hypot(lamp.x_m - plant.x_m, lamp.y_m - plant.y_m) - reach_m(lamp)
        limits[there] = lamp.z_m - lamp.least_distance_m
        for step in np.flatnonzero(there):
            lamps[step] = lamp
    return _Path(number=number, plant=plant, course=course, limits_m=limits, lamps=tuple(lamps))


def _refine(space: Space, path: _Path, before: dt.date, after: dt.date, step: int, cast: Cast) -> dt.date:
    alone = space.model_copy(update={"plants": (path.plant,)})
    for ahead in range(1, (after - before).days):
        day = before + dt.timedelta(days=ahead)
        now = standing_of(alone, day, cast).plants
        if now and now[0].top_m > path.limits_m[step] + _HAIR_M:
            return day
    return after


def harvest_margins(here: Standing, lighting: Lighting, mean_c: Warmth) -> list[Margin]:
    """Tell each planting's harvest.

    Parameters
    ----------
    here : a space on a day
    lighting : its computed light
    mean_c : mean of the air round a plant over the day [°C]

    Returns
    -------
    list of Margin : for information
    """
    plantings: dict[str, list[PlantLight]] = {}
    for light in lighting.plants:
        if light.plant.planting:
            plantings.setdefault(light.plant.planting.id, []).append(light)
    found = []
    for lights in plantings.values():
        plant = lights[0].plant
        margin = harvest_margin(here, plant, min(item.dli_mol_m2_d for item in lights), mean_c(plant))
        if margin:
            found.append(margin)
    return found


def outlook_margins(plan: Plan, here: Standing, lighting: Lighting, mean_c: Warmth) -> list[Margin]:
    """Say what the next weeks bring.

    Parameters
    ----------
    here : one of its spaces on a day
    lighting : its computed light
    mean_c : mean of the air round a plant over the day [°C]

    Returns
    -------
    list of Margin : room to grow for dated plants, and each planting's harvest for information
    """
    cast = cast_of(plan)
    if not any(plant.planting_id for plant in here.space.plants):
        return []
    found = []
    if here.space.fixtures:
        found.append(_touch_margin(plan, here, first_touch(here, cast)))
    return found + harvest_margins(here, lighting, mean_c)


def ways_out(plan: Plan, here: Standing, touch: Touch) -> list[str]:
    """List what can be done about a plant that reaches its lamp, in the order of least loss.

    Parameters
    ----------
    here : the space on a day
    touch : the plant, the lamp and the day

    Returns
    -------
    list of str : with {raise}, {hold} where the amounts go
    """
    ways = []
    room = roof_m(here.space, touch.plant.x_m, touch.plant.y_m, touch.plant.plant.base_m)
    if touch.lamp is not None:
        spec = touch.lamp.spec
        if touch.highest_m + touch.lamp.least_distance_m + spec.thickness_m + 0.02 <= room:
            ways.append("raise the lamp to {raise}")
    ways.append("train or tie it at {hold}")
    if touch.plant.crop.harvest in ("picking", "cut-again", "keep"):
        ways.append("top it that day")
    need = touch.highest_m - touch.plant.plant.base_m + 0.2
    taller = [space.name for space in plan.spaces if space.id != here.space.id and space.size.height_m >= need]
    if taller and touch.highest_m > room:
        ways.append(f"move it to {taller[0]}")
    return ways


def hold_height_m(touch: Touch) -> float:
    """Give the plant height to hold it at.

    Parameters
    ----------
    touch : the plant and its limit

    Returns
    -------
    float : height without the pot, 2 cm under the limit [m]
    """
    return max(0.03, round(touch.limit_m - touch.plant.rim_m - 0.02, 3))


def raise_to_m(touch: Touch) -> float:
    """Give the height to raise the lamp to.

    Parameters
    ----------
    touch : the plant and its lamp

    Returns
    -------
    float : height of the lamp's face [m]
    """
    least = touch.lamp.least_distance_m if touch.lamp else 0.0
    return round(touch.highest_m + least + 0.01, 3)


def _touch_margin(plan: Plan, here: Standing, touch: Touch | None) -> Margin:
    if touch is None:
        return Margin(
            id="crops.touch",
            station="crops",
            title="Room to grow",
            verdict="good",
            need=sentence("never"),
            there=sentence("never"),
            why=sentence("No dated plant reaches its lamp within the next year."),
            working=Working(
                formula="top(t) ≤ lamp − least distance",
                steps=(),
                source=_FORM_SOURCE,
                certainty="Heights ±20 % with variety and warmth.",
            ),
        )
    days = (touch.day - here.day).days
    verdict: Verdict = "short" if days <= _SOON else "tight" if days <= _NEAR else "good"
    limit = Amount(value=touch.limit_m, unit="length")
    amounts = {
        "limit": limit,
        "raise": Amount(value=raise_to_m(touch), unit="length"),
        "hold": Amount(value=hold_height_m(touch), unit="length"),
    }
    ways = " or ".join(ways_out(plan, here, touch))
    name = f"{touch.plant.crop.name} (plant {touch.plant.number})"
    reached = "has reached" if days <= 0 else f"reaches on {say_date(touch.day)}"
    what = "the distance its lamp needs" if touch.lamp else "the ceiling"
    return Margin(
        id="crops.touch",
        station="crops",
        title="Room to grow",
        verdict=verdict,
        mendable=verdict != "good",
        parts=(touch.plant.id,),
        need=sentence("four weeks or more"),
        there=sentence("now" if days <= 0 else f"{days} days, {say_date(touch.day)}"),
        why=sentence(f"{name} {reached} {what}, {{limit}} up: {ways}.", **amounts),
        working=Working(
            formula="first day with stand + pot + plant(t) > lamp − least distance",
            steps=(
                Step(symbol="limit", meaning="lamp less its least distance" if touch.lamp else "ceiling", amount=limit),
                Step(symbol="rim", meaning="stand and pot", amount=Amount(value=touch.plant.rim_m, unit="length")),
                Step(
                    symbol="most",
                    meaning="its top when fully grown",
                    amount=Amount(value=touch.highest_m, unit="length"),
                ),
            ),
            source=_FORM_SOURCE,
            certainty="Rough: heights ±20 % with variety and warmth. Type a height seen to mend it.",
        ),
    )
