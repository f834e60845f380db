"""How plants and sources are named wherever a report speaks of them."""

from __future__ import annotations

from canopy.library import sources
from canopy.library.models import Cited
from canopy.season import Growing


def cite(cited: Cited) -> str:
    """Write a source with its grade.

    Parameters
    ----------
    cited : the source's id and the grade

    Returns
    -------
    str : such as "Hydroponic Lettuce Handbook (2013), measured"
    """
    source = sources()[cited.source]
    return f"{source.title} ({source.year}), {cited.grade}"


def stage_name(plant: Growing) -> str:
    """Name a plant by crop and stage.

    Returns
    -------
    str : such as "Tatsoi, vegetative"
    """
    return f"{plant.crop.name}, {plant.stage.replace('-', ' ')}"
