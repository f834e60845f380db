"""When a reservoir is changed and topped up, and with how much."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from typing import Literal

from canopy.errors import QuantityError

# A reservoir is topped up before a quarter of it is gone: above that its strength drifts too far.
_DRAWN_SHARE = 0.25


@dataclass(frozen=True, kw_only=True)
class FeedEvent:
    """One day's work at the reservoir: a change or a top-up, its volume [L] and its share of full strength."""

    day: dt.date
    what: Literal["change", "top-up"]
    volume_l: float
    strength: float


def feed_events(
    first: dt.date, until: dt.date, *, reservoir_l: float, change_days: int, top_up_share: float, uptake_l_d: float
) -> tuple[FeedEvent, ...]:
    """Lay out changes and top-ups.

    Parameters
    ----------
    first : day of the first change
    until : last day
    reservoir_l : full volume [L]
    change_days : days from change to change; sooner where the top-ups come to the whole volume before
    top_up_share : strength of a top-up as a share of full strength, 0..1
    uptake_l_d : what plants and air draw in a day [L/d]

    Returns
    -------
    tuple of FeedEvent : in order

    Raises
    ------
    QuantityError : the reservoir would be dry within a day
    """
    if uptake_l_d >= reservoir_l:
        raise QuantityError(
            f"{uptake_l_d:.1f} L go in a day and the reservoir holds {reservoir_l:.0f} L: it would run dry"
        )
    every = max(1, int(_DRAWN_SHARE * reservoir_l / uptake_l_d)) if uptake_l_d > 0 else change_days
    # What plants leave behind piles up: once as much was topped up as the reservoir holds, all of it is changed.
    if uptake_l_d > 0:
        change_days = max(1, min(change_days, int(reservoir_l / uptake_l_d + 1e-9)))
    found, day = [], first
    while day <= until:
        found.append(FeedEvent(day=day, what="change", volume_l=reservoir_l, strength=1.0))
        for step in range(every, change_days, every):
            later = day + dt.timedelta(days=step)
            if later <= until:
                found.append(FeedEvent(day=later, what="top-up", volume_l=uptake_l_d * every, strength=top_up_share))
        day += dt.timedelta(days=change_days)
    return tuple(found)
