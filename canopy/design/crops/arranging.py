"""Plants spread evenly over the floor of a space."""

from __future__ import annotations

from canopy.library import ContainerClass, Crop, StageTargets
from canopy.plan.layout import Rect
from canopy.plan.plants import Plant
from canopy.plan.shell import Size
from canopy.season import stands_for


def main_stage(crop: Crop) -> StageTargets:
    """Give the stage a plan starts from.

    Returns
    -------
    StageTargets : the vegetative stage, else the last in which it grows: not its rest, where it has any other
    """
    awake = [stage for stage in crop.stages if stage.kind != "rest"] or list(crop.stages)
    return crop.stage("vegetative") or awake[-1]


def arrange(
    size: Size,
    crop: Crop,
    stage: StageTargets,
    count: int,
    taken: tuple[str, ...] = (),
    container: ContainerClass | None = None,
) -> list[Plant]:
    """Stand plants on a floor in an even grid, trays side by side.

    Parameters
    ----------
    size : the space
    crop : what they are
    stage : their stage
    count : how many
    taken : ids in use
    container : what they stand in, from the library; None for what the crop is usually grown in

    Returns
    -------
    list of Plant : drawn in to fit the height, evenly spread; a tray is one of them

    Raises
    ------
    PlanError : so many trays do not fit
    """
    height = min(stage.height_m, max(0.02, 0.75 * size.height_m - crop.pot_height_m))
    pot = min(crop.pot_height_m, 0.2 * size.height_m)
    used, made = set(taken), []
    for place, values in stands_for(Rect(width_m=size.width_m, depth_m=size.depth_m), crop, container, count)[0]:
        height_of_pot = values["pot_height_m"] if container else min(values["pot_height_m"], pot)
        key = next(f"plant-{k}" for k in range(1, 2000) if f"plant-{k}" not in used)
        used.add(key)
        made.append(
            Plant(
                id=key,
                crop_id=crop.id,
                stage=stage.kind,
                x_m=place.x_m,
                y_m=place.y_m,
                **values | {"pot_height_m": round(height_of_pot, 4)},
                height_m=round(height, 4),
                spread_m=stage.spread_m,
                habit="stand" if crop.habit == "hang" else crop.habit,
            )
        )
    return made
