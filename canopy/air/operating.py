"""Where a way of air works at each speed: flow, pressures, power; and its system curve for the chart."""

from __future__ import annotations

from dataclasses import dataclass, replace

from canopy.air.fan_curve import power_w, steps_of
from canopy.air.network import Moment, Network, network, pressure_without_pa, pressures_pa
from canopy.plan.airways import Airway
from canopy.plan.document import Plan, Space

# Below this share of a fan's free flow at its speed it hardly moves air any more: it stalls, and pulses.
STALLS_BELOW = 0.12


@dataclass(frozen=True, kw_only=True)
class OperatingPoint:
    """A way of air at one speed of its fans."""

    speed: float
    flow_m3_h: float
    lift_pa: float
    loss_pa: float
    space_pa: float
    power_w: float
    stalls: bool
    free_m3_h: float
    max_pa: float


@dataclass(frozen=True, kw_only=True)
class Curve:
    """Points (flow [m³/h], pressure [Pa]) of a curve."""

    speed: float | None
    points: tuple[tuple[float, float], ...]


def speeds_of(airway: Airway) -> tuple[float, ...]:
    """Give the speeds a way is looked at.

    Parameters
    ----------
    airway : the way

    Returns
    -------
    tuple of float : the steps of its first fan; none without a fan
    """
    return steps_of(airway.fans[0].spec) if airway.fans else ()


def operating_point(found: Network, space_id: str, airway_id: str, speed: float) -> OperatingPoint:
    """Find where a way works when all its fans run at one speed.

    Parameters
    ----------
    found : spaces and ways around it, as ``network`` draws them up
    airway_id : one of its ways, with a fan
    speed : share of full speed

    Returns
    -------
    OperatingPoint : all other ways as they are set
    """
    ways = tuple(
        replace(way, speeds=tuple(speed for _ in way.speeds), fixed_m3_s=None) if way.airway.id == airway_id else way
        for way in found.ways
    )
    held = pressures_pa(Network(nodes=found.nodes, ways=ways))
    way = next(way for way in ways if way.airway.id == airway_id)
    flow = way.flow_m3_s(held)
    fans = way.chain.fans
    free = min((fan.count * fan.curve.free_m3_s for fan in fans), default=0.0) * speed
    return OperatingPoint(
        speed=speed,
        flow_m3_h=flow * 3600,
        lift_pa=way.chain.lift_pa(flow, way.speeds),
        loss_pa=way.chain.loss_pa(max(flow, 0.0)),
        space_pa=held[space_id],
        power_w=way.chain.density_share * sum(fan.count * power_w(fan.spec, speed) for fan in fans),
        stalls=flow < STALLS_BELOW * free,
        free_m3_h=free * 3600,
        max_pa=way.chain.density_share * speed**2 * sum(fan.curve.max_pa for fan in fans),
    )


def operating_points(plan: Plan, space: Space, airway: Airway, *, lit: bool = True) -> tuple[OperatingPoint, ...]:
    """Find where a way works at every speed step.

    Parameters
    ----------
    airway : one of its ways
    lit : lamps on, for the other ways' fans

    Returns
    -------
    tuple of OperatingPoint : slowest first; empty without a fan
    """
    found = network(plan, space, Moment(lit=lit, rise_k=0.0))
    return tuple(operating_point(found, space.id, airway.id, speed) for speed in speeds_of(airway))


def system_curve(plan: Plan, space: Space, airway: Airway, up_to_m3_h: float, *, count: int = 25) -> Curve:
    """Give what a flow along a way costs: its own losses, and what the space sets against it.

    Parameters
    ----------
    airway : one of its ways
    up_to_m3_h : greatest flow of the curve [m³/h]
    count : how many points

    Returns
    -------
    Curve : rising pressure against flow
    """
    found = network(plan, space, Moment(lit=True, rise_k=0.0))
    way = next(way for way in found.ways if way.airway.id == airway.id)
    points = []
    for number in range(count):
        flow = up_to_m3_h / 3600 * number / (count - 1)
        points.append((flow * 3600, way.chain.loss_pa(flow) - pressure_without_pa(found, airway.id, flow)))
    return Curve(speed=None, points=tuple(points))


def fan_curves(airway: Airway, density_share: float = 1.0, *, count: int = 19) -> tuple[Curve, ...]:
    """Give a way's fans together, at each of their speeds.

    Parameters
    ----------
    airway : the way
    density_share : density of the air against sea level's, over 0
    count : how many points each

    Returns
    -------
    tuple of Curve : from no flow to free flow; fans in series added up, side by side spread out
    """
    from canopy.air.chain import chain_of

    chain = chain_of(airway, density_share=density_share)
    found = []
    for speed in speeds_of(airway):
        free = min(fan.count * fan.curve.free_m3_s for fan in chain.fans) * speed
        flows = [free * number / (count - 1) for number in range(count)]
        speeds = [speed for _ in chain.fans]
        found.append(Curve(speed=speed, points=tuple((q * 3600, chain.lift_pa(q, speeds)) for q in flows)))
    return tuple(found)
