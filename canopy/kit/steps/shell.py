"""Steps of the space itself: emptied, stood, fixed, shelved, drilled and lined."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from canopy.evaluate import SpaceReport
from canopy.evaluate.crops.margins import level_of
from canopy.evaluate.shell.margins import hung_parts, plant_weight_kg
from canopy.kit.gathering.shell import brackets_for, can_tip, is_sealed
from canopy.kit.holes import GLASSY, holes_of
from canopy.kit.mounts import HangingBar, bars_of
from canopy.kit.steps.step import BuildStep, length, overhead, step_of, weight
from canopy.margin import Amount, sentence
from canopy.plan.document import Space
from canopy.plan.furnishing import Shelf
from canopy.words import counted

# A shelf is tried with so many times what will stand on it, and with this where nothing stands there yet [kg].
_TRIED, _TRIED_KG = 1.5, 5.0


def prepared(report: SpaceReport) -> Iterator[BuildStep]:
    """Clean it, and seal what leaks.

    Parameters
    ----------
    report : of the space as it will stand

    Returns
    -------
    iterator of BuildStep : in the order in which they are done; none of what the plan does not need
    """
    space, step = report.space, partial(step_of, "Prepare")
    yield step(
        "empty",
        "Empty and clean",
        "Take everything out, vacuum, wipe with warm soapy water, let it dry.",
        "A white cloth stays white; nothing smells.",
        "Dust and spores of what stood there are what one finds on leaves in a month.",
        of=(space.kind,),
        care=("mould",) if space.kind in ("closet", "cabinet") else (),
    )
    if is_sealed(space):
        yield step(
            "seal",
            "Seal the joints and let them cure",
            "Neutral sealant in joints of the floor and of the back; the sealing strip round the door comes later.",
            "It no longer smells, two days later at least, and water on the floor stays where it is.",
            "What leaks air leaks smell, and what leaks water rots.",
            of=(space.kind,),
            care=("fumes",),
        )


def stood(report: SpaceReport) -> Iterator[BuildStep]:
    """Stand it, keep it from tipping, insulate and line its floor, mount its shelves and bars.

    Parameters
    ----------
    report : of the space as it will stand

    Returns
    -------
    iterator of BuildStep : in the order in which they are done; none of what the plan does not need
    """
    space, step = report.space, partial(step_of, "Stand")
    yield _stand(space)
    if can_tip(space):
        yield step(
            "tip",
            "Fix it to the wall",
            "A strap or angle at each end of its top edge, screwed through its frame and into the wall with plugs made "
            "for that wall; before anything heavy goes in.",
            "Pulled by hand at the top of its front it does not move.",
            "It is high for its depth: full of wet pots it would fall on who pulls at a door or climbs on it.",
            of=(space.size,),
            care=("drill",),
        )
    ground = space.ground
    if ground.insulation_m > 0:
        yield step(
            "insulation",
            "Insulation under the floor",
            sentence("{t} of closed-cell board over the whole floor.", t=length(ground.insulation_m)),
            "No gap shows at the edges, and it carries a full pot without a dent.",
            "Cold roots drink too little.",
            of=(ground,),
        )
    if space.kind == "glass-case" and space.plants:
        yield step(
            "tight",
            "Try whether it holds water",
            sentence("{deep} of water in it, on a level table, for a day; then out again.", deep=length(0.02)),
            "A dry cloth wiped along the outer joints stays dry.",
            "An old joint gives way when the case is full and planted.",
            of=(space.size,),
            care=("glass",),
        )
    elif space.plants:
        yield step(
            "liner",
            "Tray or liner",
            sentence("A lip of {lip} all round.", lip=length(max(ground.lip_m, 0.02)))
            if ground.lip_m > 0
            else "A waterproof tray or liner over the floor, its edges turned up by two fingers.",
            "A litre of water poured in stays in it for an hour.",
            "Every reservoir spills once.",
            of=(ground,),
        )
    for shelf in space.shelves:
        yield _shelf(report, shelf)
    bars = bars_of(space)
    if bars:
        yield _bars(report, bars)


def _stand(space: Space) -> BuildStep:
    size = space.size
    if space.kind == "tent":
        return step_of(
            "Stand",
            "frame",
            "Put the tent up where it will stand",
            sentence(
                "{w} wide, {d} deep, {h} high inside: leave a hand's breadth to the walls, and an arm's length where "
                "the ducts go out. Poles first, cover over them, zips half open.",
                w=length(size.width_m),
                d=length(size.depth_m),
                h=length(size.height_m),
            ),
            "Every pole sits to its stop; pushed at the top it does not sway; the zips run without pulling.",
            "A frame that leans bears half of what it is rated for.",
            of=(size,),
            care=overhead(space),
        )
    if space.kind == "closet":
        return step_of(
            "Stand",
            "stand",
            "Look at its floor",
            "Lay a level on it, both ways; where it slopes, shim what will stand there.",
            "The bubble stands in the middle under every tray.",
            "Water runs to the lowest corner, whatever one planned.",
            of=(size,),
        )
    words = "a foam mat under the whole of its bottom" if space.kind == "glass-case" else "shim the feet"
    return step_of(
        "Stand",
        "stand",
        "Set it level",
        f"Where it will stand for good: full it is not moved. Lay a level on the floor of it, both ways; {words}.",
        "The bubble stands in the middle, and it does not rock with a hand on a corner.",
        "Water runs to the lowest corner, and a glass bottom cracks over a crumb."
        if space.kind == "glass-case"
        else "Water runs to the lowest corner, whatever one planned.",
        of=(size,),
        care=("glass",) if space.kind == "glass-case" else (),
    )


def _shelf(report: SpaceReport, shelf: Shelf) -> BuildStep:
    space = report.space
    held = [plant for plant in report.here.plants if level_of(space, plant) == shelf.id and plant.plant.habit != "hang"]
    stands = sum(plant_weight_kg(space, plant) for plant in held)
    tried, limit = max(_TRIED_KG, _TRIED * stands), shelf.load_limit_kg
    bears = min(tried, limit) if limit else tried
    if shelf.kind == "glass":
        does = (
            "Its upper face {z} above the floor, on {n} pins or brackets with a soft pad on each, level; toughened "
            "glass of the thickness that a glazier gives for this span and load."
        )
        amounts = {"z": length(shelf.z_m), "n": Amount(value=brackets_for(shelf), unit="", decimals=0)}
        if stands:
            does += " Watered, {kg} will stand on it."
            amounts["kg"] = weight(stands)
        return step_of(
            "Stand",
            f"shelf.{shelf.id}",
            f"Lay {shelf.name} in",
            sentence(does, **amounts),
            "It lies on all its pads without rocking; no chip or scratch shows at its edges.",
            "Glass gives no warning before it breaks.",
            of=(shelf, round(stands, 1)),
            care=("glass",),
            parts=(shelf.id,),
        )
    return step_of(
        "Stand",
        f"shelf.{shelf.id}",
        f"Mount {shelf.name}",
        sentence(
            "Its upper face {z} above the floor, level, on {n} brackets or pins screwed to what bears: side walls or "
            "uprights.",
            z=length(shelf.z_m),
            n=Amount(value=brackets_for(shelf), unit="", decimals=0),
        ),
        sentence(
            "Loaded with {kg} of water bottles for a quarter of an hour it neither sags nor creaks.", kg=weight(bears)
        ),
        "Wet pots weigh more than one thinks.",
        of=(shelf, round(stands, 1)),
        care=("drill",),
        parts=(shelf.id,),
    )


def _bars(report: SpaceReport, bars: tuple[HangingBar, ...]) -> BuildStep:
    space, hung = report.space, sum(kg for _, kg in hung_parts(report.here))
    across = [bar for bar in bars if bar.along == "x"]
    deep = [bar for bar in bars if bar.along == "y"]
    words, amounts = list[str](), dict[str, Amount]()
    for name, group, start in (("left", deep, "from front to back"), ("front", across, "from left to right")):
        if group:
            places = ", ".join(f"{{{name}{number}}}" for number in range(len(group)))
            words.append(f"{start} at {places} from the {name}")
            amounts |= {f"{name}{number}": length(bar.at_m) for number, bar in enumerate(group)}
    return step_of(
        "Stand",
        "bars",
        "Put the hanging bars in",
        sentence(
            f"Cut by the cut list, under the ceiling: {'; '.join(words)}. A closed socket at each end.", **amounts
        ),
        sentence(
            "A bucket of water of {kg} hung at the middle of each for ten minutes: nothing bends, slides or gives.",
            kg=weight(max(_TRIED_KG, 2 * hung / len(bars))),
        ),
        "What hangs, hangs over water and people.",
        of=(bars, round(hung, 1)),
        care=("drill", *overhead(space)),
    )


def drilled(report: SpaceReport) -> Iterator[BuildStep]:
    """Cut the holes of each face; a tent brings its ports.

    Parameters
    ----------
    report : of the space as it will stand

    Returns
    -------
    iterator of BuildStep : in the order in which they are done; none of what the plan does not need
    """
    space = report.space
    if space.kind == "tent":
        return
    for face, holes in holes_of(space).items():
        glass = getattr(space.faces, face).material_id in GLASSY
        does = (
            f"{counted(len(holes), 'hole')} by the cut and drill sheet; mark both distances, measure again, then cut."
        )
        if glass:
            does += (
                " Glass: ask first whether this pane is tempered; if nobody knows, it is not drilled: the parts go "
                "into a lid or a plate of plastic instead."
            )
        yield step_of(
            "Cut and drill",
            f"holes.{face}",
            f"Holes in the {face}",
            does,
            "What goes through fits without force; the edges are smooth, cords have their grommet.",
            "A hole in the wrong place is there for good.",
            of=[hole.opening for hole in holes],
            care=("drill", "glass") if glass else ("drill",),
            parts=[hole.opening.id for hole in holes],
        )


def lined(report: SpaceReport) -> Iterator[BuildStep]:
    """Line the faces, seal the door.

    Parameters
    ----------
    report : of the space as it will stand

    Returns
    -------
    iterator of BuildStep : in the order in which they are done; none of what the plan does not need
    """
    space = report.space
    if space.kind in ("tent", "shelf"):
        return
    if any(getattr(space.faces, face).material_id == "reflective-film" for face in ("left", "right", "back", "front")):
        yield step_of(
            "Line and close",
            "lining",
            "Line the faces",
            "Film from the top down, cut by the cut list, without folds, taped at the edges.",
            "No fold throws a bright line on the floor when a torch is held in.",
            "A smooth lining gives back light that leaves would not get.",
            of=(space.faces,),
        )
    if is_sealed(space):
        yield step_of(
            "Line and close",
            "door",
            "Seal the door",
            "Sealing strip round the frame; close the door on it.",
            "In a dark room, a torch burning inside shows no line of light; a strip of paper is held by the door.",
            "A night with light in it is no night, and air should come in where it is meant to.",
            of=(space.door_side, space.kind),
        )
