"""Crops, materials and classes of equipment: data files with sources, and their loader."""

from canopy.library.loader import (
    SHELVES,
    air_paths,
    crops,
    fans,
    find,
    fixtures,
    light_sources,
    materials,
    rule_sets,
    sources,
)
from canopy.library.models import (
    GROUPS,
    STAGES,
    AirPath,
    Cited,
    Crop,
    FanClass,
    FixtureClass,
    LightSource,
    Material,
    RuleSet,
    Source,
    StageTargets,
    Window,
)

__all__ = [
    "GROUPS", "SHELVES", "STAGES", "AirPath", "Cited", "Crop", "FanClass", "FixtureClass", "LightSource", "Material",
    "RuleSet", "Source", "StageTargets", "Window", "air_paths", "crops", "fans", "find", "fixtures", "light_sources",
    "materials", "rule_sets", "sources",
]  # fmt: skip
