"""From ten answers to a whole space: sensible defaults, a first lamp and a first fan, all marked as assumed."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

from canopy.design.crops.arranging import arrange, main_stage
from canopy.design.start.air import suggest_air
from canopy.design.start.answers import _ANY_DAY, Answers
from canopy.design.start.lamps import first_lamps
from canopy.errors import PlanError, PlanProblem
from canopy.library import ContainerClass, Crop, containers, find
from canopy.plan.document import Air, Fixture, Space
from canopy.plan.furnishing import Shelf
from canopy.plan.layout import Rect, most_side_by_side
from canopy.plan.plants import Plant
from canopy.plan.shell import Faces, Size, SpaceKind, Surface
from canopy.season import Cast, standing_of, usual_container

_LININGS = {
    "tent": ("reflective-film", "reflective-film", "grey-tray"),
    "closet": ("painted-wall", "painted-wall", "grey-tray"),
    "cabinet": ("white-board", "white-board", "grey-tray"),
    "shelf": ("open", "white-board", "grey-tray"),
    "glass-case": ("glass", "glass", "soil"),
}
_EXCHANGE_MINUTES = {"tent": 3.0, "closet": 3.0, "cabinet": 3.0, "shelf": 5.0, "glass-case": 60.0}
_VENTED = ("tent", "closet", "cabinet")


def default_faces(kind: SpaceKind) -> Faces:
    """Give the usual linings of a kind of space.

    Returns
    -------
    Faces : six surfaces
    """
    side, top, floor = (Surface(material_id=key) for key in _LININGS[kind])
    back = Surface(material_id="painted-wall") if kind == "shelf" else side
    return Faces(left=side, right=side, front=side, back=back, floor=floor, ceiling=top)


def begin_space(answers: Answers, cast: Cast | None = None) -> Space:
    """Make a whole space of a few answers.

    Parameters
    ----------
    answers : what the grower said
    cast : crops of the person's own beside the library's

    Returns
    -------
    Space : planted, lit and vented, with all that was not said marked as assumed; a rack with its levels

    Raises
    ------
    PlanError : the lamps that were asked for find no room, or a rack's levels would be too low
    """
    known = cast or Cast()
    if answers.levels > 1:
        return _vented(stacked(begin_space(level_of(answers), known), answers), known)
    return _vented(first_lamps(bare_space(answers, known), answers, known), known)


def _vented(space: Space, known: Cast) -> Space:
    return suggest_air(standing_of(space, _ANY_DAY, known)) if space.kind in _VENTED and space.plants else space


def bare_space(answers: Answers, cast: Cast | None = None) -> Space:
    """Make a space of a few answers with what grows in it, without lamps and fans.

    Parameters
    ----------
    answers : what the grower said; a rack as one level of its height
    cast : crops of the person's own beside the library's

    Returns
    -------
    Space : planted, with its usual linings, all that was not said marked as assumed

    Raises
    ------
    PlanError : nothing is left over a platform, or so many trays do not fit
    """
    size = Size(width_m=answers.width_m, depth_m=answers.depth_m, height_m=answers.height_m)
    rule: Literal["largest", "heat"] = "largest" if answers.kind in _VENTED else "heat"
    space = Space(
        id=answers.space_id,
        name=answers.name,
        kind=answers.kind,
        size=size,
        faces=default_faces(answers.kind),
        door_side=None if answers.kind == "shelf" else "front",
        room_id=answers.room_id,
        air=Air(exchange_minutes=_EXCHANGE_MINUTES[answers.kind], rule=rule),
        circuit_id=answers.circuit_id,
        assumed=("faces", "room", "air", "circuit", "openings"),
    )
    if not answers.crop_id:
        return space
    plants, driest = _planted(size, answers, cast or Cast())
    return space.model_copy(
        update={
            "plants": plants,
            "assumed": (*space.assumed, "stage"),
            "air": space.air.model_copy(update={"max_rh_pct": driest}),
        }
    )


# A board of a rack is so thick, and so much of a level's height has to be left for lamp and plants [m].
_BOARD_M, _LEAST_LEVEL_M = 0.02, 0.15


def level_of(answers: Answers) -> Answers:
    """Give what was said of a rack as one of its levels.

    Parameters
    ----------
    answers : with two levels or more

    Returns
    -------
    Answers : a level with its share of the plants, as high as is clear between two boards

    Raises
    ------
    PlanError : the levels would be too low
    """
    clear = answers.height_m / answers.levels - _BOARD_M
    if clear < _LEAST_LEVEL_M:
        most = int(answers.height_m / (_LEAST_LEVEL_M + _BOARD_M))
        words = f"{answers.levels} levels would be {clear * 100:.0f} cm high each: at most {most} fit in this height"
        raise PlanError([PlanProblem(path="levels", message=words)])
    share = -(-answers.count // answers.levels) if answers.count else 0
    more = tuple((crop_id, -(-count // answers.levels)) for crop_id, count in answers.more)
    return replace(answers, levels=1, height_m=clear, count=share, more=more)


def stacked(one: Space, answers: Answers) -> Space:
    """Set a level over itself as often as a rack has levels, with a board between.

    Parameters
    ----------
    one : the level, with its plants and lamps
    answers : what was said of the whole rack

    Returns
    -------
    Space : of the rack's own size, without the level's ways of air and openings
    """
    levels, high = answers.levels, answers.height_m / answers.levels
    count = answers.count if not answers.more else 0
    plants: list[Plant] = []
    lamps: list[Fixture] = []
    for level in range(levels):
        base = round(level * high, 4)
        here = one.plants if not count else one.plants[: max(0, count - len(plants))]
        for plant in here:
            up = {"id": f"plant-{len(plants) + 1}", "base_m": round(plant.base_m + base, 4)}
            plants.append(plant.model_copy(update=up))
        for lamp in one.fixtures if here or not one.plants else ():
            up = {"id": f"lamp-{len(lamps) + 1}", "z_m": round(lamp.z_m + base, 4)}
            lamps.append(lamp.model_copy(update=up))
    shelves = tuple(
        Shelf(
            id=f"shelf-{level}",
            name=f"Level {level + 1}",
            z_m=round(level * high, 4),
            width_m=answers.width_m,
            depth_m=answers.depth_m,
            thickness_m=_BOARD_M,
        )
        for level in range(1, levels)
    )
    size = Size(width_m=answers.width_m, depth_m=answers.depth_m, height_m=answers.height_m)
    return one.model_copy(
        update={
            "size": size,
            "plants": tuple(plants),
            "fixtures": tuple(lamps),
            "shelves": shelves,
            "airways": (),
            "stirrers": (),
            "openings": (),
        }
    )


def _planted(size: Size, answers: Answers, known: Cast) -> tuple[tuple[Plant, ...], float]:
    """Stand the crops side by side in strips from left to right; gives them and the humidity they allow at most [%]."""
    wanted = [(answers.crop_id, answers.count), *answers.more]
    plants: list[Plant] = []
    driest, share = 92.0, size.width_m / len(wanted)
    over = size.height_m - answers.raised_m
    if over < _LEAST_LEVEL_M:
        words = f"nothing is left over a platform of {answers.raised_m * 100:.0f} cm: the space is that high"
        raise PlanError([PlanProblem(path="raised_m", message=words)])
    for place, (crop_id, count) in enumerate(wanted):
        crop = find(known.crops, crop_id, "crop")
        stage = (crop.stage(answers.stage) if answers.stage and not place else None) or main_stage(crop)
        strip = Size.model_construct(width_m=share, depth_m=size.depth_m, height_m=over)
        held = find(containers(), answers.container_id, "container") if answers.container_id and not place else None
        if held is not None and held.cells:
            stage = crop.stage("seedling") or stage
        many = count or _as_many_as_fit(strip, crop, held)
        made = arrange(strip, crop, stage, min(many, 400), tuple(plant.id for plant in plants), held)
        shift = {"base_m": round(answers.raised_m, 4)}
        plants += [plant.model_copy(update={"x_m": round(plant.x_m + place * share, 4), **shift}) for plant in made]
        driest = min(driest, max(40.0, stage.rh_pct.high))
    return tuple(plants), driest


def _as_many_as_fit(strip: Size, crop: Crop, held: ContainerClass | None) -> int:
    """Plants by the crop's spacing; of trays as many as fit side by side, a plant in each cell."""
    by_spacing = max(1, int(strip.width_m * strip.depth_m / crop.spacing_m**2 * 0.7))
    tray = held or usual_container(crop)
    if tray is None or tray.kind != "tray" or tray.depth_m is None:
        return by_spacing
    trays = most_side_by_side(Rect(width_m=strip.width_m, depth_m=strip.depth_m), tray.width_m, tray.depth_m)
    return trays * (tray.cells or 1) or by_spacing
