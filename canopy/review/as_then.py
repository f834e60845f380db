"""Hang and switch lamps as they were in a run that went better."""

from __future__ import annotations

from canopy.plan import Space
from canopy.plan.changes import Act, Change

# What a person sets at a lamp, and can set back; what it is and how old it is stays.
_SET = ("x_m", "y_m", "z_m", "yaw_deg", "tilt_deg", "pitch_deg", "dim", "schedule", "enabled")


def as_then(now: Space, then: Space) -> tuple[Act, ...]:
    """Give the changes after which lamps hang and run as they did.

    Parameters
    ----------
    now : the space as it is
    then : the same space as it was

    Returns
    -------
    tuple of Act : for lamps that were there then; none where they hang and run as they did
    """
    before = {lamp.id: lamp for lamp in then.fixtures}
    found: list[Act] = []
    for lamp in now.fixtures:
        if lamp.id not in before:
            continue
        was, is_now = (item.model_dump(mode="json", include=set(_SET)) for item in (before[lamp.id], lamp))
        values = {key: was[key] for key in _SET if was[key] != is_now[key]}
        if values:
            found.append(Change(collection="fixtures", part_id=lamp.id, values=values))
    return tuple(found)
