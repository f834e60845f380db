"""The parts of a scene of light."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from canopy.light.crowns import Crown
from canopy.light.emitters import Emitter
from canopy.light.plates import Body
from canopy.light.room import RoomGrid

Array = NDArray[np.float64]


@dataclass(frozen=True, kw_only=True, eq=False)
class Scene:
    """What light needs to know: the cut box, each patch's reflectance (patches,), what shines, other bodies, crowns.

    Crowns take part in the balance and weaken what passes through them. Faces named
    in ``mirrors`` throw lamps' direct light back as mirrors do (image sources, to the second order). Direct light on
    a patch is sampled ``pieces`` × ``pieces`` times.
    """

    room: RoomGrid
    reflectance: Array
    emitters: tuple[Emitter, ...]
    bodies: tuple[Body, ...] = ()
    crowns: tuple[Crown, ...] = ()
    mirrors: tuple[str, ...] = ()
    pieces: int = 2

    @property
    def plates(self) -> list[Body]:
        """All opaque bodies: lamps, then shelves and columns."""
        return [*(emitter.plate for emitter in self.emitters if emitter.body), *self.bodies]
