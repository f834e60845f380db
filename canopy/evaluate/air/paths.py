"""A way of air as it works on a day: every element's share of the pressure, its filters, the adapters it needs."""

from __future__ import annotations

from dataclasses import dataclass

from canopy.air.chain import Chain, Element
from canopy.air.filter_bed import AGED, FilterLoad, filter_load
from canopy.air.losses import area_m2
from canopy.air.network import Moment, network
from canopy.air.operating import OperatingPoint, operating_point
from canopy.air.ventilation import WayFlow, ventilation
from canopy.evaluate.air.breathing import Breathing
from canopy.plan.airways import Airway
from canopy.plan.document import Plan, Space


@dataclass(frozen=True, kw_only=True)
class Drop:
    """What one element takes at the flow that moves: pressure [Pa], and the air's speed in it [m/s]."""

    element: Element
    drop_pa: float
    speed_m_s: float


@dataclass(frozen=True, kw_only=True)
class PathReport:
    """A way of air at work, lamps on: where it works, what takes its pressure, and how its filters fare.

    ``point`` is None without a running fan; ``flow`` is what moves, along the way's direction; ``aged_m3_h`` what
    will be left of it once its filters have half as much resistance again as new.
    """

    airway: Airway
    chain: Chain
    flow: WayFlow
    night_m3_h: float
    aged_m3_h: float
    point: OperatingPoint | None
    drops: tuple[Drop, ...]
    filters: tuple[FilterLoad, ...]

    @property
    def flow_m3_h(self) -> float:
        """What moves, lamps on [m³/h]."""
        return self.flow.flow_m3_h

    @property
    def running(self) -> bool:
        """Whether a fan runs in it, lamps on."""
        return any(speed > 0 for speed in self.flow.way.speeds)


def path_reports(plan: Plan, space: Space, breathing: Breathing) -> tuple[PathReport, ...]:
    """Look at each way of air of a space.

    Parameters
    ----------
    breathing : its computed air

    Returns
    -------
    tuple of PathReport : in the plan's order
    """
    found = []
    filtered = any(way.filters for way in space.airways)
    aged = ventilation(plan, space, Moment(loading=AGED)) if filtered else breathing.lit.air.running
    net = network(plan, space, Moment(lit=True)) if space.airways else None
    for airway in space.airways:
        flow, night = breathing.lit.air.running.way(airway.id), breathing.dark.air.running.way(airway.id)
        later = aged.way(airway.id)
        if flow is None or net is None:
            continue
        chain, moving = flow.way.chain, max(flow.flow_m3_s, 0.0)
        point = operating_point(net, space.id, airway.id) if any(flow.way.speeds) else None
        found.append(
            PathReport(
                airway=airway,
                chain=chain,
                flow=flow,
                night_m3_h=night.flow_m3_h if night else 0.0,
                aged_m3_h=later.flow_m3_h if later else flow.flow_m3_h,
                point=point,
                drops=tuple(
                    Drop(
                        element=item,
                        drop_pa=item.drop_pa(moving / chain.moves),
                        speed_m_s=moving / area_m2(item.diameter_m),
                    )
                    for item in chain.elements
                ),
                filters=tuple(
                    filter_load(part.id, part.spec, max(flow.flow_m3_h, 0.0), part.loading) for part in airway.filters
                ),
            )
        )
    return tuple(found)
