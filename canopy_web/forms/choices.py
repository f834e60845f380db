"""What choosers offer: crops, lamps, stages, materials, sides."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from canopy.kit.owning import ownable
from canopy.library import GROUPS, Crop, containers, crops, fixtures, materials
from canopy.plan import FACES
from canopy.words import capital, percent

Choices = list[tuple[str, Any]]


SIDES: Choices = [(side, capital(side)) for side in ("left", "right", "front", "back")]


KINDS: Choices = [
    ("tent", "Tent"),
    ("closet", "Closet"),
    ("cabinet", "Cabinet"),
    ("shelf", "Shelf or rack"),
    ("glass-case", "Glass case"),
]


GROUP_NAMES = {
    "microgreen": "Shoots and microgreens",
    "seedling": "Seedlings",
    "leaf": "Leaf",
    "herb": "Herbs",
    "fruiting": "Fruiting",
    "root": "Roots and tubers",
    "houseplant": "Houseplants",
    "orchid": "Orchids",
    "fern-moss": "Ferns and mosses",
    "carnivore": "Carnivores",
    "succulent": "Succulents",
    "bulb": "Bulbs",
}


def crop_choices(known: Mapping[str, Crop] | None = None) -> Choices:
    """Crops by group, a person's own first."""
    rows = list((known or crops()).values())
    own = [(crop.id, crop.name) for crop in rows if crop.id not in crops()]
    found: Choices = [("Your own", own)] if own else []
    for group in GROUPS:
        members = [(crop.id, crop.name) for crop in rows if crop.group == group and crop.id in crops()]
        members.sort(key=lambda item: item[1].casefold())
        if members:
            found.append((GROUP_NAMES[group], members))
    return found


def lamp_choices() -> Choices:
    """Lamp classes by technology."""
    names = {"led": "LED", "fluorescent": "Fluorescent", "hps": "Discharge", "metal-halide": "Discharge"}
    found: dict[str, Choices] = {}
    for row in fixtures().values():
        found.setdefault(names.get(row.spec.technology, "Other"), []).append((row.id, row.spec.name))
    return list(found.items())


def owned_choices() -> Choices:
    """All that one may own, by what it is for."""
    found: dict[str, Choices] = {}
    for key, item in ownable().items():
        found.setdefault(item.group, []).append((key, item.name))
    return list(found.items())


def stage_choices(crop: Crop | None) -> Choices:
    """Stages of a crop."""
    return [(stage.kind, stage.kind.replace("-", " ")) for stage in crop.stages] if crop else []


FACE_CHOICES = [(face, capital(face)) for face in FACES]


def material_choices() -> list[tuple[str, str]]:
    """Materials with their reflectance."""
    return [
        (row.id, row.name if row.open else f"{row.name}, {percent(row.reflectance)}") for row in materials().values()
    ]


def container_choices() -> Choices:
    """Containers of the library."""
    return [
        (row.id, f"{row.name}, {row.volume_l:g} L" + (", a plant in each" if row.cells else ""))
        for row in containers().values()
    ]
