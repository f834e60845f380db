"""What crops can bear, as limits that a rehearsal watches."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, cast

from canopy.evaluate.climate.contents import under_lids
from canopy.evaluate.naming import stage_name
from canopy.season import Growing, Standing

Figure = Literal["air_c", "rh_pct", "root_c", "co2_ppm", "leaf_c"]
# So far beyond a window it is plainly outside: what the simulation may be off (as in the margins).
_BEYOND = {"air_c": 1.5, "rh_pct": 6.0, "root_c": 1.5}
# Whatever grows: leaves scald from about here on, and freeze below (rough); CO2 below which growth stalls.
_SCALDS_C, _FREEZES_C, _STARVED_PPM = 40.0, 0.0, 250.0
UNITS = {"air_c": "temperature", "leaf_c": "temperature", "root_c": "temperature", "rh_pct": "%", "co2_ppm": "ppm"}
NAMES = {"air_c": "air", "leaf_c": "leaves", "root_c": "roots", "rh_pct": "humidity", "co2_ppm": "CO2"}


@dataclass(frozen=True, kw_only=True)
class Limit:
    """What some plants bear: of which figure, at least or at most, and whose it is; ``lit_only`` counts by day only.
    ``plant_id`` is one of them, for the air it stands in; the space's own where it is empty.
    """

    who: str
    figure: Figure
    value: float
    most: bool
    lit_only: bool = False
    plant_id: str = ""

    def beyond(self, value: float) -> bool:
        """Say whether a value is past it.

        Parameters
        ----------
        value : in the figure's unit

        Returns
        -------
        bool
        """
        return value > self.value if self.most else value < self.value


def limits_of(here: Standing) -> tuple[Limit, ...]:
    """List the limits of all crops here.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    tuple of Limit : of each crop and stage its windows of air, humidity and roots by as much as the simulation may be
        off, day and night taken together; and what no leaf bears. Of damp that no air could pass there is no limit
    """
    found: list[Limit] = []
    under = {plant.id: lid for lid, plants in under_lids(here) for plant in plants}
    groups: dict[object, list[Growing]] = {}
    for plant in here.plants:
        lid = under.get(plant.id)
        groups.setdefault((plant.kind, lid.id if lid else ""), []).append(plant)
    for plants in groups.values():
        lid = under.get(plants[0].id)
        who = stage_name(plants[0]) + (f", under {lid.name}" if lid else "")
        want, one = plants[0].want, plants[0].id
        windows = {
            "air_c": (min(want.air_day_c.low, want.air_night_c.low), max(want.air_day_c.high, want.air_night_c.high)),
            "rh_pct": (want.rh_pct.low, want.rh_pct.high),
            "root_c": (want.root_c.low, want.root_c.high),
        }
        for figure, (low, high) in windows.items():
            off = _BEYOND[figure]
            name = cast(Figure, figure)
            found.append(Limit(who=who, figure=name, value=low - off, most=False, plant_id=one))
            if figure != "rh_pct" or high + off < 100:
                found.append(Limit(who=who, figure=name, value=high + off, most=True, plant_id=one))
    if here.plants:
        found += [
            Limit(who="any leaf", figure="leaf_c", value=_SCALDS_C, most=True),
            Limit(who="any leaf", figure="leaf_c", value=_FREEZES_C, most=False),
            Limit(who="any leaf", figure="co2_ppm", value=_STARVED_PPM, most=False, lit_only=True),
        ]
    return tuple(found)
