"""For what share of the day everything that the air switches runs: devices, and fans by their energy."""

from __future__ import annotations

import numpy as np

from canopy.evaluate.climate.days import Simulated
from canopy.evaluate.climate.flows import controlled, span_of
from canopy.plan.document import Space


def running_shares(space: Space, found: Simulated) -> dict[str, float]:
    """Give how much of the energy that they would draw all day at what they are set to, things draw.

    Parameters
    ----------
    space : with devices and fans
    found : its simulated days

    Returns
    -------
    dict of str to float : by part: the share of the last day for which a device runs, 0..1; for the fans of a
        controlled way the mean of their speed against that of their set speed, cubed (a mains motor: squared)
    """
    shares = found.shares(device.id for device in space.devices)
    turned = controlled(space)
    if turned is None:
        return shares
    way = turned[0]
    least, planned, most = span_of(*turned)
    level = found.days.levels[found.last, found.days.place(found.space_id)].astype(np.float64)
    speed = least + level * (most - least)
    if planned > 0:
        turned_down = speed / planned
        for fan in (fan for fan in way.fans if (fan.speed > 0 and way.follows(fan)) or fan is way.lead):
            shares[fan.id] = float(np.mean(turned_down ** (3 if fan.spec.electronic else 2)))
    return shares
