"""Crops, materials and classes of equipment: data files with sources, and their loader."""

from canopy.library.loader import (
    SHELVES,
    air_paths,
    containers,
    crops,
    fans,
    find,
    fixtures,
    lamp_spectra,
    leaf_lights,
    light_sources,
    materials,
    mixes,
    rule_sets,
    sources,
)
from canopy.library.models import (
    FAMILIES,
    GROUPS,
    STAGES,
    AirPath,
    Cited,
    ContainerClass,
    ContainerKind,
    Crop,
    FanClass,
    FixtureClass,
    Habit,
    LightSource,
    Material,
    Mix,
    RuleSet,
    Source,
    StageTargets,
    Window,
)

__all__ = [
    "FAMILIES", "GROUPS", "SHELVES", "STAGES", "AirPath", "Cited", "ContainerClass", "ContainerKind", "Crop", "FanClass",
    "FixtureClass", "Habit", "LightSource", "Material", "Mix", "RuleSet", "Source", "StageTargets", "Window", "air_paths",
    "containers", "crops", "fans", "find", "fixtures", "lamp_spectra", "leaf_lights", "light_sources", "materials",
    "mixes", "rule_sets", "sources",
]  # fmt: skip
