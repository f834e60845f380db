"""Height: pot, plant, clearance, lamp and hanger against the space, and lamps' distance from leaves."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace
from math import hypot

import numpy as np
from numpy.typing import NDArray

from canopy.evaluate.light.lighting import crown_of
from canopy.light.scene import emitter_of
from canopy.margin import Amount, Margin, Step, Verdict, Working, first_amount, judge_least, sentence
from canopy.plan.document import Fixture, Space
from canopy.plan.levels import roof_m, shines_down
from canopy.season import Growing, Standing

Array = NDArray[np.float64]


def under(space: Space, fixture: Fixture, plant: Growing) -> bool:
    """Say whether a plant stands under (or nearly under) a lamp, on the lamp's own level.

    Parameters
    ----------
    space : their space
    fixture : the lamp

    Returns
    -------
    bool : True when its crown reaches the lamp's outline, the lamp shines down, and no shelf lies between
    """
    close = hypot(fixture.x_m - plant.x_m, fixture.y_m - plant.y_m) <= reach_m(fixture) + max(plant.half_m)
    return close and over(space, fixture, plant)


def reach_m(fixture: Fixture) -> float:
    """Give how far a lamp's outline reaches from its middle.

    Returns
    -------
    float : half of its diagonal [m]
    """
    return hypot(fixture.spec.length_m, fixture.spec.overall_width_m) / 2


def over(space: Space, fixture: Fixture, plant: Growing) -> bool:
    """Say whether a lamp hangs on a plant's level, above its pot, shining down.

    Parameters
    ----------
    space : their space
    fixture : the lamp

    Returns
    -------
    bool : whatever lies between them sideways
    """
    roof = roof_m(space, plant.x_m, plant.y_m, plant.plant.base_m)
    return shines_down(fixture) and plant.rim_m < fixture.z_m <= roof


def nearest_point(lamp: Fixture, plant: Growing) -> tuple[Array, Array, float]:
    """Find the leaf of a plant that is nearest to a lamp's face.

    Returns
    -------
    (ndarray, ndarray, float) : the point of its crown, shape (3,) [m], the unit way from there to the face, shape (3,),
        and how far it is; 0 where the face is in the crown [m]
    """
    plate, crown = emitter_of(lamp).plate, crown_of(plant)
    local = plate.local(crown.middle[None])[0]
    reach = plate.length_m / 2, plate.width_m / 2 + max(abs(offset) for offset in plate.offsets_m)
    foot = plate.centre + np.clip(local[0], -reach[0], reach[0]) * plate.along
    foot = foot + np.clip(local[1], -reach[1], reach[1]) * plate.across
    way = foot - crown.middle
    # Where the way from its middle leaves the ellipsoid.
    out = float(np.sqrt(((way / crown.semi_axes) ** 2).sum()))
    leaf = crown.middle + way / out if out > 1 else foot
    gap = float(np.linalg.norm(foot - leaf))
    facing = (foot - leaf) / gap if gap > 1e-6 else -plate.beam
    return np.asarray(leaf), np.asarray(facing), gap


def side_margins(here: Standing) -> Iterator[Margin]:
    """Judge the closest leaf to lamps that do not hang over it: on walls, columns, or upright between plants.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    iterator of Margin : one, for the tightest; none without such lamps before leaves
    """
    pairs = []
    for lamp in here.space.fixtures:
        emitter = emitter_of(lamp)
        if not lamp.enabled or shines_down(lamp):
            continue
        for plant in here.plants:
            leaf, _, gap = nearest_point(lamp, plant)
            if emitter.both_sides or gap == 0 or emitter.plate.local(leaf[None])[0, 2] > 0:
                pairs.append((lamp, plant, gap))
    if pairs:
        yield _aside(*min(pairs, key=lambda pair: pair[2] - pair[0].least_distance_m))


def _aside(fixture: Fixture, plant: Growing, there: float) -> Margin:
    name, lamp = plant.crop.name, fixture.spec.name
    words: dict[Verdict, str] = {
        "short": f"Leaves of {name} are {{there}} from {lamp} beside them; keep {{need}}."
        if there > 0
        else f"{name} grows into {lamp}: move one of them.",
        "tight": f"Leaves of {name} are {{there}} from {lamp} beside them: they will soon grow too close.",
        "good": f"Leaves of {name} are {{there}} from {lamp} beside them.",
    }
    gap = Step(symbol="a", meaning=f"{name} to {lamp}", amount=Amount(value=there, unit="length"))
    margin = _distance(
        ("light.clearance-side", "Distance to lamps beside plants"),
        (fixture, plant, there),
        words,
        ("a = from the lamp's face to the nearest leaf of the crown, taken as an ellipsoid", (gap,)),
    )
    certainty = "As good as the plant's height and spread are known."
    return replace(margin, mendable=False, working=replace(margin.working, certainty=certainty))


# Lamps that get hot enough to set leaves and fabric alight.
_HOT = ("hps", "metal-halide", "incandescent")
_BURNS = (
    "A discharge or halogen lamp this near can set leaves, netting and fabric alight. Switch it off before you move "
    "it, let it cool, and keep the maker's distance on all sides."
)


def _distance(
    named: tuple[str, str],
    between: tuple[Fixture, Growing, float],
    words: Mapping[Verdict, str],
    worked: tuple[str, tuple[Step, ...]],
) -> Margin:
    """Judge how far leaves are from a lamp against the least distance of its class."""
    (key, title), (fixture, plant, there), (formula, steps) = named, between, worked
    need = fixture.least_distance_m
    verdict = judge_least(there, need, tight=1.15)
    amounts = {"there": Amount(value=there, unit="length"), "need": Amount(value=need, unit="length")}
    return Margin(
        id=key,
        station="light",
        title=title,
        parts=(fixture.id, plant.id),
        verdict=verdict,
        mendable=verdict == "short",
        said="too near" if verdict == "short" else "",
        danger=_BURNS if verdict == "short" and fixture.enabled and fixture.spec.technology in _HOT else "",
        need=sentence("at least {need}", **amounts),
        there=sentence("{there}", **amounts),
        why=sentence(words[verdict], **amounts),
        working=Working(
            formula=formula,
            steps=steps,
            source="Least distance of this class of lamp at its dimmer; the maker's own figure goes first",
            certainty="As good as the tape measure.",
        ),
    )


def near_but_cool(here: Standing, margins: list[Margin]) -> list[Margin]:
    """Let what was computed go before the rule of a lamp's class: a leaf that is nearer than usual, but stays cool and
    under its light limit, is tight, not short.

    Parameters
    ----------
    margins : of the space, with leaves' warmth and light limit among them

    Returns
    -------
    list of Margin : the same, with distances to lamps that scorch by their light alone judged anew
    """
    known = {margin.id: margin for margin in margins}
    warmth, limit = known.get("light.leaf-warmth"), known.get("light.limit")
    fine = ("good", "tight")
    if warmth is None or limit is None or warmth.verdict not in fine or limit.verdict not in fine:
        return margins
    cool = {lamp.id for lamp in here.space.fixtures if lamp.spec.technology in ("led", "fluorescent")}
    return [
        replace(
            margin,
            verdict="tight",
            said="",
            mendable=False,
            need=replace(margin.need, text=margin.need.text.replace("at least {need}", "{need} is usual")),
            why=replace(
                margin.why,
                text="{there} is nearer than is usual for such a lamp ({need}); as computed the nearest leaf stays "
                "cool enough and under its light limit. It must not touch.",
            ),
        )
        if margin.id in ("light.clearance", "light.clearance-side")
        and margin.verdict == "short"
        and margin.parts[0] in cool
        and first_amount(margin.there) is not None
        and dict(margin.there.amounts)["there"].value >= _NEVER_NEARER_M
        else margin
        for margin in margins
    ]


# A leaf nearer than this touches the lamp when it moves [m].
_NEVER_NEARER_M = 0.03


def stack_margins(here: Standing) -> Iterator[Margin]:
    """Judge the tightest stack of heights and the closest lamp.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    iterator of Margin : headroom and clearance; none without lamps over plants
    """
    space, plants = here.space, [plant for plant in here.plants if plant.plant.habit != "outward"]
    pairs = _under_each(space, plants)
    if not pairs:
        # Nothing stands right under a lamp: each plant is held against the lamp nearest to it.
        for plant in plants:
            near = [lamp for lamp in space.fixtures if over(space, lamp, plant)]
            if near:
                pairs.append((min(near, key=lambda f: hypot(f.x_m - plant.x_m, f.y_m - plant.y_m)), plant))
    if not pairs:
        return
    yield _headroom(here, *max(pairs, key=lambda pair: _needed_height(*pair) - _room(space, pair[1])))
    yield _clearance(*min(pairs, key=lambda pair: pair[0].z_m - pair[1].top_m - pair[0].least_distance_m))


def _under_each(space: Space, plants: list[Growing]) -> list[tuple[Fixture, Growing]]:
    """Each lamp with each plant under it, as `under` says."""
    at = np.array([(plant.x_m, plant.y_m, max(plant.half_m)) for plant in plants]).reshape(-1, 3)
    pairs = []
    for lamp in space.fixtures:
        close = np.hypot(at[:, 0] - lamp.x_m, at[:, 1] - lamp.y_m) <= reach_m(lamp) + at[:, 2]
        pairs += [(lamp, plants[k]) for k in np.flatnonzero(close) if over(space, lamp, plants[k])]
    return pairs


def _room(space: Space, plant: Growing) -> float:
    return roof_m(space, plant.x_m, plant.y_m, plant.plant.base_m)


def _needed_height(fixture: Fixture, plant: Growing) -> float:
    spec = fixture.spec
    return plant.top_m + fixture.least_distance_m + spec.thickness_m + spec.hanger_m


def _headroom(here: Standing, fixture: Fixture, plant: Growing) -> Margin:
    spec, there = fixture.spec, _room(here.space, plant)
    need = _needed_height(fixture, plant)
    verdict = judge_least(there, need, tight=1.04)
    amounts = {
        "need": Amount(value=need, unit="length"),
        "there": Amount(value=there, unit="length"),
        "gap": Amount(value=abs(there - need), unit="length"),
    }
    name = plant.crop.name
    words = {
        "short": f"{name} under {spec.name} needs {{need}}: {{gap}} more than there is. "
        "Choose a lower pot, a thinner lamp, or move the plant to the rim.",
        "tight": f"{name} under {spec.name} just fits, with {{gap}} left.",
        "good": f"{name} under {spec.name} leaves {{gap}} to spare.",
    }
    length = "length"
    return Margin(
        id="light.headroom",
        station="light",
        title="Headroom",
        parts=(fixture.id, plant.id),
        verdict=verdict,
        need=sentence("{need}", **amounts),
        there=sentence("{there}", **amounts),
        why=sentence(words[verdict], **amounts),
        working=Working(
            formula="stand + pot + plant + clearance + lamp + hanger ≤ inner height",
            steps=(
                Step(symbol="stand", meaning="under the pot", amount=Amount(value=plant.plant.base_m, unit=length)),
                Step(symbol="pot", meaning="container", amount=Amount(value=plant.plant.pot_height_m, unit=length)),
                Step(symbol="plant", meaning=name, amount=Amount(value=plant.top_m - plant.rim_m, unit=length)),
                Step(
                    symbol="clear",
                    meaning="least distance to this lamp",
                    amount=Amount(value=fixture.least_distance_m, unit=length),
                ),
                Step(symbol="lamp", meaning=spec.name, amount=Amount(value=spec.thickness_m, unit=length)),
                Step(symbol="hang", meaning="hangers", amount=Amount(value=spec.hanger_m, unit=length)),
                Step(symbol="H", meaning="height of the shelf or ceiling above", amount=amounts["there"]),
            ),
            source="Addition",
            certainty="As good as the tape measure.",
        ),
    )


def _clearance(fixture: Fixture, plant: Growing) -> Margin:
    there, name, lamp = fixture.z_m - plant.top_m, plant.crop.name, fixture.spec.name
    words: dict[Verdict, str] = {
        "short": f"{name} is {{there}} below {lamp}; keep {{need}}."
        if there > 0
        else f"{name} reaches past {lamp}: raise the lamp or move one of them.",
        "tight": f"{name} is {{there}} below {lamp}: it will soon grow too close.",
        "good": f"{name} is {{there}} below {lamp}.",
    }
    steps = (
        Step(symbol="lamp", meaning=lamp, amount=Amount(value=fixture.z_m, unit="length")),
        Step(symbol="top", meaning=name, amount=Amount(value=plant.top_m, unit="length")),
        Step(symbol="clear", meaning="between them", amount=Amount(value=there, unit="length")),
    )
    return _distance(
        ("light.clearance", "Distance to the lamp"),
        (fixture, plant, there),
        words,
        ("clear = lamp's face − (stand + pot + plant)", steps),
    )
