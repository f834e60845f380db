"""What can hurt where something is planned: the library's cautions that fit what stands in a space."""

from __future__ import annotations

from collections.abc import Iterator

from canopy.library import Caution, cautions
from canopy.plan.document import Space
from canopy.season import Standing

_BURNERS = ("ozon", "sulphur", "sulfur")


def cautions_at(here: Standing, station: str) -> tuple[Caution, ...]:
    """Give the cautions that belong to a station of a space.

    Parameters
    ----------
    here : the space on a day
    station : such as "light"

    Returns
    -------
    tuple of Caution : each once; of crops those of what stands there now
    """
    rows, keys = cautions(), _AT.get(station, _nothing)(here)
    return tuple(rows[key] for key in dict.fromkeys(keys))


def _nothing(here: Standing) -> Iterator[str]:
    yield from ()


def _crops(here: Standing) -> Iterator[str]:
    for plant in here.plants:
        yield from plant.crop.cautions
    if here.plants:
        yield "sprays"
    if here.plants and here.space.feed.way == "soil":
        yield "spores"


def _hot(space: Space) -> bool:
    return any(lamp.spec.technology in ("hps", "metal-halide", "incandescent") for lamp in space.fixtures)


def _light(here: Standing) -> Iterator[str]:
    kinds = {lamp.spec.technology for lamp in here.space.fixtures}
    if _hot(here.space):
        yield "hot-lamps"
    if kinds & {"fluorescent", "hps", "metal-halide"}:
        yield "mercury"


def _climate(here: Standing) -> Iterator[str]:
    devices = here.space.devices
    if any(device.spec.kind == "co2" for device in devices):
        yield "co2"
    if any(word in device.spec.name.lower() for device in devices for word in _BURNERS):
        yield "ozone"
    if _hot(here.space) or any(device.spec.kind in ("heater", "heat-lamp") for device in devices):
        yield "smoke-alarm"


def _power(here: Standing) -> Iterator[str]:
    yield from ("reels", "lithium", "smoke-alarm")


def _space(here: Standing) -> Iterator[str]:
    space = here.space
    faces = (space.faces.left, space.faces.right, space.faces.front, space.faces.back, space.faces.ceiling)
    glass = any(face.material_id in ("glass", "mirror") for face in faces)
    if glass or space.kind == "glass-case" or any(shelf.kind == "glass" for shelf in space.shelves):
        yield "glass"


_AT = {"crops": _crops, "light": _light, "climate": _climate, "power": _power, "space": _space}
