"""Pictures from above that the people of the demo household took, rendered once."""

from __future__ import annotations

import datetime as dt
import io

import numpy as np
from PIL import Image

from canopy.season import cast_of, standing_of
from canopy.standins.camera import lamp, photograph, scene
from canopy_web.standins.names import PICTURED, PICTURED_DAYS, PICTURED_WIDER, picture_file
from canopy_web.standins.world import World

_SIZE = (1600, 1300)


def write_pictures(world: World) -> None:
    """Render those that are not there yet; each whole, or not at all."""
    today = dt.datetime.fromtimestamp(world.clock.real(), world.zone).date()
    space = next(space for space in world.plan.spaces if space.id == PICTURED)
    for days, corners in PICTURED_DAYS.items():
        target = picture_file(world.folder, today - dt.timedelta(days=days))
        if target.exists():
            continue
        here = standing_of(space, today - dt.timedelta(days=days), cast_of(world.plan))
        plants = [(plant.x_m, plant.y_m, PICTURED_WIDER * plant.spread_m) for plant in here.plants]
        rng = np.random.default_rng(11)
        what = scene(0.0, rng, size_m=(space.size.width_m, space.size.depth_m), plants=plants, px_m=0.0015)
        at = tuple((x * _SIZE[0], y * _SIZE[1]) for x, y in corners)
        shown, _ = photograph(what, lamp("white-led-4000"), rng, size=_SIZE, corners=at, balance=0.8)
        out = io.BytesIO()
        Image.fromarray(shown).save(out, "JPEG", quality=88)
        part = target.with_suffix(".part")
        part.write_bytes(out.getvalue())
        part.replace(target)
