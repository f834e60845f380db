"""Which finder mends which margin."""

from __future__ import annotations

from collections.abc import Callable

from canopy.design.air.mend import (
    mend_filter,
    mend_fit,
    mend_flow,
    mend_intake,
    mend_night,
    mend_noise,
    mend_stir,
)
from canopy.design.change import Remedy
from canopy.design.crops.mend import mend_touch
from canopy.design.light.mend import mend_clearance, mend_evenness, mend_hours, mend_limit, mend_window
from canopy.evaluate.space import SpaceReport
from canopy.margin import Margin

Finder = Callable[[SpaceReport, Margin], Remedy | None]


def remedy_for(report: SpaceReport, margin_id: str) -> Remedy | None:
    """Find the smallest change that mends a margin.

    Parameters
    ----------
    report : the space's report as it is at hand; nothing of it is computed again
    margin_id : id of one of its margins

    Returns
    -------
    Remedy : or None when the tool knows none
    """
    margin = report.margin(margin_id)
    if margin is None or margin.verdict in ("good", "unknown"):
        return None
    find = _FINDERS.get(".".join(margin_id.split(".")[:2]))
    return find(report, margin) if find else None


_FINDERS: dict[str, Finder] = {
    "crops.touch": mend_touch,
    "light.dli": mend_window,
    "light.ppfd": mend_window,
    "light.limit": mend_limit,
    "light.evenness": mend_evenness,
    "light.clearance": mend_clearance,
    "light.hours": mend_hours,
    "air.flow": mend_flow,
    "air.flow-night": mend_night,
    "air.port": mend_fit,
    "air.intake": mend_intake,
    "air.pressure": mend_intake,
    "air.filter": mend_filter,
    "air.stir": mend_stir,
    "air.noise": mend_noise,
}
