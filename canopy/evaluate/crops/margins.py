"""The margins of plants in their places: crowding, pots in each other's way, room for roots."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from math import exp, pi

import numpy as np
from numpy.typing import NDArray

from canopy.evaluate.naming import cite
from canopy.library import Crop
from canopy.margin import Amount, Margin, Step, Verdict, Working, judge_least, judge_most, sentence
from canopy.plan.document import Space
from canopy.plan.levels import shelf_under
from canopy.plan.plants import cell_pitch_m, standing_room_m
from canopy.season import Growing, Standing
from canopy.words import counted

Array = NDArray[np.float64]
# Ground that crowns can fill. A closed canopy is how leaf crops stand at harvest; what fruits, and what is kept for its
# looks, wants air between crowns. How far over all of the ground turns harmful, by group: nobody's measurement, ours.
USABLE = 0.9
_CLOSED, _OPEN, _KEPT = 1.6, 1.35, 1.2
_CROWDED = {"microgreen": _CLOSED, "seedling": _CLOSED, "leaf": _CLOSED, "herb": _CLOSED, "root": _CLOSED}
_CROWDED |= {"fruiting": _OPEN, "bulb": _OPEN}
# Leaves live on little below this share of the light that falls on the top (the compensation light of most, rough).
_DIM_SHARE = 0.05
_TOUCH_M = 0.01
_YOUNG = ("germinate", "root-cutting", "seedling")


def plant_margins(here: Standing) -> list[Margin]:
    """Judge how plants stand.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    list of Margin : crowding of each level, pots that overlap, what stands outside, room for roots
    """
    found = list(_crowding(here))
    found += _overlap(here)
    found += _cells(here)
    found += _outside(here)
    found += _roots(here)
    return found


def full_spread_m(plant: Growing) -> float:
    """Give how wide a plant will get in its place.

    Parameters
    ----------
    plant : the plant on a day

    Returns
    -------
    float : its spread now, or at the end of the widest stage it still goes through [m]
    """
    if plant.planting is None:
        return plant.spread_m
    if plant.want.kind in _YOUNG:
        # Young plants are moved on; what counts here is the size they leave this stage with.
        return max(plant.spread_m, plant.want.spread_m)
    kinds = [stage.kind for stage in plant.crop.stages]
    ahead = plant.crop.stages[kinds.index(plant.want.kind) :]
    scale = plant.spread_m / max(plant.form.spread_m, 1e-6)
    return max(plant.spread_m, *(stage.spread_m * scale for stage in ahead)) if ahead else plant.spread_m


def full_ground_m2(plant: Growing) -> float:
    """Give the ground a plant will cover in its place.

    Parameters
    ----------
    plant : the plant on a day

    Returns
    -------
    float : of a tray its footprint with what hangs over its rim, else a circle of its full spread [m²]
    """
    if plant.tray_m is not None:
        return 4 * plant.half_m[0] * plant.half_m[1]
    return pi * full_spread_m(plant) ** 2 / 4


def plants_that_fit(crop: Crop, area_m2: float) -> int:
    """Give how many plants of a crop a floor takes.

    Parameters
    ----------
    area_m2 : the ground [m²]

    Returns
    -------
    int : by the crop's spacing, on a square raster
    """
    return max(1, int(area_m2 / crop.spacing_m**2))


def level_of(space: Space, plant: Growing) -> str:
    """Name the level a plant stands on.

    Returns
    -------
    str : id of the highest shelf under its pot; "" for the floor
    """
    found = shelf_under(space, plant.plant.x_m, plant.plant.y_m, plant.plant.base_m)
    return found.id if found else ""


def _crowding(here: Standing) -> Iterator[Margin]:
    space = here.space
    grounds = {"": space.size.width_m * space.size.depth_m}
    grounds |= {shelf.id: shelf.width_m * shelf.depth_m for shelf in space.shelves}
    names = {"": "floor"} | {shelf.id: shelf.name for shelf in space.shelves}
    levels: dict[str, list[Growing]] = {}
    for plant in here.plants:
        if plant.plant.habit in ("stand", "pole"):
            levels.setdefault(level_of(space, plant), []).append(plant)
    for key, plants in levels.items():
        yield _crowded(key, names[key], grounds[key], plants)


def crowded_at(plants: list[Growing]) -> float:
    """Say how much of the ground crowns may fill before it harms.

    Parameters
    ----------
    plants : of one level

    Returns
    -------
    float : share of the usable ground, by their groups' limits weighed by what they cover; 1.6 for a closed canopy of
        leaf, 1.35 for fruit, 1.2 for what is kept
    """
    weights = [full_ground_m2(plant) for plant in plants]
    limits = [_CROWDED.get(plant.crop.group, _KEPT) for plant in plants]
    return sum(w * limit for w, limit in zip(weights, limits, strict=True)) / max(sum(weights), 1e-9)


def _crowded(key: str, name: str, ground: float, plants: list[Growing]) -> Margin:
    crowns = sum(full_ground_m2(plant) for plant in plants)
    leaves = sum(full_ground_m2(plant) * plant.want.lai for plant in plants)
    blocked = sum(full_ground_m2(plant) * plant.want.lai * plant.crop.extinction for plant in plants)
    cover, lai, limit = crowns / (USABLE * ground), leaves / (USABLE * ground), crowded_at(plants)
    # Where crowns overlap, the lower one lives on what the upper one lets through.
    under = exp(-blocked / (USABLE * ground)) if cover > 1 else 1.0
    verdict: Verdict = "over" if cover > limit else "good"
    if verdict == "good" and (cover > 0.5 * (1 + limit) or under < _DIM_SHARE):
        verdict = "tight"
    commonest = Counter(plant.crop_id for plant in plants).most_common(1)[0][0]
    main = next(plant.crop for plant in plants if plant.crop_id == commonest)
    amounts = {
        "cover": Amount(value=100 * cover, unit="%", decimals=0),
        "limit": Amount(value=100 * limit, unit="%", decimals=0),
        "lai": Amount(value=lai, unit="", decimals=1),
        "under": Amount(value=100 * under, unit="%", decimals=0),
        "fit": Amount(value=plants_that_fit(main, USABLE * ground), unit="", decimals=0),
        "space": Amount(value=main.spacing_m, unit="length"),
    }
    words = {
        "over": "At full spread the crowns need {cover} of the ground: they shade each other, no air passes through.",
        "tight": (
            "At full spread the crowns fill {cover} of the ground, leaf area index {lai}: the lowest leaves get "
            "{under} of the light on top."
        ),
        "good": "At full spread the crowns take {cover} of the ground: a closed canopy, as is usual at harvest."
        if cover > 1
        else "At full spread the crowns take {cover} of the ground, leaf area index {lai}.",
    }
    tail = f" For {main.name} alone, {{space}} apart, there is room for {{fit}}."
    return Margin(
        id=f"crops.crowding.{key or 'floor'}",
        station="crops",
        title=f"Crowding, {name}",
        verdict=verdict,
        parts=tuple(plant.id for plant in plants),
        need=sentence("at most {limit}", **amounts),
        there=sentence("{cover}", **amounts),
        why=sentence(words[verdict] + tail, **amounts),
        working=Working(
            formula="Σ π/4 · spread², of a tray width · depth, / (0.9 · ground); what passes = e^(−Σ k · LAI)",
            steps=(
                Step(symbol="ground", meaning=name, amount=Amount(value=ground, unit="area")),
                Step(
                    symbol="Σ",
                    meaning=f"{counted(len(plants), 'crown')} at full spread",
                    amount=Amount(value=crowns, unit="area"),
                ),
                Step(symbol="LAI", meaning="leaf area index over that ground", amount=amounts["lai"]),
                Step(symbol="", meaning="of the light on top reaches the lowest leaves", amount=amounts["under"]),
                Step(symbol="limit", meaning="by what grows here", amount=amounts["limit"]),
            ),
            source=f"Spreads: {cite(plants[0].want.form)}. Light through leaves by Beer's law (Monsi and Saeki 1953)",
            certainty="Spreads ±20 %; pruning and turning buy room. The limit is ours: nobody's measurement.",
        ),
    )


def footprint_m(plant: Growing) -> float | None:
    """Give the diameter of a round pot, or the shorter side of a tray.

    Returns
    -------
    float : None where no width was typed [m]
    """
    width = plant.plant.pot_width_m
    return None if width is None else min(width, plant.plant.pot_depth_m or width)


def _overlap(here: Standing) -> Iterator[Margin]:
    standing = [plant for plant in here.plants if plant.plant.habit in ("stand", "pole", "hang")]
    into = np.triu(_into_m(standing), 1) if len(standing) > 1 else np.zeros((0, 0))
    pairs = [(standing[i], standing[j], float(into[i, j])) for i, j in np.argwhere(into > 0)]
    if not pairs:
        return
    one, two, gap = max(pairs, key=lambda item: item[2])
    amounts = {"gap": Amount(value=gap, unit="length"), "count": Amount(value=len(pairs), unit="", decimals=0)}
    yield Margin(
        id="crops.overlap",
        station="crops",
        title="Pots in each other's way",
        verdict="short",
        parts=tuple(dict.fromkeys(plant.id for pair in pairs for plant in pair[:2])),
        need=sentence("none"),
        there=sentence("{count} pairs" if len(pairs) > 1 else "1 pair", **amounts),
        why=sentence(
            f"Plant {one.number} and plant {two.number} stand {{gap}} into each other: move one, or arrange them.",
            **amounts,
        ),
        working=Working(
            formula="distance of the stems ≥ half of both pots",
            steps=(Step(symbol="", meaning="overlap", amount=amounts["gap"]),),
            source="Addition",
            certainty="As typed.",
        ),
    )


def _into_m(plants: list[Growing]) -> Array:
    """How far each two pots stand into each other, shape (plants, plants) [m]: round ones by their distance, trays by
    their edges; 0 on different levels.
    """
    values = [
        (*standing_room_m(p.plant), footprint_m(p) or 0.0, p.plant.x_m, p.plant.y_m, p.plant.base_m, bool(p.tray_m))
        for p in plants
    ]
    wide, deep, round_m, x, y, base, tray = np.array(values, dtype=np.float64).T
    dx, dy = (np.abs(part[:, None] - part) for part in (x, y))
    edges = np.minimum((wide[:, None] + wide) / 2 - dx, (deep[:, None] + deep) / 2 - dy) - _TOUCH_M
    known = (round_m[:, None] > 0) & (round_m > 0)
    stems = np.where(known, (round_m[:, None] + round_m) / 2 - _TOUCH_M, _TOUCH_M) - np.hypot(dx, dy)
    into = np.where((tray[:, None] > 0) | (tray > 0), edges, stems)
    return np.where(np.abs(base[:, None] - base) > 0.05, 0.0, into)


def _cells(here: Standing) -> Iterator[Margin]:
    """Whether young plants still have room in their cells."""
    for plant in here.plants:
        tray, cells = plant.tray_m, plant.plant.cells
        if tray is None or cells is None:
            continue
        pitch = min(cell_pitch_m(*tray, cells))
        wide = plant.form.spread_m
        verdict = judge_most(wide, _CELL_MOST * pitch, tight=0.8)
        amounts = {
            "wide": Amount(value=wide, unit="length"),
            "pitch": Amount(value=pitch, unit="length"),
            "n": Amount(value=cells, unit="", decimals=0),
        }
        words = {
            "over": "{n} plants of {wide} stand {pitch} apart in their cells: they draw each other up. Pot them on.",
            "tight": "{n} plants of {wide} stand {pitch} apart in their cells: pot them on soon.",
            "good": "{n} plants of {wide} have room in cells {pitch} apart.",
        }
        yield Margin(
            id=f"crops.cells.{plant.id}",
            station="crops",
            title=f"Room in the cells, plant {plant.number}",
            verdict=verdict,
            need=sentence("leaves that hardly overlap"),
            there=sentence("{wide} wide, {pitch} apart", **amounts),
            why=sentence(words[verdict], **amounts),
            parts=(plant.id,),
            working=Working(
                formula="spread ≤ 1.5 · distance of the cells",
                steps=(
                    Step(symbol="", meaning="spread of one plant", amount=amounts["wide"]),
                    Step(symbol="", meaning="distance of the cells, the shorter one", amount=amounts["pitch"]),
                ),
                source=cite(plant.want.form),
                certainty="Spreads ±20 %.",
            ),
        )


# Young plants may overlap by so much before they draw each other up, as a multiple of their distance.
_CELL_MOST = 1.5


def _outside(here: Standing) -> Iterator[Margin]:
    size = here.space.size
    over = [
        (plant, reach)
        for plant in here.plants
        if plant.plant.habit != "outward"
        and (
            reach := max(
                plant.half_m[0] - min(plant.x_m, size.width_m - plant.x_m),
                plant.half_m[1] - min(plant.y_m, size.depth_m - plant.y_m),
                0.0,
            )
        )
        > (0.35 * plant.spread_m if plant.tray_m is None else _TOUCH_M)
    ]
    tall = [plant for plant in here.plants if plant.planting and plant.top_m > size.height_m]
    if over:
        plant, reach = max(over, key=lambda item: item[1])
        amounts = {"reach": Amount(value=reach, unit="length")}
        yield Margin(
            id="crops.edge",
            station="crops",
            title="Crowns at the wall",
            verdict="tight",
            parts=tuple(item[0].id for item in over),
            need=sentence("room on all sides"),
            there=sentence("{reach}", **amounts),
            why=sentence(f"Plant {plant.number}, {plant.crop.name}, is pressed {{reach}} into the wall.", **amounts),
            working=Working(
                formula="spread / 2 − distance to the wall", steps=(), source="Addition", certainty="As typed."
            ),
        )
    if tall:
        plant = max(tall, key=lambda item: item.top_m)
        amounts = {"top": Amount(value=plant.top_m, unit="length"), "room": Amount(value=size.height_m, unit="length")}
        yield Margin(
            id="crops.outgrown",
            station="crops",
            title="Taller than the space",
            verdict="short",
            parts=tuple(item.id for item in tall),
            need=sentence("at most {room}", **amounts),
            there=sentence("{top}", **amounts),
            why=sentence(
                f"By this day {plant.crop.name} would be {{top}} up: train it, top it, or move it before.", **amounts
            ),
            working=Working(
                formula="stand + pot + plant(t)", steps=(), source="Crop library", certainty="Heights ±20 %."
            ),
        )


def _roots_elsewhere(space: Space, plant: Growing) -> bool:
    """Trays and mounts hold no pot's litres; in solution roots hang out of a net pot into the reservoir."""
    return plant.plant.pot_kind in ("tray", "mount") or (
        space.feed.way == "solution" and plant.plant.pot_kind in ("basket", "pocket")
    )


