"""Pressure and flow in a space, and in those it is joined to: everything that blows in, is drawn out, or seeps."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from canopy.air.chain import Chain, chain_of
from canopy.air.losses import DENSITY_KG_M3, hole_flow_m3_s
from canopy.air.shell import GRAVITY, Hole, holes, is_open, opening_level_m
from canopy.plan.airways import Airway
from canopy.plan.document import Plan, Space
from canopy.plan.learnt import factor_on
from canopy.psychrometrics import density_share
from canopy.roots import falling_root

Array = NDArray[np.float64]
# More joined spaces than this are taken at the room's pressure.
MOST_NODES = 3
_WARM_K = 295.0
_FLOW_TOLERANCE = 1e-7


@dataclass(frozen=True, kw_only=True)
class Way:
    """A chain between two ends (None: room or outdoors), with the speeds its fans run at, or the flow that was
    measured.
    """

    airway: Airway
    chain: Chain
    from_id: str | None
    to_id: str | None
    speeds: tuple[float, ...]
    lift_pa: float = 0.0
    fixed_m3_s: float | None = None

    def flow_m3_s(self, pressures: Mapping[str, float]) -> float:
        """Give its flow between two pressures.

        Parameters
        ----------
        pressures : pressure of each space above the room's [Pa]

        Returns
        -------
        float : flow along its direction [m³/s]
        """
        if self.fixed_m3_s is not None:
            return self.fixed_m3_s
        return _flow(self.chain, self.speeds, round(self.head_pa(pressures), 9))

    def head_pa(self, pressures: Mapping[str, float]) -> float:
        """Give what presses the air along it, fans left out.

        Parameters
        ----------
        pressures : pressure of each space above the room's [Pa]

        Returns
        -------
        float : pressure at its beginning less pressure at its end, warm air rising included [Pa]
        """
        return pressures.get(self.from_id or "", 0.0) - pressures.get(self.to_id or "", 0.0) + self.lift_pa


@lru_cache(maxsize=4096)
def _flow(chain: Chain, speeds: tuple[float, ...], head_pa: float) -> float:
    return chain.flow_m3_s(speeds, head_pa)


@dataclass(frozen=True, kw_only=True)
class Node:
    """A space in the network: its holes, and how much warmer than the room it is [K]."""

    space_id: str
    holes: tuple[Hole, ...]
    height_m: float
    open: bool
    rise_k: float
    density_share: float = 1.0

    def stack_pa(self, level_m: float) -> float:
        """Give by how much warm air presses outwards at a level, against the middle of the height.

        Parameters
        ----------
        level_m : height over its floor [m]

        Returns
        -------
        float : ρ g (z − H/2) ΔT/T [Pa]
        """
        density = self.density_share * DENSITY_KG_M3
        return density * GRAVITY * (level_m - self.height_m / 2) * self.rise_k / _WARM_K

    def through_m3_s(self, hole: Hole, pressure_pa: float) -> float:
        """Give what comes in through one hole.

        Parameters
        ----------
        hole : one of its holes
        pressure_pa : pressure at mid-height above the room's [Pa]

        Returns
        -------
        float : flow inwards, negative outwards [m³/s]
        """
        across = -pressure_pa - self.stack_pa(hole.level_m)
        return hole_flow_m3_s(across, hole.effective_m2, self.density_share)

    def seep_m3_s(self, pressure_pa: float) -> float:
        """Give what comes in through all holes together.

        Parameters
        ----------
        pressure_pa : pressure at mid-height above the room's [Pa]

        Returns
        -------
        float : flow inwards less flow outwards [m³/s]
        """
        return sum(self.through_m3_s(hole, pressure_pa) for hole in self.holes)


@dataclass(frozen=True, kw_only=True)
class Network:
    """Spaces and ways between them; the first node is the one that is asked about."""

    nodes: tuple[Node, ...]
    ways: tuple[Way, ...]


def neighbours(plan: Plan, space: Space) -> tuple[Space, ...]:
    """List the spaces that ways of air join to a space, directly or through others.

    Returns
    -------
    tuple of Space : itself first, at most three
    """
    known = {other.id: other for other in plan.spaces} | {space.id: space}
    links = [
        (owner.id, airway.space_id)
        for owner in known.values()
        for airway in owner.airways
        if airway.ends == "space" and airway.space_id in known
    ]
    found = [space.id]
    for key in found:
        for one, two in links:
            other = two if one == key else one if two == key else None
            if other and other not in found and len(found) < MOST_NODES:
                found.append(other)
    return tuple(known[key] for key in found)


@dataclass(frozen=True, kw_only=True)
class Moment:
    """A moment at which a space's air is asked for.

    ``lit`` lamps on, for the fans' speeds by day and night; ``rise_k`` how much warmer it is inside than in the room
    [K], as much as the space allows when None; ``still`` ids of ways of air whose fans stand; ``speeds`` speed for the
    lead fan of a way, and those that follow it, by the way's id, 0 to 1, instead of the one that is set; ``loading``
    least resistance of filters against new, as they are when None.
    """

    lit: bool = True
    rise_k: float | None = None
    still: tuple[str, ...] = ()
    speeds: Mapping[str, float] = field(default_factory=dict)
    loading: float | None = None

    def rise_in(self, space: Space) -> float:
        """Give how much warmer than the room a space is then.

        Parameters
        ----------
        space : the space that is asked about

        Returns
        -------
        float : as said, else as much as it allows [K]
        """
        return space.air.rise_k if self.rise_k is None else self.rise_k


BY_DAY = Moment()


def network(plan: Plan, space: Space, at: Moment = BY_DAY) -> Network:
    """Draw up the network around a space.

    Parameters
    ----------
    plan : the plan, for the spaces it is joined to
    at : lamps on or off, warmth, and which fans run how; as set, by day, unless said

    Returns
    -------
    Network : to be solved
    """
    around, air = neighbours(plan, space), density_share(plan.site.altitude_m)
    ids = {other.id for other in around}
    nodes, ways = [], []
    taken: dict[str, set[str]] = {other.id: set() for other in around}
    for owner in around:
        for airway in owner.airways:
            if airway.port:
                taken[owner.id].add(airway.port.opening_id)
            if airway.ends == "space" and airway.far_opening_id and airway.space_id in taken:
                taken[airway.space_id].add(airway.far_opening_id)
    for owner in around:
        node = Node(
            space_id=owner.id,
            holes=holes(owner, frozenset(taken[owner.id])),
            height_m=owner.size.height_m,
            open=is_open(owner),
            rise_k=at.rise_in(space) if owner.id == space.id else 0.0,
            density_share=air,
        )
        nodes.append(node)
        for airway in owner.airways:
            ways.append(_way(owner, node, airway, ids, at if owner.id == space.id else replace(at, speeds={})))
    return Network(nodes=tuple(nodes), ways=tuple(ways))


def _way(owner: Space, node: Node, airway: Airway, ids: set[str], moment: Moment) -> Way:
    far = airway.space_id if airway.ends == "space" and airway.space_id in ids else None
    hole = next((o for o in owner.openings if airway.port and o.id == airway.port.opening_id), None)
    shut = hole is not None and (not hole.open or hole.use == "closed")
    moves = factor_on(owner, "airflow", airway.id)
    chain = chain_of(airway, hole.diameter_m if hole else None, shut, moment.loading, node.density_share, moves)
    at = airway.speeds(lit=moment.lit, lead=moment.speeds.get(airway.id))
    if airway.id in moment.still:
        at = tuple(0.0 for _ in at)
    outwards = airway.way == "out"
    lift = node.stack_pa(opening_level_m(owner, hole)) if hole else 0.0
    fixed = None
    if airway.measured and at and max(at) > 0:
        fixed = airway.measured.flow_m3_h / 3600 * max(at) / airway.measured.speed
    return Way(
        airway=airway,
        chain=chain,
        from_id=owner.id if outwards else far,
        to_id=far if outwards else owner.id,
        speeds=at,
        lift_pa=lift if outwards else -lift,
        fixed_m3_s=fixed,
    )


def pressures_pa(found: Network, near: Mapping[str, float] | None = None) -> dict[str, float]:
    """Solve a network.

    Parameters
    ----------
    found : spaces and ways, as ``network`` draws them up
    near : pressures to begin from, such as those of a network that differs little

    Returns
    -------
    dict : pressure of each space above the room's [Pa]; 0 where a side stands open

    Notes
    -----
    Flow into a space falls as its pressure rises, so the pressure at which in and out agree is the only one. Joined
    spaces are solved together by Newton's method, and inside each other where its steps do not close the balances (a
    flap about to open).
    """
    held: dict[str, float] = {node.space_id: 0.0 for node in found.nodes}
    closed = [node for node in found.nodes if not node.open and (node.holes or _touching(node, found.ways))]
    begin = np.array([(near or {}).get(node.space_id, 0.0) for node in closed])
    if len(closed) < 2 or not _together(closed, found.ways, held, begin):
        held.update({node.space_id: 0.0 for node in closed})
        _settle(closed, found.ways, held)
    return held


def _touching(node: Node, ways: tuple[Way, ...]) -> list[Way]:
    return [way for way in ways if node.space_id in (way.from_id, way.to_id)]


def _net_m3_s(node: Node, touching: list[Way], held: Mapping[str, float]) -> float:
    """What comes into a space less what leaves it."""
    flow = node.seep_m3_s(held[node.space_id])
    for way in touching:
        flow += way.flow_m3_s(held) * (1 if way.to_id == node.space_id else -1)
    return flow


# Steps of Newton's method, the greatest of them [Pa], and how well the balances close then [m³/s].
_STEPS, _STRIDE_PA, _CLOSED_M3_S, _NUDGE_PA = 25, 40.0, 1e-8, 1e-3


def _together(nodes: list[Node], ways: tuple[Way, ...], held: dict[str, float], pressures: Array) -> bool:
    """Solve joined spaces at once, from these pressures on; False where the balances do not close."""
    at = {node.space_id: _touching(node, ways) for node in nodes}
    ids = [node.space_id for node in nodes]

    def nets(pressures: Array) -> Array:
        held.update(zip(ids, pressures.tolist(), strict=True))
        return np.array([_net_m3_s(node, at[node.space_id], held) for node in nodes])

    off = nets(pressures)
    for _ in range(_STEPS):
        if abs(off).max() < _CLOSED_M3_S:
            nets(pressures)
            return True
        slopes = np.empty((len(nodes), len(nodes)))
        for k in range(len(nodes)):
            nudged = pressures.copy()
            nudged[k] += _NUDGE_PA
            slopes[:, k] = (nets(nudged) - off) / _NUDGE_PA
        try:
            step = np.linalg.solve(slopes, -off)
        except np.linalg.LinAlgError:
            return False
        step *= min(1.0, _STRIDE_PA / max(abs(step).max(), 1e-12))
        for _ in range(6):
            tried = nets(pressures + step)
            if abs(tried).max() < abs(off).max():
                break
            step = step / 2
        else:
            return False
        pressures, off = pressures + step, tried
    return False


def _settle(nodes: list[Node], ways: tuple[Way, ...], held: dict[str, float]) -> None:
    if not nodes:
        return
    node, rest = nodes[0], nodes[1:]
    touching = _touching(node, ways)

    def net(pressure: float) -> float:
        held[node.space_id] = pressure
        _settle(rest, ways, held)
        return _net_m3_s(node, touching, held)

    pressure = falling_root(net, 4.0, _FLOW_TOLERANCE)
    net(pressure)


def pressure_without_pa(
    found: Network, airway_id: str, flow_m3_s: float, near: dict[str, float] | None = None
) -> float:
    """Give the pressure a space comes to when one of its ways is held at a flow.

    Parameters
    ----------
    found : spaces and ways, as ``network`` draws them up
    airway_id : the way
    flow_m3_s : its flow [m³/s]
    near : pressures to begin from, those at a flow close by; those found take their place

    Returns
    -------
    float : pressure at its beginning less pressure at its end [Pa]
    """
    held_at = tuple(replace(way, fixed_m3_s=flow_m3_s) if way.airway.id == airway_id else way for way in found.ways)
    there = pressures_pa(Network(nodes=found.nodes, ways=held_at), near)
    if near is not None:
        near.update(there)
    return next(way for way in held_at if way.airway.id == airway_id).head_pa(there)
