"""Plants spread evenly over the floor of a space."""

from __future__ import annotations

from canopy.library import Crop, StageTargets
from canopy.plan.layout import Rect, grid
from canopy.plan.plants import Plant
from canopy.plan.shell import Size


def main_stage(crop: Crop) -> StageTargets:
    """Give the stage a plan starts from.

    Returns
    -------
    StageTargets : the vegetative stage, else the last in which it grows: not its rest, where it has any other
    """
    awake = [stage for stage in crop.stages if stage.kind != "rest"] or list(crop.stages)
    return crop.stage("vegetative") or awake[-1]


def arrange(size: Size, crop: Crop, stage: StageTargets, count: int, taken: tuple[str, ...] = ()) -> list[Plant]:
    """Stand plants on a floor in an even grid.

    Parameters
    ----------
    size : the space
    crop : what they are
    stage : their stage
    count : how many
    taken : ids in use

    Returns
    -------
    list of Plant : drawn in to fit the height, evenly spread
    """
    height = min(stage.height_m, max(0.02, 0.75 * size.height_m - crop.pot_height_m))
    pot = min(crop.pot_height_m, 0.2 * size.height_m)
    used, made = set(taken), []
    for place in grid(Rect(width_m=size.width_m, depth_m=size.depth_m), count):
        key = next(f"plant-{k}" for k in range(1, 2000) if f"plant-{k}" not in used)
        used.add(key)
        made.append(
            Plant(
                id=key,
                crop_id=crop.id,
                stage=stage.kind,
                x_m=place.x_m,
                y_m=place.y_m,
                pot_height_m=round(pot, 4),
                height_m=round(height, 4),
                spread_m=stage.spread_m,
                habit="stand" if crop.habit == "hang" else crop.habit,
            )
        )
    return made