def _roots(here: Standing) -> Iterator[Margin]:
    groups: dict[str, list[Growing]] = {}
    for plant in here.plants:
        if plant.plant.pot_volume_l and not _roots_elsewhere(here.space, plant):
            groups.setdefault(plant.crop_id, []).append(plant)
    for key, plants in groups.items():
        least = min(plants, key=lambda plant: plant.plant.pot_volume_l or 0.0)
        there, need = least.plant.pot_volume_l or 0.0, least.crop.container_l
        # Young plants do with less for now; what is judged is the size they are grown to here.
        young = least.want.kind in _YOUNG and least.crop.harvest != "transplant"
        low = need.low * (0.1 if young else 1.0)
        verdict = judge_least(there, low, tight=1.15)
        amounts = {
            "there": Amount(value=there, unit="volume"),
            "low": Amount(value=low, unit="volume"),
            "high": Amount(value=need.high, unit="volume"),
        }
        dry = least.want.water == "dry"
        words = {
            "short": f"{least.crop.name} in {{there}} stays small"
            + (": give it {low} or more." if dry else " and dries out within a day; give it {low} or more."),
            "tight": "Just enough: it will soon fill it." if dry else "Just enough: it will want water daily.",
            "good": f"{least.crop.name} is usual in {{low}} to {{high}}.",
        }
        yield Margin(
            id=f"crops.roots.{key}",
            station="crops",
            title=f"{least.crop.name}: room for roots",
            verdict=verdict,
            parts=tuple(plant.id for plant in plants),
            need=sentence("at least {low}", **amounts),
            there=sentence("{there}", **amounts),
            why=sentence(words[verdict], **amounts),
            working=Working(
                formula="volume of the smallest pot against the crop's usual range",
                steps=(Step(symbol="V", meaning="smallest pot", amount=amounts["there"]),),
                source=cite(least.want.form),
                certainty="A range of practice; feed and water often make up for a small pot.",
            ),
        )
