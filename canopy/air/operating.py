"""Where a way of air works at each speed: flow, pressures, power; and its system curve for the chart."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from canopy.air.fan_curve import STANDS, power_w, stall_share, steps_of
from canopy.air.network import Moment, Network, Way, network, pressure_without_pa, pressures_pa
from canopy.plan.airways import Airway
from canopy.plan.document import Plan, Space

_SAME_SPEED = 1e-6


@dataclass(frozen=True, kw_only=True)
class OperatingPoint:
    """A way of air with its lead fan at one speed; ``speeds`` are those of all its fans.

    ``free_m3_h`` is what the weakest running fan moves in free air, ``max_pa`` what the running ones reach together;
    ``head_pa`` is the pressure between its ends, warm air rising included: lift + head = loss. ``stalls`` says that one
    of them is below the share of its free flow at which its kind stalls.
    """

    speed: float
    speeds: tuple[float, ...]
    flow_m3_h: float
    lift_pa: float
    loss_pa: float
    space_pa: float
    head_pa: float
    power_w: float
    stalls: bool
    free_m3_h: float
    max_pa: float


@dataclass(frozen=True, kw_only=True)
class Curve:
    """Points (flow [m³/h], pressure [Pa]) of a curve."""

    speed: float | None
    points: tuple[tuple[float, float], ...]


def main_way(airways: Iterable[Airway]) -> Airway | None:
    """Give the way of air whose fan is turned up or changed first.

    Parameters
    ----------
    airways : a space's ways of air

    Returns
    -------
    Airway : the first that draws out with a fan, else the first with a fan; None without one
    """
    able = [way for way in airways if way.fans]
    return next((way for way in able if way.way == "out"), able[0] if able else None)


def at_speed(space: Space, airway: Airway, speed: float) -> Space:
    """Set the lead fan of a way, and those that follow it, to a speed.

    Parameters
    ----------
    airway : one of its ways, by its id
    speed : share of full speed

    Returns
    -------
    Space : with the way set; fans of another speed keep theirs
    """
    way = next(way for way in space.airways if way.id == airway.id)
    parts = tuple(
        part.model_copy(update={"speed": speed}) if part.kind == "fan" and way.follows(part) else part
        for part in way.parts
    )
    set_to = way.model_copy(update={"parts": parts})
    ways = tuple(set_to if item.id == way.id else item for item in space.airways)
    return space.model_copy(update={"airways": ways})


def speeds_of(airway: Airway) -> tuple[float, ...]:
    """Give the speeds a way is looked at.

    Parameters
    ----------
    airway : the way

    Returns
    -------
    tuple of float : the steps of its lead fan, and the speed it is set to where that lies between them; none without a
        fan
    """
    lead = airway.lead
    if lead is None:
        return ()
    steps = steps_of(lead.spec)
    between = lead.speed >= STANDS and all(abs(step - lead.speed) > _SAME_SPEED for step in steps)
    return tuple(sorted((*steps, lead.speed))) if between else steps


def operating_point(found: Network, space_id: str, airway_id: str, speed: float | None = None) -> OperatingPoint:
    """Find where a way works with its lead fan at one speed.

    Parameters
    ----------
    found : spaces and ways around it, as ``network`` draws them up
    airway_id : one of its ways, with a fan
    speed : share of full speed; as the way is set in ``found`` when None

    Returns
    -------
    OperatingPoint : its other fans, and all other ways, as they are set
    """
    ways = tuple(_turned(way, speed) if way.airway.id == airway_id else way for way in found.ways)
    held = pressures_pa(Network(nodes=found.nodes, ways=ways))
    way = next(way for way in ways if way.airway.id == airway_id)
    flow = way.flow_m3_s(held)
    running = [(fan, own) for fan, own in zip(way.chain.fans, way.speeds, strict=True) if own >= STANDS]
    lead = way.airway.lead
    return OperatingPoint(
        speed=way.speeds[way.airway.fans.index(lead)] if lead else 0.0,
        speeds=way.speeds,
        flow_m3_h=flow * 3600,
        lift_pa=way.chain.lift_pa(flow, way.speeds),
        loss_pa=way.chain.loss_pa(max(flow, 0.0)),
        space_pa=held[space_id],
        head_pa=way.head_pa(held),
        power_w=way.chain.density_share * sum(fan.count * power_w(fan.spec, own) for fan, own in running),
        stalls=any(flow < stall_share(fan.spec) * way.chain.free_m3_s(fan, own) for fan, own in running),
        free_m3_h=3600 * min((way.chain.free_m3_s(fan, own) for fan, own in running), default=0.0),
        max_pa=way.chain.density_share * sum(own**2 * fan.curve.max_pa for fan, own in running),
    )


def _turned(way: Way, speed: float | None) -> Way:
    if speed is None:
        return replace(way, fixed_m3_s=None)
    # By day; a lamp-bound other speed of the lead fan gives way to the one that is asked about.
    speeds = tuple(
        speed if way.airway.follows(fan) else own for fan, own in zip(way.airway.fans, way.speeds, strict=True)
    )
    return replace(way, speeds=speeds, fixed_m3_s=None)


def operating_points(plan: Plan, space: Space, airway: Airway, *, lit: bool = True) -> tuple[OperatingPoint, ...]:
    """Find where a way works at every speed step.

    Parameters
    ----------
    airway : one of its ways
    lit : lamps on, for the other ways' fans

    Returns
    -------
    tuple of OperatingPoint : slowest first, the set speed among them; empty without a fan
    """
    found = network(plan, space, Moment(lit=lit))
    return tuple(operating_point(found, space.id, airway.id, speed) for speed in speeds_of(airway))


def system_curve(plan: Plan, space: Space, airway: Airway, up_to_m3_h: float, *, count: int = 15) -> Curve:
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
    found = network(plan, space, Moment(lit=True))
    way = next(way for way in found.ways if way.airway.id == airway.id)
    points, near = [], dict[str, float]()
    for number in range(count):
        flow = up_to_m3_h / 3600 * number / (count - 1)
        points.append((flow * 3600, way.chain.loss_pa(flow) - pressure_without_pa(found, airway.id, flow, near)))
    return Curve(speed=None, points=tuple(points))


def fan_curves(airway: Airway, density_share: float = 1.0, moves: float = 1.0, *, count: int = 19) -> tuple[Curve, ...]:
    """Give a way's fans together, at each of their speeds.

    Parameters
    ----------
    airway : the way
    density_share : density of the air against sea level's, over 0
    moves : what was found to move against what is computed, over 0
    count : how many points each

    Returns
    -------
    tuple of Curve : from no flow to free flow; fans in series added up, each at its own speed, side by side spread out
    """
    from canopy.air.chain import chain_of

    chain = chain_of(airway, density_share=density_share, moves=moves)
    found = []
    for speed in speeds_of(airway):
        speeds = airway.speeds(lit=True, lead=speed)
        free = min(
            chain.free_m3_s(fan, own)
            for fan, own in zip(chain.fans, speeds, strict=True)
            if own >= STANDS or not any(speeds)
        )
        flows = [free * number / (count - 1) for number in range(count)]
        found.append(Curve(speed=speed, points=tuple((q * 3600, chain.lift_pa(q, speeds)) for q in flows)))
    return tuple(found)
