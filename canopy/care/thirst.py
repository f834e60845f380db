"""How much water a space's plants draw in a day, now and in the months to come, and how much their pots hold."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from math import inf

from canopy.evaluate import SpaceReport
from canopy.evaluate.crops.feeding import uptake_l_d
from canopy.library import find, mixes
from canopy.library.models import Water
from canopy.season import Growing, Standing

# Of the water that a pot holds between wet and air-dry, plants draw about half before they wilt (Rehearsals count so,
# too); so much of that goes before it is watered again, by what the crop wants.
DRAWN = 0.5
_BEFORE: dict[Water, float] = {"dry": 1.0, "moderate": 0.7, "moist": 0.5, "wet": 0.3}


@dataclass(frozen=True, kw_only=True)
class Thirst:
    """What a space's plants draw in a day [L/d] and whence that is known; ``leaf_m2`` is the leaf area it was for."""

    litres_d: float
    leaf_m2: float
    source: str

    def on(self, leaf_m2: float) -> float:
        """Give what more or less leaf draws in the same air and light.

        Parameters
        ----------
        leaf_m2 : leaf area [m²]

        Returns
        -------
        float : in proportion, as every leaf sees the same; where there was none to go by, 0 [L/d]
        """
        return self.litres_d * leaf_m2 / self.leaf_m2 if self.leaf_m2 > 0 else 0.0


def leaf_m2(plant: Growing) -> float:
    """Give a plant's leaf area.

    Parameters
    ----------
    plant : on a day

    Returns
    -------
    float : of one side, a tray's plants together [m²]
    """
    return plant.lai * plant.ground_m2


def thirst_of(report: SpaceReport) -> Thirst:
    """Say what a space's plants draw in a day.

    Parameters
    ----------
    report : the space's report

    Returns
    -------
    Thirst : the person's own figure, else as the climate was simulated, else by the rough balance
    """
    here = report.here
    leaves = sum(leaf_m2(plant) for plant in here.plants)
    if here.space.feed.uptake_l_d is not None:
        return Thirst(litres_d=here.space.feed.uptake_l_d, leaf_m2=leaves, source="as typed")
    found = report.climate
    if found is not None and found.overheats_s is None:
        traces, last = found.traces, found.last
        daily = float(traces.given_g_h[last].mean()) * 24 / 1000
        if here.space.kind == "glass-case":
            # What runs down the panes comes back to the roots.
            daily = max(0.0, daily - float(traces.condensed_g_h[last].mean()) * 24 / 1000)
        return Thirst(litres_d=daily, leaf_m2=leaves, source="as simulated: what leaves and wet pots give off")
    return Thirst(litres_d=uptake_l_d(here, report.breathing), leaf_m2=leaves, source="rough, ± a third")


@dataclass(frozen=True, kw_only=True)
class Pots:
    """A space's pots on a day: leaf area, water in them that may go before they are watered, and before they wilt [L];
    the pot that is first to be watered with what it may give for each m² of its leaf, and the least of that till one
    wilts [L/m²].
    """

    leaf_m2: float
    gives_l: float
    held_l: float
    plants: tuple[Growing, ...]
    soonest: tuple[float, Growing] | None
    wilts_l_m2: float = 0.0

    def days(self, l_m2_d: float) -> float | None:
        """Give how long the pot that dries first lasts.

        Parameters
        ----------
        l_m2_d : water drawn by a square metre of leaf in a day [L/m²/d]

        Returns
        -------
        float : [d]; None where no pot dries
        """
        if self.soonest is None or l_m2_d <= 0:
            return None
        return self.soonest[0] / l_m2_d


def pots_of(here: Standing) -> Pots:
    """Look at a space's pots.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    Pots : by the mix that the space's feed names; a plant without a known pot counts with its crop's least
    """
    mix = find(mixes(), here.space.feed.mix_id, "growing mix")
    per_l = max(0.0, mix.moist_kg_l - mix.dry_kg_l) * DRAWN
    gives = held = 0.0
    wilts = inf
    soonest: tuple[float, Growing] | None = None
    for plant in here.plants:
        litres = (plant.plant.pot_volume_l or plant.crop.container_l.low) * per_l
        before, leaf = _BEFORE[plant.want.water] * litres, leaf_m2(plant)
        if leaf > 0:
            wilts = min(wilts, litres / leaf)
        gives, held = gives + before, held + litres
        if leaf > 0 and (soonest is None or before / leaf < soonest[0]):
            soonest = (before / leaf, plant)
    return Pots(
        leaf_m2=sum(leaf_m2(plant) for plant in here.plants),
        gives_l=gives,
        held_l=held,
        plants=here.plants,
        soonest=soonest,
        wilts_l_m2=wilts,
    )


def months(begins: dt.date, to: dt.date) -> Iterator[tuple[dt.date, dt.date]]:
    """Part a stretch of days by calendar months.

    Parameters
    ----------
    begins : first day
    to : last day

    Returns
    -------
    iterator of (date, date) : first and last day of each month, or of what of it lies within
    """
    day = begins
    while day <= to:
        following = (day.replace(day=1) + dt.timedelta(days=32)).replace(day=1)
        yield day, min(to, following - dt.timedelta(days=1))
        day = following


@lru_cache(maxsize=64)
def middle(first: dt.date, last: dt.date) -> dt.date:
    """Give the day in the middle of a stretch.

    Returns
    -------
    date : the one before where it lies between two
    """
    return first + dt.timedelta(days=(last - first).days // 2)
