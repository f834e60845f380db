"""What the stand-ins have shown so far, in a file that a new visitor's log begins with."""

from __future__ import annotations

import csv

from canopy.standins.house import history
from canopy_web.standins.names import week_file
from canopy_web.standins.world import World

# What is older than so long is told less often, but for a space with many probes [s].
_EVERY_MIN, _OLD_MIN, _OLD_S = 5, 10, 36 * 3600


def write_week(world: World) -> None:
    """Write all that was shown since the household has been lived in; whole, or not at all."""
    begin = world.house.midnight(world.house.since)
    target = week_file(world.folder)
    part = target.with_suffix(".part")
    with part.open("w", newline="") as file:
        rows = csv.writer(file)
        now = int(world.clock.real())
        apart = max(begin, now - _OLD_S) // 3600 * 3600
        for first, last, every in ((begin, apart, _OLD_MIN), (apart, now, _EVERY_MIN)):
            for item, at in history(world.house, world.plan.spaces, first, last, _EVERY_MIN):
                if (
                    every > _EVERY_MIN
                    and item.space_id not in world.house.rich
                    and at % (60 * every) >= 60 * _EVERY_MIN
                ):
                    continue
                rows.writerow((item.space_id, item.name, at, f"{item.value:.4g}"))
    part.replace(target)
